"""Diagonals set by hand: each is brought into its polygon's triangles by turning those that cross it (Sloan 1993)."""

import numpy as np

from plindro.core.marks import near_vertices
from plindro.core.marks.search import edge_tolerance
from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh
from plindro.core.mesh.outlines import project_outline

_MOST_TURNS = 400


def set_diagonals(mesh: Mesh, corners: I32, faces: I32, ends: F64) -> tuple[I32, Mask]:
    """The cut ``corners`` (3 T,) of polygons with the diagonals ``ends`` (K, 2, 3) brought in, in their order.

    ``faces`` (T,) rising says which polygon each triangle belongs to. Returns the corners and (K,) bool, the marks that
    could be set: both ends are corners of one polygon and the diagonal between them lies inside.
    """
    done = np.zeros(len(ends), bool)
    if not len(ends):
        return corners, done
    tolerance = edge_tolerance(mesh, ends)
    starts, off_a = near_vertices(mesh, ends[:, 0], tolerance)
    stops, off_b = near_vertices(mesh, ends[:, 1], tolerance)
    by_vertex = np.argsort(mesh.corner_vertex, kind="stable")
    sorted_vertex = mesh.corner_vertex[by_vertex]
    corner_face = mesh.corner_face()
    first = np.searchsorted(faces, np.arange(mesh.n_faces + 1))
    result = corners.reshape(-1, 3).copy()

    def corners_at(vertex: int) -> I64:
        low, high = np.searchsorted(sorted_vertex, [vertex, vertex + 1])
        return by_vertex[low:high]

    for k in range(len(ends)):
        pairs = [
            (off_a[k, i] + off_b[k, j], int(a), int(b))
            for i, u in enumerate(starts[k])
            for j, v in enumerate(stops[k])
            if u >= 0 and v >= 0 and u != v
            for a in corners_at(u)
            for b in corners_at(v)
            if corner_face[a] == corner_face[b]
        ]
        for _, a, b in sorted(pairs):
            face = int(corner_face[a])
            rows = slice(first[face], first[face + 1])
            changed = _bring_in(mesh, face, result[rows], a, b)
            if changed is not None:
                result[rows] = changed
                done[k] = True
                break
    return result.reshape(-1), done


def _bring_in(mesh: Mesh, face: int, triangles: I32, a: int, b: int) -> I32 | None:
    """The polygon's triangles with the diagonal a-b; None where that cannot be."""
    begin, end = int(mesh.face_start[face]), int(mesh.face_start[face + 1])
    sides = end - begin
    if (a - b) % sides in (1, sides - 1):
        return None
    normal = unit(face_vectors(mesh.with_faces(np.array([face]))))[0]
    if not normal.any():
        return None
    x, y = np.empty(sides), np.empty(sides)
    project_outline(mesh.positions, mesh.corner_vertex[begin:end], normal, x, y)

    def turn(p: int, q: int, r: int) -> float:
        p, q, r = p - begin, q - begin, r - begin
        return float((x[q] - x[p]) * (y[r] - y[p]) - (y[q] - y[p]) * (x[r] - x[p]))

    size = float(np.ptp(x) ** 2 + np.ptp(y) ** 2)
    own = [tuple(int(c) for c in row) for row in triangles]
    for _ in range(_MOST_TURNS):
        tip = {(t[i], t[(i + 1) % 3]): (n, t[(i + 2) % 3]) for n, t in enumerate(own) for i in range(3)}
        if (a, b) in tip and (b, a) in tip:
            return np.array(own, np.int32)
        is_turned = False
        for (u, v), (n, c) in tip.items():
            if (v, u) not in tip or a in (u, v) or b in (u, v):
                continue
            m, d = tip[v, u]
            crosses = turn(a, b, u) * turn(a, b, v) < 0 and turn(u, v, a) * turn(u, v, b) < 0
            if crosses and turn(c, u, d) > 1e-12 * size and turn(d, v, c) > 1e-12 * size:
                own[n], own[m] = (c, u, d), (d, v, c)
                is_turned = True
                break
        if not is_turned:
            return None
    return None
