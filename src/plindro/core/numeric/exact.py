"""Orientation of three points in the plane, exact for any float64 coordinates.

Most answers are certain from one subtraction of two products; where rounding could matter the determinant is summed
without error as an expansion of non-overlapping components (Shewchuk 1997, "Adaptive precision floating-point
arithmetic and fast robust geometric predicates").
"""

import numpy as np

from plindro.core.numeric.kernels import allocating

_CERTAIN = 3.3306690738754716e-16
"""(3 + 16 u) u with u = 2^-53: bound of the rounding of the determinant, relative to the sum of its products."""
_SPLITTER = 134217729.0
"""2^27 + 1: cuts a float64 into two halves whose products are exact."""


@allocating
def _add_product(expansion, count, a, b):  # type: ignore[no-untyped-def]
    """Add a × b to an expansion of ``count`` components, smallest first; returns the new count."""
    product = a * b
    c = _SPLITTER * a
    a_high = c - (c - a)
    a_low = a - a_high
    c = _SPLITTER * b
    b_high = c - (c - b)
    b_low = b - b_high
    error = a_low * b_low - (((product - a_high * b_high) - a_low * b_high) - a_high * b_low)
    for value in (error, product):
        carried = value
        for i in range(count):
            total = carried + expansion[i]
            virtual = total - carried
            expansion[i] = (carried - (total - virtual)) + (expansion[i] - virtual)
            carried = total
        expansion[count] = carried
        count += 1
    return count


@allocating
def _exact_sign(ax, ay, bx, by, cx, cy):  # type: ignore[no-untyped-def]
    expansion = np.zeros(12)
    count = _add_product(expansion, 0, ax, by)
    count = _add_product(expansion, count, -ax, cy)
    count = _add_product(expansion, count, -cx, by)
    count = _add_product(expansion, count, -ay, bx)
    count = _add_product(expansion, count, ay, cx)
    count = _add_product(expansion, count, cy, bx)
    for i in range(count - 1, -1, -1):
        if expansion[i] != 0.0:
            return 1 if expansion[i] > 0.0 else -1
    return 0


@allocating
def orient_sign(ax, ay, bx, by, cx, cy):  # type: ignore[no-untyped-def]
    """1 where a, b, c turn left, -1 where they turn right, 0 where they lie on one line."""
    left = (ax - cx) * (by - cy)
    right = (ay - cy) * (bx - cx)
    value = left - right
    limit = _CERTAIN * (abs(left) + abs(right))
    if value > limit:
        return 1
    if value < -limit:
        return -1
    if (ax == cx or by == cy) and (ay == cy or bx == cx):
        return 0
    return _exact_sign(ax, ay, bx, by, cx, cy)
