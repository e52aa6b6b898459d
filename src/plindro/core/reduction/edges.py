"""Which edges may become one vertex, what of it goes and what keeps its name, and which edge of a vertex is cheapest.

An edge belongs to its end that comes first in memory, and every vertex knows the cheapest of its edges.
"""

import numpy as np

from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.reduction.costs import MOST_WEDGES, turn
from plindro.core.reduction.features import FREE, GONE, LINE, LOCKED
from plindro.core.reduction.solving import solve
from plindro.core.reduction.soundness import gather_ring

CORNER_COSINE = 0.7
"""A line that turns further than this has a corner, which does not move."""


@helper
def is_edge(u, v, kind, line):  # type: ignore[no-untyped-def]
    """Whether u and v may become one, as far as their kinds go."""
    if kind[u] == FREE or kind[v] == FREE:
        return kind[u] < GONE and kind[v] < GONE
    if kind[u] == LINE and (line[u, 0] == v or line[u, 1] == v):
        return kind[v] <= LOCKED
    return kind[v] == LINE and kind[u] == LOCKED and (line[v, 0] == u or line[v, 1] == u)


@helper
def is_corner(u, line, positions):  # type: ignore[no-untyped-def]
    """Whether the feature line turns sharply at u."""
    a, b = line[u, 0], line[u, 1]
    if a < 0 or b < 0:
        return True
    ax, ay, az = positions[u, 0] - positions[a, 0], positions[u, 1] - positions[a, 1], positions[u, 2] - positions[a, 2]
    bx, by, bz = positions[b, 0] - positions[u, 0], positions[b, 1] - positions[u, 1], positions[b, 2] - positions[u, 2]
    dot = ax * bx + ay * by + az * bz
    lengths = (ax * ax + ay * ay + az * az) * (bx * bx + by * by + bz * bz)
    return dot < 0.0 or dot * dot < CORNER_COSINE * CORNER_COSINE * lengths


@helper
def roles(u, v, kind, line, positions, lines_move):  # type: ignore[no-untyped-def]
    """Which of the two goes and which keeps its name, and whether that one keeps its place.

    One on a line keeps it against a FREE one, unless ``lines_move``, a LOCKED one against all, and of two on a line one
    at its corner.
    """
    if kind[u] == LINE and kind[v] == LINE:
        at_u, at_v = is_corner(u, line, positions), is_corner(v, line, positions)
        if at_u and not at_v:
            return v, u, True
        return u, v, at_v and not at_u
    is_fixed = kind[u] != kind[v] or kind[u] == LOCKED
    dies, keeps = (u, v) if kind[u] <= kind[v] else (v, u)
    if lines_move and kind[dies] == FREE and kind[keeps] == LINE:
        is_fixed = is_corner(keeps, line, positions)
    return dies, keeps, is_fixed


@helper
def pair_wedges(  # type: ignore[no-untyped-def]
    dies, keeps, is_fixed, n_ring, ring, start, around, into, triangle_wedge, wedge_into, pairs
):
    """Which wedges of ``dies``, with its gathered ring, and of ``keeps`` become one; -1 where one stands alone.

    Wedges that only ``keeps`` has are left out where it stays in place. Returns how many pairs, -1 for too many.
    """
    n = 0
    for r in range(n_ring):
        w = triangle_wedge[ring[2, r]]
        i = 0
        while i < n and pairs[0, i] != w:
            i += 1
        if i == n:
            if n == MOST_WEDGES:
                return -1
            pairs[0, n] = w
            pairs[1, n] = -1
            n += 1
        if ring[0, r] == keeps:
            pairs[1, i] = wedge_into[triangle_wedge[turn(ring[2, r], 1)]]
        elif ring[1, r] == keeps:
            pairs[1, i] = wedge_into[triangle_wedge[turn(ring[2, r], 2)]]
    if is_fixed:
        return n
    for s in range(start[keeps], start[keeps + 1]):
        if into[around[s, 0]] == into[around[s, 1]]:
            continue
        w = wedge_into[triangle_wedge[around[s, 2]]]
        i = 0
        while i < n and pairs[1, i] != w:
            i += 1
        if i == n:
            if n == MOST_WEDGES:
                return -1
            pairs[0, n] = -1
            pairs[1, n] = w
            n += 1
    return n


@helper
def edge_cost(  # type: ignore[no-untyped-def]
    u, v, n_ring, ring, other_ring, positions, quadrics, wedge_quadrics, values, start, around, into,
    triangle_wedge, wedge_into, kind, line, lines_move, pairs, rows, place,
):  # fmt: skip
    """The least error of making u, with its gathered ring, and v one; infinite where it cannot be."""
    dies, keeps, is_fixed = roles(u, v, kind, line, positions, lines_move)
    n_pairs = 0
    if len(wedge_quadrics):
        if dies == u:
            n_pairs = pair_wedges(
                dies, keeps, is_fixed, n_ring, ring, start, around, into, triangle_wedge, wedge_into,
                pairs,
            )  # fmt: skip
        else:
            n_other = gather_ring(dies, start, around, into, other_ring)
            n_pairs = pair_wedges(
                dies, keeps, is_fixed, n_other, other_ring, start, around, into, triangle_wedge,
                wedge_into, pairs,
            )  # fmt: skip
        if n_pairs < 0:
            return np.inf
    return solve(dies, keeps, is_fixed, n_pairs, pairs, positions, quadrics, wedge_quadrics, values, rows, place)


@kernel
def evaluate_edges(  # type: ignore[no-untyped-def]
    first, last, positions, quadrics, wedge_quadrics, values, start, around, into,
    triangle_wedge, wedge_into, kind, line, lines_move, cost, target, dirty, ring, other_ring, pairs, rows,
    place,
):  # fmt: skip
    """Renew the cheapest edge of the dirty vertices ``first`` to ``last``, without asking whether it is allowed."""
    has_values = len(wedge_quadrics) > 0
    for u in range(first, last):
        if not dirty[u]:
            continue
        dirty[u] = 0
        best, least = -1, np.inf
        if kind[u] != GONE:
            n_ring = 0
            if has_values:
                n_ring = gather_ring(u, start, around, into, ring)
            n_around = start[u + 1] - start[u]
            for k in range(n_around + 2):
                # Along an open border a neighbour may only lie behind; the line names it.
                v = index(around[start[u] + k, 0] if k < n_around else line[u, k - n_around])
                if v <= u or (k >= n_around and kind[u] != LINE) or not is_edge(u, v, kind, line):
                    continue
                if k < n_around and kind[u] == LINE and kind[v] != FREE:
                    continue
                this = edge_cost(
                    u, v, n_ring, ring, other_ring, positions, quadrics, wedge_quadrics, values, start, around, into,
                    triangle_wedge, wedge_into, kind, line, lines_move, pairs, rows, place,
                )  # fmt: skip
                if this < least:
                    best, least = v, this
        target[u] = best
        cost[u] = least
