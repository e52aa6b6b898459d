"""Files by content: written once under their digest, never changed."""

import hashlib
import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from django.conf import settings

from plindro.core.shipping import TextureFolder, write_whole

PIECE = 1 << 20
DIGITS = hashlib.sha256().digest_size * 2


@dataclass(frozen=True, slots=True)
class Spooled:
    """A file that came in and lies outside the store: it is gone again unless it is taken."""

    path: Path
    digest: str
    size: int


@dataclass(frozen=True, slots=True)
class Store:
    """The files below ``folder``. Picklable: it travels to the workers, which see the same disk."""

    folder: Path

    @property
    def textures(self) -> TextureFolder:
        """Where made textures are kept by what they were made of."""
        return TextureFolder(self.folder / "textures")

    def path_of(self, digest: str) -> Path:
        """Where the file of a digest lies."""
        return self.folder / digest[:2] / digest

    def _aside(self, digest: str) -> Path:
        """Where a file lies while it is looked at whether it may go."""
        return self.path_of(digest).with_suffix(".part")

    def keep(self, data: bytes) -> str:
        """Store bytes; returns their SHA-256."""
        digest = hashlib.sha256(data).hexdigest()
        if not self._is_there(digest):
            write_whole(self.path_of(digest), data)
        return digest

    def load(self, digest: str) -> bytes:
        """The bytes of a digest; raises ``FileNotFoundError``."""
        path, aside = self.path_of(digest), self._aside(digest)
        # While it is collected it may be out of the way for a moment, and come back since somebody needs it.
        for place in (path, aside):
            with suppress(FileNotFoundError):
                return place.read_bytes()
        return path.read_bytes()

    @contextmanager
    def incoming(self) -> Iterator[Path]:
        """A folder for files that come in; what nobody took by the end is gone with it."""
        self.folder.joinpath("incoming").mkdir(mode=0o700, parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=self.folder / "incoming") as folder:
            yield Path(folder)

    def take(self, file: Spooled) -> str:
        """Move a file that came in into the store; returns its digest."""
        if not self._is_there(file.digest):
            path = self.path_of(file.digest)
            path.parent.mkdir(mode=0o700, exist_ok=True)
            os.replace(file.path, path)
        return file.digest

    def _is_there(self, digest: str) -> bool:
        """Whether a file is stored; if so it counts as new, for whoever collects what is old and of no use."""
        path = self.path_of(digest)
        try:
            os.utime(path)
        except FileNotFoundError:
            return False
        # It may have been removed while its time was set.
        return path.is_file()

    def stored(self) -> Iterator[Path]:
        """Every file that is stored."""
        return (path for path in self.folder.glob("[0-9a-f][0-9a-f]/*") if len(path.name) == DIGITS)

    def remove(self, digest: str, before: float) -> bool:
        """Remove a file, unless something came to need it after the time ``before``; returns whether it is gone."""
        path, aside = self.path_of(digest), self._aside(digest)
        if not path.is_file() or path.stat().st_mtime >= before:
            return False
        # Out of the way first: whoever needs it from now on finds that it is not there, and stores it anew.
        os.replace(path, aside)
        if aside.stat().st_mtime >= before:
            os.replace(aside, path)
            return False
        aside.unlink()
        return True

    def remove_unfinished(self) -> int:
        """Remove what a stopped server left half-written, while nothing is being written; returns how many."""
        left = [*self.folder.joinpath("incoming").glob("*"), *self.folder.rglob("*.part")]
        for path in left:
            shutil.rmtree(path, ignore_errors=True) if path.is_dir() else path.unlink(missing_ok=True)
        return len(left)


def spool(stream: BinaryIO, folder: Path) -> Spooled:
    """Write what comes in to a file of ``folder``, piece by piece."""
    digest = hashlib.sha256()
    with tempfile.NamedTemporaryFile(dir=folder, delete=False) as file:
        while piece := stream.read(PIECE):
            digest.update(piece)
            file.write(piece)
        file.flush()
        os.fsync(file.fileno())
        return Spooled(Path(file.name), digest.hexdigest(), file.tell())


def files() -> Store:
    """The files of this installation."""
    return Store(Path(settings.FILES))
