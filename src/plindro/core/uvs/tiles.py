"""Which squares of the plane a sheet lies in: the unit square is the texture, the others are its repeats."""

import numpy as np

from plindro.core.mesh.mesh import F64
from plindro.core.numeric.kernels import kernel
from plindro.core.uvs.overlap import keep_side, piece_area
from plindro.core.uvs.sheet import UvSheet

_MOST_TILES = 64
"""Repeats along an axis beyond which tiles are not told apart."""


@kernel
def _areas_in(corners, chosen, u, v, at, areas):  # type: ignore[no-untyped-def]
    """The area of each chosen triangle within the square at u, v; ``at`` (2, 8, 2) is scratch."""
    for i in range(len(chosen)):
        t = chosen[i]
        for k in range(3):
            at[0, k, 0], at[0, k, 1] = corners[t, k, 0], corners[t, k, 1]
        count = keep_side(at[0], 3, u, v, u + 1.0, v, 1.0, at[1])
        count = keep_side(at[1], count, u + 1.0, v, u + 1.0, v + 1.0, 1.0, at[0])
        count = keep_side(at[0], count, u + 1.0, v + 1.0, u, v + 1.0, 1.0, at[1])
        count = keep_side(at[1], count, u, v + 1.0, u, v, 1.0, at[0])
        areas[i] = piece_area(at[0], count)


def areas_within(sheet: UvSheet, u: int, v: int) -> F64:
    """(T,) the area of each triangle within the square whose upper left corner is u, v."""
    low, high = sheet.corners.min(axis=1), sheet.corners.max(axis=1)
    square = np.array([u, v], np.float64)
    within = ((low >= square) & (high <= square + 1)).all(axis=1)
    areas = np.where(within, abs(sheet.areas), 0.0)
    crossing = np.flatnonzero(~within & ((high > square) & (low < square + 1)).all(axis=1))
    found = np.empty(len(crossing))
    _areas_in(sheet.corners, crossing, float(u), float(v), np.empty((2, 8, 2)), found)
    areas[crossing] = found
    return areas


def tiles_of(sheet: UvSheet) -> dict[tuple[int, int], float]:
    """The area in each square by its upper left corner, of those that hold any; only touching it is nothing.

    Empty for a sheet over more than 64 squares in a row.
    """
    if not len(sheet.corners):
        return {}
    low = np.floor(sheet.corners.min(axis=(0, 1))).astype(np.int64)
    high = np.ceil(sheet.corners.max(axis=(0, 1))).astype(np.int64)
    if (high - low > _MOST_TILES).any():
        return {}
    squares = ((u, v) for u in range(low[0], high[0]) for v in range(low[1], high[1]))
    areas = {square: float(areas_within(sheet, *square).sum()) for square in squares}
    return {square: area for square, area in areas.items() if area > 0.0}
