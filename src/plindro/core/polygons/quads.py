"""Which diagonal cuts a quad: by rule, and inside whatever the rule."""

import numpy as np
from numba import njit

from plindro.core.polygons.ears import ROUND

SHORTEST, SHAPELY, FIRST, SECOND = 0, 1, 2, 3


@njit(cache=True, nogil=True)
def _triangle_vector(p, a, b, c):  # type: ignore[no-untyped-def]
    """Twice the area vector of a, b, c."""
    ux, uy, uz = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[b, 2] - p[a, 2]
    vx, vy, vz = p[c, 0] - p[a, 0], p[c, 1] - p[a, 1], p[c, 2] - p[a, 2]
    return uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx


@njit(cache=True, nogil=True)
def _squared(p, a, b):  # type: ignore[no-untyped-def]
    return (p[a, 0] - p[b, 0]) ** 2 + (p[a, 1] - p[b, 1]) ** 2 + (p[a, 2] - p[b, 2]) ** 2


@njit(cache=True, nogil=True)
def _widest_cosine(first, second, third):  # type: ignore[no-untyped-def]
    """Cosine of a triangle's smallest angle, the one across its shortest side, from the sides' squares."""
    shortest = min(first, second, third)
    longest = max(first, second, third)
    between = first + second + third - shortest - longest
    product = between * longest
    return (between + longest - shortest) / (2.0 * np.sqrt(product)) if product > 0.0 else 1.0


@njit(cache=True, nogil=True)
def _flatness(ux, uy, uz, vx, vy, vz):  # type: ignore[no-untyped-def]
    """1 where two triangles lie flat, a half where they stand at a right angle, 0 where one lies on the other."""
    size = (ux * ux + uy * uy + uz * uz) * (vx * vx + vy * vy + vz * vz)
    return 0.5 * (1.0 + (ux * vx + uy * vy + uz * vz) / np.sqrt(size)) if size > 0.0 else 1.0


@njit(cache=True, nogil=True)
def takes_first(p, v0, v1, v2, v3, nx, ny, nz, rule, lost):  # type: ignore[no-untyped-def]
    """Whether the diagonal of first and third corner is to be taken, and whether that is against the rule.

    By shape, a pair of triangles counts with (1 - cos) of its smallest angle, times its flatness squared.
    ``nx, ny, nz`` is the quad's unit normal; a diagonal on one side of which the surface would face away, or be but a
    line or no higher than ``lost``, is not taken while the other is better.
    """
    ax, ay, az = _triangle_vector(p, v0, v1, v2)
    bx, by, bz = _triangle_vector(p, v0, v2, v3)
    cx, cy, cz = _triangle_vector(p, v0, v1, v3)
    dx, dy, dz = _triangle_vector(p, v1, v2, v3)
    across_first, across_second = _squared(p, v0, v2), _squared(p, v1, v3)
    s0, s1, s2, s3 = _squared(p, v0, v1), _squared(p, v1, v2), _squared(p, v2, v3), _squared(p, v3, v0)
    if rule == FIRST:
        wish = True
    elif rule == SECOND:
        wish = False
    elif rule == SHORTEST:
        wish = across_first <= across_second
    else:
        first_cosine = max(_widest_cosine(s0, s1, across_first), _widest_cosine(s2, s3, across_first))
        second_cosine = max(_widest_cosine(s3, s0, across_second), _widest_cosine(s1, s2, across_second))
        first_flat = _flatness(ax, ay, az, bx, by, bz)
        second_flat = _flatness(cx, cy, cz, dx, dy, dz)
        # 1 - cos grows with the angle as its square does, and needs no arc cosine.
        wish = (1.0 - first_cosine) * first_flat**2 >= (1.0 - second_cosine) * second_flat**2
    first = min(ax * nx + ay * ny + az * nz, bx * nx + by * ny + bz * nz)
    second = min(cx * nx + cy * ny + cz * nz, dx * nx + dy * ny + dz * nz)
    longest = max(across_first, across_second, s0, s1, s2, s3)
    limit = max(ROUND * longest, lost * np.sqrt(longest))
    wished, other = (first, second) if wish else (second, first)
    if wished <= limit and other > wished and other >= -limit:
        return not wish, True
    return wish, False
