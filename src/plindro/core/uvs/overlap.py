"""How much of a sheet lies on itself: the true area of the overlaps, whatever lies on whatever how many times.

Whether two triangles overlap is asked exactly (separating axes, with exact signs): neighbours that share an edge never
do. Of each triangle then whatever lies on it is cut away, and what is left of it is not overlapped.
"""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, I64, Mask
from plindro.core.numeric.exact import orient_sign
from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.spatial.boxes import NONE, build_box_tree, label_nodes
from plindro.core.spatial.search import begin, new_stack, next_leaf, things_of
from plindro.core.uvs.pieces import cut_to_square, keep_side, piece_area, put_triangle
from plindro.core.uvs.sheet import UvSheet
from plindro.core.uvs.tiles import areas_inside

_MOST_CORNERS, _MOST_PIECES = 16, 1024
_NOTHING = 1e-13
"""Pieces smaller than this share of their triangle are rounding."""
_CHUNK = 4_096
ANY, MIRRORED, EARLIER = 0, 1, 2
"""What is cut away: whatever else there is, what faces the other way, and what comes before in the order."""


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


class _Room(NamedTuple):
    """Convex pieces in two lots that are used in turns: ``sides`` (2, P) of each, ``at`` its corners
    (2, P, corners, 2); ``spare`` (2, corners, 2) for pieces that are being cut."""

    sides: I64
    at: F64
    spare: F64


def _new_room() -> _Room:
    return _Room(
        np.empty((2, _MOST_PIECES), np.int64),
        np.empty((2, _MOST_PIECES, _MOST_CORNERS, 2)),
        np.empty((2, _MOST_CORNERS, 2)),
    )


@helper
def _cut_away(corners, u, turn, n, room, lot, least):  # type: ignore[no-untyped-def]
    """Cut triangle u, which turns left for ``turn`` 1, out of the n pieces of a lot, into the other lot.

    Returns how many pieces there are then. Three lines part a piece into what is right of each, and the rest, which is
    under u.
    """
    count, at = room.sides, room.at
    other = 1 - lot
    m = 0
    for piece in range(n):
        rest, left = at[lot, piece], count[lot, piece]
        for k in range(3):
            a, b = (k, (k + 1) % 3) if turn > 0 else ((k + 1) % 3, k)
            ax, ay, bx, by = corners[u, a, 0], corners[u, a, 1], corners[u, b, 0], corners[u, b, 1]
            if m < _MOST_PIECES:
                outside = keep_side(rest, left, ax, ay, bx, by, -1.0, at[other, m])
                if outside > 2 and piece_area(at[other, m], outside) > least:
                    count[other, m] = outside
                    m += 1
            inside = keep_side(rest, left, ax, ay, bx, by, 1.0, room.spare[k % 2])
            rest, left = room.spare[k % 2], inside
            if left < 3:
                break
    return m


@helper
def triangles_overlap(corners, t, t_turn, u, u_turn):  # type: ignore[no-untyped-def]
    """Whether the insides of two triangles that are not flat meet, exactly."""
    for side in range(2):
        s, turn, o = (t, t_turn, u) if side == 0 else (u, u_turn, t)
        for k in range(3):
            j = (k + 1) % 3
            beyond = True
            for i in range(3):
                sign = orient_sign(
                    corners[s, k, 0], corners[s, k, 1], corners[s, j, 0], corners[s, j, 1], corners[o, i, 0],
                    corners[o, i, 1],
                )  # fmt: skip
                if sign * turn > 0:
                    beyond = False
                    break
            if beyond:
                return False
    return True


@helper
def _to_box(query, tree, node):  # type: ignore[no-untyped-def]
    """0 where the insides of the boxes meet, else infinite; also where a box holds what is not asked for alone."""
    x0, y0, x1, y1, skipped, only = query
    if only[node] == skipped:
        return np.inf
    if x0 < tree.high[node, 0] and tree.low[node, 0] < x1 and y0 < tree.high[node, 1] and tree.low[node, 1] < y1:
        return 0.0
    return np.inf


@kernel
def _uncovered(first, last, which, corners, turns, island, tree, only, room, stack, left, met):  # type: ignore[no-untyped-def]
    """What is left of each triangle from ``first`` to ``last``, or of what of it lies in the unit square where only
    the ``EARLIER`` ones are cut away. ``only`` (nodes,) is 1 more than the
    turn that all in a node of the tree have."""
    for t in range(first, last):
        left[t] = 0.0
        if turns[t] == 0:
            continue
        put_triangle(corners, t, room.at[0, 0])
        count = index(3)
        whole = piece_area(room.at[0, 0], count)
        if which == EARLIER:
            count = cut_to_square(room.at[0, 0], count, 0.0, 0.0, room.spare)
        room.sides[0, 0] = count
        n = 1 if count > 2 else 0
        lot = 0
        x0, x1 = (
            min(corners[t, 0, 0], corners[t, 1, 0], corners[t, 2, 0]),
            max(corners[t, 0, 0], corners[t, 1, 0], corners[t, 2, 0]),
        )
        y0, y1 = (
            min(corners[t, 0, 1], corners[t, 1, 1], corners[t, 2, 1]),
            max(corners[t, 0, 1], corners[t, 1, 1], corners[t, 2, 1]),
        )
        query = (x0, y0, x1, y1, index(turns[t]) + 1 if which == MIRRORED else index(NONE), only)
        depth = begin(_to_box, query, tree, stack)
        while n > 0:
            leaf, depth = next_leaf(_to_box, query, np.inf, tree, stack, depth)
            if leaf < 0:
                break
            from_place, to_place = things_of(leaf, tree)
            for place in range(from_place, to_place):
                u = tree.order[place]
                if u == t or turns[u] == 0 or n == 0:
                    continue
                if (which == EARLIER and u > t) or (which == MIRRORED and turns[u] == turns[t]):
                    continue
                if triangles_overlap(corners, t, turns[t], u, turns[u]):
                    if island[u] != island[t]:
                        met[t] = True
                    n = _cut_away(corners, u, turns[u], n, room, lot, _NOTHING * whole)
                    lot = 1 - lot
        for piece in range(n):
            left[t] += piece_area(room.at[lot, piece], room.sides[lot, piece])


def measure_overlap(sheet: UvSheet) -> Overlap:
    """The overlaps of a sheet."""
    n = len(sheet.corners)
    if not n:
        return NO_OVERLAP
    turns = sheet.turns
    flat = np.zeros((n, 3))
    low, high = flat.copy(), flat
    low[:, :2], high[:, :2] = sheet.corners.min(axis=1), sheet.corners.max(axis=1)
    tree = build_box_tree(low, high)
    only = label_nodes(turns.astype(np.int64) + 1, tree)
    left, met = np.zeros((3, n)), np.zeros((3, n), bool)

    def work(job: tuple[int, int]) -> None:
        which, first = job
        last = min(first + _CHUNK, n)
        _uncovered(
            first, last, which, sheet.corners, turns, sheet.island, tree, only, _new_room(), new_stack(), left[which],
            met[which],
        )  # fmt: skip

    def work_all(*kinds: int) -> None:
        with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
            list(pool.map(work, [(which, first) for which in kinds for first in range(0, n, _CHUNK)]))

    work_all(ANY)
    areas = np.where(turns == 0, 0.0, abs(sheet.areas))
    tiny = 1e-9 * areas
    any_ = np.maximum(areas - left[ANY], 0.0)
    if not (any_ > tiny).any():
        # Where nothing overlaps there is no more to ask.
        return Overlap(np.zeros(n), np.zeros(n), met[ANY], float(areas_inside(sheet).sum()))
    work_all(MIRRORED, EARLIER)
    mirrored = np.maximum(areas - left[MIRRORED], 0.0)
    return Overlap(
        any=np.where(any_ > tiny, any_, 0.0),
        mirrored=np.where(mirrored > tiny, mirrored, 0.0),
        met=met[ANY],
        used=float(left[EARLIER].sum()),
    )
