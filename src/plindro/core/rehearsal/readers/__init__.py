"""Readers of shipped files, each written against its format's own specification.

They share no code with the writers or the source readers, so that a mistake there cannot hide itself here.
"""

from collections.abc import Callable, Mapping
from pathlib import PurePosixPath

from plindro.core.errors import UnreadableFile
from plindro.core.rehearsal.axes import Axes
from plindro.core.rehearsal.found import Found
from plindro.core.rehearsal.readers.gltf import read_gltf
from plindro.core.rehearsal.readers.obj import read_obj
from plindro.core.rehearsal.readers.ply import read_ply
from plindro.core.rehearsal.readers.stl import read_stl
from plindro.core.rehearsal.readers.usd import read_usd

_READERS: dict[str, Callable[[str, Mapping[str, bytes], Axes], Found]] = {
    ".glb": read_gltf,
    ".gltf": read_gltf,
    ".obj": read_obj,
    ".ply": read_ply,
    ".stl": read_stl,
    ".usd": read_usd,
    ".usda": read_usd,
    ".usdc": read_usd,
    ".usdz": read_usd,
}
ENDINGS = frozenset(_READERS)
"""Of the files that hold meshes."""


def read_found(path: str, files: Mapping[str, bytes], axes: Axes) -> Found:
    """Read ``path`` of ``files``, whose paths are all below one folder; formats without a word for axes and unit are in
    ``axes``. Raises ``UnreadableFile`` where the bytes do not hold together."""
    reader = _READERS.get(PurePosixPath(path).suffix.lower())
    if reader is None:
        raise UnreadableFile(f"{path}: is no file with meshes; give GLB, glTF, OBJ, PLY, STL or USD")
    try:
        return reader(path, files, axes)
    except (KeyError, IndexError, TypeError, ValueError, AttributeError, RecursionError) as error:
        raise UnreadableFile(
            f"{path}: its content does not hold together ({_describe(error)}); ship it again"
        ) from error


def _describe(error: Exception) -> str:
    return f"{error} is missing" if isinstance(error, KeyError) else (str(error).splitlines() or ["damaged"])[0]
