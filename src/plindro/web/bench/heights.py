"""Normals of a height map as they would be, while a slider moves: its bands of detail are kept, their sum is new."""

import io
from collections.abc import Sequence
from functools import lru_cache
from pathlib import PurePosixPath

from PIL import Image as Pillow

from plindro.core.files import PathFiles, read_scene
from plindro.core.files.pixels import read_pixels
from plindro.core.mesh.mesh import F64
from plindro.core.textures.heights import bands_of, normals_of_bands
from plindro.core.textures.pixels import as_rgba, to_bytes
from plindro.web import store
from plindro.web.errors import NotFound
from plindro.web.yard.building import SourceFiles, source_of
from plindro.web.yard.services import find_prop

_FAST = 1
"""zlib's effort: the picture is looked at once."""


def drafted_normals(prop_id: int, image: str, strength: float, shares: Sequence[float]) -> bytes:
    """PNG of the normals of a prop's height map; raises ``NotFound`` where its source has no such image."""
    source = source_of(find_prop(prop_id))
    bands = _bands(source.name, source.digest, tuple(sorted(source.side_files.items())), image)
    normals = normals_of_bands(bands, strength, shares)
    buffer = io.BytesIO()
    Pillow.fromarray(to_bytes(normals)).save(buffer, "PNG", compress_level=_FAST)
    return buffer.getvalue()


@lru_cache(maxsize=2)
def _bands(name: str, digest: str, side_files: tuple[tuple[str, str], ...], image: str) -> tuple[F64, ...]:
    values = read_pixels(_image(SourceFiles(name, digest, dict(side_files)), image), image).values
    return tuple(bands_of(as_rgba(values)[..., 0]))


def _image(source: SourceFiles, image: str) -> bytes:
    """The bytes of an image by its name, from beside the source or from within it."""
    kept = store.files()
    for name, digest in source.side_files.items():
        if PurePosixPath(name).name == image:
            return kept.load(digest)
    beside = PathFiles({name: kept.path_of(digest) for name, digest in source.side_files.items()})
    for found in read_scene(kept.load(source.digest), source.name, beside).images:
        if found.name == image:
            return found.data
    raise NotFound(f"the source has no image '{image}'")
