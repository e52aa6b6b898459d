"""Where more than one sheet of a surface meets at a vertex, each gets a vertex of its own.

At an edge of more than two faces those go on as one sheet that bound the same solid: the first that is met on the way
through it. What is left over ends there. Sheets that only touch in a point come apart. So every vertex that a collapse
meets lies on one sheet, and none has to stand still because of another.

A front and a back that lie on each other bound no solid: each goes on for itself, and ends where the other does.

A sheet may come back to the edge that it left, at both ends of it. Then all its passages across the edge are undone,
and what lies between two of them closes up for itself.
"""

import numpy as np

from plindro.core.mesh.mesh import F64, I32
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.reduction.rings import Rings

_THIN, _NONE = 0.3, 1e-6
"""Radians: where more than two faces meet, what is thinner is no solid but a front and a back; and what is none at all,
anywhere."""


@helper
def _way_through(s, r, u, x, around, positions, normals):  # type: ignore[no-untyped-def]
    """Angle through the solid from the triangle that leaves u for x to the one that arrives from there, 0 to 2 pi.

    Both ends of the edge compute it from the same numbers, for the triangle that comes first.
    """
    a, b, p, q = around[s, 2] // 3, around[r, 2] // 3, u, x
    if b < a:
        a, b, p, q = b, a, x, u
    ex, ey, ez = positions[q, 0] - positions[p, 0], positions[q, 1] - positions[p, 1], positions[q, 2] - positions[p, 2]
    ax, ay, az = normals[a, 0], normals[a, 1], normals[a, 2]
    bx, by, bz = normals[b, 0], normals[b, 1], normals[b, 2]
    # From the edge into each face.
    cx, cy, cz = ay * ez - az * ey, az * ex - ax * ez, ax * ey - ay * ex
    dx, dy, dz = bz * ey - by * ez, bx * ez - bz * ex, by * ex - bx * ey
    angle = np.arctan2(
        -(dx * ax + dy * ay + dz * az), (dx * cx + dy * cy + dz * cz) / np.sqrt(ex * ex + ey * ey + ez * ez)
    )
    return angle if angle >= 0.0 else angle + 2.0 * np.pi


@helper
def _root(sheet, i):  # type: ignore[no-untyped-def]
    while sheet[i] != i:
        i = sheet[i]
    return i


@helper
def _join_across(u, x, first, last, around, positions, normals, is_joined, sheet):  # type: ignore[no-untyped-def]
    """Join the triangles on both sides of the edge from u to x, the pair with the shortest way through first.

    Both ends of the edge have the same triangles to choose from and choose alike: equal pairs by their numbers.
    """
    n_faces = 0
    for s in range(first, last):
        n_faces += (around[s, 0] == x) + (around[s, 1] == x)
    while True:
        best_s, best_r, best, least, most = -1, -1, np.inf, -1, -1
        for s in range(first, last):
            if around[s, 0] != x or is_joined[s - first] & 1:
                continue
            for r in range(first, last):
                if around[r, 1] != x or is_joined[r - first] & 2:
                    continue
                way = _way_through(s, r, u, x, around, positions, normals)
                if way < _NONE or way > 2.0 * np.pi - _NONE:
                    continue
                if way < _THIN and n_faces > 2:
                    way += 2.0 * np.pi
                low, high = min(around[s, 2] // 3, around[r, 2] // 3), max(around[s, 2] // 3, around[r, 2] // 3)
                if way < best or (way == best and (low < least or (low == least and high < most))):
                    best_s, best_r, best, least, most = s, r, way, low, high
        if best_s < 0:
            return
        is_joined[best_s - first] |= 1
        is_joined[best_r - first] |= 2
        a, b = _root(sheet, best_s - first), _root(sheet, best_r - first)
        sheet[max(a, b)] = min(a, b)


@helper
def _is_whole(first, last, around, arriving):  # type: ignore[no-untyped-def]
    """Whether a walk around a vertex meets all its triangles once: one closed fan, as nearly everywhere.

    One that goes from a front to the back of the same triangle is none.
    """
    for s in range(first, last):
        arriving[around[s, 1]] = s
    met, at = 0, first
    while met < last - first:
        before, at = at, arriving[around[at, 0]]
        met += 1
        if at < first or around[at, 0] == around[before, 1]:
            met = -1
            break
        if at == first:
            break
    for s in range(first, last):
        arriving[around[s, 1]] = -1
    return at == first and met == last - first


@helper
def _give_vertices(u, first, last, around, sheet, n_vertices, n_new, triangle_vertex, source):  # type: ignore[no-untyped-def]
    """Give each sheet at ``u`` but the first a new vertex; returns how many there are then."""
    for s in range(first, last):
        if _root(sheet, s - first) != s - first or s == first:
            continue
        # The first entry's sheet keeps the vertex; this one begins another.
        if n_new < len(source):
            source[n_new] = u
            for r in range(s, last):
                if _root(sheet, r - first) == s - first:
                    c = around[r, 2]
                    triangle_vertex[c // 3, c % 3] = n_vertices + n_new
        n_new += 1
    return n_new


@kernel
def _take_apart(start, around, positions, normals, n_vertices, arriving, is_joined, sheet, triangle_vertex, source):  # type: ignore[no-untyped-def]
    """Give each sheet but the first at a vertex a new vertex; ``source`` names what each new one was. Returns how many.

    ``source`` may be too short: then the number is right, and nothing past its end is written. ``arriving`` (V,) of -1.
    """
    n_new = 0
    for u in range(n_vertices):
        first, last = start[u], start[u + 1]
        if last - first < 2 or _is_whole(first, last, around, arriving):
            continue
        for i in range(last - first):
            is_joined[i] = 0
            sheet[i] = i
        for s in range(first, last):
            _join_across(u, around[s, 0], first, last, around, positions, normals, is_joined, sheet)
        n_new = _give_vertices(u, first, last, around, sheet, n_vertices, n_new, triangle_vertex, source)
    return n_new


@helper
def _join_single(first, last, around, arriving, leaving, sheet):  # type: ignore[no-untyped-def]
    """Join the triangles on both sides of the edges that a sheet meets once; returns whether it meets any again."""
    is_folded = False
    for s in range(first, last):
        leaving[around[s, 0]] += 1
        is_folded |= arriving[around[s, 1]] >= 0
        arriving[around[s, 1]] = s
    for s in range(first, last):
        is_folded |= leaving[around[s, 0]] > 1
    if is_folded:
        for s in range(first, last):
            arriving[around[s, 1]] = -1
        for s in range(first, last):
            # Two that arrive from one vertex: that edge is not joined.
            arriving[around[s, 1]] = s if arriving[around[s, 1]] == -1 else -2
        for s in range(first, last):
            r = arriving[around[s, 0]]
            if r >= 0 and leaving[around[s, 0]] == 1:
                a, b = _root(sheet, s - first), _root(sheet, r - first)
                sheet[max(a, b)] = min(a, b)
    for s in range(first, last):
        arriving[around[s, 1]], leaving[around[s, 0]] = -1, 0
    return is_folded


@kernel
def _unfold(start, around, n_vertices, arriving, leaving, sheet, triangle_vertex, source):  # type: ignore[no-untyped-def]
    """As ``_take_apart``, where a sheet meets an edge again. ``leaving`` (V,) of zeros."""
    n_new = 0
    for u in range(n_vertices):
        first, last = start[u], start[u + 1]
        for i in range(last - first):
            sheet[i] = i
        if _join_single(first, last, around, arriving, leaving, sheet):
            n_new = _give_vertices(u, first, last, around, sheet, n_vertices, n_new, triangle_vertex, source)
    return n_new


def take_apart(triangles: I32, positions: F64, normals: F64) -> tuple[I32, Rings]:
    """Take the sheets apart, in place; returns (N,) the vertex that each new one, numbered on from V, was,
    and the rings.

    ``triangles`` (T, 3), ``positions`` (V, 3), ``normals`` (T, 3) unit.
    """
    origin = np.arange(len(positions), dtype=np.int32)
    rings = Rings(len(origin), len(triangles))
    rings.fill(triangles, len(origin))
    while True:
        for part in (_parted, _unfolded):
            source = part(triangles, positions[origin], normals, rings)
            if len(source):
                origin = np.concatenate([origin, origin[source]])
                rings = Rings(len(origin), len(triangles))
                rings.fill(triangles, len(origin))
        if not len(source):
            return origin[len(positions) :], rings


def _parted(triangles: I32, positions: F64, normals: F64, rings: Rings) -> I32:
    n = len(positions)
    is_joined, sheet = np.empty(rings.longest, np.uint8), np.empty(rings.longest, np.int32)
    arriving = np.full(n, -1, np.int32)
    shared = (rings.start, rings.around, positions, normals, n, arriving, is_joined, sheet, triangles)
    source = np.empty(int(_take_apart(*shared, np.empty(0, np.int32))), np.int32)
    if len(source):
        _take_apart(*shared, source)
    return source


def _unfolded(triangles: I32, positions: F64, _normals: F64, rings: Rings) -> I32:
    n = len(positions)
    sheet, arriving, leaving = np.empty(rings.longest, np.int32), np.full(n, -1, np.int32), np.zeros(n, np.int32)
    shared = (rings.start, rings.around, n, arriving, leaving, sheet, triangles)
    source = np.empty(int(_unfold(*shared, np.empty(0, np.int32))), np.int32)
    if len(source):
        _unfold(*shared, source)
    return source
