"""How much of a sheet lies on itself: the true area of the overlaps, whatever lies on whatever how many times.

Whether two triangles overlap is asked exactly (separating axes, with exact signs): neighbours that share an edge never
do. What of each triangle is left uncovered is not overlapped. The large come first, since they cover most: what lies
in a pile is done with as soon as one covers it.
"""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F64, I32, I64, Mask
from plindro.core.numeric.bounds import corner_bounds
from plindro.core.numeric.kernels import helper, index, inner, kernel
from plindro.core.spatial.boxes import NONE, build_box_tree, label_nodes
from plindro.core.spatial.search import begin, new_stack, next_leaf, things_of
from plindro.core.uvs.covering import begin_cells, covers, new_room, triangles_overlap, uncovered_area
from plindro.core.uvs.sheet import UvSheet
from plindro.core.uvs.tiles import areas_inside

_CHUNK = 4_096
ANY, MIRRORED, LARGER = 0, 1, 2
"""What is cut away: whatever else there is, what faces the other way, and what is larger, or as large and earlier."""
_TINY = 1e-9
"""Shares of a triangle below which what is left of it, or lies on it, is rounding."""


@dataclass(frozen=True, slots=True)
class Overlap:
    """Areas on the sheet: ``any``, ``mirrored`` (T,) of each triangle that something, or something that faces the
    other way, lies on; ``met`` (T,) whether it overlaps another island, where something of its own does not cover it;
    ``used`` of the unit square that is covered."""

    any: F64
    mirrored: F64
    met: Mask
    used: float


NO_OVERLAP = Overlap(np.zeros(0), np.zeros(0), np.zeros(0, bool), 0.0)
"""Of what was not measured."""


class _Laid(NamedTuple):
    """A sheet as the kernels take it: (T, ...) corners, how they turn, the island, the area and the bounds of each
    triangle."""

    corners: F64
    turns: NDArray[np.int8]
    island: I32
    areas: F64
    low: F64
    high: F64


class _Nodes(NamedTuple):
    """(nodes,) of the tree: 1 more than the turn that all in it have, and the largest area in it."""

    only: I64
    largest: F64


@helper
def _to_box(query, tree, node):  # type: ignore[no-untyped-def]
    """Less, the larger what a box may hold that covers, where the insides of the boxes meet; else infinite, also where
    it holds what is not asked for alone."""
    x0, y0, x1, y1, skipped, only, least, largest = query
    if only[node] == skipped or largest[node] < least:
        return np.inf
    if x0 < tree.high[node, 0] and tree.low[node, 0] < x1 and y0 < tree.high[node, 1] and tree.low[node, 1] < y1:
        return -largest[node]
    return np.inf


@helper
def _is_asked(which, t, u, sheet):  # type: ignore[no-untyped-def]
    """Whether triangle u is of those that are cut away from t."""
    if which == MIRRORED:
        return sheet.turns[u] != sheet.turns[t]
    if which == LARGER:
        return sheet.areas[u] > sheet.areas[t] or (sheet.areas[u] == sheet.areas[t] and u < t)
    return True


@helper
def _boxes_meet(t, u, sheet):  # type: ignore[no-untyped-def]
    low, high = sheet.low, sheet.high
    x = low[u, 0] < high[t, 0] and low[t, 0] < high[u, 0]
    return x and low[u, 1] < high[t, 1] and low[t, 1] < high[u, 1]


@inner
def _gather(which, t, sheet, tree, nodes, room, stack):  # type: ignore[no-untyped-def]
    """Gather what lies on triangle t, large ones first; returns how many, or -1 where one covers it, and whether one
    is of another island."""
    corners, turns = sheet.corners, sheet.turns
    sides = begin_cells(corners, t, which == LARGER, room)
    skipped = index(turns[t]) + 1 if which == MIRRORED else index(NONE)
    least = sheet.areas[t] if which == LARGER else -1.0
    low, high = sheet.low[t], sheet.high[t]
    query = (low[0], low[1], high[0], high[1], skipped, nodes.only, least, nodes.largest)
    n = 0
    meets = False
    depth = begin(_to_box, query, tree, stack)
    while True:
        leaf, depth = next_leaf(_to_box, query, np.inf, tree, stack, depth)
        if leaf < 0:
            return n, meets
        first, last = things_of(leaf, tree)
        for place in range(first, last):
            u = tree.order[place]
            if u == t or turns[u] == 0 or not _boxes_meet(t, u, sheet) or not _is_asked(which, t, u, sheet):
                continue
            if triangles_overlap(corners, t, turns[t], u, turns[u]):
                meets = meets or sheet.island[u] != sheet.island[t]
                if covers(corners, u, turns[u], room.cell[0], sides):
                    return -1, meets
                room.on[n] = u
                n += 1


@helper
def _bring_asked(which, t, n, sheet, room):  # type: ignore[no-untyped-def]
    """Bring those of the n that lie on triangle t and are asked for to the front; returns how many they are."""
    m = 0
    for i in range(n):
        u = room.on[i]
        if _is_asked(which, t, u, sheet):
            room.on[i], room.on[m] = room.on[m], u
            m += 1
    return m


@inner
def _left_of(which, t, n, sheet, room):  # type: ignore[no-untyped-def]
    """What the first n of those that lie on triangle t leave of it; of its part in the square for ``LARGER`` ones."""
    begin_cells(sheet.corners, t, which == LARGER, room)
    return uncovered_area(sheet.corners, sheet.turns, n, sheet.areas[t], room)


@kernel
def _uncover(first, last, sheet, tree, nodes, room, stack, left, met):  # type: ignore[no-untyped-def]
    """Lessen what is left of each triangle from ``first`` to ``last`` by what lies on it, (3, T) as ``ANY``,
    ``MIRRORED`` and ``LARGER`` ones are cut away: all of it at first, or its part in the square for the last."""
    for t in range(first, last):
        if sheet.turns[t] == 0:
            continue
        n, met[t] = _gather(index(ANY), t, sheet, tree, nodes, room, stack)
        if n == 0:
            continue
        is_inside = left[LARGER, t] == sheet.areas[t]
        for which in range(MIRRORED, LARGER + 1):
            # Where one covers all of it, not all of the others are known.
            m = _bring_asked(which, t, n, sheet, room)
            if n < 0:
                m, _ = _gather(which, t, sheet, tree, nodes, room, stack)
            if m != 0:
                left[which, t] = _left_of(which, t, m, sheet, room) if m > 0 else 0.0
        # Where some of what lies on it covers it, all of it does.
        least = _TINY * sheet.areas[t]
        is_covered = n < 0 or left[MIRRORED, t] <= least or (is_inside and left[LARGER, t] <= least)
        left[ANY, t] = 0.0 if is_covered else _left_of(index(ANY), t, n, sheet, room)


@kernel
def _largest_of(areas, tree, largest):  # type: ignore[no-untyped-def]
    """The largest of the areas of what each node of a tree holds."""
    largest[:] = -1.0
    for i in range(len(areas)):
        node = tree.first_leaf + i // tree.block
        largest[node] = max(largest[node], areas[tree.order[i]])
    for node in range(tree.first_leaf - 1, -1, -1):
        largest[node] = max(largest[2 * node + 1], largest[2 * node + 2])


def measure_overlap(sheet: UvSheet) -> Overlap:
    """The overlaps of a sheet."""
    n = len(sheet.corners)
    if not n:
        return NO_OVERLAP
    low, high = np.zeros((2, n, 3))
    low[:, :2], high[:, :2] = corner_bounds(sheet.corners)
    tree = build_box_tree(low, high)
    areas = np.where(sheet.turns == 0, 0.0, abs(sheet.areas))
    laid = _Laid(sheet.corners, sheet.turns, sheet.island, areas, low, high)
    nodes = _Nodes(label_nodes(sheet.turns.astype(np.int64) + 1, tree), np.empty(len(tree.low)))
    _largest_of(areas, tree, nodes.largest)
    met, left = np.zeros(n, bool), np.stack([areas, areas, areas_inside(sheet)])

    def work(first: int) -> None:
        _uncover(first, min(first + _CHUNK, n), laid, tree, nodes, new_room(n), new_stack(), left, met)

    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        list(pool.map(work, range(0, n, _CHUNK)))
    lost = np.maximum(areas - left[:LARGER], 0.0)
    lost[lost <= _TINY * areas] = 0.0
    return Overlap(lost[ANY], lost[MIRRORED], met, float(left[LARGER].sum()))
