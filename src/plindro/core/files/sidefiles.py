"""The one door through which a source names other files: buffers, material libraries, textures.

A name inside an uploaded file is untrusted. It is taken as a path relative to the source, never outside the
source's folder; where nothing lies there, a file of the same base name is taken, since exporters love absolute paths.
"""

from collections.abc import Iterable, Mapping
from pathlib import Path, PurePosixPath
from typing import Protocol
from urllib.parse import unquote


def clean_name(name: str) -> str:
    """A name as written in a file, with forward slashes and nothing around it."""
    return name.strip().strip('"').replace("\\", "/")


class SideFiles(Protocol):
    """Gives the bytes of a file that a source names."""

    def get(self, name: str) -> bytes | None:
        """The bytes of ``name``, or None where there is no such file."""

    def names(self) -> Iterable[str]:
        """All files that can be got, by their relative paths."""


def _find(name: str, known: Mapping[str, object]) -> str | None:
    """The known path that ``name`` means: as written, unquoted, else by its base name whatever its case."""
    for candidate in (clean_name(name), unquote(clean_name(name))):
        normal = PurePosixPath(candidate).as_posix()
        if normal in known:
            return normal
        base = PurePosixPath(candidate).name.lower()
        if not base:
            continue
        same = [path for path in known if PurePosixPath(path).name.lower() == base]
        if same:
            # The nearest of that name: a file beside the source is its own, one in another folder another source's.
            return min(same, key=lambda path: (path.count("/"), path))
    return None


class MemoryFiles:
    """Side files held in memory, by relative path."""

    def __init__(self, files: Mapping[str, bytes]) -> None:
        self._files = {clean_name(name): data for name, data in files.items()}

    def get(self, name: str) -> bytes | None:
        found = _find(name, self._files)
        return None if found is None else self._files[found]

    def names(self) -> Iterable[str]:
        return self._files


class PathFiles:
    """Side files on the disk, by the relative path under which the source knows them; read when they are named."""

    def __init__(self, files: Mapping[str, Path]) -> None:
        self._files = {clean_name(name): path for name, path in files.items()}

    def get(self, name: str) -> bytes | None:
        found = _find(name, self._files)
        return None if found is None else self._files[found].read_bytes()

    def names(self) -> Iterable[str]:
        return self._files


class FolderFiles:
    """Side files in a folder and the folders below it, never outside."""

    MAX_FILES = 20_000

    def __init__(self, folder: Path) -> None:
        self._folder = folder.resolve()
        self._known: dict[str, Path] | None = None

    def get(self, name: str) -> bytes | None:
        direct = self._inside(unquote(clean_name(name)))
        if direct is not None:
            return direct.read_bytes()
        found = _find(name, self._files())
        return None if found is None else self._files()[found].read_bytes()

    def names(self) -> Iterable[str]:
        return self._files()

    def _files(self) -> dict[str, Path]:
        if self._known is None:
            self._known = dict(self._walk())
        return self._known

    def _inside(self, name: str) -> Path | None:
        try:
            path = (self._folder / name).resolve()
            return path if path.is_relative_to(self._folder) and path.is_file() else None
        except (OSError, ValueError):
            return None

    def _walk(self) -> Iterable[tuple[str, Path]]:
        """Files beside the source and in folders named as textures usually are, by relative path."""
        folders = [self._folder]
        folders += sorted(d for d in self._folder.iterdir() if d.is_dir() and not d.name.startswith("."))
        count = 0
        for folder in folders:
            for path in sorted(folder.iterdir()):
                if path.is_file() and path.resolve().is_relative_to(self._folder):
                    yield path.relative_to(self._folder).as_posix(), path
                    count += 1
                    if count >= self.MAX_FILES:
                        return
