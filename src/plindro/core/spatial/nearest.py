"""The nearest place of a surface, found through a tree of boxes."""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from plindro.core.mesh.geometry import unit
from plindro.core.mesh.mesh import F64, I32, I64
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.spatial.boxes import BLOCK, DEEPEST, build_box_tree, triangle_boxes

ANY = -2.0
"""A cone wide enough for every direction."""
_SHARE = 8_192
"""Places a thread is given at a time."""


@helper
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


@helper
def _box_distance(px, py, pz, low, high, node):  # type: ignore[no-untyped-def]
    x = max(low[node, 0] - px, px - high[node, 0], 0.0)
    y = max(low[node, 1] - py, py - high[node, 1], 0.0)
    z = max(low[node, 2] - pz, pz - high[node, 2], 0.0)
    return x * x + y * y + z * z


@helper
def find_nearest(px, py, pz, dx, dy, dz, cone, corners, normals, low, high, first_leaf, stack, reach):  # type: ignore[no-untyped-def]
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


@kernel
def _distances(places, first, last, corners, normals, low, high, first_leaf, stack, reach, out):  # type: ignore[no-untyped-def]
    for i in range(first, last):
        x, y, z = places[i, 0], places[i, 1], places[i, 2]
        t, v, w = find_nearest(x, y, z, 0.0, 0.0, 0.0, ANY, corners, normals, low, high, first_leaf, stack, reach)
        out[i] = np.inf
        if t >= 0:
            for k in range(3):
                a = corners[t, k]
                place = a + v * (corners[t, 3 + k] - a) + w * (corners[t, 6 + k] - a)
                out[i] = (place - places[i, k]) ** 2 if k == 0 else out[i] + (place - places[i, k]) ** 2
            out[i] = np.sqrt(out[i])


@kernel
def _triangles(places, directions, cone, corners, normals, low, high, first_leaf, stack, reach, out):  # type: ignore[no-untyped-def]
    for i in range(len(places)):
        out[i] = find_nearest(
            places[i, 0], places[i, 1], places[i, 2], directions[i, 0], directions[i, 1], directions[i, 2], cone,
            corners, normals, low, high, first_leaf, stack, reach,
        )[0]  # fmt: skip


def triangles_at(positions: F64, triangles: I32, places: F64, directions: F64, cone: float) -> I64:
    """(n,) the triangle nearest to each place among those that face within a cone of it; -1 where there is none.

    ``cone`` is the cosine of the half-angle around the unit ``directions``.
    """
    tree = build_box_tree(*triangle_boxes(positions, triangles))
    ordered = positions[triangles[tree.order]]
    normals = unit(np.cross(ordered[:, 1] - ordered[:, 0], ordered[:, 2] - ordered[:, 0]))
    out = np.empty(len(places), np.int64)
    stack, reach = np.empty(2 * DEEPEST, np.int64), np.empty(2 * DEEPEST)
    _triangles(
        places, directions, cone, ordered.reshape(-1, 9), normals, tree.low, tree.high, tree.first_leaf, stack, reach,
        out,
    )  # fmt: skip
    return np.where(out >= 0, tree.order[np.maximum(out, 0)], -1)


class NearestPlace:
    """Distances to a surface of triangles."""

    def __init__(self, positions: F64, triangles: I32) -> None:
        self._tree = build_box_tree(*triangle_boxes(positions, triangles))
        # In the order of the tree, so that neighbours are read together.
        self._corners = positions[triangles[self._tree.order]].reshape(-1, 9)
        self._normals = np.zeros((len(triangles), 3))

    def distances(self, places: F64, on_share: Callable[[], None] | None = None) -> F64:
        """(n,) distance of each place to the surface, infinite where there is none; on all cores."""
        out = np.empty(len(places))
        tree = self._tree

        def search(first: int) -> None:
            stack, reach = np.empty(2 * DEEPEST, np.int64), np.empty(2 * DEEPEST)
            last = min(first + _SHARE, len(places))
            _distances(
                places, first, last, self._corners, self._normals, tree.low, tree.high, tree.first_leaf, stack, reach,
                out,
            )  # fmt: skip

        with ThreadPoolExecutor(os.cpu_count()) as threads:
            for _ in threads.map(search, range(0, len(places), _SHARE)):
                if on_share is not None:
                    on_share()
        return out
