"""Sorting an upload: sources, the files that belong to them, and what is of no use, with a word why."""

import io
import zipfile
import zlib
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import PurePosixPath

from plindro.core.files import READABLE_SUFFIXES
from plindro.core.findings import grouped

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
    ".dds",
    ".ktx2",
    ".gif",
)
MAX_UNPACKED = 2 * 1024**3
"""Bytes that all archives of an upload may unpack to, those inside archives included."""
MAX_ENTRIES = 20_000
MAX_DEPTH = 4
"""Archives in archives that are opened."""


@dataclass(slots=True)
class SortedUpload:
    """Sources and side files by path; ``refused`` has (name, why). Each archive is a folder of its own."""

    sources: dict[str, bytes] = field(default_factory=dict)
    side_files: dict[str, bytes] = field(default_factory=dict)
    refused: list[tuple[str, str]] = field(default_factory=list)
    _folders: set[str] = field(default_factory=set)
    _unpacked: int = 0
    _entries: int = 0

    def add(self, name: str, data: bytes, depth: int = 0) -> None:
        """File one entry under what it is."""
        suffix = PurePosixPath(name).suffix.lower()
        if suffix == ".zip":
            self._unpack(name, data, depth)
        elif suffix in READABLE_SUFFIXES:
            self._take(self.sources, name, data)
        elif suffix in SIDE_SUFFIXES:
            self._take(self.side_files, name, data)
        else:
            known = ", ".join((*READABLE_SUFFIXES, ".zip"))
            self.refused.append((name, f"files ending in '{suffix or name}' are not read; give one of {known}"))

    def _take(self, files: dict[str, bytes], name: str, data: bytes) -> None:
        if files.setdefault(name, data) != data:
            self.refused.append((name, "another file of this name came with it; rename one, or put them in folders"))

    def _unpack(self, name: str, data: bytes, depth: int) -> None:
        if depth == MAX_DEPTH:
            self.refused.append((name, f"lies in more than {MAX_DEPTH} archives; unpack it and give what is inside"))
            return
        try:
            with zipfile.ZipFile(io.BytesIO(data)) as archive:
                entries = [entry for entry in archive.infolist() if not entry.is_dir()]
                if why := self._refusal(entries):
                    self.refused.append((name, why))
                    return
                folder = self._own_folder(name)
                hidden = [entry.filename for entry in entries if _is_hidden(entry.filename)]
                for entry in entries:
                    if not _is_hidden(entry.filename):
                        self.add(f"{folder}/{_forward(entry.filename)}", archive.read(entry), depth + 1)
            if hidden:
                what = f"'{hidden[0]}'" + (f" and {len(hidden) - 1} more" if len(hidden) > 1 else "")
                self.refused.append((name, f"hidden entries were left out: {what}; rename what belongs to a prop"))
        except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, ValueError, EOFError, zlib.error):
            self.refused.append((name, "is no zip archive that can be read; pack it again without a password"))

    def _refusal(self, entries: list[zipfile.ZipInfo]) -> str | None:
        """Why an archive of these entries is not taken; counts them where it is."""
        unsafe = [entry.filename for entry in entries if not _is_inside(entry.filename)]
        if unsafe:
            return f"its entry '{unsafe[0]}' points outside the archive; nothing was taken"
        unpacked = self._unpacked + sum(entry.file_size for entry in entries)
        if unpacked > MAX_UNPACKED:
            return "it unpacks to more than 2 GiB; give its files in smaller archives"
        if self._entries + len(entries) > MAX_ENTRIES:
            return f"it has more than {grouped(MAX_ENTRIES)} entries; give its files in smaller archives"
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


def sort_upload(files: Iterable[tuple[str, bytes]]) -> SortedUpload:
    """Sort (name, bytes) pairs; archives are unpacked."""
    result = SortedUpload()
    for name, data in files:
        result.add(name, data)
    return result
