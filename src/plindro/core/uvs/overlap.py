"""How much of a sheet lies on itself: the true area of the overlaps, whatever lies on whatever how many times.

Whether two triangles overlap is asked exactly (separating axes, with exact signs): neighbours that share an edge never
do. Of each triangle then whatever lies on it is cut away, and what is left of it is not overlapped.
"""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F64
from plindro.core.numeric.exact import orient_sign
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.spatial.boxes import build_box_tree
from plindro.core.spatial.search import begin, new_stack, next_leaf, things_of
from plindro.core.uvs.sheet import UvSheet

_MOST_CORNERS, _MOST_PIECES = 16, 1024
_NOTHING = 1e-13
"""Pieces smaller than this share of their triangle are rounding."""
_CHUNK = 4_096
ANY, MIRRORED, EARLIER = 0, 1, 2
"""What is cut away: whatever else there is, what faces the other way, and what comes before in the order."""


@dataclass(frozen=True, slots=True)
class Overlap:
    """Areas on the sheet: ``any``, ``mirrored`` (T,) of each triangle that something, or something that faces the
    other way, lies on; ``used`` of the unit square that is covered."""

    any: F64
    mirrored: F64
    used: float


class _Room(NamedTuple):
    """Convex pieces in two lots that are used in turns, and a third to work in: ``sides`` (3, P) of each, ``at`` its
    corners (3, P, corners, 2)."""

    sides: NDArray[np.int64]
    at: F64


@helper
def keep_side(at, count, ax, ay, bx, by, side, out):  # type: ignore[no-untyped-def]
    """The part of a convex piece on one side of the line from a to b (1: left, -1: right); returns its corners."""
    n = 0
    for i in range(count):
        px, py = at[i, 0], at[i, 1]
        j = i + 1 if i + 1 < count else 0
        qx, qy = at[j, 0], at[j, 1]
        s = side * ((bx - ax) * (py - ay) - (by - ay) * (px - ax))
        t = side * ((bx - ax) * (qy - ay) - (by - ay) * (qx - ax))
        if s >= 0.0 and n < len(out):
            out[n, 0], out[n, 1] = px, py
            n += 1
        if ((s > 0.0 and t < 0.0) or (s < 0.0 and t > 0.0)) and n < len(out):
            f = s / (s - t)
            out[n, 0], out[n, 1] = px + f * (qx - px), py + f * (qy - py)
            n += 1
    return n


@helper
def piece_area(at, count):  # type: ignore[no-untyped-def]
    area = 0.0
    for i in range(1, count - 1):
        area += (at[i, 0] - at[0, 0]) * (at[i + 1, 1] - at[0, 1]) - (at[i, 1] - at[0, 1]) * (at[i + 1, 0] - at[0, 0])
    return abs(0.5 * area)


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
        # The rest waits in the last row of its lot.
        rest, left = at[lot, piece], count[lot, piece]
        for k in range(3):
            a, b = (k, (k + 1) % 3) if turn > 0 else ((k + 1) % 3, k)
            ax, ay, bx, by = corners[u, a, 0], corners[u, a, 1], corners[u, b, 0], corners[u, b, 1]
            if m < _MOST_PIECES:
                outside = keep_side(rest, left, ax, ay, bx, by, -1.0, at[other, m])
                if outside > 2 and piece_area(at[other, m], outside) > least:
                    count[other, m] = outside
                    m += 1
            inside = keep_side(rest, left, ax, ay, bx, by, 1.0, at[2, k % 2])
            rest, left = at[2, k % 2], inside
            if left < 3:
                break
    return m


@helper
def _overlap(corners, t, t_turn, u, u_turn):  # type: ignore[no-untyped-def]
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
    """0 where the insides of the boxes meet, else infinite."""
    x0, y0, x1, y1 = query
    if (
        x0 < tree.high[node, 0] and tree.low[node, 0] < x1 and y0 < tree.high[node, 1] and tree.low[node, 1] < y1
    ):  # fmt: skip
        return 0.0
    return np.inf


@kernel
def _turns(corners, turns):  # type: ignore[no-untyped-def]
    for t in range(len(corners)):
        turns[t] = orient_sign(
            corners[t, 0, 0], corners[t, 0, 1], corners[t, 1, 0], corners[t, 1, 1], corners[t, 2, 0], corners[t, 2, 1]
        )


@kernel
def _uncovered(first, last, which, corners, turns, tree, room, stack, left):  # type: ignore[no-untyped-def]
    """What is left of each triangle from ``first`` to ``last``, or of what of it lies in the unit square where only
    the ``EARLIER`` ones are cut away."""
    for t in range(first, last):
        left[t] = 0.0
        if turns[t] == 0:
            continue
        for i in range(3):
            room.at[0, 0, i, 0], room.at[0, 0, i, 1] = corners[t, i, 0], corners[t, i, 1]
        count = 3
        whole = piece_area(room.at[0, 0], 3)
        if which == EARLIER:
            count = _within_square(room, count)
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
        query = (x0, y0, x1, y1)
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
                if _overlap(corners, t, turns[t], u, turns[u]):
                    n = _cut_away(corners, u, turns[u], n, room, lot, _NOTHING * whole)
                    lot = 1 - lot
        for piece in range(n):
            left[t] += piece_area(room.at[lot, piece], room.sides[lot, piece])


@helper
def _within_square(room, count):  # type: ignore[no-untyped-def]
    """Cut the first piece of the first lot to the unit square; returns how many corners it has then."""
    at = room.at
    count = keep_side(at[0, 0], count, 0.0, 0.0, 1.0, 0.0, 1.0, at[2, 0])
    count = keep_side(at[2, 0], count, 1.0, 0.0, 1.0, 1.0, 1.0, at[2, 1])
    count = keep_side(at[2, 1], count, 1.0, 1.0, 0.0, 1.0, 1.0, at[2, 0])
    return keep_side(at[2, 0], count, 0.0, 1.0, 0.0, 0.0, 1.0, at[0, 0])


def find_turns(sheet: UvSheet) -> NDArray[np.int8]:
    """(T,) whether each triangle turns left (1) or right (-1) on the sheet, or has no area (0), exactly."""
    turns = np.empty(len(sheet.corners), np.int8)
    _turns(sheet.corners, turns)
    return turns


def measure_overlap(sheet: UvSheet, on_step: Callable[[float], None] | None = None) -> Overlap:
    """The overlaps of a sheet. ``on_step`` receives a fraction in 0..1 and may raise to stop."""
    n = len(sheet.corners)
    if not n:
        return Overlap(np.zeros(0), np.zeros(0), 0.0)
    turns = find_turns(sheet)
    flat = np.zeros((n, 3))
    low, high = flat.copy(), flat
    low[:, :2], high[:, :2] = sheet.corners.min(axis=1), sheet.corners.max(axis=1)
    tree = build_box_tree(low, high)
    left = np.zeros((3, n))
    jobs = [(which, first) for which in (ANY, MIRRORED, EARLIER) for first in range(0, n, _CHUNK)]

    def work(job: tuple[int, int]) -> None:
        which, first = job
        room = _Room(
            np.zeros((3, _MOST_PIECES + 1), np.int64), np.zeros((3, _MOST_PIECES + 1, _MOST_CORNERS, 2))
        )  # fmt: skip
        last = min(first + _CHUNK, n)
        _uncovered(first, last, which, sheet.corners, turns, tree, room, new_stack(), left[which])

    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        for done, _ in enumerate(pool.map(work, jobs), 1):
            if on_step:
                on_step(done / len(jobs))
    areas = np.where(turns == 0, 0.0, abs(sheet.areas))
    any_, mirrored = (np.maximum(areas - left[which], 0.0) for which in (ANY, MIRRORED))
    tiny = 1e-9 * areas
    return Overlap(
        np.where(any_ > tiny, any_, 0.0), np.where(mirrored > tiny, mirrored, 0.0), float(left[EARLIER].sum())
    )
