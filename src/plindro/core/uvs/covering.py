"""How much of a triangle others leave uncovered, however many lie on it.

Of the triangle, whatever lies on it is cut away. Where that comes to many pieces it is halved first, and what is far
from a half, or covers it, is not cut there: thousands in a pile take no longer than they are many.
"""

from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, I64
from plindro.core.numeric.exact import orient_sign
from plindro.core.numeric.kernels import helper
from plindro.core.uvs.pieces import cut_to_square, piece_area, put_triangle, split

_MOST_CORNERS = 16
_MOST_PIECES = 64
"""A cell of which more are left while it is cut, or pieces with as many corners, is halved instead."""
_NOTHING = 1e-13
"""Pieces smaller than this share of their triangle are rounding."""
_DEEPEST = 24
"""How often a triangle is halved at most, as around a point at which many corners meet; a cell that is still not to be
cut then, a sixteen-millionth of it, counts as covered."""
_TOO_MANY = -1.0
_APART, _MEETS, _HOLDS_MIDDLE, _COVERS = 0, 1, 2, 3


class Room(NamedTuple):
    """What is needed to cut; one search at a time uses it.

    ``on`` (T,) the triangles that lie on the one in hand. The cells that wait: ``cell`` (cells, corners, 2),
    ``cell_sides`` of each, how often it was halved (``halved``), and that what lies on it is among the first ``among``.
    Convex pieces in two lots that are used in turns: ``sides`` (2, P) of each, ``at`` its corners (2, P, corners, 2);
    ``spare`` (2, corners, 2) for pieces that are being cut.
    """

    on: I64
    cell: F64
    cell_sides: I64
    halved: I64
    among: I64
    sides: I64
    at: F64
    spare: F64


def new_room(triangles: int) -> Room:
    """Room for sheets of so many triangles."""
    cells = _DEEPEST + 2
    return Room(
        np.empty(triangles, np.int64),
        np.empty((cells, _MOST_CORNERS, 2)),
        np.empty(cells, np.int64),
        np.empty(cells, np.int64),
        np.empty(cells, np.int64),
        np.empty((2, _MOST_PIECES), np.int64),
        np.empty((2, _MOST_PIECES, _MOST_CORNERS, 2)),
        np.empty((2, _MOST_CORNERS, 2)),
    )


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
def begin_cells(corners, t, in_square, room):  # type: ignore[no-untyped-def]
    """Let the first cell be triangle t, or what of it lies in the unit square; returns its corners."""
    put_triangle(corners, t, room.cell[0])
    room.cell_sides[0] = 3
    if in_square:
        room.cell_sides[0] = cut_to_square(room.cell[0], 3, 0.0, 0.0, room.spare)
    room.halved[0] = 0
    return room.cell_sides[0]


@helper
def lies_on(corners, u, turn, cell, sides):  # type: ignore[no-untyped-def]
    """Whether triangle u, which turns left for ``turn`` 1, lies beside a convex cell, on some of it, on the middle of
    its corners too, or on all."""
    covers = True
    holds_middle = True
    for k in range(3):
        j = (k + 1) % 3
        ax, ay = corners[u, k, 0], corners[u, k, 1]
        ex, ey = turn * (corners[u, j, 0] - ax), turn * (corners[u, j, 1] - ay)
        n_in = 0
        n_out = 0
        of_middle = 0.0
        for i in range(sides):
            s = ex * (cell[i, 1] - ay) - ey * (cell[i, 0] - ax)
            of_middle += s
            if s > 0.0:
                n_in += 1
            elif s < 0.0:
                n_out += 1
        if n_in == 0:
            return _APART
        covers = covers and n_out == 0
        holds_middle = holds_middle and of_middle >= 0.0
    if covers:
        return _COVERS
    return _HOLDS_MIDDLE if holds_middle else _MEETS


@helper
def covers(corners, u, turn, cell, sides):  # type: ignore[no-untyped-def]
    """Whether triangle u lies on all of a cell."""
    return lies_on(corners, u, turn, cell, sides) == _COVERS


@helper
def _copy(at, sides, to):  # type: ignore[no-untyped-def]
    for i in range(sides):
        to[i, 0], to[i, 1] = at[i, 0], at[i, 1]


@helper
def _cut_away(corners, u, turn, n, room, lot, least):  # type: ignore[no-untyped-def]
    """Cut triangle u, which turns left for ``turn`` 1, out of the n pieces of a lot, into the other lot.

    Returns how many pieces there are then, or -1 where there is no room for them or their corners. Three lines part a
    piece into what is right of each, and the rest, which is under u.
    """
    count, at = room.sides, room.at
    other = 1 - lot
    m = 0
    for piece in range(n):
        rest, left = at[lot, piece], count[lot, piece]
        how = lies_on(corners, u, turn, rest, left)
        if how == _COVERS:
            continue
        if how == _APART:
            if m == _MOST_PIECES:
                return -1
            _copy(rest, left, at[other, m])
            count[other, m] = left
            m += 1
            continue
        for k in range(3):
            a, b = (k, (k + 1) % 3) if turn > 0 else ((k + 1) % 3, k)
            ax, ay, bx, by = corners[u, a, 0], corners[u, a, 1], corners[u, b, 0], corners[u, b, 1]
            if m == _MOST_PIECES:
                return -1
            inside, outside = split(rest, left, ax, ay, bx, by, room.spare[k % 2], at[other, m])
            if inside == _MOST_CORNERS or outside == _MOST_CORNERS:
                return -1
            if outside > 2 and piece_area(at[other, m], outside) > least:
                count[other, m] = outside
                m += 1
            rest, left = room.spare[k % 2], inside
            if left < 3:
                break
    return m


@helper
def _left_of_cell(corners, turns, place, among, room, least):  # type: ignore[no-untyped-def]
    """What is left of a cell where the first ``among`` are cut away, or ``_TOO_MANY`` where it falls to pieces."""
    n, lot = 1, 0
    room.sides[0, 0] = room.cell_sides[place]
    _copy(room.cell[place], room.cell_sides[place], room.at[0, 0])
    for i in range(among):
        n = _cut_away(corners, room.on[i], turns[room.on[i]], n, room, lot, least)
        lot = 1 - lot
        if n <= 0:
            return 0.0 if n == 0 else _TOO_MANY
    left = 0.0
    for piece in range(n):
        left += piece_area(room.at[lot, piece], room.sides[lot, piece])
    return left


@helper
def _bring_to_front(corners, turns, place, room):  # type: ignore[no-untyped-def]
    """Bring what lies on a cell to the front of what may; returns how many do, or -1 where one covers it.

    What lies on its middle comes first: it covers most, and the sooner nothing is left.
    """
    n = 0
    n_middle = 0
    for i in range(room.among[place]):
        u = room.on[i]
        how = lies_on(corners, u, turns[u], room.cell[place], room.cell_sides[place])
        if how == _COVERS:
            return -1
        if how != _APART:
            room.on[i], room.on[n] = room.on[n], u
            if how == _HOLDS_MIDDLE:
                room.on[n], room.on[n_middle] = room.on[n_middle], u
                n_middle += 1
            n += 1
    return n


@helper
def _halve(place, among, room):  # type: ignore[no-untyped-def]
    """Part a cell across where it is longest, into its own place and the next."""
    cell, sides = room.cell[place], room.cell_sides[place]
    x0, y0 = cell[0, 0], cell[0, 1]
    x1, y1 = x0, y0
    for i in range(1, sides):
        x0, x1 = min(x0, cell[i, 0]), max(x1, cell[i, 0])
        y0, y1 = min(y0, cell[i, 1]), max(y1, cell[i, 1])
    x, y = 0.5 * (x0 + x1), 0.5 * (y0 + y1)
    bx, by = (x, y + 1.0) if x1 - x0 > y1 - y0 else (x + 1.0, y)
    room.cell_sides[place + 1], room.cell_sides[place] = split(
        cell, sides, x, y, bx, by, room.cell[place + 1], room.spare[0]
    )
    _copy(room.spare[0], room.cell_sides[place], cell)
    room.halved[place] += 1
    room.halved[place + 1] = room.halved[place]
    room.among[place] = room.among[place + 1] = among


@helper
def uncovered_area(corners, turns, n_on, whole, room):  # type: ignore[no-untyped-def]
    """The area of the first cell on which none of the first ``n_on`` lies; ``whole`` is the area of its triangle.

    What lies on a cell is brought to the front of what lies on the cell that it was parted from, so that the cells that
    wait need no lists of their own.
    """
    room.among[0] = n_on
    left = 0.0
    waiting = 1
    while waiting > 0:
        place = waiting - 1
        waiting = place
        if room.cell_sides[place] < 3:
            continue
        among = _bring_to_front(corners, turns, place, room)
        if among < 0:
            continue
        found = _left_of_cell(corners, turns, place, among, room, _NOTHING * whole)
        if found != _TOO_MANY:
            left += found
        elif room.halved[place] < _DEEPEST:
            _halve(place, among, room)
            waiting = place + 2
    return left
