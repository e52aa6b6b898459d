"""What an engine would make of polygons that are left to it: a plain fan from each one's first corner, beside the cut.

Between two cuts of one polygon the surface differs by the angle of the triangles that lie over one another. The shading
differs most where a diagonal of the one crosses a diagonal of the other: there each interpolates between its own two
ends, and in between the difference is linear.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F64, I32, Mask, Mesh
from plindro.core.mesh.outlines import project_outline

DIFFERS, FLIPS, OVERLAPS, LEAVES, COLLAPSES = 1, 2, 4, 8, 16
_PAIR_LIMIT = 128
"""Polygons of more sides are not asked triangle by triangle how far their surface turns."""


@dataclass(frozen=True, slots=True)
class EngineCuts:
    """A fan beside the cut, for each face of the polygon mesh.

    flags : (F,) uint8 of DIFFERS ...; surface, shading : (F,) largest change in degrees where the cuts differ
    """

    flags: NDArray[np.uint8]
    surface: F64
    shading: F64

    def has(self, flag: int) -> Mask:
        """(F,) the faces with a flag."""
        return (self.flags & flag) > 0


@njit(cache=True, nogil=True)
def _degrees(ux, uy, uz, vx, vy, vz):  # type: ignore[no-untyped-def]
    cx, cy, cz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    return np.degrees(np.arctan2(np.sqrt(cx * cx + cy * cy + cz * cz), ux * vx + uy * vy + uz * vz))


@njit(cache=True, nogil=True)
def _cross(x, y, a, b, c):  # type: ignore[no-untyped-def]
    return (x[b] - x[a]) * (y[c] - y[a]) - (y[b] - y[a]) * (x[c] - x[a])


@njit(cache=True, nogil=True)
def _leaves(x, y, n, k, limit):  # type: ignore[no-untyped-def]
    """Whether the diagonal from corner 0 to ``k`` runs outside at an end or crosses the outline."""
    if _cross(x, y, 0, 1, n - 1) >= 0:
        if _cross(x, y, 0, 1, k) < -limit or _cross(x, y, 0, k, n - 1) < -limit:
            return True
    elif _cross(x, y, 0, 1, k) < -limit and _cross(x, y, 0, k, n - 1) < -limit:
        return True
    for a in range(1, n - 1):
        b = a + 1
        if k in (a, b):
            continue
        first, second = _cross(x, y, 0, k, a), _cross(x, y, 0, k, b)
        third, fourth = _cross(x, y, a, b, 0), _cross(x, y, a, b, k)
        if ((first > limit and second < -limit) or (first < -limit and second > limit)) and (
            (third > limit and fourth < -limit) or (third < -limit and fourth > limit)
        ):
            return True
    return False


@njit(cache=True, nogil=True)
def _shading_change(x, y, normals, begin, k, i, j):  # type: ignore[no-untyped-def]
    """Angle between the two interpolated normals where the diagonal 0-k crosses i-j; 0 where they do not cross."""
    ex, ey, fx, fy = x[k] - x[0], y[k] - y[0], x[j] - x[i], y[j] - y[i]
    below = ex * fy - ey * fx
    if below == 0.0:
        return 0.0
    gx, gy = x[i] - x[0], y[i] - y[0]
    s, t = (gx * fy - gy * fx) / below, (gx * ey - gy * ex) / below
    if s <= 0.0 or s >= 1.0 or t <= 0.0 or t >= 1.0:
        return 0.0
    a, b, c, d = begin, begin + k, begin + i, begin + j
    ux, vx = (1 - s) * normals[a, 0] + s * normals[b, 0], (1 - t) * normals[c, 0] + t * normals[d, 0]
    uy, vy = (1 - s) * normals[a, 1] + s * normals[b, 1], (1 - t) * normals[c, 1] + t * normals[d, 1]
    uz, vz = (1 - s) * normals[a, 2] + s * normals[b, 2], (1 - t) * normals[c, 2] + t * normals[d, 2]
    return _degrees(ux, uy, uz, vx, vy, vz)


@njit(cache=True, nogil=True)
def _triangle(p, a, b, c, out):  # type: ignore[no-untyped-def]
    ux, uy, uz = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[b, 2] - p[a, 2]
    vx, vy, vz = p[c, 0] - p[a, 0], p[c, 1] - p[a, 1], p[c, 2] - p[a, 2]
    out[0], out[1], out[2] = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx


@njit(cache=True, nogil=True)
def _compare(p, face_start, corner_vertex, vectors, cut_start, corners, normals, flags, surface, shading):  # type: ignore[no-untyped-def]
    largest = 4
    for f in range(len(face_start) - 1):
        largest = max(largest, face_start[f + 1] - face_start[f])
    x, y, n = np.empty(largest), np.empty(largest), np.empty(3)
    fan, own = np.empty(3), np.empty(3)
    for f in range(len(face_start) - 1):
        begin = face_start[f]
        sides = face_start[f + 1] - begin
        length = np.sqrt(vectors[f, 0] ** 2 + vectors[f, 1] ** 2 + vectors[f, 2] ** 2)
        if sides < 4 or not (length > 0.0 and np.isfinite(length)):
            continue
        first, last = cut_start[f], cut_start[f + 1]
        same = True
        for t in range(first, last):
            same = same and begin in (corners[t, 0], corners[t, 1], corners[t, 2])
        if not same:
            flags[f] |= DIFFERS
        for k in range(3):
            n[k] = vectors[f, k] / length
        v = corner_vertex[begin : begin + sides]
        project_outline(p, v, n, x, y)
        limit = 2e-9 * length
        covered, least = 0.0, np.inf
        for k in range(1, sides - 1):
            area = _cross(x, y, 0, k, k + 1)
            covered += abs(area)
            least = min(least, area)
        if least < -limit:
            flags[f] |= FLIPS
            if covered > 2.0 * length * (1.0 + 1e-6):
                flags[f] |= OVERLAPS
            for k in range(2, sides - 1):
                if _leaves(x, y, sides, k, limit):
                    flags[f] |= LEAVES
                    break
        elif least <= limit and not same:
            flags[f] |= COLLAPSES
        if same:
            continue
        if sides <= _PAIR_LIMIT:
            for k in range(1, sides - 1):
                _triangle(p, v[0], v[k], v[k + 1], fan)
                if fan[0] ** 2 + fan[1] ** 2 + fan[2] ** 2 <= limit * limit:
                    continue
                for t in range(first, last):
                    _triangle(
                        p,
                        corner_vertex[corners[t, 0]],
                        corner_vertex[corners[t, 1]],
                        corner_vertex[corners[t, 2]],
                        own,
                    )
                    if own[0] ** 2 + own[1] ** 2 + own[2] ** 2 > limit * limit:
                        surface[f] = max(surface[f], _degrees(fan[0], fan[1], fan[2], own[0], own[1], own[2]))
        if len(normals):
            for k in range(2, sides - 1):
                for t in range(first, last):
                    for m in range(3):
                        i, j = corners[t, m] - begin, corners[t, (m + 1) % 3] - begin
                        if i < j and i > 0 and j - i > 1:
                            shading[f] = max(shading[f], _shading_change(x, y, normals, begin, k, i, j))


def compare_with_fan(polygons: Mesh, corners: I32, faces: I32) -> EngineCuts:
    """Compare the cut of ``polygons`` into ``corners`` (3 T,), grouped by ``faces`` (T,) rising, with plain fans.

    The shading is compared where the polygons have normals.
    """
    n = polygons.n_faces
    flags, surface, shading = np.zeros(n, np.uint8), np.zeros(n), np.zeros(n)
    start = np.searchsorted(faces, np.arange(n + 1)).astype(np.int64)
    normals = np.zeros((0, 3)) if polygons.normals is None else polygons.normals.astype(np.float64)
    _compare(
        polygons.positions,
        polygons.face_start,
        polygons.corner_vertex,
        face_vectors(polygons),
        start,
        corners.reshape(-1, 3),
        normals,
        flags,
        surface,
        shading,
    )
    return EngineCuts(flags, surface, shading)
