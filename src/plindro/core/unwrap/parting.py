"""Charts that take much more room than they fill, as rings do, cut across into arcs that lie within one another.

A ring laid flat keeps all that it surrounds to itself. It is cut by rays from the middle of what it spans, in as many
sectors and with such a first ray as leave the least in the smallest rectangles around the pieces, where that is worth
the seams it takes.
"""

from dataclasses import replace
from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, I32, I64, Mask
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.growing import connected
from plindro.core.unwrap.rectangles import smallest_rectangle
from plindro.core.unwrap.surface import Surface

_SPARSE = 0.45
"""Share of its smallest rectangle under which a chart is looked at."""
_LARGE = 0.002
"""Share of all area that its rectangle has at least."""
_FEWEST = 8
"""Triangles below which a chart is no ring."""
_SECTORS, _FIRST_RAYS = (2, 3, 4, 6), 3
_BESIDE = 1e-6
"""Turns by which rays miss the middles of triangles."""
_SEAM, _ISLAND = 0.1, 0.001
"""Area that a length of seam has to spare, against the root of all area, and one more island against all."""


class _Cut(NamedTuple):
    """``sector`` (M,) of each triangle of a chart; ``spared``: the area less what the seams cost."""

    sector: I64
    spared: float


def part_sparse(surface: Surface, charts: Charts) -> Charts:
    """The charts with those that fill little of what they take cut across."""
    chart, glued = charts.chart.copy(), charts.glued.copy()
    whole = float(surface.areas.sum())
    count = charts.count
    for members in charts.members():
        cut = _best_cut(surface, charts, members, whole)
        if cut is not None:
            chart[members] += (count * cut.sector).astype(np.int32)
    if (chart == charts.chart).all():
        return charts
    across = np.maximum(surface.twin, 0) // 3
    glued &= (chart[across] == np.repeat(chart, 3)) & (surface.twin >= 0)
    parted: I32 = connected(replace(surface, barred=~glued), chart, np.zeros(len(chart), bool))
    return Charts(parted, int(parted.max(initial=-1)) + 1, charts.uv, glued)


def _best_cut(surface: Surface, charts: Charts, members: I64, whole: float) -> _Cut | None:
    """The cut of a chart that spares most; None where none spares anything, and where the chart fills what it takes."""
    at = charts.uv[members]
    area = float(surface.areas[members].sum())

    def is_whole(taken: float) -> bool:
        return area >= _SPARSE * taken or taken < _LARGE * whole

    # Of thousands of charts most need no closer look: upright they take no less than in their smallest rectangle.
    if len(members) < _FEWEST or is_whole(float(np.ptp(at, axis=(0, 1)).prod())):
        return None
    rectangle = smallest_rectangle(at.reshape(-1, 2)).area
    if is_whole(rectangle):
        return None
    middle = at.mean(axis=1)
    away = middle - 0.5 * (at.min(axis=(0, 1)) + at.max(axis=(0, 1)))
    # From the first triangle on, so that copies are cut alike however they lie, and can be stacked.
    turned = np.arctan2(away[:, 1], away[:, 0]) / (2.0 * np.pi)
    turned = (turned - turned[0] + _BESIDE) % 1.0
    seams = _Seams(surface, charts.glued, members)
    best = None
    for sectors in _SECTORS:
        for ray in range(_FIRST_RAYS):
            sector = (sectors * turned + ray / _FIRST_RAYS).astype(np.int64) % sectors
            taken = sum(smallest_rectangle(at[sector == k].reshape(-1, 2)).area for k in range(sectors))
            spared = rectangle - taken - _SEAM * np.sqrt(whole) * seams.between(sector) - _ISLAND * whole * sectors
            if spared > (best.spared if best is not None else 0.0):
                best = _Cut(sector, spared)
    return best


class _Seams:
    """The sides within a chart, and how long those are that a cut makes seams."""

    def __init__(self, surface: Surface, glued: Mask, members: I64) -> None:
        sides = (3 * members[:, None] + np.arange(3)).reshape(-1)
        sides = sides[glued[sides] & (surface.twin[sides] > sides)]
        number = np.empty(len(surface.areas), np.int64)
        number[members] = np.arange(len(members))
        self._one, self._other = number[sides // 3], number[surface.twin[sides] // 3]
        self._lengths: F64 = surface.lengths[sides]

    def between(self, sector: I64) -> float:
        return float(self._lengths[sector[self._one] != sector[self._other]].sum())
