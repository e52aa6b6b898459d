"""Placing islands one after the other, each at the highest free place of any of its turns."""

import numpy as np

from plindro.core.mesh.mesh import I64
from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.packing.grid import (
    cover,
    find_place,
    find_runs,
    take,
    turn_covered,
    turn_runs,
)

_SMALL = 12
"""Texels along a side up to which an island is packed as its box: of thousands each then need not look again where one
no larger found no place."""
_PER_OCTAVE, _SIZES = 4, 64
"""Sizes of islands, of which one looks no higher than the last: so many from a length to twice as much, and in all."""
_EVERYWHERE = 64
"""How many islands, the largest, are looked for from the top."""
_INSIDE = 1e-3
"""Texels that an island keeps from the lines of its outermost texels, so that single precision covers
no more."""


def new_hints() -> tuple[I64, I64]:
    """Where islands of a size are looked for from on, none placed yet: small ones by width and height, and others."""
    return np.zeros((_SMALL + 1, _SMALL + 1), np.int64), np.zeros((_SIZES, _SIZES), np.int64)


@helper
def _texels(length):  # type: ignore[no-untyped-def]
    return max(index(np.ceil(length + 2.0 * _INSIDE)), index(1))


@helper
def _draw(sides, first, island, turn, scale, box, shape):  # type: ignore[no-untyped-def]
    """Let the shape be one island in one turn; returns its width and height."""
    width, height = _texels(scale * box[2]), _texels(scale * box[3])
    cover(
        sides, first[island], first[island + 1], turn[0], turn[1], scale, _INSIDE - scale * box[0],
        _INSIDE - scale * box[1], width, height, shape.covered,
    )  # fmt: skip
    return width, height


@helper
def _taken_row(grid, probe, above, below, begin, end):  # type: ignore[no-untyped-def]
    """A row from ``above`` to before ``below`` with a taken texel from column ``begin`` to ``end``, -1 where there is
    none; ``probe`` is looked at first, which was one last time."""
    if above <= probe < below and grid.last[probe, end] >= begin:
        return probe
    for row in range(above, below):
        if grid.last[row, end] >= begin:
            return row
    return index(-1)


@helper
def _place_small(width, height, padding, grid, bounds, hints):  # type: ignore[no-untyped-def]
    """The highest place of a small box, from where the last one no larger went; -1, -1 where there is none.

    ``hints`` (_SMALL + 1, _SMALL + 1) rows above which no box of a width and height has a place.
    """
    left, top, right, bottom = bounds
    rows, columns = grid.last.shape
    first = top
    for w in range(1, width + 1):
        for h in range(1, height + 1):
            first = max(first, hints[w, h])
    taken = index(0)
    for y in range(first, bottom - height + 1):
        above, below = max(y - padding, 0), min(y + height + padding, rows)
        x = left
        while x + width <= right:
            end = min(x + width + padding, columns) - 1
            taken = _taken_row(grid, taken, above, below, x - padding, end)
            if taken < 0:
                hints[width, height] = y
                return x, y
            x = grid.last[taken, end] + padding + 1
    return -1, -1


@helper
def _size(texels):  # type: ignore[no-untyped-def]
    """In which of ``_SIZES`` a length falls."""
    return min(index(_PER_OCTAVE * np.log2(texels)), _SIZES - 1)


@helper
def _find(  # type: ignore[no-untyped-def]
    shape, island, sides, first, turns, half, tries, boxes, scale, bounds, padding, grid, hints, everywhere
):
    """The turn in which an island comes to lie highest, and where; the turn is -1 where it finds no place.

    Turns from ``half`` on are those before, upside down. ``hints`` (_SIZES, _SIZES) the row in which the last one of a
    width and height went, from which on it is looked for, unless ``everywhere``.
    """
    left, top, right, bottom = bounds
    best, best_top, best_x, best_y = index(-1), index(bottom + 1), index(0), index(0)
    for r in range(min(half, tries[island])):
        box = boxes[island, r]
        width, height = _texels(scale * box[2]), _texels(scale * box[3])
        if left + width > right or top + height > min(bottom, best_top - 1):
            continue
        _draw(sides, first, island, turns[r], scale, box, shape)
        n = find_runs(shape, width, height, padding)
        start = top if everywhere else max(top, hints[_size(width), _size(height)])
        x, y = find_place(shape, n, width, height, grid, left, start, right, bottom, best_top - 1 - height)
        if x >= 0:
            best, best_top, best_x, best_y = r, y + height, x, y
        if tries[island] > half:
            turn_runs(shape, n, width, height)
            x, y = find_place(shape, n, width, height, grid, left, start, right, bottom, best_top - 1 - height)
            if x >= 0:
                best, best_top, best_x, best_y = half + r, y + height, x, y
    for r in range(min(half, tries[island])):
        box = boxes[island, r]
        width, height = _texels(scale * box[2]), _texels(scale * box[3])
        hints[_size(width), _size(height)] = max(hints[_size(width), _size(height)], min(best_top, bottom) - height)
    return best, best_x, best_y


@kernel
def take_locked(sides, first, scale, grid, shape):  # type: ignore[no-untyped-def]
    """Take the texels of islands that stay where they are, in texels times ``scale``."""
    rows, columns = grid.last.shape
    for island in range(len(first) - 1):
        cover(sides, first[island], first[island + 1], 1.0, 0.0, scale, 0.0, 0.0, columns, rows, shape.covered)
        take(shape, columns, rows, 0, 0, grid)


@kernel
def place_all(  # type: ignore[no-untyped-def]
    order, sides, first, turns, half, tries, boxes, scale, bounds, padding, grid, shape, hints, sizes, turn, move
):
    """Place all islands in their order; False where one finds no place. ``bounds`` left, top, right, bottom."""
    for o in range(len(order)):
        island = order[o]
        best = index(0)
        box = boxes[island, best]
        width, height = _texels(scale * box[2]), _texels(scale * box[3])
        is_small = max(width, height) <= _SMALL
        if is_small:
            x, y = _place_small(width, height, padding, grid, bounds, hints)
        else:
            best, x, y = _find(
                shape, island, sides, first, turns, half, tries, boxes, scale, bounds, padding, grid, sizes,
                o < _EVERYWHERE,
            )  # fmt: skip
            if best < 0 and o >= _EVERYWHERE:
                # Perhaps there is a place where another of its size did not fit.
                best, x, y = _find(
                    shape, island, sides, first, turns, half, tries, boxes, scale, bounds, padding, grid, sizes, True
                )
        if x < 0 or best < 0:
            return False
        is_turned = best >= half
        box = boxes[island, best - half if is_turned else best]
        if is_small:
            for row in range(height):
                for column in range(width):
                    shape.covered[row, column] = 1
        else:
            width, height = _draw(sides, first, island, turns[best - half if is_turned else best], scale, box, shape)
        if is_turned:
            turn_covered(shape, width, height)
        take(shape, width, height, x, y, grid)
        turn[island, 0], turn[island, 1] = turns[best, 0], turns[best, 1]
        if is_turned:
            move[island, 0], move[island, 1] = (
                x + width - _INSIDE + scale * box[0],
                y + height - _INSIDE + scale * box[1],
            )
        else:
            move[island, 0], move[island, 1] = x + _INSIDE - scale * box[0], y + _INSIDE - scale * box[1]
    return True
