"""A light map: a channel on which every place of the surface has texels of its own.

The islands of channel 0 serve where they are sound, packed anew side by side, so that no vertex is added; else the
surface is unwrapped.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from plindro.core.mesh.mesh import F32, I64, Mesh
from plindro.core.packing import Sheet
from plindro.core.unwrap.layout import Layout, even_out, pack_layout
from plindro.core.unwrap.soundness import find_spoilt
from plindro.core.unwrap.unwrap import Unwrapped, unwrap_mesh
from plindro.core.uvs.gaps import find_gaps
from plindro.core.uvs.overlap import measure_overlap
from plindro.core.uvs.sheet import UvSheet, lay_out
from plindro.core.uvs.stretch import find_stretch, stretch_figures

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
    sheet = Sheet(resolution, resolution, padding, (padding + 1) // 2)
    made: Made = "islands"
    found = repack(mesh, 0, sheet, lambda done: step(0.5 * done, "packing")) if mesh.uvs else None
    if found is None:
        made = "unwrap"
        found = unwrap_mesh(mesh, sheet, step)
    return LightMap(found.uvs, made, found.islands, resolution, found.pixels_per_metre)


def repack(mesh: Mesh, channel: int, sheet: Sheet, step: Callable[[float], None], n_turns: int = 4) -> Unwrapped | None:
    """The islands of a channel side by side at even density; None where they are not sound: a triangle without area,
    one that faces the other way than its island, an island that lies on itself or stretches a good deal."""
    laid = lay_out(mesh, channel)
    kept = np.flatnonzero(laid.surface > 0).astype(np.int64)
    if not len(kept) or (laid.turns[kept] == 0).any():
        return None
    count = laid.n_islands
    turns = np.bincount(laid.island[kept], laid.turns[kept], minlength=count)
    of = np.bincount(laid.island[kept], minlength=count)
    if (abs(turns) != of).any():
        return None
    corners = laid.corners[kept].copy()
    # Mirrored islands are mirrored back, and V runs up from here on, so that all turn left.
    corners[:, :, 1] *= np.where(turns[laid.island[kept]] > 0, 1.0, -1.0)[:, None]
    named, island = np.unique(laid.island[kept], return_inverse=True)
    layout = Layout(corners, island.astype(np.int32), len(named), _rim(laid, kept), laid.surface[kept])
    even = replace(laid, corners=even_out(layout), areas=layout.surface, surface=layout.surface)
    figures = stretch_figures(even, find_stretch(mesh.with_faces(kept), even))
    if figures is None or figures.l2 > _STRETCHED:
        return None
    uv, density = pack_layout(layout, sheet, n_turns, step)
    single = uv.astype(np.float32)
    if find_spoilt(single, layout.island, layout.count, layout.surface).any():
        return None
    uvs = np.array(mesh.uvs[channel], np.float32).reshape(-1, 3, 2)
    uvs[:] = single[0, 0]
    uvs[kept] = single
    return Unwrapped(uvs.reshape(-1, 2), layout.count, density)


def _rim(laid: UvSheet, kept: I64) -> I64:
    """Sides of the kept triangles, numbered among these, that no other of them shares."""
    sides = laid.edge.reshape(-1, 3)[kept].reshape(-1)
    rim: I64 = np.flatnonzero(np.bincount(sides, minlength=len(laid.edge))[sides] != 2).astype(np.int64)
    return rim


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
