"""Cutting one polygon into triangles by ears, on its plane.

An ear is a convex corner whose triangle holds no other corner of the polygon (Meisters 1975); only reflex corners can
lie inside one, so only they are asked. Among the ears of a polygon of up to ``BEST_EAR_LIMIT`` sides the one with the
largest smallest angle is cut first, which gives compact triangles; larger polygons take ears as they come around.

Signs are exact up to the rounding of the projection: a turn smaller than ``TOLERANCE`` of what the lengths allow is
straight. A straight corner is never cut while another ear is left, so that no triangle without area arises where one
can be avoided.
"""

import numpy as np
from numba import njit

from plindro.core.mesh.outlines import turn_sign

BEST_EAR_LIMIT = 256


@njit(cache=True, nogil=True)
def _turn(x, y, a, b, c):  # type: ignore[no-untyped-def]
    """Twice the signed area of a, b, c."""
    return (x[b] - x[a]) * (y[c] - y[a]) - (y[b] - y[a]) * (x[c] - x[a])


@njit(cache=True, nogil=True)
def _same_place(x, y, a, b):  # type: ignore[no-untyped-def]
    return x[a] == x[b] and y[a] == y[b]


@njit(cache=True, nogil=True)
def _is_free(x, y, before, corner, after, following, is_reflex, extent, strict):  # type: ignore[no-untyped-def]
    """Whether no reflex corner lies in the triangle; with ``strict`` its rim counts as inside."""
    least = 0 if strict else 1
    k = following[after]
    while k != before:
        if (
            is_reflex[k]
            and not (_same_place(x, y, k, before) or _same_place(x, y, k, after) or _same_place(x, y, k, corner))
            and turn_sign(x, y, before, corner, k, extent) >= least
            and turn_sign(x, y, corner, after, k, extent) >= least
            and turn_sign(x, y, after, before, k, extent) >= least
        ):
            return False
        k = following[k]
    return True


@njit(cache=True, nogil=True)
def _shape(x, y, a, b, c):  # type: ignore[no-untyped-def]
    """Area over the longest side squared: grows with the smallest angle, up to 0.433 for an equal-sided triangle."""
    longest = max(
        (x[b] - x[a]) ** 2 + (y[b] - y[a]) ** 2,
        (x[c] - x[b]) ** 2 + (y[c] - y[b]) ** 2,
        (x[a] - x[c]) ** 2 + (y[a] - y[c]) ** 2,
    )
    return 0.5 * _turn(x, y, a, b, c) / longest if longest > 0 else 0.0


@njit(cache=True, nogil=True)
def _rate(x, y, k, previous, following, is_reflex, extent):  # type: ignore[no-untyped-def]
    """How good an ear corner ``k`` is; -1 where it is none. Also renews whether it is reflex."""
    before, after = previous[k], following[k]
    sign = turn_sign(x, y, before, k, after, extent)
    is_reflex[k] = sign <= 0
    if sign <= 0 or not _is_free(x, y, before, k, after, following, is_reflex, extent, True):
        return -1.0
    return _shape(x, y, before, k, after)


@njit(cache=True, nogil=True)
def _choose(x, y, n_left, start, previous, following, rating, is_reflex, extent):  # type: ignore[no-untyped-def]
    """The corner to cut next: the best ear, else a straight corner, else a tight ear, else the widest corner."""
    best, best_rating = -1, -1.0
    k = start
    first_fits = n_left > BEST_EAR_LIMIT
    for _ in range(n_left):
        if rating[k] > best_rating:
            best, best_rating = k, rating[k]
            if first_fits and best_rating > 0.05:
                break
        k = following[k]
    if best >= 0:
        return best
    k = start
    for _ in range(n_left):
        before, after = previous[k], following[k]
        if turn_sign(x, y, before, k, after, extent) == 0 and _is_free(
            x, y, before, k, after, following, is_reflex, extent, False
        ):
            return k
        k = following[k]
    k = start
    for _ in range(n_left):
        before, after = previous[k], following[k]
        if turn_sign(x, y, before, k, after, extent) > 0 and _is_free(
            x, y, before, k, after, following, is_reflex, extent, False
        ):
            return k
        k = following[k]
    best, widest = start, -np.inf
    k = start
    for _ in range(n_left):
        value = _turn(x, y, previous[k], k, following[k])
        if value > widest:
            best, widest = k, value
        k = following[k]
    return best


@njit(cache=True, nogil=True)
def cut_ears(x, y, out):  # type: ignore[no-untyped-def]
    """Cut the polygon (x, y), counter-clockwise, into ``out`` (n - 2, 3) corner indices."""
    n = len(x)
    previous = np.empty(n, np.int32)
    following = np.empty(n, np.int32)
    is_reflex = np.zeros(n, np.bool_)
    rating = np.empty(n)
    extent = max(x.max() - x.min(), y.max() - y.min())
    for k in range(n):
        previous[k] = k - 1 if k else n - 1
        following[k] = k + 1 if k + 1 < n else 0
    for k in range(n):
        is_reflex[k] = turn_sign(x, y, previous[k], k, following[k], extent) <= 0
    for k in range(n):
        rating[k] = _rate(x, y, k, previous, following, is_reflex, extent)
    start = 0
    n_left = n
    for t in range(n - 2):
        if n_left == 3:
            corner = start
        else:
            corner = _choose(x, y, n_left, start, previous, following, rating, is_reflex, extent)
        before, after = previous[corner], following[corner]
        out[t, 0], out[t, 1], out[t, 2] = before, corner, after
        following[before] = after
        previous[after] = before
        n_left -= 1
        start = after
        if n_left > 3:
            was_before, was_after = is_reflex[before], is_reflex[after]
            rating[before] = _rate(x, y, before, previous, following, is_reflex, extent)
            rating[after] = _rate(x, y, after, previous, following, is_reflex, extent)
            if (was_before and not is_reflex[before]) or (was_after and not is_reflex[after]):
                rating[before] = _rate(x, y, before, previous, following, is_reflex, extent)
