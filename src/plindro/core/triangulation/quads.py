"""Which diagonal cuts a quad: by rule, and inside whatever the rule."""

import numpy as np
from numba import njit

SHORTEST, SHAPELY, FIRST, SECOND = 0, 1, 2, 3


@njit(cache=True, nogil=True)
def triangle_vector(p, a, b, c):  # type: ignore[no-untyped-def]
    """Twice the area vector of a, b, c."""
    ux, uy, uz = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[b, 2] - p[a, 2]
    vx, vy, vz = p[c, 0] - p[a, 0], p[c, 1] - p[a, 1], p[c, 2] - p[a, 2]
    return uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx


@njit(cache=True, nogil=True)
def _squared(p, a, b):  # type: ignore[no-untyped-def]
    return (p[a, 0] - p[b, 0]) ** 2 + (p[a, 1] - p[b, 1]) ** 2 + (p[a, 2] - p[b, 2]) ** 2


@njit(cache=True, nogil=True)
def _least_angle(p, a, b, c):  # type: ignore[no-untyped-def]
    """The smallest angle of the triangle a, b, c in radians."""
    ab, bc, ca = _squared(p, a, b), _squared(p, b, c), _squared(p, c, a)
    widest = -1.0
    for opposite, s, t in ((bc, ab, ca), (ca, ab, bc), (ab, bc, ca)):
        if s == 0.0 or t == 0.0:
            return 0.0
        widest = max(widest, (s + t - opposite) / (2.0 * np.sqrt(s * t)))
    return np.arccos(min(widest, 1.0))


@njit(cache=True, nogil=True)
def _shape(p, a, b, c, d):  # type: ignore[no-untyped-def]
    """Smallest angle of the pair (a, b, c), (a, c, d), less for the fold between them: all of it where they lie flat,
    half of it at a right angle, nothing where one lies on the other."""
    ux, uy, uz = triangle_vector(p, a, b, c)
    vx, vy, vz = triangle_vector(p, a, c, d)
    size = np.sqrt((ux * ux + uy * uy + uz * uz) * (vx * vx + vy * vy + vz * vz))
    flatness = 0.5 * (1.0 + (ux * vx + uy * vy + uz * vz) / size) if size > 0.0 else 1.0
    return min(_least_angle(p, a, b, c), _least_angle(p, a, c, d)) * flatness


@njit(cache=True, nogil=True)
def takes_first(p, v0, v1, v2, v3, nx, ny, nz, rule):  # type: ignore[no-untyped-def]
    """Whether the diagonal of first and third corner is to be taken, and whether that is against the rule.

    ``nx, ny, nz`` is the quad's unit normal; a diagonal on one side of which the surface would face away is not taken
    while the other is better.
    """
    if rule == FIRST:
        wish = True
    elif rule == SECOND:
        wish = False
    elif rule == SHORTEST:
        wish = _squared(p, v0, v2) <= _squared(p, v1, v3)
    else:
        wish = _shape(p, v0, v1, v2, v3) >= _shape(p, v1, v2, v3, v0)
    ax, ay, az = triangle_vector(p, v0, v1, v2)
    bx, by, bz = triangle_vector(p, v0, v2, v3)
    first = min(ax * nx + ay * ny + az * nz, bx * nx + by * ny + bz * nz)
    ax, ay, az = triangle_vector(p, v0, v1, v3)
    bx, by, bz = triangle_vector(p, v1, v2, v3)
    second = min(ax * nx + ay * ny + az * nz, bx * nx + by * ny + bz * nz)
    limit = 1e-12 * (abs(first) + abs(second))
    wished, other = (first, second) if wish else (second, first)
    if wished <= limit and other > wished and other >= -limit:
        return not wish, True
    return wish, False
