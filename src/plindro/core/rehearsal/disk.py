"""The files below a folder, read when they are asked for."""

from collections.abc import Iterator, Mapping
from pathlib import Path


class DiskFiles(Mapping[str, bytes]):
    """Files by their paths below ``folder``; hidden ones are left out."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def path_of(self, path: str) -> Path | None:
        """Where a file lies; None where there is none below the folder."""
        lies = self.folder / path
        is_here = lies.is_file() and lies.resolve().is_relative_to(self.folder.resolve())
        return lies if is_here and not any(part.startswith(".") for part in Path(path).parts) else None

    def __getitem__(self, path: str) -> bytes:
        lies = self.path_of(path)
        if lies is None:
            raise KeyError(path)
        return lies.read_bytes()

    def __iter__(self) -> Iterator[str]:
        for lies in sorted(self.folder.rglob("*")):
            below = lies.relative_to(self.folder)
            if lies.is_file() and not any(part.startswith(".") for part in below.parts):
                yield below.as_posix()

    def __len__(self) -> int:
        return sum(1 for _ in self)
