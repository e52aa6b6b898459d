"""Which squares of the plane a sheet lies in: the unit square is the texture, the others are its repeats."""

import numpy as np

from plindro.core.mesh.mesh import F64
from plindro.core.numeric.bounds import corner_bounds
from plindro.core.numeric.kernels import kernel
from plindro.core.uvs.pieces import cut_to_square, piece_area, put_triangle
from plindro.core.uvs.sheet import UvSheet

_MOST_TILES = 64
"""Squares along an axis beyond which they are not told apart."""
_ROOM = (3, 8, 2)
"""A piece, and two to work in: a triangle that is cut to a square has seven corners at most."""


@kernel
def _add_to_squares(corners, areas, low, high, squares, room):  # type: ignore[no-untyped-def]
    """Add the area of each triangle to ``squares``, those from ``low`` to ``high`` (T, 2)."""
    for t in range(len(corners)):
        if low[t, 0] == high[t, 0] and low[t, 1] == high[t, 1]:
            squares[low[t, 0], low[t, 1]] += areas[t]
            continue
        for u in range(low[t, 0], high[t, 0] + 1):
            for v in range(low[t, 1], high[t, 1] + 1):
                put_triangle(corners, t, room[0])
                squares[u, v] += piece_area(room[0], cut_to_square(room[0], 3, float(u), float(v), room[1:]))


@kernel
def _areas_in(corners, chosen, room, areas):  # type: ignore[no-untyped-def]
    """The area of each chosen triangle within the unit square."""
    for i in range(len(chosen)):
        put_triangle(corners, chosen[i], room[0])
        areas[i] = piece_area(room[0], cut_to_square(room[0], 3, 0.0, 0.0, room[1:]))


def areas_inside(sheet: UvSheet) -> F64:
    """(T,) the area of each triangle within the unit square."""
    low, high = corner_bounds(sheet.corners)
    inside, touching = (low >= 0) & (high <= 1), (high > 0) & (low < 1)
    is_inside = inside[:, 0] & inside[:, 1]
    areas = np.where(is_inside, abs(sheet.areas), 0.0)
    crossing = np.flatnonzero(~is_inside & touching[:, 0] & touching[:, 1])
    found = np.empty(len(crossing))
    _areas_in(sheet.corners, crossing, np.empty(_ROOM), found)
    areas[crossing] = found
    return areas


def tiles_of(sheet: UvSheet) -> dict[tuple[int, int], float]:
    """The area in each square by its upper left corner, of those that hold any; only touching it is nothing.

    Empty for a sheet over more than 64 squares in a row.
    """
    if not len(sheet.corners):
        return {}
    low, high = corner_bounds(sheet.corners)
    low, high = np.floor(low), np.ceil(high) - 1
    first, last = low.min(axis=0), np.maximum(low, high).max(axis=0)
    if (last - first >= _MOST_TILES).any():
        return {}
    # What lies on a line between two squares has no area in either.
    ends = (np.maximum(low, high) - first).astype(np.int64)
    squares = np.zeros(tuple(ends.max(axis=0) + 1))
    begins = (low - first).astype(np.int64)
    _add_to_squares(sheet.corners - first, abs(sheet.areas), begins, ends, squares, np.empty(_ROOM))
    return {(int(first[0]) + u, int(first[1]) + v): float(squares[u, v]) for u, v in np.argwhere(squares > 0).tolist()}
