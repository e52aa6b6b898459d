"""The texels of a sheet that are taken, kept so that where a shape fits is found in leaps."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import I64
from plindro.core.numeric.kernels import helper

_TOUCHED, _CROSSED = 1, 2
_MOST_PADDING = 64


class Grid(NamedTuple):
    """``last`` (H, W) the last taken texel of the row up to each, -1 where there is none, in up to 32 767 columns;
    ``room`` (H,) the longest run of free texels in each row, -1 where it is not known."""

    last: NDArray[np.int16]
    room: I64


class Shape(NamedTuple):
    """A shape that is being placed, in texels from its lowest: ``covered`` (H, W) texels that it touches; ``left``
    (W,) to count in; ``row``, ``begin``, ``end`` of the runs of texels that must be free for it, both included."""

    covered: NDArray[np.uint8]
    left: NDArray[np.int16]
    row: I64
    begin: I64
    end: I64


def new_grid(width: int, height: int) -> Grid:
    return Grid(np.full((height, width), -1, np.int16), np.full(height, width, np.int64))


def new_shape(width: int, height: int) -> Shape:
    """Room for the largest shape of a sheet; runs may stand apart in each row."""
    row, begin, end = (np.empty((height + 2 * _MOST_PADDING) * (width // 2 + 2), np.int64) for _ in range(3))
    return Shape(np.zeros((height, width), np.uint8), np.zeros(width, np.int16), row, begin, end)


@helper
def cover(sides, first, last, cosine, sine, scale, x0, y0, width, height, covered):  # type: ignore[no-untyped-def]
    """Mark the texels that what lies within the sides first to last touches, turned, scaled and moved by x0, y0."""
    for y in range(height):
        covered[y, :width] = 0
    for i in range(first, last):
        ax, ay = sides[i, 0, 0], sides[i, 0, 1]
        bx, by = sides[i, 1, 0], sides[i, 1, 1]
        ax, ay = scale * (cosine * ax - sine * ay) + x0, scale * (sine * ax + cosine * ay) + y0
        bx, by = scale * (cosine * bx - sine * by) + x0, scale * (sine * bx + cosine * by) + y0
        if ay > by:
            ax, ay, bx, by = bx, by, ax, ay
        for y in range(max(int(np.floor(ay)), 0), min(int(np.floor(by)) + 1, height)):
            left, right = _reach(ax, ay, bx, by, y)
            for x in range(max(int(np.floor(left)), 0), min(int(np.floor(right)) + 1, width)):
                covered[y, x] |= _TOUCHED
            middle = y + 0.5
            if ay <= middle < by:
                # The first texel whose middle lies beyond the side.
                x = int(np.ceil(ax + (bx - ax) * (middle - ay) / (by - ay) - 0.5))
                if x < width:
                    covered[y, max(x, 0)] ^= _CROSSED
    for y in range(height):
        inside = False
        for x in range(width):
            if covered[y, x] & _CROSSED:
                inside = not inside
            covered[y, x] = 1 if inside or covered[y, x] & _TOUCHED else 0


@helper
def _reach(ax, ay, bx, by, y):  # type: ignore[no-untyped-def]
    """From where to where a side, its lower end first, lies in the row from y to y + 1."""
    p, q = ax, bx
    if ay < y:
        p = ax + (bx - ax) * (y - ay) / (by - ay)
    if by > y + 1.0:
        q = ax + (bx - ax) * (y + 1.0 - ay) / (by - ay)
    return min(p, q), max(p, q)


@helper
def find_runs(shape, width, height, padding):  # type: ignore[no-untyped-def]
    """The runs of texels no further than ``padding`` from those covered; returns how many there are."""
    n = 0
    left, covered = shape.left, shape.covered
    for x in range(width):
        left[x] = 0
    for s in range(height + 2 * padding):
        # Each column is wanted for so many rows after one that is covered.
        if s < height:
            for x in range(width):
                left[x] = 2 * padding + 1 if covered[s, x] else left[x] - (left[x] > 0)
        else:
            for x in range(width):
                left[x] -= left[x] > 0
        begin, until = -1 - padding, -2 - padding
        for x in range(width):
            if left[x] > 0:
                if x - padding > until + 1:
                    if until >= begin:
                        shape.row[n], shape.begin[n], shape.end[n] = s - padding, begin, until
                        n += 1
                    begin = x - padding
                until = x + padding
        if until >= begin:
            shape.row[n], shape.begin[n], shape.end[n] = s - padding, begin, until
            n += 1
    return n


@helper
def turn_runs(shape, n, width, height):  # type: ignore[no-untyped-def]
    """Turn the runs of a shape upside down."""
    for i in range(n):
        shape.row[i] = height - 1 - shape.row[i]
        shape.begin[i], shape.end[i] = width - 1 - shape.end[i], width - 1 - shape.begin[i]


@helper
def turn_covered(shape, width, height):  # type: ignore[no-untyped-def]
    """Turn what a shape covers upside down."""
    covered = shape.covered
    for y in range((height + 1) // 2):
        other = height - 1 - y
        # The middle row of an odd number of them is turned in itself.
        for x in range(width if other > y else width // 2):
            there = width - 1 - x
            covered[y, x], covered[other, there] = covered[other, there], covered[y, x]


@helper
def room_in(grid, row):  # type: ignore[no-untyped-def]
    """The longest run of free texels in a row, looked for where it is not known."""
    if grid.room[row] >= 0:
        return grid.room[row]
    # From the right in leaps over what is free, until what is left of the row is shorter.
    line = grid.last[row]
    longest, column = 0, len(line) - 1
    while column >= longest:
        if line[column] == column:
            column -= 1
        else:
            longest = max(longest, column - line[column])
            column = line[column]
    grid.room[row] = longest
    return grid.room[row]


@helper
def find_place(shape, n, width, height, grid, left, top, right, bottom, least):  # type: ignore[no-untyped-def]
    """The highest place, and there the leftmost, where the runs of a shape are free: x and y, or -1, -1.

    Texels from left, top to right, bottom may be covered; no place below row ``least``.
    """
    rows, columns = grid.last.shape
    probe = 0
    widest, wide = 0, 0
    for i in range(n):
        if 0 <= shape.row[i] < height and shape.end[i] - shape.begin[i] > wide:
            widest, wide = i, shape.end[i] - shape.begin[i]
    first, last = shape.begin[widest], shape.end[widest]
    for y in range(top, min(bottom - height, least) + 1):
        if room_in(grid, y + shape.row[widest]) < min(wide, width):
            continue
        line = grid.last[y + shape.row[widest]]
        x = left
        while x + width <= right:
            # The widest run leaps furthest, along a single row.
            taken = line[min(x + last, columns - 1)]
            if taken >= max(x + first, 0):
                x = taken - first + 1
                continue
            leap = -1
            for i in range(n):
                k = probe + i
                if k >= n:
                    k -= n
                row = y + shape.row[k]
                if row < 0 or row >= rows:
                    continue
                begin, end = max(x + shape.begin[k], 0), min(x + shape.end[k], columns - 1)
                taken = grid.last[row, end]
                if taken >= begin:
                    leap = taken - shape.begin[k] + 1
                    probe = k
                    break
            if leap < 0:
                return x, y
            x = max(leap, x + 1)
    return -1, -1


@helper
def take(shape, width, height, x, y, grid):  # type: ignore[no-untyped-def]
    """Take the texels that a shape covers at its place."""
    columns = grid.last.shape[1]
    for row in range(height):
        line = grid.last[y + row]
        last = line[x - 1] if x > 0 else -1
        for column in range(width):
            if shape.covered[row, column] or line[x + column] == x + column:
                last = x + column
            line[x + column] = last
        # Up to the next texel that was taken this one is the last now; they only grow along the row.
        low, high = x + width, columns
        while low < high:
            middle = (low + high) // 2
            if line[middle] > last:
                high = middle
            else:
                low = middle + 1
        for column in range(x + width, low):
            line[column] = last
        grid.room[y + row] = -1
