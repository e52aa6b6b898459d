"""Charts that cost the sheet much more room than they fill, cut across where that is worth the seams it takes.

A ring laid flat keeps all that it surrounds to itself. It is cut by rays from the middle of what it spans, in as many
sectors and with such a first ray as leave the least in the smallest rectangles around the pieces. A strip that is
longer than the side of the sheet that all would need makes all islands small. It is cut into as many lengths as leave
the least sheet, near where these are equal.
"""

from dataclasses import replace
from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, I32, I64, Mask
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.growing import connected
from plindro.core.unwrap.rectangles import Rectangle, smallest_rectangle
from plindro.core.unwrap.surface import Surface

_SPARSE = 0.45
"""Share of its smallest rectangle under which a chart is looked at."""
_LARGE = 0.002
"""Share of all area that its rectangle has at least."""
_FEWEST = 8
"""Triangles below which a chart is no ring."""
_SECTORS, _FIRST_RAYS = (2, 3, 4, 6), 3
_LENGTHS, _BESIDE_EQUAL = (2, 3, 4, 6, 8, 12), (0.0, -0.05, 0.05, -0.1, 0.1)
"""Into how many lengths, and how far from equal ones the cuts lie, in lengths."""
_NEEDED = 1.6
"""Area of the sheet that islands need where none is too long, against their own."""
_BESIDE = 1e-6
"""Turns by which rays miss the middles of triangles."""
_SEAM, _ISLAND = 0.1, 0.001
"""Area that a length of seam has to spare, against the root of all area, and one more island against all."""


class _Cut(NamedTuple):
    """``piece`` (M,) of each triangle of a chart; ``spared``: the area less what the seams cost."""

    piece: I64
    spared: float


def part_costly(surface: Surface, charts: Charts) -> Charts:
    """The charts with those that fill little of what they take, and those that are too long, cut across."""
    chart, glued = charts.chart.copy(), charts.glued.copy()
    whole = float(surface.areas.sum())
    count = charts.count
    for members in charts.members():
        cut = _best_cut(surface, charts, members, whole)
        if cut is not None:
            chart[members] += (count * cut.piece).astype(np.int32)
    if (chart == charts.chart).all():
        return charts
    across = np.maximum(surface.twin, 0) // 3
    glued &= (chart[across] == np.repeat(chart, 3)) & (surface.twin >= 0)
    parted: I32 = connected(replace(surface, barred=~glued), chart, np.zeros(len(chart), bool))
    return Charts(parted, int(parted.max(initial=-1)) + 1, charts.uv, glued)


def _best_cut(surface: Surface, charts: Charts, members: I64, whole: float) -> _Cut | None:
    """The cut of a chart that spares most; None where none spares anything, and where the chart costs little."""
    at = charts.uv[members]
    area = float(surface.areas[members].sum())

    def is_cheap(taken: float, long: float) -> bool:
        return (area >= _SPARSE * taken or taken < _LARGE * whole) and long * long <= _NEEDED * whole

    # Of thousands of charts most need no closer look: upright they take no less than in their smallest rectangle.
    upright = np.ptp(at, axis=(0, 1))
    if len(members) < _FEWEST or is_cheap(float(upright.prod()), float(np.linalg.norm(upright))):
        return None
    rectangle = smallest_rectangle(at.reshape(-1, 2))
    if is_cheap(rectangle.area, rectangle.long):
        return None
    seams = _Seams(surface, charts.glued, members)
    cut = _into_sectors if area < _SPARSE * rectangle.area else _into_lengths
    return cut(at, rectangle, seams, whole)


def _into_sectors(at: F64, rectangle: Rectangle, seams: "_Seams", whole: float) -> _Cut | None:
    """The best cut by rays of a chart with triangles at ``at`` (M, 3, 2)."""
    away = at.mean(axis=1) - 0.5 * (at.min(axis=(0, 1)) + at.max(axis=(0, 1)))
    # From the first triangle on, so that copies are cut alike however they lie, and can be stacked.
    turned = np.arctan2(away[:, 1], away[:, 0]) / (2.0 * np.pi)
    turned = (turned - turned[0] + _BESIDE) % 1.0
    best = None
    for sectors in _SECTORS:
        for ray in range(_FIRST_RAYS):
            sector = (sectors * turned + ray / _FIRST_RAYS).astype(np.int64) % sectors
            taken = sum(smallest_rectangle(at[sector == k].reshape(-1, 2)).area for k in range(sectors))
            best = _better(best, sector, rectangle.area - taken, seams, whole, sectors)
    return best


def _into_lengths(at: F64, rectangle: Rectangle, seams: "_Seams", whole: float) -> _Cut | None:
    """The best cut across what is longest of a chart with triangles at ``at`` (M, 3, 2)."""
    along = at.mean(axis=1) @ [np.cos(rectangle.along), np.sin(rectangle.along)]
    # Of copies that lie the other way round the same end comes first.
    along = along if along[0] <= 0.5 * (along.min() + along.max()) else -along
    share = (along - along.min()) / max(float(np.ptp(along)), 1e-300)
    best = None
    for lengths in _LENGTHS:
        sheet = max(_NEEDED * whole, (rectangle.long / lengths) ** 2)
        for beside in _BESIDE_EQUAL:
            piece = np.clip((lengths * share + beside).astype(np.int64), 0, lengths - 1)
            best = _better(best, piece, rectangle.long**2 - sheet, seams, whole, lengths)
    return best


def _better(best: _Cut | None, piece: I64, spared: float, seams: "_Seams", whole: float, count: int) -> _Cut | None:
    """The better of the best cut and one into ``count`` pieces that spares so much before what its seams cost."""
    spared -= _SEAM * np.sqrt(whole) * seams.between(piece) + _ISLAND * whole * count
    return _Cut(piece, spared) if spared > (best.spared if best is not None else 0.0) else best


class _Seams:
    """The sides within a chart, and how long those are that a cut makes seams."""

    def __init__(self, surface: Surface, glued: Mask, members: I64) -> None:
        sides = (3 * members[:, None] + np.arange(3)).reshape(-1)
        sides = sides[glued[sides] & (surface.twin[sides] > sides)]
        number = np.empty(len(surface.areas), np.int64)
        number[members] = np.arange(len(members))
        self._one, self._other = number[sides // 3], number[surface.twin[sides] // 3]
        self._lengths: F64 = surface.lengths[sides]

    def between(self, piece: I64) -> float:
        return float(self._lengths[piece[self._one] != piece[self._other]].sum())
