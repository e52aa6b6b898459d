"""The shading of one surface seen from another: by the nearest place that faces the same way.

The nearest place of a thin wall is often its other side, so only triangles within a cone around the asked direction
count; only where there is none the nearest of all is taken.
"""

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numba import njit

from plindro.core.mesh.boxes import BLOCK, DEEPEST, build_box_tree, triangle_boxes
from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F32, F64, I32, I64, Mesh

CONE = 0.5
"""Cosine of the half-angle of the cone that a triangle must face into."""
_SAMPLES = 6_000
_SHARE = 8_192
"""Places a thread is given at a time."""
_GOLDEN = np.array([0.7548776662466927, 0.5698402909980532])
"""Steps of the two-dimensional golden sequence (Roberts 2018): even samples without a random seed."""


@njit(cache=True, nogil=True, error_model="numpy")
def _closest(px, py, pz, corners, t):  # type: ignore[no-untyped-def]
    """Squared distance of a place to a triangle, and the barycentric coordinates of the second and third corner there.

    By the regions of the triangle (Ericson 2005, 5.1.5).
    """
    ax, ay, az = corners[t, 0], corners[t, 1], corners[t, 2]
    abx, aby, abz = corners[t, 3] - ax, corners[t, 4] - ay, corners[t, 5] - az
    acx, acy, acz = corners[t, 6] - ax, corners[t, 7] - ay, corners[t, 8] - az
    apx, apy, apz = px - ax, py - ay, pz - az
    d1, d2 = abx * apx + aby * apy + abz * apz, acx * apx + acy * apy + acz * apz
    ux, uy, uz = apx - abx, apy - aby, apz - abz
    d3, d4 = abx * ux + aby * uy + abz * uz, acx * ux + acy * uy + acz * uz
    wx, wy, wz = apx - acx, apy - acy, apz - acz
    d5, d6 = abx * wx + aby * wy + abz * wz, acx * wx + acy * wy + acz * wz
    va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
    v, w = 0.0, 0.0
    if d1 <= 0.0 and d2 <= 0.0:
        pass
    elif d3 >= 0.0 and d4 <= d3:
        v = 1.0
    elif vc <= 0.0 and d1 >= 0.0 and d3 <= 0.0:
        v = d1 / (d1 - d3)
    elif d6 >= 0.0 and d5 <= d6:
        w = 1.0
    elif vb <= 0.0 and d2 >= 0.0 and d6 <= 0.0:
        w = d2 / (d2 - d6)
    elif va <= 0.0 and d4 - d3 >= 0.0 and d5 - d6 >= 0.0:
        w = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        v = 1.0 - w
    else:
        total = va + vb + vc
        v, w = vb / total, vc / total
    if not (v >= -1.0 and w >= -1.0):
        v, w = 0.0, 0.0
    dx, dy, dz = apx - v * abx - w * acx, apy - v * aby - w * acy, apz - v * abz - w * acz
    return dx * dx + dy * dy + dz * dz, v, w


@njit(cache=True, nogil=True)
def _box_distance(px, py, pz, low, high, node):  # type: ignore[no-untyped-def]
    x = max(low[node, 0] - px, px - high[node, 0], 0.0)
    y = max(low[node, 1] - py, py - high[node, 1], 0.0)
    z = max(low[node, 2] - pz, pz - high[node, 2], 0.0)
    return x * x + y * y + z * z


@njit(cache=True, nogil=True)
def _find(px, py, pz, dx, dy, dz, cone, corners, normals, low, high, first_leaf, stack, reach):  # type: ignore[no-untyped-def]
    """The nearest triangle that faces into the cone around d, or -1, and the barycentric coordinates there."""
    best, found, best_v, best_w = np.inf, -1, 0.0, 0.0
    stack[0], reach[0] = 0, _box_distance(px, py, pz, low, high, 0)
    depth = 1
    while depth > 0:
        depth -= 1
        node = stack[depth]
        if not reach[depth] < best:
            continue
        if node < first_leaf:
            near, far = 2 * node + 1, 2 * node + 2
            to_near = _box_distance(px, py, pz, low, high, near)
            to_far = _box_distance(px, py, pz, low, high, far)
            if to_far < to_near:
                near, far, to_near, to_far = far, near, to_far, to_near
            # The nearer child lies on top of the stack and is asked first.
            if to_far < best:
                stack[depth], reach[depth] = far, to_far
                depth += 1
            if to_near < best:
                stack[depth], reach[depth] = near, to_near
                depth += 1
            continue
        begin = (node - first_leaf) * BLOCK
        for t in range(begin, min(begin + BLOCK, len(corners))):
            if normals[t, 0] * dx + normals[t, 1] * dy + normals[t, 2] * dz < cone:
                continue
            distance, v, w = _closest(px, py, pz, corners, t)
            if distance < best:
                best, found, best_v, best_w = distance, t, v, w
    return found, best_v, best_w


@njit(cache=True, nogil=True)
def _sample(queries, directions, first, last, cone, corners, normals, low, high, first_leaf, shading, out):  # type: ignore[no-untyped-def]
    stack, reach = np.empty(2 * DEEPEST, np.int64), np.empty(2 * DEEPEST)
    for i in range(first, last):
        px, py, pz = queries[i, 0], queries[i, 1], queries[i, 2]
        dx, dy, dz = directions[i, 0], directions[i, 1], directions[i, 2]
        t, v, w = _find(px, py, pz, dx, dy, dz, cone, corners, normals, low, high, first_leaf, stack, reach)
        if t < 0:
            t, v, w = _find(px, py, pz, dx, dy, dz, -2.0, corners, normals, low, high, first_leaf, stack, reach)
        for k in range(3):
            out[i, k] = 0.0
            if t >= 0:
                out[i, k] = (1.0 - v - w) * shading[3 * t, k] + v * shading[3 * t + 1, k] + w * shading[3 * t + 2, k]


class ShadingSampler:
    """The shading of a triangle mesh with normals, asked from places near it.

    ``on_share`` is called now and then while it works, and may raise to stop it.
    """

    def __init__(self, mesh: Mesh, on_share: Callable[[], None] | None = None) -> None:
        self._on_share = on_share
        if mesh.normals is None:
            raise ValueError("mesh: expected normals")
        triangles = mesh.triangles()
        self._tree = build_box_tree(*triangle_boxes(mesh.positions, triangles))
        # In the order of the tree, so that neighbours are read together.
        order = self._tree.order
        self._corners = mesh.positions[triangles[order]].reshape(-1, 9)
        self._normals = unit(face_vectors(mesh))[order]
        self._shading = np.take(mesh.normals.reshape(-1, 9), order, axis=0).astype(np.float64).reshape(-1, 3)

    def at(self, places: F64, directions: F64) -> F64:
        """(n, 3) unit shading normals where the surface is nearest to ``places`` and faces along ``directions``.

        The places are shared out among the processor's cores; ``on_share`` is called after each share.
        """
        out = np.zeros((len(places), 3))
        tree = self._tree

        def search(first: int) -> None:
            last = min(first + _SHARE, len(places))
            _sample(
                places, directions, first, last, CONE, self._corners, self._normals, tree.low, tree.high,
                tree.first_leaf, self._shading, out,
            )  # fmt: skip

        with ThreadPoolExecutor(os.cpu_count()) as threads:
            for _ in threads.map(search, range(0, len(places), _SHARE)):
                if self._on_share is not None:
                    self._on_share()
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
