"""Cutting every face of a mesh: triangles pass, quads take a diagonal, larger polygons go to their ears."""

import numpy as np
from numba import njit

from plindro.core.mesh.outlines import project_outline
from plindro.core.polygons.delaunay import improve
from plindro.core.polygons.ears import cut_ears
from plindro.core.polygons.quads import takes_first


@njit(cache=True, nogil=True)
def cut_faces(positions, face_start, corner_vertex, vectors, lost, rule, shapely, triangles, triangle_face):  # type: ignore[no-untyped-def]
    """Cut all faces into ``triangles`` (T, 3) corner indices; returns how many quads overruled the rule.

    Faces of two corners or fewer give nothing; those without a normal are cut as a fan. Triangles no higher than
    ``lost`` are made where nothing else is left.
    """
    overruled = 0
    t = 0
    largest = 4
    for f in range(len(face_start) - 1):
        largest = max(largest, face_start[f + 1] - face_start[f])
    n = np.empty(3)
    plane = np.empty((largest, 2))
    place = np.empty((2, largest))
    ring = np.empty((largest, 2), np.uint32)
    reflex, slot = np.empty(largest, np.int32), np.empty(largest, np.int32)
    cells, owner = np.empty(largest, np.int32), np.empty(largest, np.int32)
    is_reflex = np.empty(largest, np.bool_)
    grid = np.empty(5)
    cut = np.empty((largest, 3), np.int32)
    neighbours = np.empty((largest, 3), np.int32)
    for f in range(len(face_start) - 1):
        begin = face_start[f]
        sides = face_start[f + 1] - begin
        if sides < 3:
            continue
        if sides == 3:
            triangles[t, 0], triangles[t, 1], triangles[t, 2] = begin, begin + 1, begin + 2
            triangle_face[t] = f
            t += 1
            continue
        nx, ny, nz = vectors[f, 0], vectors[f, 1], vectors[f, 2]
        length = np.sqrt(nx * nx + ny * ny + nz * nz)
        if not (length > 0.0 and np.isfinite(length)):
            for k in range(sides - 2):
                triangles[t, 0], triangles[t, 1], triangles[t, 2] = begin, begin + k + 1, begin + k + 2
                triangle_face[t] = f
                t += 1
            continue
        nx, ny, nz = nx / length, ny / length, nz / length
        if sides == 4:
            first, against = takes_first(
                positions,
                corner_vertex[begin],
                corner_vertex[begin + 1],
                corner_vertex[begin + 2],
                corner_vertex[begin + 3],
                nx,
                ny,
                nz,
                rule,
                lost,
            )
            overruled += against
            if first:
                triangles[t, 0], triangles[t, 1], triangles[t, 2] = begin, begin + 1, begin + 2
                triangles[t + 1, 0], triangles[t + 1, 1], triangles[t + 1, 2] = begin, begin + 2, begin + 3
            else:
                triangles[t, 0], triangles[t, 1], triangles[t, 2] = begin, begin + 1, begin + 3
                triangles[t + 1, 0], triangles[t + 1, 1], triangles[t + 1, 2] = begin + 1, begin + 2, begin + 3
            triangle_face[t] = f
            triangle_face[t + 1] = f
            t += 2
            continue
        n[0], n[1], n[2] = nx, ny, nz
        project_outline(positions, corner_vertex[begin : begin + sides], n, plane[:, 0], plane[:, 1])
        cut_ears(plane, sides, lost, ring, reflex, place, slot, is_reflex, cells, grid, shapely, owner, neighbours, cut)
        if shapely:
            improve(plane, sides - 2, cut, neighbours)
        for k in range(sides - 2):
            for j in range(3):
                triangles[t, j] = begin + cut[k, j]
            triangle_face[t] = f
            t += 1
    return overruled
