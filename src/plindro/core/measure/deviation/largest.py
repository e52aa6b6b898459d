"""The largest distance between two surfaces, certified from both sides.

The distance to one triangle is convex: over a piece of surface it is nowhere larger than at the piece's corners. So a
piece is settled as soon as one triangle of the other surface has all of its corners within what was found already, or
little more. What is not settled is carved along the sides of a triangle near it, which settles what lies over
that, or is halved. Places that were looked at give the bound from below, settled pieces the one from above (after the
idea of Tang, Lee and Kim 2009, who bound pieces by their corners too, and only halve).
"""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from plindro.core.measure.deviation.pieces import (
    carve,
    furthest_corner,
    halve,
    is_full,
    is_within,
    middle_of,
    new_pieces,
    put_triangle,
)
from plindro.core.measure.deviation.surface import MeasuredSurface, nearest_triangle
from plindro.core.mesh.mesh import F64, I64, Mask
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.spatial.nearest import NO_GUESS, squared_distance
from plindro.core.spatial.search import Stack, new_stack

_SHARE = 50_000
"""Searches between two calls of ``on_share``."""
_BUDGET, _BUDGET_EACH = 300_000, 6
"""Pieces that are looked at, in all and more for each triangle of both, which cut each other, before the bounds are
left as far apart as they are."""
_MARGIN = 0.15
"""How far beyond its sides a triangle is taken to settle what lies over it, of what is left of the bound there."""
_OVERHANG = 0.05
"""Share of the bound up to which what hangs over a side is not worth a cut."""
_HALVED = 4
"""Every so many cuts a piece is halved: carving alone takes ever thinner slices of a sliver."""
_STEPS = 32
"""How many triangles a walk passes at most."""
_TINY = 1e-6
"""Share of the bound, squared, below which a piece is a place."""


class Search(NamedTuple):
    """What is known so far; single values in arrays, so that kernels write them.

    found : largest squared distance of a place that was looked at
    open : largest squared distance that a piece could have that was given up
    pieces : pieces looked at so far
    cursor : (2,) the triangle that is being cut, and how many pieces of it lie on the stack
    """

    found: F64
    open: F64
    pieces: I64
    cursor: I64


class Goal(NamedTuple):
    """Squared distances: pieces within ``limit``, or ``slack`` times what was found, are settled.

    ``limit`` is also where it ends when more was found, if ``asks`` only whether all lies within.
    """

    slack: float
    limit: float
    asks: bool


@helper
def _bound(search, goal):  # type: ignore[no-untyped-def]
    """The squared distance up to which a piece is settled."""
    return goal.limit if goal.asks else max(search.found[0] * goal.slack, goal.limit)


@helper
def _corners_within(corners, face, other, t, bound):  # type: ignore[no-untyped-def]
    """Whether the corners of a triangle lie within the bound of one of the other surface."""
    for k in range(0, 9, 3):
        if squared_distance(corners[face, k], corners[face, k + 1], corners[face, k + 2], other, t) > bound:
            return False
    return True


@helper
def _walked(x, y, z, t, surface, across):  # type: ignore[no-untyped-def]
    """The triangle that a walk from neighbour to nearer neighbour ends at, and its squared distance from the place."""
    best = squared_distance(x, y, z, surface.corners, t)
    for _ in range(_STEPS):
        here = t
        for k in range(3):
            beyond = across[here, k]
            if beyond >= 0:
                squared = squared_distance(x, y, z, surface.corners, beyond)
                if squared < best:
                    best, t = squared, beyond
        if t == here:
            break
    return t, best


@kernel
def _screen(corners, first, last, surface, across, stack, search, goal, guesses):  # type: ignore[no-untyped-def]
    """Settle what one triangle each can settle; ``guesses`` (T,) is -1 for those, else a triangle near the middle."""
    t = NO_GUESS
    for i in range(first, last):
        guesses[i] = -1
        bound = _bound(search, goal)
        if t >= 0 and _corners_within(corners, i, surface.corners, t, bound):
            continue
        x = (corners[i, 0] + corners[i, 3] + corners[i, 6]) / 3.0
        y = (corners[i, 1] + corners[i, 4] + corners[i, 7]) / 3.0
        z = (corners[i, 2] + corners[i, 5] + corners[i, 8]) / 3.0
        squared = np.inf
        if t >= 0:
            t, squared = _walked(x, y, z, t, surface, across)
        if squared > bound:
            # Further than anything so far, or the walk ended on another sheet.
            t, squared = nearest_triangle(x, y, z, t, surface, stack)
            search.found[0] = max(search.found[0], squared)
        if not _corners_within(corners, i, surface.corners, t, bound):
            guesses[i] = t


@helper
def _is_near_guess(pieces, row, surface, across, bound):  # type: ignore[no-untyped-def]
    """Whether a piece is settled by its guess or by one of the guess's neighbours."""
    guess = pieces.guess[row]
    for at in range(-1, 3):
        near = guess if at < 0 else across[guess, at]
        if near >= 0 and is_within(pieces, row, surface.corners, near, bound):
            return True
    return False


@helper
def _carved(pieces, row, surface, across, bound):  # type: ignore[no-untyped-def]
    """Cut a piece along its guess's sides; returns the row of what lies within them, ``row`` where nothing was cut."""
    t, corners, normals = pieces.guess[row], surface.corners, surface.normals
    if normals[t, 0] ** 2 + normals[t, 1] ** 2 + normals[t, 2] ** 2 < 0.5:
        return row
    height = 0.0
    for k in range(pieces.n_corners[row]):
        over = 0.0
        for c in range(3):
            over += (pieces.corner[row, k, c] - corners[t, c]) * normals[t, c]
        height = max(height, over * over)
    margin = _MARGIN * np.sqrt(max(bound - height, 0.0))
    return carve(pieces, row, surface, across, t, margin, _OVERHANG * np.sqrt(bound))


@helper
def _nearest_to_middle(pieces, row, surface, stack, search):  # type: ignore[no-untyped-def]
    """Guess the triangle nearest to a piece's middle; returns the squared distance that no place of it is beyond."""
    x, y, z, reach = middle_of(pieces, row)
    t, squared = nearest_triangle(x, y, z, pieces.guess[row], surface, stack)
    pieces.guess[row] = t
    search.found[0] = max(search.found[0], squared)
    # No place is further than the middle by more than it is from it.
    beyond = (np.sqrt(squared) + np.sqrt(reach)) ** 2
    return min(furthest_corner(pieces, row, surface.corners, t)[0], beyond)


@helper
def _look_at_furthest(pieces, row, surface, stack, search):  # type: ignore[no-untyped-def]
    """Find the triangle nearest to the corner furthest from the guess, which may be further than any place so far."""
    at = furthest_corner(pieces, row, surface.corners, pieces.guess[row])[1]
    corner = pieces.corner
    x, y, z = corner[row, at, 0], corner[row, at, 1], corner[row, at, 2]
    search.found[0] = max(search.found[0], nearest_triangle(x, y, z, pieces.guess[row], surface, stack)[1])


@helper
def _parted(pieces, row, surface, across, stack, search, bound):  # type: ignore[no-untyped-def]
    """Settle or cut a piece that its guess did not settle; returns how many rows of the stack are taken then.

    What lies over the guess is settled by it as a rule, and no search is needed; only where it is not, or where nothing
    was cut, a nearer triangle is looked for.
    """
    inside = row
    if pieces.age[row] % _HALVED != _HALVED - 1:
        inside = _carved(pieces, row, surface, across, bound)
        if inside > row and is_within(pieces, inside, surface.corners, pieces.guess[inside], bound):
            return inside
    guess = pieces.guess[inside]
    if _nearest_to_middle(pieces, inside, surface, stack, search) <= bound:
        return inside
    _look_at_furthest(pieces, inside, surface, stack, search)
    if inside == row and pieces.guess[row] == guess:
        halve(pieces, row)
        return row + 2
    return inside + 1


@kernel
def _certify(corners, guesses, surface, across, stack, search, goal, pieces, budget, steps):  # type: ignore[no-untyped-def]
    """Go on until all is settled, or for some steps; returns whether it is over."""
    face, top = search.cursor[0], search.cursor[1]
    until = search.pieces[0] + steps
    while search.pieces[0] < until:
        bound = _bound(search, goal)
        if goal.asks and (search.found[0] > bound or search.open[0] > bound):
            return True
        if top == 0:
            while face < len(guesses) and guesses[face] < 0:
                face += 1
            if face == len(guesses):
                return True
            put_triangle(corners, face, guesses[face], pieces)
            face += 1
            top = 1
        row = top - 1
        if _is_near_guess(pieces, row, surface, across, bound):
            top = row
            continue
        search.pieces[0] += 1
        if search.pieces[0] > budget or is_full(row) or middle_of(pieces, row)[3] < _TINY * bound:
            search.open[0] = max(search.open[0], _nearest_to_middle(pieces, row, surface, stack, search))
            top = row
        else:
            top = _parted(pieces, row, surface, across, stack, search, bound)
    search.cursor[0], search.cursor[1] = face, top
    return False


def _new_search(found: float) -> Search:
    return Search(np.array([found**2]), np.zeros(1), np.zeros(1, np.int64), np.zeros(2, np.int64))


def largest_distance(
    one: MeasuredSurface,
    other: MeasuredSurface,
    goal: Goal,
    found: float,
    on_share: Callable[[], None] | None,
    left_out: tuple[Mask | None, Mask | None] = (None, None),
) -> tuple[float, float]:
    """The largest distance of a place of either to the other lies between the two that are returned.

    ``found`` is a distance that is known to be reached; ``on_share`` is called now and then and may raise to stop.
    Where the goal only asks, the second is infinite as soon as it is certain that not all lies within. Triangles that
    are ``left_out``, (T,) of each in the order of its tree, are not asked how far they are.
    """
    search, stack, pieces = _new_search(found), new_stack(), new_pieces()
    asked = [
        surface.surface.corners if out is None else surface.surface.corners[~out]
        for surface, out in zip((one, other), left_out, strict=True)
    ]
    ways = [(asked[0], other), (asked[1], one)]
    guesses = [_screened(*way, stack, search, goal, on_share) for way in ways]
    for (corners, theirs), known in zip(ways, guesses, strict=True):
        search.cursor[:] = 0
        budget = int(search.pieces[0]) + _BUDGET + _BUDGET_EACH * (len(known) + len(theirs.surface.corners))
        while not _certify(corners, known, theirs.surface, theirs.across, stack, search, goal, pieces, budget, _SHARE):
            if on_share is not None:
                on_share()
    reached = float(np.sqrt(search.found[0]))
    settled = goal.limit if goal.asks else max(search.found[0] * goal.slack, goal.limit)
    return reached, float(np.sqrt(max(settled, search.open[0], search.found[0])))


def _screened(
    corners: F64,
    theirs: MeasuredSurface,
    stack: Stack,
    search: Search,
    goal: Goal,
    on_share: Callable[[], None] | None,
) -> I64:
    """(T,) the triangle near each of these (T, 9) that it alone does not settle, else -1."""
    guesses = np.empty(len(corners), np.int64)
    for first in range(0, len(guesses), _SHARE):
        last = min(first + _SHARE, len(guesses))
        _screen(corners, first, last, theirs.surface, theirs.across, stack, search, goal, guesses)
        if on_share is not None:
            on_share()
    return guesses
