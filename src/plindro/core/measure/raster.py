"""Rasterising triangles: which one is seen at each pixel, and where on it."""

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F32, F64, I32, Mask
from plindro.core.numeric.kernels import helper, kernel

_LEVEL = 1e-6
"""Pixels of height below which an edge is level, as far as it bounds a row."""
_WIDE = 4
"""Pixels across a triangle above which it pays to find where a row enters and leaves it."""


@helper
def _slope(ax, ay, bx, by):  # type: ignore[no-untyped-def]
    """How far an edge goes along the rows while it crosses one; nothing where it is level."""
    return (bx - ax) / (by - ay) if abs(by - ay) >= _LEVEL else np.nan


@helper
def _clipped(ax, ay, rise, slope, y, left, right):  # type: ignore[no-untyped-def]
    """The part of a row from ``left`` to ``right`` on the inner side of an edge through a, a pixel more at least;
    ``rise`` is above 0 where that is to the right of it."""
    cut = ax + (y - ay) * slope
    # Far out there is no whole number for it.
    if rise > 0.0 and cut - 1.5 > left:
        return int(min(cut - 1.5, right + 1.0)), right
    if rise < 0.0 and cut + 1.5 < right:
        return left, int(max(cut + 1.5, left - 1.0))
    return left, right


@helper
def _pixels(low, high, count):  # type: ignore[no-untyped-def]
    """The first and the last of ``count`` pixels whose middles lie between two places; the last is before where none
    does."""
    first, last = np.ceil(low - 0.5), np.floor(high - 0.5)
    return int(min(max(first, 0.0), count)), int(min(max(last, -1.0), count - 1.0))


@helper
def _place(ax, ay, bx, by, cx, cy, over, x, y):  # type: ignore[no-untyped-def]
    """Barycentric coordinates of a point of the screen, ``over`` being one over the area; negative outside."""
    first = ((bx - x) * (cy - y) - (by - y) * (cx - x)) * over
    second = ((cx - x) * (ay - y) - (cy - y) * (ax - x)) * over
    return first, second, 1.0 - first - second


@helper
def placing(screen, triangles, t):  # type: ignore[no-untyped-def]
    """What ``weights_at`` needs of a triangle."""
    a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
    ax, ay, bx, by, cx, cy = screen[a, 0], screen[a, 1], screen[b, 0], screen[b, 1], screen[c, 0], screen[c, 1]
    return ax, ay, bx, by, cx, cy, 1.0 / ((bx - ax) * (cy - ay) - (by - ay) * (cx - ax))


@helper
def weights_at(place, x, y):  # type: ignore[no-untyped-def]
    """Weights of a triangle's corners at the middle of a pixel, as far away eyes see it."""
    ax, ay, bx, by, cx, cy, over = place
    return _place(ax, ay, bx, by, cx, cy, over, x + 0.5, y + 0.5)


@kernel
def draw(screen, triangles, two_sided, depth, seen):  # type: ignore[no-untyped-def]
    """Put the nearest triangle at each pixel into ``seen`` and one over its distance into ``depth``.

    As ``rasterise`` says; both arrays hold what was drawn before, -1 and 0 where nothing was.
    """
    height, width = depth.shape
    for t in range(len(triangles)):
        a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        ax, ay, az = screen[a, 0], screen[a, 1], screen[a, 2]
        bx, by, bz = screen[b, 0], screen[b, 1], screen[b, 2]
        cx, cy, cz = screen[c, 0], screen[c, 1], screen[c, 2]
        if az <= 0.0 or bz <= 0.0 or cz <= 0.0:
            continue
        # Screen y grows downwards, so a triangle that faces the eye turns the other way.
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area == 0.0 or (area > 0.0 and not two_sided[t]):
            continue
        x0, x1 = _pixels(min(ax, bx, cx), max(ax, bx, cx), width)
        y0, y1 = _pixels(min(ay, by, cy), max(ay, by, cy), height)
        if x0 > x1 or y0 > y1:
            continue
        over, over_a, over_b, over_c = 1.0 / area, 1.0 / az, 1.0 / bz, 1.0 / cz
        # The weights of a and b as they grow along a row and from row to row; c has the rest.
        first_x, first_y = (by - cy) * over, (cx - bx) * over
        second_x, second_y = (cy - ay) * over, (ax - cx) * over
        is_wide = x1 - x0 > _WIDE
        if is_wide:
            ab, bc, ca = _slope(ax, ay, bx, by), _slope(bx, by, cx, cy), _slope(cx, cy, ax, ay)
        for y in range(y0, y1 + 1):
            left, right = x0, x1
            if is_wide:
                left, right = _clipped(ax, ay, -first_x - second_x, ab, y + 0.5, left, right)
                left, right = _clipped(bx, by, first_x, bc, y + 0.5, left, right)
                left, right = _clipped(cx, cy, second_x, ca, y + 0.5, left, right)
            first_row, second_row = first_y * (y + 0.5 - cy), second_y * (y + 0.5 - ay)
            for x in range(left, right + 1):
                first, second = first_x * (x + 0.5 - cx) + first_row, second_x * (x + 0.5 - ax) + second_row
                third = 1.0 - first - second
                if first < 0.0 or second < 0.0 or third < 0.0:
                    continue
                # One over depth is linear on the screen; larger is nearer.
                inverse = first * over_a + second * over_b + third * over_c
                if inverse > depth[y, x]:
                    depth[y, x] = inverse
                    seen[y, x] = t


@kernel
def _weigh(screen, triangles, seen, weights):  # type: ignore[no-untyped-def]
    for y in range(seen.shape[0]):
        for x in range(seen.shape[1]):
            t = seen[y, x]
            if t < 0:
                continue
            first, second, third = weights_at(placing(screen, triangles, t), x, y)
            first /= screen[triangles[t, 0], 2]
            second /= screen[triangles[t, 1], 2]
            third /= screen[triangles[t, 2], 2]
            # One over depth is linear on the screen, and so is what is divided by it.
            inverse = first + second + third
            weights[y, x, 0], weights[y, x, 1], weights[y, x, 2] = first / inverse, second / inverse, third / inverse


def rasterise(
    screen: F64, triangles: I32, two_sided: Mask, width: int, height: int
) -> tuple[I32, F32, NDArray[np.float64]]:
    """Draw triangles given by (V, 3) ``screen`` points: x, y in pixels from the upper left, and the distance > 0.

    Triangles that face away are left out unless ``two_sided`` (T,). Returns the triangle at each pixel (-1 for none),
    its perspective-correct barycentric weights (height, width, 3) and one over the distance (0 for none).
    """
    depth = np.zeros((height, width))
    seen = np.full((height, width), -1, np.int32)
    weights = np.zeros((height, width, 3), np.float32)
    screen, triangles = np.ascontiguousarray(screen, np.float64), np.ascontiguousarray(triangles, np.int32)
    draw(screen, triangles, two_sided, depth, seen)
    _weigh(screen, triangles, seen, weights)
    return seen, weights, depth
