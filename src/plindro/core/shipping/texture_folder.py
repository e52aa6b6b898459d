"""Made textures kept in a folder, by key, for every process that builds."""

import os
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from plindro.core.shipping.whole_file import write_whole


@dataclass(frozen=True, slots=True)
class TextureFolder:
    """A cache below ``folder``. Picklable: it travels to workers."""

    folder: Path

    def get(self, key: str) -> bytes | None:
        """What is kept under a key, which counts as used from now on; None where nothing is."""
        path = self._path(key)
        with suppress(OSError):
            data = path.read_bytes()
            os.utime(path)
            return data
        return None

    def put(self, key: str, data: bytes) -> None:
        """Keep what was made; where the disk is full or closed it is made again the next time."""
        with suppress(OSError):
            write_whole(self._path(key), data)

    def forget(self, before: float) -> tuple[int, int]:
        """Remove what was not used since a time in seconds; returns how many files and bytes."""
        count = size = 0
        for path in self.folder.glob("??/*"):
            with suppress(OSError):
                status = path.stat()
                if status.st_mtime < before:
                    path.unlink()
                    count, size = count + 1, size + status.st_size
        return count, size

    def _path(self, key: str) -> Path:
        return self.folder / key[:2] / key
