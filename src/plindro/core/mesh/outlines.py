"""Polygons on their plane: projecting them, and asking on which side a point lies and whether edges cross."""

import numpy as np
from numba import njit

TOLERANCE = 2e-14
"""About a hundred float64 roundings, relative to the product of the polygon's extent and the edge's length."""


@njit(cache=True, nogil=True)
def turn_sign(x, y, a, b, c, extent):  # type: ignore[no-untyped-def]
    """-1, 0 or 1 for a right turn, straight, a left turn at the line a, b seen from c."""
    abx, aby = x[b] - x[a], y[b] - y[a]
    acx, acy = x[c] - x[a], y[c] - y[a]
    value = abx * acy - aby * acx
    limit = TOLERANCE * extent * (abs(abx) + abs(aby) + abs(acx) + abs(acy))
    return 1 if value > limit else (-1 if value < -limit else 0)


@njit(cache=True, nogil=True)
def project_outline(p, vertices, n, x, y):  # type: ignore[no-untyped-def]
    """Coordinates of a polygon on the plane across ``n`` (unit), counter-clockwise seen against it."""
    o = vertices[0]
    if abs(n[0]) <= abs(n[1]) and abs(n[0]) <= abs(n[2]):
        ux, uy, uz = 0.0, n[2], -n[1]
    elif abs(n[1]) <= abs(n[2]):
        ux, uy, uz = -n[2], 0.0, n[0]
    else:
        ux, uy, uz = n[1], -n[0], 0.0
    length = np.sqrt(ux * ux + uy * uy + uz * uz)
    ux, uy, uz = ux / length, uy / length, uz / length
    vx, vy, vz = n[1] * uz - n[2] * uy, n[2] * ux - n[0] * uz, n[0] * uy - n[1] * ux
    for k in range(len(vertices)):
        c = vertices[k]
        dx, dy, dz = p[c, 0] - p[o, 0], p[c, 1] - p[o, 1], p[c, 2] - p[o, 2]
        x[k] = dx * ux + dy * uy + dz * uz
        y[k] = dx * vx + dy * vy + dz * vz


@njit(cache=True, nogil=True)
def crosses_itself(x, y):  # type: ignore[no-untyped-def]
    """Whether two edges of the polygon cross properly: a sweep along x, boxes asked first."""
    n = len(x)
    extent = max(x.max() - x.min(), y.max() - y.min())
    low = np.empty(n)
    for i in range(n):
        low[i] = min(x[i], x[i + 1 if i + 1 < n else 0])
    order = np.argsort(low)
    for s in range(n - 1):
        a = order[s]
        b = a + 1 if a + 1 < n else 0
        high_x = max(x[a], x[b])
        low_y, high_y = min(y[a], y[b]), max(y[a], y[b])
        for t in range(s + 1, n):
            c = order[t]
            if low[c] > high_x:
                break
            d = c + 1 if c + 1 < n else 0
            if c == b or d == a or max(y[c], y[d]) < low_y or min(y[c], y[d]) > high_y:
                continue
            if (
                turn_sign(x, y, a, b, c, extent) * turn_sign(x, y, a, b, d, extent) < 0
                and turn_sign(x, y, c, d, a, extent) * turn_sign(x, y, c, d, b, extent) < 0
            ):
                return True
    return False
