"""Sorting an upload: sources, the files that belong to them, and what is of no use, with a word why."""

import zipfile
import zlib
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import BinaryIO, cast

from django.conf import settings

from plindro.core.files import READABLE_SUFFIXES
from plindro.core.findings import grouped
from plindro.web.store import Spooled, spool

SIDE_SUFFIXES = (
    ".mtl",
    ".bin",
    ".png",
    ".jpg",
    ".jpeg",
    ".tga",
    ".bmp",
    ".webp",
    ".tif",
    ".tiff",
    ".exr",
    ".hdr",
    ".dds",
    ".ktx2",
    ".gif",
)


@dataclass(slots=True)
class SortedUpload:
    """Sources and side files by path, as they lie in ``folder``; ``refused`` has (name, why).

    Each archive is a folder of its own.
    """

    folder: Path
    sources: dict[str, Spooled] = field(default_factory=dict)
    side_files: dict[str, Spooled] = field(default_factory=dict)
    refused: list[tuple[str, str]] = field(default_factory=list)
    _folders: set[str] = field(default_factory=set)
    _unpacked: int = 0
    _entries: int = 0

    def add(self, name: str, stream: BinaryIO, depth: int = 0) -> None:
        """File one entry under what it is; what is of no use is not read."""
        suffix = PurePosixPath(name).suffix.lower()
        if suffix == ".zip":
            self._unpack(name, stream, depth)
        elif suffix in READABLE_SUFFIXES:
            self._take(self.sources, name, stream)
        elif suffix in SIDE_SUFFIXES:
            self._take(self.side_files, name, stream)
        else:
            known = ", ".join((*READABLE_SUFFIXES, ".zip"))
            self.refused.append((name, f"files ending in '{suffix or name}' are not read; give one of {known}"))

    def _take(self, files: dict[str, Spooled], name: str, stream: BinaryIO) -> None:
        file = spool(stream, self.folder)
        if files.setdefault(name, file).digest != file.digest:
            self.refused.append((name, "another file of this name came with it; rename one, or put them in folders"))

    def _unpack(self, name: str, stream: BinaryIO, depth: int) -> None:
        most = settings.MAX_ARCHIVE_DEPTH
        if depth == most:
            self.refused.append((name, f"lies in more than {most} archives; unpack it and give what is inside"))
            return
        packed = spool(stream, self.folder)
        try:
            self._unpack_file(name, packed.path, depth)
        except (zipfile.BadZipFile, NotImplementedError, RuntimeError, ValueError, EOFError, zlib.error):
            self.refused.append((name, "is no zip archive that can be read; pack it again without a password"))
        finally:
            packed.path.unlink()

    def _unpack_file(self, name: str, packed: Path, depth: int) -> None:
        with zipfile.ZipFile(packed) as archive:
            entries = [entry for entry in archive.infolist() if not entry.is_dir()]
            if why := self._refusal(entries):
                self.refused.append((name, why))
                return
            folder = self._own_folder(name)
            hidden = [entry.filename for entry in entries if _is_hidden(entry.filename)]
            for entry in entries:
                if not _is_hidden(entry.filename):
                    with archive.open(entry) as stream:
                        self.add(f"{folder}/{_forward(entry.filename)}", cast(BinaryIO, stream), depth + 1)
        if hidden:
            what = f"'{hidden[0]}'" + (f" and {len(hidden) - 1} more" if len(hidden) > 1 else "")
            self.refused.append((name, f"hidden entries were left out: {what}; rename what belongs to a prop"))

    def _refusal(self, entries: list[zipfile.ZipInfo]) -> str | None:
        """Why an archive of these entries is not taken; counts them where it is."""
        unsafe = [entry.filename for entry in entries if not _is_inside(entry.filename)]
        if unsafe:
            return f"its entry '{unsafe[0]}' points outside the archive; nothing was taken"
        unpacked = self._unpacked + sum(entry.file_size for entry in entries)
        if unpacked > settings.MAX_UNPACKED:
            most = grouped(settings.MAX_UNPACKED // 2**20)
            return f"it unpacks to more than {most} MiB; give its files in smaller archives"
        if self._entries + len(entries) > settings.MAX_ENTRIES:
            return f"it has more than {grouped(settings.MAX_ENTRIES)} entries; give its files in smaller archives"
        self._unpacked, self._entries = unpacked, self._entries + len(entries)
        return None

    def _own_folder(self, name: str) -> str:
        """The folder of an archive: its own name, numbered where another came under it."""
        folder, number = name[: -len(".zip")], 1
        while folder.casefold() in self._folders:
            number += 1
            folder = f"{name[: -len('.zip')]}_{number}"
        self._folders.add(folder.casefold())
        return folder


def _forward(name: str) -> str:
    return name.replace("\\", "/")


def _is_hidden(name: str) -> bool:
    return any(part.startswith((".", "__MACOSX")) for part in PurePosixPath(_forward(name)).parts)


def _is_inside(name: str) -> bool:
    path = PurePosixPath(_forward(name))
    return not path.is_absolute() and ".." not in path.parts and ":" not in name


def sort_upload(files: Iterable[tuple[str, BinaryIO]], folder: Path) -> SortedUpload:
    """Sort files by name and stream; they lie in ``folder`` from then on, and archives are unpacked there."""
    result = SortedUpload(folder)
    for name, stream in files:
        result.add(name, stream)
    return result
