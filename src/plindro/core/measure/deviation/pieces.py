"""Pieces of surface: convex polygons on a stack, which are cut by planes."""

from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, I64
from plindro.core.numeric.kernels import helper
from plindro.core.spatial.nearest import squared_distance

MOST_CORNERS = 24
_DEEPEST = 2048
SCRATCH = _DEEPEST - 1
"""A row of the stack that no piece has."""
ROOM = 6
"""Rows that cutting one piece may add."""


class Pieces(NamedTuple):
    """A stack of pieces.

    ``corner`` (D, MOST_CORNERS, 3) and ``n_corners`` (D,) their corners in order; ``guess`` (D,) a triangle of the
    other surface near each; ``age`` (D,) how often each was cut; ``side`` (MOST_CORNERS,) is scratch.
    """

    corner: F64
    n_corners: I64
    guess: I64
    age: I64
    side: F64


def new_pieces() -> Pieces:
    whole = np.empty((3, _DEEPEST), np.int64)
    return Pieces(np.empty((_DEEPEST, MOST_CORNERS, 3)), whole[0], whole[1], whole[2], np.empty(MOST_CORNERS))


@helper
def is_full(top):  # type: ignore[no-untyped-def]
    """Whether there is no room to cut the piece at ``top``."""
    return top + ROOM >= SCRATCH


@helper
def put_triangle(corners, face, guess, pieces):  # type: ignore[no-untyped-def]
    """Put a triangle at the bottom of the stack."""
    for k in range(3):
        for c in range(3):
            pieces.corner[0, k, c] = corners[face, 3 * k + c]
    pieces.n_corners[0], pieces.guess[0], pieces.age[0] = 3, guess, 0


@helper
def furthest_corner(pieces, row, corners, t):  # type: ignore[no-untyped-def]
    """The largest squared distance of a piece's corners to the triangle ``t``, and the corner where it is.

    The distance to a triangle is convex, so that no place of the piece is further.
    """
    worst, at = 0.0, 0
    corner = pieces.corner
    for k in range(pieces.n_corners[row]):
        squared = squared_distance(corner[row, k, 0], corner[row, k, 1], corner[row, k, 2], corners, t)
        if squared > worst:
            worst, at = squared, k
    return worst, at


@helper
def is_within(pieces, row, corners, t, bound):  # type: ignore[no-untyped-def]
    """Whether no corner of a piece, and so no place, is further from the triangle ``t`` than ``bound``, squared."""
    corner = pieces.corner
    for k in range(pieces.n_corners[row]):
        if squared_distance(corner[row, k, 0], corner[row, k, 1], corner[row, k, 2], corners, t) > bound:
            return False
    return True


@helper
def middle_of(pieces, row):  # type: ignore[no-untyped-def]
    """The middle of a piece's corners, and the squared distance of the corner furthest from it."""
    corner, n = pieces.corner, pieces.n_corners[row]
    x, y, z = 0.0, 0.0, 0.0
    for k in range(n):
        x, y, z = x + corner[row, k, 0], y + corner[row, k, 1], z + corner[row, k, 2]
    x, y, z = x / n, y / n, z / n
    reach = 0.0
    for k in range(n):
        reach = max(reach, (corner[row, k, 0] - x) ** 2 + (corner[row, k, 1] - y) ** 2 + (corner[row, k, 2] - z) ** 2)
    return x, y, z, reach


@helper
def _measure_sides(pieces, row, x, y, z, nx, ny, nz):  # type: ignore[no-untyped-def]
    """Write how far the corners lie beyond a plane through x, y, z, times the normal's length; least and most of it."""
    corner = pieces.corner
    least, most = np.inf, -np.inf
    for k in range(pieces.n_corners[row]):
        side = (corner[row, k, 0] - x) * nx + (corner[row, k, 1] - y) * ny + (corner[row, k, 2] - z) * nz
        pieces.side[k] = side
        least, most = min(least, side), max(most, side)
    return least, most


@helper
def _cut(pieces, row):  # type: ignore[no-untyped-def]
    """Cut a piece by the sides of its corners, some on either: what lies beyond stays, the rest goes one row up."""
    corner, side, n = pieces.corner, pieces.side, pieces.n_corners[row]
    beyond, before = 0, 0
    for k in range(n):
        after = k + 1 if k + 1 < n else 0
        s, e = side[k], side[after]
        if s > 0.0:
            for c in range(3):
                corner[SCRATCH, beyond, c] = corner[row, k, c]
            beyond += 1
        else:
            for c in range(3):
                corner[row + 1, before, c] = corner[row, k, c]
            before += 1
        if (s > 0.0) != (e > 0.0):
            share = s / (s - e)
            for c in range(3):
                between = corner[row, k, c] + share * (corner[row, after, c] - corner[row, k, c])
                corner[SCRATCH, beyond, c] = corner[row + 1, before, c] = between
            beyond += 1
            before += 1
    for k in range(beyond):
        for c in range(3):
            corner[row, k, c] = corner[SCRATCH, k, c]
    pieces.n_corners[row], pieces.n_corners[row + 1] = beyond, before


@helper
def carve(pieces, row, surface, across, t, margin, overhang):  # type: ignore[no-untyped-def]
    """Cut a piece along the sides of the triangle ``t``, moved outward by ``margin``; returns the row of the inside.

    What lies outside stays in the rows below, near the triangles ``across`` the sides. What hangs over by less than
    ``overhang`` is not cut off.
    """
    corners, normals = surface.corners, surface.normals
    inside, age = row, pieces.age[row] + 1
    for e in range(3):
        a, b = 3 * e, 3 * ((e + 1) % 3)
        ex, ey, ez = (
            corners[t, b] - corners[t, a],
            corners[t, b + 1] - corners[t, a + 1],
            corners[t, b + 2] - corners[t, a + 2],
        )
        mx, my = ey * normals[t, 2] - ez * normals[t, 1], ez * normals[t, 0] - ex * normals[t, 2]
        mz = ex * normals[t, 1] - ey * normals[t, 0]
        size = np.sqrt(mx * mx + my * my + mz * mz)
        if size == 0.0 or pieces.n_corners[inside] + 2 > MOST_CORNERS:
            continue
        mx, my, mz = mx / size, my / size, mz / size
        x, y, z = corners[t, a] + margin * mx, corners[t, a + 1] + margin * my, corners[t, a + 2] + margin * mz
        least, most = _measure_sides(pieces, inside, x, y, z, mx, my, mz)
        if most <= overhang or least >= -1e-3 * overhang:
            continue
        _cut(pieces, inside)
        pieces.guess[inside], pieces.age[inside] = across[t, e] if across[t, e] >= 0 else t, age
        inside += 1
        pieces.guess[inside], pieces.age[inside] = t, age
    return inside


@helper
def halve(pieces, row):  # type: ignore[no-untyped-def]
    """Cut a piece across its longest diameter; the halves lie in its row and the next."""
    corner, n = pieces.corner, pieces.n_corners[row]
    longest, a, b = -1.0, 0, 1
    for k in range(n):
        for i in range(k):
            squared = 0.0
            for c in range(3):
                squared += (corner[row, k, c] - corner[row, i, c]) ** 2
            if squared > longest:
                longest, a, b = squared, k, i
    x, y, z = corner[row, a, 0], corner[row, a, 1], corner[row, a, 2]
    nx, ny, nz = x - corner[row, b, 0], y - corner[row, b, 1], z - corner[row, b, 2]
    _measure_sides(pieces, row, x - 0.5 * nx, y - 0.5 * ny, z - 0.5 * nz, nx, ny, nz)
    guess, age = pieces.guess[row], pieces.age[row] + 1
    _cut(pieces, row)
    for half in range(row, row + 2):
        pieces.guess[half], pieces.age[half] = guess, age
