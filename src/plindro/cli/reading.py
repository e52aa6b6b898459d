"""Reading an input for a command."""

import multiprocessing
import os
from pathlib import Path

from plindro.cli.output import read_bytes
from plindro.core.errors import UnreadableFile
from plindro.core.executors import WorkStopped, result_of
from plindro.core.files import FolderFiles, SideFiles, read_scene
from plindro.core.files.reading import USD_SUFFIXES
from plindro.core.scene import Scene
from plindro.core.worker_pool import WorkerLimits, WorkerPool

MOST_SECONDS = 300.0
"""A damaged file can keep OpenUSD busy without end."""


def read_source(source: str | Path) -> Scene:
    """The scene of a file, with what lies beside it; raises ``UnreadableFile`` or ``UnsupportedFile``.

    OpenUSD ends its process on some damaged files, so that it has one of its own unless this is a worker already.
    """
    path = Path(source)
    data, beside = read_bytes(path), FolderFiles(path.parent)
    if path.suffix.lower() not in USD_SUFFIXES or multiprocessing.parent_process() is not None:
        return read_scene(data, path.name, beside)
    limits = WorkerLimits(seconds=MOST_SECONDS)
    with WorkerPool(1, limits) as pool:
        try:
            scene: Scene = result_of(pool.submit(_read_quietly, data, path.name, beside), limits)
        except WorkStopped as error:
            raise UnreadableFile(f"{path.name}: is no USD file that can be read; export it again") from error
        return scene


def _read_quietly(data: bytes, name: str, beside: SideFiles) -> Scene:
    """Read with what OpenUSD says of damaged files unheard: the command says it in one sentence."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), 2)
    return read_scene(data, name, beside)
