"""The best-shaped triangles inside a polygon: the constrained Delaunay triangulation, by turning diagonals.

A diagonal is turned while the two angles across it sum to more than half a circle (Lawson 1977); the outline is never
touched, so what is reached is the triangulation with the largest smallest angle among those inside the outline.
"""

import numpy as np
from numba import njit

_SURE = 1e-11
"""How far the sine of the angles' sum must be beyond zero for a turn to be worth it; keeps turning from going on."""


@njit(cache=True, nogil=True)
def _angle_parts(p, tip, a, b):  # type: ignore[no-untyped-def]
    """Cosine and sine, times the lengths, of the angle at ``tip`` from a to b."""
    ux, uy, vx, vy = p[a, 0] - p[tip, 0], p[a, 1] - p[tip, 1], p[b, 0] - p[tip, 0], p[b, 1] - p[tip, 1]
    return ux * vx + uy * vy, ux * vy - uy * vx


@njit(cache=True, nogil=True)
def is_worth_turning(p, a, b, c, d):  # type: ignore[no-untyped-def]
    """Whether the edge a-b between the triangles (a, b, c) and (b, a, d) should become c-d."""
    cos_c, sin_c = _angle_parts(p, c, a, b)
    cos_d, sin_d = _angle_parts(p, d, b, a)
    size = np.sqrt((cos_c * cos_c + sin_c * sin_c) * (cos_d * cos_d + sin_d * sin_d))
    if sin_c * cos_d + cos_c * sin_d >= -_SURE * size:
        return False
    # Both new triangles must lie inside: (c, a, d) and (d, b, c) turn left, beyond rounding.
    ex, ey = p[d, 0] - p[c, 0], p[d, 1] - p[c, 1]
    first = (p[a, 0] - p[c, 0]) * ey - (p[a, 1] - p[c, 1]) * ex
    second = (p[c, 0] - p[b, 0]) * ey - (p[c, 1] - p[b, 1]) * ex
    across = ex * ex + ey * ey
    return first > 1e-14 * across and second > 1e-14 * across


@njit(cache=True, nogil=True)
def turn_edge(t, i, cut, neighbours):  # type: ignore[no-untyped-def]
    """Turn edge ``i`` of triangle ``t`` inside the two triangles that share it."""
    u = neighbours[t, i]
    j = 0
    while neighbours[u, j] != t:
        j += 1
    a, b, c = cut[t, i], cut[t, (i + 1) % 3], cut[t, (i + 2) % 3]
    d = cut[u, (j + 2) % 3]
    bc, ca = neighbours[t, (i + 1) % 3], neighbours[t, (i + 2) % 3]
    ad, db = neighbours[u, (j + 1) % 3], neighbours[u, (j + 2) % 3]
    cut[t, 0], cut[t, 1], cut[t, 2] = c, a, d
    cut[u, 0], cut[u, 1], cut[u, 2] = d, b, c
    neighbours[t, 0], neighbours[t, 1], neighbours[t, 2] = ca, ad, u
    neighbours[u, 0], neighbours[u, 1], neighbours[u, 2] = db, bc, t
    if ad >= 0:
        for k in range(3):
            if neighbours[ad, k] == u:
                neighbours[ad, k] = t
    if bc >= 0:
        for k in range(3):
            if neighbours[bc, k] == t:
                neighbours[bc, k] = u


@njit(cache=True, nogil=True)
def improve(p, n_triangles, cut, neighbours):  # type: ignore[no-untyped-def]
    """Turn diagonals until all are as they should be; at most a bound that no sound polygon reaches."""
    budget = 16 + 4 * n_triangles * n_triangles
    is_done = False
    while not is_done and budget > 0:
        is_done = True
        for t in range(n_triangles):
            i = 0
            while i < 3:
                u = neighbours[t, i]
                if u >= 0 and u != t:
                    j = 0
                    while neighbours[u, j] != t:
                        j += 1
                    a, b, c = cut[t, i], cut[t, (i + 1) % 3], cut[t, (i + 2) % 3]
                    if is_worth_turning(p, a, b, c, cut[u, (j + 2) % 3]):
                        turn_edge(t, i, cut, neighbours)
                        is_done = False
                        budget -= 1
                        if budget <= 0:
                            return
                        i = -1
                i += 1
