"""Quadrics: the squared distance to a set of planes as ten coefficients (Garland and Heckbert 1997), and a weight.

Row layout: xx, xy, xz, yy, yz, zz, x, y, z, constant, weight. Planes weigh as much as their face's area; along a
feature stands a plane across the face, so that borders and seams keep their line.
"""

import numpy as np
from numba import njit

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F64, Mask, Mesh

FEATURE_WEIGHT = 3.0
"""Weight of the plane along a feature edge, per squared length of the edge."""


@njit(cache=True, nogil=True)
def _add_plane(q, a, b, c, d, w):  # type: ignore[no-untyped-def]
    q[0] += w * a * a
    q[1] += w * a * b
    q[2] += w * a * c
    q[3] += w * b * b
    q[4] += w * b * c
    q[5] += w * c * c
    q[6] += w * a * d
    q[7] += w * b * d
    q[8] += w * c * d
    q[9] += w * d * d
    q[10] += w


@njit(cache=True, nogil=True)
def _fill(positions, triangles, vectors, feature, quadrics):  # type: ignore[no-untyped-def]
    for t in range(len(triangles)):
        nx, ny, nz = vectors[t, 0], vectors[t, 1], vectors[t, 2]
        area = np.sqrt(nx * nx + ny * ny + nz * nz)
        if not area > 0.0:
            continue
        nx, ny, nz = nx / area, ny / area, nz / area
        for k in range(3):
            v, w = triangles[t, k], triangles[t, (k + 1) % 3]
            d = -(nx * positions[v, 0] + ny * positions[v, 1] + nz * positions[v, 2])
            _add_plane(quadrics[v], nx, ny, nz, d, area)
            if feature[3 * t + k]:
                ex = positions[w, 0] - positions[v, 0]
                ey = positions[w, 1] - positions[v, 1]
                ez = positions[w, 2] - positions[v, 2]
                length = np.sqrt(ex * ex + ey * ey + ez * ez)
                if length > 0.0:
                    sx = (ny * ez - nz * ey) / length
                    sy = (nz * ex - nx * ez) / length
                    sz = (nx * ey - ny * ex) / length
                    d = -(sx * positions[v, 0] + sy * positions[v, 1] + sz * positions[v, 2])
                    weight = FEATURE_WEIGHT * length * length
                    _add_plane(quadrics[v], sx, sy, sz, d, weight)
                    _add_plane(quadrics[w], sx, sy, sz, d, weight)


@njit(cache=True, nogil=True)
def quadric_error(quadrics, v, x, y, z):  # type: ignore[no-untyped-def]
    """Weighted sum of squared distances of a point to the planes of row ``v``; never negative."""
    squares = quadrics[v, 0] * x * x + quadrics[v, 3] * y * y + quadrics[v, 5] * z * z + quadrics[v, 9]
    mixed = quadrics[v, 1] * x * y + quadrics[v, 2] * x * z + quadrics[v, 4] * y * z
    linear = quadrics[v, 6] * x + quadrics[v, 7] * y + quadrics[v, 8] * z
    return max(squares + 2.0 * (mixed + linear), 0.0)


def build_quadrics(surface: Mesh, feature: Mask) -> F64:
    """(V, 11) quadrics of a triangle mesh; ``feature`` (C,) marks half-edges that keep their line."""
    quadrics = np.zeros((surface.n_vertices, 11))
    _fill(surface.positions, surface.triangles(), face_vectors(surface), feature, quadrics)
    return quadrics
