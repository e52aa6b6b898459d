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
from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.spatial.boxes import NONE, build_box_tree, label_nodes
from plindro.core.spatial.search import begin, new_stack, next_leaf, things_of
from plindro.core.uvs.covering import begin_cells, covers, new_room, triangles_overlap, uncovered_area
from plindro.core.uvs.sheet import UvSheet
from plindro.core.uvs.tiles import areas_inside

_CHUNK = 4_096
ANY, MIRRORED, LARGER = 0, 1, 2
"""What is cut away: whatever else there is, what faces the other way, and what is larger, or as large and earlier."""


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
def _lies_on(which, t, u, sheet):  # type: ignore[no-untyped-def]
    """Whether triangle u is asked for, and lies on t."""
    turns, areas = sheet.turns, sheet.areas
    if u == t or turns[u] == 0 or (which == MIRRORED and turns[u] == turns[t]):
        return False
    if which == LARGER and (areas[u] < areas[t] or (areas[u] == areas[t] and u > t)):
        return False
    return triangles_overlap(sheet.corners, t, turns[t], u, turns[u])


@helper
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
            if _lies_on(which, t, u, sheet):
                meets = meets or sheet.island[u] != sheet.island[t]
                if covers(corners, u, turns[u], room.cell[0], sides):
                    return -1, meets
                room.on[n] = u
                n += 1


@kernel
def _uncovered(first, last, which, sheet, tree, nodes, room, stack, left, met):  # type: ignore[no-untyped-def]
    """What is left of each triangle from ``first`` to ``last``, or of what of it lies in the unit square where only
    the ``LARGER`` ones are cut away."""
    for t in range(first, last):
        left[t] = 0.0
        if sheet.turns[t] != 0:
            n, met[t] = _gather(which, t, sheet, tree, nodes, room, stack)
            if n >= 0:
                left[t] = uncovered_area(sheet.corners, sheet.turns, n, sheet.areas[t], room)


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
    flat = np.zeros((n, 3))
    low, high = flat.copy(), flat
    low[:, :2], high[:, :2] = sheet.corners.min(axis=1), sheet.corners.max(axis=1)
    tree = build_box_tree(low, high)
    areas = np.where(sheet.turns == 0, 0.0, abs(sheet.areas))
    laid = _Laid(sheet.corners, sheet.turns, sheet.island, areas, low, high)
    nodes = _Nodes(label_nodes(sheet.turns.astype(np.int64) + 1, tree), np.empty(len(tree.low)))
    _largest_of(areas, tree, nodes.largest)
    left, met = np.zeros((3, n)), np.zeros((3, n), bool)

    def work(job: tuple[int, int]) -> None:
        which, first = job
        last = min(first + _CHUNK, n)
        _uncovered(first, last, which, laid, tree, nodes, new_room(n), new_stack(), left[which], met[which])

    def work_all(*kinds: int) -> None:
        with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
            list(pool.map(work, [(which, first) for which in kinds for first in range(0, n, _CHUNK)]))

    work_all(ANY)
    tiny = 1e-9 * areas
    any_ = np.maximum(areas - left[ANY], 0.0)
    if not (any_ > tiny).any():
        # Where nothing overlaps there is no more to ask.
        return Overlap(np.zeros(n), np.zeros(n), met[ANY], float(areas_inside(sheet).sum()))
    work_all(MIRRORED, LARGER)
    mirrored = np.maximum(areas - left[MIRRORED], 0.0)
    return Overlap(
        any=np.where(any_ > tiny, any_, 0.0),
        mirrored=np.where(mirrored > tiny, mirrored, 0.0),
        met=met[ANY],
        used=float(left[LARGER].sum()),
    )
