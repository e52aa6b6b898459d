"""The smallest rectangle around points: one of its sides lies along their hull (Freeman and Shapira 1975)."""

from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64
from plindro.core.numeric.kernels import helper, kernel

_MANY = 16
"""Points above which it pays to leave out those inside first: most of a chart's are, and each comes several times."""
_WELL = 1e-12
"""How far within the octagon a point has to lie to be left out, as twice an area against the size, squared."""


@helper
def _turns_left(a, b, c):  # type: ignore[no-untyped-def]
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) > 0.0


@helper
def _sort_points(points):  # type: ignore[no-untyped-def]
    """Sort points (P, 2) by x, then y (Shell 1959, with Knuth's gaps): they are few once those inside are left out."""
    gap = 1
    while gap < len(points):
        gap = 3 * gap + 1
    while gap > 0:
        for i in range(gap, len(points)):
            x, y = points[i, 0], points[i, 1]
            j = i
            while j >= gap and (points[j - gap, 0] > x or (points[j - gap, 0] == x and points[j - gap, 1] > y)):
                points[j, 0], points[j, 1] = points[j - gap, 0], points[j - gap, 1]
                j -= gap
            points[j, 0], points[j, 1] = x, y
        gap //= 3


@helper
def _find_hull(points, hull):  # type: ignore[no-untyped-def]
    """Into ``hull`` (2 P + 1, 2) the convex hull of ``points`` (P, 2) by x, then y (Andrew 1979); returns how many."""
    n = 0
    for turn in range(2):
        least = n + 1
        for i in range(len(points)):
            p = points[i] if turn == 0 else points[len(points) - 1 - i]
            while n > least and not _turns_left(hull[n - 2], hull[n - 1], p):
                n -= 1
            hull[n, 0], hull[n, 1] = p[0], p[1]
            n += 1
        # The last point of one half is the first of the other.
        n -= 1
    return n


@helper
def _extremes(points, at):  # type: ignore[no-untyped-def]
    """Into ``at`` (8,) the points that lie furthest in eight directions, one after the other to the left."""
    for k in range(8):
        at[k] = 0
    for i in range(len(points)):
        x, y = points[i, 0], points[i, 1]
        for k in range(4):
            dx, dy = (1.0, 1.0, 0.0, -1.0)[k], (0.0, 1.0, 1.0, 1.0)[k]
            far = dx * x + dy * y
            if far > dx * points[at[k], 0] + dy * points[at[k], 1]:
                at[k] = i
            if far < dx * points[at[k + 4], 0] + dy * points[at[k + 4], 1]:
                at[k + 4] = i


@helper
def _drop_inner(points, at, outer):  # type: ignore[no-untyped-def]
    """Into ``outer`` those of the points (P, 2) that may be corners of their hull; returns how many.

    What lies well within the octagon of the furthest in eight directions is none (Akl and Toussaint 1978).
    """
    _extremes(points, at)
    wide = points[at[0], 0] - points[at[4], 0] + points[at[2], 1] - points[at[6], 1]
    well = _WELL * wide * wide
    n = 0
    for i in range(len(points)):
        x, y = points[i, 0], points[i, 1]
        inner = True
        for k in range(8):
            a, b = at[k], at[(k + 1) % 8]
            ax, ay, bx, by = points[a, 0], points[a, 1], points[b, 0], points[b, 1]
            if a != b and not (bx - ax) * (y - ay) - (by - ay) * (x - ax) > well:
                inner = False
                break
        if not inner:
            outer[n, 0], outer[n, 1] = x, y
            n += 1
    return n


@helper
def _smallest(hull, out):  # type: ignore[no-untyped-def]
    """Area, angle, longer side and its angle into ``out`` of the smallest rectangle around a hull."""
    n = len(hull)
    out[0], out[1], out[2], out[3] = 0.0, 0.0, 0.0, 0.0
    for i in range(n):
        j = i + 1 if i + 1 < n else 0
        x, y = hull[j, 0] - hull[i, 0], hull[j, 1] - hull[i, 1]
        length = np.sqrt(x * x + y * y)
        if length == 0.0:
            continue
        x, y = x / length, y / length
        left, right, high = np.inf, -np.inf, 0.0
        for k in range(n):
            p, q = hull[k, 0] - hull[i, 0], hull[k, 1] - hull[i, 1]
            along = p * x + q * y
            left, right, high = min(left, along), max(right, along), max(high, q * x - p * y)
        area = (right - left) * high
        if area > 0.0 and (out[0] == 0.0 or area < out[0]):
            out[0], out[1], out[2] = area, np.arctan2(y, x), max(right - left, high)
            out[3] = out[1] if right - left >= high else np.arctan2(x, -y)


@kernel
def _hull_of(points, at, outer, hull):  # type: ignore[no-untyped-def]
    """Into ``hull`` the convex hull of points (P, 2); returns how many. ``at`` (8,) and ``outer`` (P, 2) are for it."""
    n = len(points)
    if n > _MANY:
        n = _drop_inner(points, at, outer)
    else:
        for i in range(n):
            outer[i, 0], outer[i, 1] = points[i, 0], points[i, 1]
    _sort_points(outer[:n])
    return _find_hull(outer[:n], hull)


@kernel
def rectangle_of(points, at, outer, hull, out):  # type: ignore[no-untyped-def]
    """Into ``out`` as ``_smallest``, around points (P, 2); the rest as of ``_hull_of``."""
    n = _hull_of(points, at, outer, hull)
    _smallest(hull[:n], out)


class Rectangle(NamedTuple):
    """``area``; ``angle`` of a side in radians; ``long`` the length of its longer side, and ``along`` its angle."""

    area: float
    angle: float
    long: float
    along: float


def convex_hull(points: F64) -> F64:
    """The corners (H, 2) of the hull of points (P, 2), one after the other."""
    hull = np.empty((2 * len(points) + 1, 2))
    return hull[: _hull_of(points, np.empty(8, np.int64), np.empty((len(points), 2)), hull)].copy()


def smallest_rectangle(points: F64) -> Rectangle:
    """Around points (P, 2); all 0 where they lie on a line."""
    if len(points) < 3:
        return Rectangle(0.0, 0.0, 0.0, 0.0)
    out, count = np.empty(4), len(points)
    rectangle_of(points, np.empty(8, np.int64), np.empty((count, 2)), np.empty((2 * count + 1, 2)), out)
    return Rectangle(*out.tolist())
