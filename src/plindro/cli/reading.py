"""Reading an input for a command."""

import multiprocessing
from pathlib import Path

from plindro.cli.output import read_bytes
from plindro.core.errors import UnreadableFile
from plindro.core.executors import WorkerLimits, WorkerPool, WorkStopped, result_of
from plindro.core.files import FolderFiles, read_scene
from plindro.core.files.reading import USD_SUFFIXES
from plindro.core.scene import Scene


def read_source(source: str | Path) -> Scene:
    """The scene of a file, with what lies beside it; raises ``UnreadableFile`` or ``UnsupportedFile``.

    OpenUSD ends its process on some damaged files, so that it has one of its own unless this is a worker already.
    """
    path = Path(source)
    data, beside = read_bytes(path), FolderFiles(path.parent)
    if path.suffix.lower() not in USD_SUFFIXES or multiprocessing.parent_process() is not None:
        return read_scene(data, path.name, beside)
    with WorkerPool(1, WorkerLimits()) as pool:
        try:
            scene: Scene = result_of(pool.submit(read_scene, data, path.name, beside))
        except WorkStopped as error:
            raise UnreadableFile(f"{path.name}: is no USD file that can be read; export it again") from error
        return scene
