"""The shading of one surface seen from another: by the nearest place that faces the same way.

The nearest place of a thin wall is often its other side, so only triangles within a cone around the asked direction
count; only where there is none the nearest of all is taken.
"""

from collections.abc import Sequence

import numpy as np
from numba import njit

from plindro.core.mesh.boxes import BLOCK, DEEPEST, build_box_tree, triangle_boxes
from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F32, F64, I32, I64, Mesh

CONE = 0.5
"""Cosine of the half-angle of the cone that a triangle must face into."""
_SAMPLES = 6_000
_GOLDEN = np.array([0.7548776662466927, 0.5698402909980532])
"""Steps of the two-dimensional golden sequence (Roberts 2018): even samples without a random seed."""


@njit(cache=True, nogil=True, error_model="numpy")
def _closest(p, a, b, c, out):  # type: ignore[no-untyped-def]
    """Barycentric coordinates of the place of a triangle nearest to p into ``out``; returns the squared distance.

    By the regions of the triangle (Ericson 2005, 5.1.5).
    """
    abx, aby, abz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    acx, acy, acz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
    apx, apy, apz = p[0] - a[0], p[1] - a[1], p[2] - a[2]
    d1, d2 = abx * apx + aby * apy + abz * apz, acx * apx + acy * apy + acz * apz
    bpx, bpy, bpz = p[0] - b[0], p[1] - b[1], p[2] - b[2]
    d3, d4 = abx * bpx + aby * bpy + abz * bpz, acx * bpx + acy * bpy + acz * bpz
    cpx, cpy, cpz = p[0] - c[0], p[1] - c[1], p[2] - c[2]
    d5, d6 = abx * cpx + aby * cpy + abz * cpz, acx * cpx + acy * cpy + acz * cpz
    va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
    u, v, w = 1.0, 0.0, 0.0
    if d1 <= 0.0 and d2 <= 0.0:
        pass
    elif d3 >= 0.0 and d4 <= d3:
        u, v = 0.0, 1.0
    elif vc <= 0.0 and d1 >= 0.0 and d3 <= 0.0:
        v = d1 / (d1 - d3)
        u = 1.0 - v
    elif d6 >= 0.0 and d5 <= d6:
        u, w = 0.0, 1.0
    elif vb <= 0.0 and d2 >= 0.0 and d6 <= 0.0:
        w = d2 / (d2 - d6)
        u = 1.0 - w
    elif va <= 0.0 and d4 - d3 >= 0.0 and d5 - d6 >= 0.0:
        w = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        u, v = 0.0, 1.0 - w
    else:
        total = va + vb + vc
        v, w = vb / total, vc / total
        u = 1.0 - v - w
    if not (u >= -1.0 and v >= -1.0 and w >= -1.0):
        u, v, w = 1.0, 0.0, 0.0
    out[0], out[1], out[2] = u, v, w
    dx = apx - v * abx - w * acx
    dy = apy - v * aby - w * acy
    dz = apz - v * abz - w * acz
    return dx * dx + dy * dy + dz * dz


@njit(cache=True, nogil=True)
def _box_distance(p, low, high):  # type: ignore[no-untyped-def]
    total = 0.0
    for k in range(3):
        off = max(low[k] - p[k], p[k] - high[k], 0.0)
        total += off * off
    return total


@njit(cache=True, nogil=True)
def _find(p, d, cone, points, triangles, normals, order, low, high, first_leaf, stack, trial, out):  # type: ignore[no-untyped-def]
    """The nearest triangle that faces into the cone around d, or -1; its barycentric coordinates in ``out``."""
    best, found = np.inf, -1
    stack[0] = 0
    depth = 1
    while depth > 0:
        depth -= 1
        node = stack[depth]
        if not _box_distance(p, low[node], high[node]) < best:
            continue
        if node < first_leaf:
            left, right = 2 * node + 1, 2 * node + 2
            # The nearer child is asked first: it lies on top of the stack.
            if _box_distance(p, low[left], high[left]) < _box_distance(p, low[right], high[right]):
                left, right = right, left
            stack[depth], stack[depth + 1] = left, right
            depth += 2
            continue
        begin = (node - first_leaf) * BLOCK
        for i in range(begin, min(begin + BLOCK, len(order))):
            t = order[i]
            if normals[t, 0] * d[0] + normals[t, 1] * d[1] + normals[t, 2] * d[2] < cone:
                continue
            distance = _closest(p, points[triangles[t, 0]], points[triangles[t, 1]], points[triangles[t, 2]], trial)
            if distance < best:
                best, found = distance, t
                out[0], out[1], out[2] = trial[0], trial[1], trial[2]
    return found


@njit(cache=True, nogil=True)
def _sample(queries, directions, cone, points, triangles, normals, order, low, high, first_leaf, shading, out):  # type: ignore[no-untyped-def]
    stack = np.empty(2 * DEEPEST, np.int64)
    trial, weights = np.empty(3), np.empty(3)
    for i in range(len(queries)):
        t = _find(
            queries[i], directions[i], cone, points, triangles, normals, order, low, high, first_leaf, stack, trial,
            weights,
        )  # fmt: skip
        if t < 0:
            t = _find(
                queries[i], directions[i], -2.0, points, triangles, normals, order, low, high, first_leaf, stack,
                trial, weights,
            )  # fmt: skip
        for k in range(3):
            out[i, k] = 0.0
            for j in range(3):
                if t >= 0:
                    out[i, k] += weights[j] * shading[3 * t + j, k]


class ShadingSampler:
    """The shading of a triangle mesh with normals, asked from places near it."""

    def __init__(self, mesh: Mesh) -> None:
        if mesh.normals is None:
            raise ValueError("mesh: expected normals")
        self._points, self._triangles = mesh.positions, mesh.triangles()
        self._normals = unit(face_vectors(mesh))
        self._shading = mesh.normals.astype(np.float64)
        self._tree = build_box_tree(*triangle_boxes(self._points, self._triangles))

    def at(self, places: F64, directions: F64) -> F64:
        """(n, 3) unit shading normals where the surface is nearest to ``places`` and faces along ``directions``."""
        out = np.zeros((len(places), 3))
        tree = self._tree
        _sample(
            places,
            directions,
            CONE,
            self._points,
            self._triangles,
            self._normals,
            tree.order,
            tree.low,
            tree.high,
            tree.first_leaf,
            self._shading,
            out,
        )
        return unit(out)

    def carried(self, mesh: Mesh, group: I32, n_groups: int) -> F32:
        """(C, 3) normals of another triangle mesh, carried over and shared by the corners of each group.

        A group asks a little towards its triangles, so that beside a hard edge it asks the right side.
        """
        corners = mesh.positions[mesh.corner_vertex].reshape(-1, 3, 3)
        inwards = (corners.mean(axis=1, keepdims=True) - corners).reshape(-1, 3)
        facing = np.repeat(face_vectors(mesh), 3, axis=0)
        number = np.maximum(np.bincount(group, minlength=n_groups), 1)

        def share(values: F64) -> F64:
            return np.stack([np.bincount(group, values[:, k], minlength=n_groups) for k in range(3)], axis=1)

        places = share(corners.reshape(-1, 3) + 0.05 * inwards) / number[:, None]
        directions = unit(share(facing))
        found = self.at(places, directions)
        missing = ~(np.einsum("ij,ij->i", found, directions) > 0)
        found[missing] = directions[missing]
        found[np.abs(found).sum(axis=1) == 0] = (0.0, 1.0, 0.0)
        return found.astype(np.float32)[group]

    def mean_angles(self, mesh: Mesh, candidates: Sequence[F32]) -> list[float]:
        """Mean angle in degrees between each shading (C, 3) of a mesh and this surface's, evenly over the mesh."""
        if not mesh.n_faces:
            return [0.0 for _ in candidates]
        face, weights = _even_samples(mesh, _SAMPLES)
        places = np.einsum("ij,ijk->ik", weights, mesh.positions[mesh.triangles()[face]])
        own = self.at(places, unit(face_vectors(mesh))[face])
        result = []
        for normals in candidates:
            corners = normals.reshape(-1, 3, 3)[face].astype(np.float64)
            shading = unit(np.einsum("ij,ijk->ik", weights, corners))
            cross = np.linalg.norm(np.cross(own, shading), axis=1)
            result.append(float(np.degrees(np.arctan2(cross, np.einsum("ij,ij->i", own, shading))).mean()))
        return result


def _even_samples(mesh: Mesh, count: int) -> tuple[I64, F64]:
    """Places spread evenly over a surface: (count,) triangles and (count, 3) barycentric coordinates."""
    vectors = face_vectors(mesh)
    grown = np.cumsum(np.linalg.norm(vectors, axis=1))
    along = (np.arange(count) + 0.5) / count * grown[-1]
    face = np.minimum(np.searchsorted(grown, along), mesh.n_faces - 1)
    u, v = (np.arange(count)[:, None] * _GOLDEN % 1.0).T
    root = np.sqrt(u)
    weights = np.stack([1.0 - root, root * (1.0 - v), root * v], axis=1)
    return face, weights
