"""The order in which a collapse sees a mesh: along a space-filling curve, whatever order the file had.

Neighbours in space become neighbours in memory, which is worth a factor of three, and nothing that follows depends on
the order of vertices and faces in the file.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F64, I32, Mesh
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.spatial.boxes import morton_codes

_LONG_RUN = 256
"""Vertices with one code, beyond which they are sorted by their coordinates."""
_LONG_RING = 64
"""Triangles that begin at one vertex, beyond which sorting them by insertion takes too long."""
_CELLS = 2_097_151.0


class Ordered(NamedTuple):
    """A triangle mesh by welded positions, in an order of its own.

    positions (V, 3) around the middle of the bounds, in units of their diagonal ``scale``; triangle_vertex (T, 3),
    without triangles that touch a vertex twice; corner (T, 3) the mesh's corners that these are; vertex_source (V,) one
    of the mesh's vertices at each.
    """

    positions: F64
    triangle_vertex: I32
    corner: I32
    vertex_source: I32
    middle: F64
    scale: float


@kernel
def _survey(corner_vertex, face_part, positions, part, bounds):  # type: ignore[no-untyped-def]
    """The smallest part that uses each vertex, -1 where none does, and the bounds of those that are used."""
    for c in range(len(corner_vertex)):
        v, p = corner_vertex[c], face_part[c // 3]
        if part[v] < 0 or p < part[v]:
            part[v] = p
    for v in range(len(positions)):
        if part[v] >= 0:
            for k in range(3):
                bounds[0, k] = min(bounds[0, k], positions[v, k])
                bounds[1, k] = max(bounds[1, k], positions[v, k])


@kernel
def _count_digits(codes, counts):  # type: ignore[no-untyped-def]
    """How often each of 2048 digits stands at each of six places of 64-bit codes."""
    for i in range(len(codes)):
        code = codes[i]
        for r in range(6):
            counts[r, (code >> np.uint64(11 * r)) & np.uint64(2047)] += 1


@kernel
def _sort_by_digit(codes, counts, place, order, other):  # type: ignore[no-untyped-def]
    """Sort ``order`` by one digit into ``other``; stable."""
    shift = np.uint64(11 * place)
    total = 0
    for b in range(2048):
        count = counts[place, b]
        counts[place, b] = total
        total += count
    for i in range(len(order)):
        digit = (codes[order[i]] >> shift) & np.uint64(2047)
        other[counts[place, digit]] = order[i]
        counts[place, digit] += 1


def _radix_order(codes: NDArray[np.uint64]) -> I32:
    """(N,) the order of 64-bit codes; stable. Digits in which all agree are passed over."""
    counts = np.zeros((6, 2048), np.int64)
    _count_digits(codes, counts)
    order, other = np.arange(len(codes), dtype=np.int32), np.empty(len(codes), np.int32)
    for place in range(6):
        if counts[place].max() < len(codes):
            _sort_by_digit(codes, counts, place, order, other)
            order, other = other, order
    return order


@helper
def _before(a, b, positions, part):  # type: ignore[no-untyped-def]
    for k in range(3):
        if positions[a, k] != positions[b, k]:
            return positions[a, k] < positions[b, k]
    return part[a] < part[b]


@kernel
def _number(order, used, codes, positions, part, number, source):  # type: ignore[no-untyped-def]
    """Number equal places in the order of their codes, then coordinates; -1 where too many share a code."""
    count = 0
    first = 0
    n = len(order)
    while first < n:
        last = first + 1
        while last < n and codes[order[last]] == codes[order[first]]:
            last += 1
        for i in range(first + 1, last):
            item = order[i]
            k = i
            while k > first and _before(used[item], used[order[k - 1]], positions, part):
                if i - k > _LONG_RUN:
                    return -1
                order[k] = order[k - 1]
                k -= 1
            order[k] = item
        for i in range(first, last):
            v = used[order[i]]
            if i == first or _before(used[order[i - 1]], v, positions, part):
                source[count] = v
                count += 1
            number[v] = count - 1
        first = last
    return count


@kernel
def _order_triangles(corner_vertex, number, n_vertices, turned, slot, start, triangle_vertex, corner):  # type: ignore[no-untyped-def]
    """Triangles turned so that their smallest vertex comes first, sorted by their vertices.

    ``turned`` (T, 3) is scratch. Returns how many are sound. Those that begin at a vertex with very many are left
    unsorted.
    """
    n = len(corner_vertex) // 3
    for t in range(n):
        a, b, c = number[corner_vertex[3 * t]], number[corner_vertex[3 * t + 1]], number[corner_vertex[3 * t + 2]]
        turned[t, 0], turned[t, 1], turned[t, 2] = a, b, c
        if a != b and b != c and c != a:
            slot[min(a, b, c) + 1] += 1
    for v in range(n_vertices):
        slot[v + 1] += slot[v]
        start[v + 1] = slot[v + 1]
    for t in range(n):
        a, b, c = turned[t, 0], turned[t, 1], turned[t, 2]
        if a != b and b != c and c != a:
            i, j, k = 3 * t, 3 * t + 1, 3 * t + 2
            if b < a and b < c:
                a, b, c, i, j, k = b, c, a, j, k, i
            elif c < a and c < b:
                a, b, c, i, j, k = c, a, b, k, i, j
            at = slot[a]
            slot[a] = at + 1
            triangle_vertex[at, 0], triangle_vertex[at, 1], triangle_vertex[at, 2] = a, b, c
            corner[at, 0], corner[at, 1], corner[at, 2] = i, j, k
    for v in range(n_vertices):
        first, last = start[v], start[v + 1]
        if last - first > _LONG_RING:
            continue
        for i in range(first + 1, last):
            b, c = triangle_vertex[i, 1], triangle_vertex[i, 2]
            x, y, z = corner[i, 0], corner[i, 1], corner[i, 2]
            k = i
            while k > first and (
                triangle_vertex[k - 1, 1] > b or (triangle_vertex[k - 1, 1] == b and triangle_vertex[k - 1, 2] > c)
            ):
                for j in range(3):
                    triangle_vertex[k, j] = triangle_vertex[k - 1, j]
                    corner[k, j] = corner[k - 1, j]
                k -= 1
            triangle_vertex[k, 0], triangle_vertex[k, 1], triangle_vertex[k, 2] = v, b, c
            corner[k, 0], corner[k, 1], corner[k, 2] = x, y, z
    return start[n_vertices]


def order_mesh(mesh: Mesh) -> Ordered:
    """Weld a triangle mesh by position within its parts and put it in order."""
    part = np.full(mesh.n_vertices, -1, np.int32)
    bounds = np.array([[np.inf] * 3, [-np.inf] * 3])
    _survey(mesh.corner_vertex, mesh.face_part, mesh.positions, part, bounds)
    used = np.flatnonzero(part >= 0).astype(np.int32)
    positions = mesh.positions + 0.0  # minus zero is zero
    if not len(used):
        bounds[:] = 0.0
    middle, scale = bounds.mean(axis=0), float(np.linalg.norm(bounds[1] - bounds[0])) or 1.0
    codes = np.empty(len(used), np.uint64)
    places = positions if len(used) == len(positions) else np.take(positions, used, axis=0)
    morton_codes(places, places, bounds[0], _CELLS / scale, codes)
    order = _radix_order(codes)
    number, source = np.zeros(mesh.n_vertices, np.int32), np.empty(len(used), np.int32)
    count = _number(order, used, codes, positions, part, number, source)
    if count < 0:
        order = np.lexsort((part[used], *places.T[::-1], codes)).astype(np.int32)
        count = _number(order, used, codes, positions, part, number, source)
    source = source[:count].copy()
    turned, triangle_vertex, corner = (np.empty((mesh.n_faces, 3), np.int32) for _ in range(3))
    slot, start = np.zeros(count + 1, np.int32), np.zeros(count + 1, np.int32)
    n_sound = int(_order_triangles(mesh.corner_vertex, number, count, turned, slot, start, triangle_vertex, corner))
    triangle_vertex, corner = triangle_vertex[:n_sound], corner[:n_sound]
    for v in np.flatnonzero(np.diff(start) > _LONG_RING):
        own = slice(start[v], start[v + 1])
        by_vertices = np.lexsort(triangle_vertex[own].T[::-1])
        triangle_vertex[own], corner[own] = triangle_vertex[own][by_vertices], corner[own][by_vertices]
    return Ordered(
        positions=(np.take(positions, source, axis=0) - middle) / scale,
        triangle_vertex=triangle_vertex,
        corner=corner,
        vertex_source=source,
        middle=middle,
        scale=scale,
    )
