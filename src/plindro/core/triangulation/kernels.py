"""Cutting every face of a mesh: triangles pass, quads take a diagonal, larger polygons go to their ears."""

import numpy as np
from numba import njit

from plindro.core.mesh.outlines import project_outline
from plindro.core.triangulation.ears import cut_ears

SHORTEST, SHAPELY, FIRST, SECOND = 0, 1, 2, 3


@njit(cache=True, nogil=True)
def _facing(p, a, b, c, n):  # type: ignore[no-untyped-def]
    """Area vector of a, b, c along the normal ``n``: positive where the triangle faces as the polygon does."""
    ux, uy, uz = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[b, 2] - p[a, 2]
    vx, vy, vz = p[c, 0] - p[a, 0], p[c, 1] - p[a, 1], p[c, 2] - p[a, 2]
    return (uy * vz - uz * vy) * n[0] + (uz * vx - ux * vz) * n[1] + (ux * vy - uy * vx) * n[2]


@njit(cache=True, nogil=True)
def _squared(p, a, b):  # type: ignore[no-untyped-def]
    return (p[a, 0] - p[b, 0]) ** 2 + (p[a, 1] - p[b, 1]) ** 2 + (p[a, 2] - p[b, 2]) ** 2


@njit(cache=True, nogil=True)
def _least_angle(p, a, b, c):  # type: ignore[no-untyped-def]
    """Cosine of the smallest angle of the triangle a, b, c, as a value that grows with the angle."""
    ab, bc, ca = _squared(p, a, b), _squared(p, b, c), _squared(p, c, a)
    worst = -1.0
    for opposite, s, t in ((bc, ab, ca), (ca, ab, bc), (ab, bc, ca)):
        if s == 0.0 or t == 0.0:
            return -2.0
        worst = max(worst, (s + t - opposite) / (2.0 * np.sqrt(s * t)))
    return -worst


@njit(cache=True, nogil=True)
def _first_is_better(p, v0, v1, v2, v3, n, rule):  # type: ignore[no-untyped-def]
    """For the diagonal of first and third corner: is it to be taken, and is that against the rule?"""
    first_worst = min(_facing(p, v0, v1, v2, n), _facing(p, v0, v2, v3, n))
    second_worst = min(_facing(p, v0, v1, v3, n), _facing(p, v1, v2, v3, n))
    if rule == FIRST:
        wish = True
    elif rule == SECOND:
        wish = False
    elif rule == SHORTEST:
        wish = _squared(p, v0, v2) <= _squared(p, v1, v3)
    else:
        first_angle = min(_least_angle(p, v0, v1, v2), _least_angle(p, v0, v2, v3))
        second_angle = min(_least_angle(p, v0, v1, v3), _least_angle(p, v1, v2, v3))
        wish = first_angle >= second_angle
    size = abs(first_worst) + abs(second_worst)
    wished, other = (first_worst, second_worst) if wish else (second_worst, first_worst)
    if max(wished, other) < -1e-12 * size:
        return wish, False
    if wished <= 1e-12 * size and other > wished:
        return not wish, True
    return wish, False


@njit(cache=True, nogil=True)
def cut_faces(positions, face_start, corner_vertex, vectors, rule, triangles, triangle_face):  # type: ignore[no-untyped-def]
    """Cut all faces into ``triangles`` (T, 3) corner indices; returns how many quads overruled the rule."""
    overruled = 0
    t = 0
    n = np.empty(3)
    largest = 4
    for f in range(len(face_start) - 1):
        largest = max(largest, face_start[f + 1] - face_start[f])
    x = np.empty(largest)
    y = np.empty(largest)
    cut = np.empty((largest, 3), np.int32)
    for f in range(len(face_start) - 1):
        begin = face_start[f]
        sides = face_start[f + 1] - begin
        if sides < 3:
            continue
        length = np.sqrt(vectors[f, 0] ** 2 + vectors[f, 1] ** 2 + vectors[f, 2] ** 2)
        good = length > 0.0 and np.isfinite(length)
        for k in range(3):
            n[k] = vectors[f, k] / length if good else 0.0
        if sides == 3:
            cut[0, 0], cut[0, 1], cut[0, 2] = 0, 1, 2
        elif sides == 4:
            v = corner_vertex[begin : begin + 4]
            first, against = _first_is_better(positions, v[0], v[1], v[2], v[3], n, rule)
            overruled += against
            if first:
                cut[0, 0], cut[0, 1], cut[0, 2] = 0, 1, 2
                cut[1, 0], cut[1, 1], cut[1, 2] = 0, 2, 3
            else:
                cut[0, 0], cut[0, 1], cut[0, 2] = 0, 1, 3
                cut[1, 0], cut[1, 1], cut[1, 2] = 1, 2, 3
        elif good:
            project_outline(positions, corner_vertex[begin : begin + sides], n, x, y)
            cut_ears(x[:sides], y[:sides], cut)
        else:
            for k in range(sides - 2):
                cut[k, 0], cut[k, 1], cut[k, 2] = 0, k + 1, k + 2
        for k in range(sides - 2):
            for j in range(3):
                triangles[t, j] = begin + cut[k, j]
            triangle_face[t] = f
            t += 1
    return overruled
