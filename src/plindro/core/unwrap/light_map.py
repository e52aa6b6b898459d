"""A light map: a channel on which every place of the surface has texels of its own.

The islands of channel 0 serve where they are sound, packed anew side by side, so that no vertex is added; else the
surface is unwrapped.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from plindro.core.mesh.mesh import F32, Mesh
from plindro.core.packing import Sheet
from plindro.core.unwrap.repacking import is_spoilt, repack, stretch_of
from plindro.core.unwrap.unwrap import unwrap_mesh
from plindro.core.uvs.gaps import find_gaps
from plindro.core.uvs.overlap import measure_overlap
from plindro.core.uvs.sheet import lay_out

_STRETCHED = 1.2
"""L2 stretch, at even density, above which islands of channel 0 are cut anew."""
_FILLS = 0.55
"""Share of a square that islands cover as a rule, by which its resolution is chosen."""
_NO_TEXEL = 1e-4
"""Share of a texel by which gaps may fall short for rounding."""
Made = Literal["islands", "unwrap"]


@dataclass(frozen=True, slots=True)
class LightMap:
    """A channel for light: UVs (C, 2) float32, from what, islands, pixels along a side and for a metre."""

    uvs: F32
    made: Made
    islands: int
    resolution: int
    pixels_per_metre: float


def choose_resolution(area: float, pixels_per_metre: float, least: int, most: int) -> int:
    """The least power of two at which an area in square metres gets so many pixels a metre."""
    side = pixels_per_metre * np.sqrt(area / _FILLS)
    wanted = 2 ** int(np.ceil(np.log2(max(side, 1.0))))
    return int(min(max(wanted, least), most))


def lay_light_map(mesh: Mesh, resolution: int, padding: int, step: Callable[[float, str], None]) -> LightMap:
    """A light map for a triangle mesh on a square of so many pixels along a side, islands ``padding`` pixels apart.

    Raises ``InvalidSettings`` where not even islands of a texel fit.
    """
    from_islands = _from_islands(mesh, resolution, padding, step)
    if from_islands is not None:
        return from_islands
    found = unwrap_mesh(mesh, Sheet(resolution, resolution, padding, (padding + 1) // 2), step)
    return LightMap(found.uvs, "unwrap", found.islands, resolution, found.pixels_per_metre)


def _from_islands(mesh: Mesh, resolution: int, padding: int, step: Callable[[float, str], None]) -> LightMap | None:
    """Channel 0's islands side by side; None where they are not sound, or stretch a good deal."""
    if not mesh.uvs or stretch_of(mesh, 0) > _STRETCHED:
        return None
    sheet = Sheet(resolution, resolution, padding, (padding + 1) // 2)
    made = repack(mesh, 0, sheet, lambda done, doing: step(0.5 * done, doing))
    if is_spoilt(made, mesh, 0):
        return None
    return LightMap(made.corners, "islands", made.islands, resolution, made.pixels_per_metre)


def is_light_map(mesh: Mesh, channel: int, resolution: int, padding: int) -> bool:
    """Whether a channel holds as a light map: all within the square, no triangle without area, none that lies on
    another, islands ``padding`` pixels apart."""
    laid = lay_out(mesh, channel)
    has_area = laid.surface > 0
    if (laid.turns[has_area] == 0).any() or laid.corners.min(initial=0.0) < 0 or laid.corners.max(initial=0.0) > 1:
        return False
    overlap = measure_overlap(laid)
    if (overlap.any > 0).any():
        return False
    gap = float(find_gaps(laid, overlap.met).between.min(initial=np.inf))
    return bool(gap * resolution >= padding - _NO_TEXEL)
