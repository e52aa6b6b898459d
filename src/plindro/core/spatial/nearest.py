"""The nearest place of a surface, found through a tree of boxes."""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np

from plindro.core.mesh.geometry import unit
from plindro.core.mesh.mesh import F64, I32, I64
from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.spatial.boxes import BoxTree, build_box_tree, triangle_boxes
from plindro.core.spatial.search import begin, new_stack, next_leaf, things_of

ANY = -2.0
"""A cone wide enough for every direction."""
NO_GUESS = index(-1)
_SHARE = 8_192
"""Places a thread is given at a time."""


class Surface(NamedTuple):
    """Triangles in the order of their tree, so that neighbours are read together.

    ``corners`` (T, 9) positions, ``normals`` (T, 3) unit, zero where directions do not matter.
    """

    corners: F64
    normals: F64
    tree: BoxTree


def searched_surface(positions: F64, triangles: I32, vectors: F64) -> Surface:
    """Triangles (T, 3) as :func:`find_nearest` needs them, with vectors (T, 3) along their normals."""
    # A box costs less to ask than a triangle.
    tree = build_box_tree(*triangle_boxes(positions, triangles), block=1)
    return Surface(positions[triangles[tree.order]].reshape(-1, 9), unit(vectors)[tree.order], tree)


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
    elif vc <= 0.0 and d1 >= 0.0 and d3 <= 0.0 and d1 > d3:  # a side of no length has no place within
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
def squared_distance(x, y, z, corners, t):  # type: ignore[no-untyped-def]
    """Squared distance of a place to a triangle of ``corners`` (T, 9)."""
    return _closest(x, y, z, corners, t)[0]


@helper
def box_distance(place, tree, node):  # type: ignore[no-untyped-def]
    """Squared distance of a place to a box."""
    x = max(tree.low[node, 0] - place[0], place[0] - tree.high[node, 0], 0.0)
    y = max(tree.low[node, 1] - place[1], place[1] - tree.high[node, 1], 0.0)
    z = max(tree.low[node, 2] - place[2], place[2] - tree.high[node, 2], 0.0)
    return x * x + y * y + z * z


@helper
def find_nearest(place, direction, cone, guess, surface, stack):  # type: ignore[no-untyped-def]
    """The nearest triangle that faces into the cone around the direction, or -1, and the barycentric coordinates there.

    ``place`` and ``direction`` are tuples of three, ``cone`` the cosine of its half-angle; the triangle is its place in
    the tree's order. A triangle near by as ``guess`` shortens the search; -1 where none is known.
    """
    best, found, best_v, best_w = np.inf, guess, 0.0, 0.0
    if guess >= 0:
        best, best_v, best_w = _closest(place[0], place[1], place[2], surface.corners, guess)
    normals = surface.normals
    depth = begin(box_distance, place, surface.tree, stack)
    while True:
        leaf, depth = next_leaf(box_distance, place, best, surface.tree, stack, depth)
        if leaf < 0:
            return found, best_v, best_w
        first, last = things_of(leaf, surface.tree)
        for t in range(first, last):
            if normals[t, 0] * direction[0] + normals[t, 1] * direction[1] + normals[t, 2] * direction[2] < cone:
                continue
            distance, v, w = _closest(place[0], place[1], place[2], surface.corners, t)
            if distance < best:
                best, found, best_v, best_w = distance, t, v, w


@kernel
def _distances(places, first, last, surface, stack, out):  # type: ignore[no-untyped-def]
    corners = surface.corners
    t = NO_GUESS
    for i in range(first, last):
        place = (places[i, 0], places[i, 1], places[i, 2])
        # Places come in the order of a surface, so that the triangle of one is near the next.
        t, v, w = find_nearest(place, (0.0, 0.0, 0.0), ANY, t, surface, stack)
        out[i] = np.inf
        if t >= 0:
            total = 0.0
            for k in range(3):
                a = corners[t, k]
                there = a + v * (corners[t, 3 + k] - a) + w * (corners[t, 6 + k] - a)
                total += (there - places[i, k]) ** 2
            out[i] = np.sqrt(total)


@kernel
def _triangles(places, directions, cone, surface, stack, out):  # type: ignore[no-untyped-def]
    for i in range(len(places)):
        place = (places[i, 0], places[i, 1], places[i, 2])
        direction = (directions[i, 0], directions[i, 1], directions[i, 2])
        out[i] = find_nearest(place, direction, cone, NO_GUESS, surface, stack)[0]


def triangles_at(positions: F64, triangles: I32, places: F64, directions: F64, cone: float) -> I64:
    """(n,) the triangle nearest to each place among those that face within a cone of it; -1 where there is none.

    ``cone`` is the cosine of the half-angle around the unit ``directions``.
    """
    corners = positions[triangles]
    vectors = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    surface = searched_surface(positions, triangles, vectors)
    out = np.empty(len(places), np.int64)
    _triangles(places, directions, cone, surface, new_stack(), out)
    return np.where(out >= 0, surface.tree.order[np.maximum(out, 0)], -1)


def in_shares(search: Callable[[int, int], None], number: int, on_share: Callable[[], None] | None) -> None:
    """Call ``search(first, last)`` for shares of ``number`` things on all cores, and ``on_share`` after each."""
    begins = range(0, number, _SHARE)
    with ThreadPoolExecutor(os.cpu_count()) as threads:
        for _ in threads.map(search, begins, [min(begin + _SHARE, number) for begin in begins]):
            if on_share is not None:
                on_share()


class NearestPlace:
    """Distances to a surface of triangles."""

    def __init__(self, positions: F64, triangles: I32) -> None:
        self._surface = searched_surface(positions, triangles, np.zeros((len(triangles), 3)))

    def distances(self, places: F64, on_share: Callable[[], None] | None = None) -> F64:
        """(n,) distance of each place to the surface, infinite where there is none; on all cores."""
        out = np.empty(len(places))

        def search(first: int, last: int) -> None:
            _distances(places, first, last, self._surface, new_stack(), out)

        in_shares(search, len(places), on_share)
        return out
