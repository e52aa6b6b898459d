"""Islands laid flat and packed: triangles in, their UVs out."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F32, F64, I32, I64, Mask
from plindro.core.packing import Islands, Sheet, estimate_scale, fits_at, pack
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.surface import Surface
from plindro.core.uvs.sheet import signed_areas
from plindro.core.uvs.single import to_single


@dataclass(frozen=True, slots=True)
class Layout:
    """Islands, each for itself, in any unit.

    Attributes
    ----------
    corners : (T, 3, 2) their triangles, all turning left
    island : (T,) which one each is of, ``count`` of them
    rim : (R,) sides 3 t + k that bound their island
    surface : (T,) square metres
    double : (T,) triangles of islands that lie on another, equal one, whose number they bear; none where it is None
    """

    corners: F64
    island: I32
    count: int
    rim: I64
    surface: F64
    double: Mask | None = None

    def sums(self, values: F64) -> F64:
        """(N,) of (T,) values by island, doubles left out."""
        counted = values if self.double is None else np.where(self.double, 0.0, values)
        return np.bincount(self.island, counted, minlength=self.count).astype(np.float64)


def layout_of(surface: Surface, charts: Charts) -> Layout:
    """Charts as islands."""
    return Layout(charts.uv, charts.chart, charts.count, np.flatnonzero(~charts.glued), surface.areas)


def outlines(layout: Layout, corners: F64) -> Islands:
    """The rims of a layout's islands, with triangles at ``corners`` (T, 3, 2)."""
    order = np.argsort(layout.island[layout.rim // 3], kind="stable")
    sides = layout.rim[order]
    t, k = sides // 3, sides % 3
    return Islands(
        sides=np.ascontiguousarray(np.stack([corners[t, k], corners[t, (k + 1) % 3]], axis=1)),
        first=np.concatenate([[0], np.cumsum(np.bincount(layout.island[t], minlength=layout.count))]).astype(np.int64),
        areas=layout.sums(signed_areas(corners)),
    )


def even_out(layout: Layout, shares: F64 | None = None) -> F64:
    """(T, 3, 2) the islands in metres: as much area laid flat as on the surface, or that times (N,) ``shares``."""
    flat = layout.sums(signed_areas(layout.corners))
    scale = np.sqrt(layout.sums(layout.surface) / np.maximum(flat, 1e-300))
    if shares is not None:
        scale = scale * shares
    even: F64 = layout.corners * scale[layout.island][:, None, None]
    return even


def estimate_density(layout: Layout, sheet: Sheet, n_turns: int) -> float:
    """About how many pixels a metre the islands of a layout come to at even density; 0 where they hardly fit."""
    return estimate_scale(outlines(layout, even_out(layout)), sheet, n_turns)


def fits_roughly(layout: Layout, sheet: Sheet, n_turns: int, density: float) -> bool:
    """Whether the islands of a layout are found to fit at about so many pixels a metre."""
    return fits_at(outlines(layout, even_out(layout)), sheet, n_turns, density)


def pack_layout(
    layout: Layout,
    sheet: Sheet,
    n_turns: int,
    step: Callable[[float], None],
    *,
    shares: F64 | None = None,
    density: float | None = None,
    locked: Islands | None = None,
) -> tuple[F32, float]:
    """(T, 3, 2) UVs of the islands packed at even density, V down; and pixels a metre.

    shares : (N,) how many times that density each island gets
    density : pixels a metre that are asked for
    locked : islands around which they go, in pixels with V up
    """
    metres = even_out(layout, shares)
    packed = pack(outlines(layout, metres), sheet, n_turns, step, locked=locked, scale=density)
    texels = packed.place(metres.reshape(-1, 2), np.repeat(layout.island, 3).astype(np.int64)).reshape(-1, 3, 2)
    u, v = texels[:, :, 0] / sheet.width, 1.0 - texels[:, :, 1] / sheet.height
    return to_single(np.stack([u, v], axis=2)), packed.scale
