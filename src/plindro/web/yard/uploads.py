"""Sorting an upload: sources, the files that belong to them, and what is of no use, with a word why."""

import io
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import PurePosixPath

from plindro.core.files import READABLE_SUFFIXES

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


@dataclass(slots=True)
class SortedUpload:
    """Sources and side files by path; ``refused`` has (name, why)."""

    sources: dict[str, bytes] = field(default_factory=dict)
    side_files: dict[str, bytes] = field(default_factory=dict)
    refused: list[tuple[str, str]] = field(default_factory=list)

    def add(self, name: str, data: bytes) -> None:
        """File one entry under what it is."""
        suffix = PurePosixPath(name).suffix.lower()
        if suffix == ".zip":
            self._unpack(name, data)
        elif suffix in READABLE_SUFFIXES:
            self.sources[name] = data
        elif suffix in SIDE_SUFFIXES:
            self.side_files[name] = data
        else:
            known = ", ".join((*READABLE_SUFFIXES, ".zip"))
            self.refused.append((name, f"files ending in '{suffix or name}' are not read; give one of {known}"))

    def _unpack(self, name: str, data: bytes) -> None:
        try:
            with zipfile.ZipFile(io.BytesIO(data)) as archive:
                entries = [entry for entry in archive.infolist() if not entry.is_dir()]
                unsafe = [entry.filename for entry in entries if not _is_inside(entry.filename)]
                if unsafe:
                    self.refused.append(
                        (name, f"its entry '{unsafe[0]}' points outside the archive; nothing was taken")
                    )
                    return
                if sum(entry.file_size for entry in entries) > MAX_UNPACKED:
                    self.refused.append((name, "it unpacks to more than 2 GiB; give its files in smaller archives"))
                    return
                for entry in entries:
                    path = PurePosixPath(entry.filename)
                    if not any(part.startswith((".", "__MACOSX")) for part in path.parts):
                        self.add(entry.filename, archive.read(entry))
        except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, ValueError, EOFError):
            self.refused.append((name, "is no zip archive that can be read; pack it again without a password"))


def _is_inside(name: str) -> bool:
    path = PurePosixPath(name.replace("\\", "/"))
    return not path.is_absolute() and ".." not in path.parts and ":" not in name


def sort_upload(files: Iterable[tuple[str, bytes]]) -> SortedUpload:
    """Sort (name, bytes) pairs; archives are unpacked."""
    result = SortedUpload()
    for name, data in files:
        result.add(name, data)
    return result
