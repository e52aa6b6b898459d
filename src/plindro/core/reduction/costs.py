"""What it costs to let a vertex go onto a neighbour, and which vertices are cheap enough to go.

Every vertex knows its cheapest collapse. A histogram of those costs gives the cost below which a share of the vertices
falls; these are taken in the order of their costs, coarsely, and within a step of cost in the order of memory. Costs
are of single precision and so order as their bits do.
"""

import numpy as np

from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.reduction.features import FREE, LINE, LOCKED
from plindro.core.reduction.quadrics import AREA, plain_error, value_error
from plindro.core.reduction.soundness import gather_ring
from plindro.core.reduction.volume import area_normal, volume_error

LENGTH_WEIGHT = 1e-10
"""Pulls towards short edges where the surface is flat and every collapse costs nothing."""
LEAST, LEAST_SHARE = 24.0, 0.25
"""A pass takes so many vertices at least, but no more than this share: it costs more than it does for fewer."""
MOST_WEDGES = 32
"""A vertex with more wedges than this is left where it is."""


@helper
def turn(c, by):  # type: ignore[no-untyped-def]
    """The corner ``by`` places further in the same triangle."""
    return c - c % 3 + (c + by) % 3


@helper
def map_wedges(  # type: ignore[no-untyped-def]
    v, n_ring, ring, start, around, chain, into, triangle_wedge, wedge_into, values, wedge_quadrics,
    x, y, z, went, to,
):  # fmt: skip
    """Where each wedge around a gathered ring goes when its vertex goes to v, x, y, z away.

    It goes to the wedge beside it, else to where its values err least. Fills ``went`` and ``to``; returns how many
    there are, -1 where there are too many.
    """
    n = 0
    missing = False
    for r in range(n_ring):
        w = triangle_wedge[ring[2, r]]
        i = 0
        while i < n and went[i] != w:
            i += 1
        if i == n:
            if n == MOST_WEDGES:
                return -1
            went[n] = w
            to[n] = -1
            n += 1
        if ring[0, r] == v:
            to[i] = wedge_into[triangle_wedge[turn(ring[2, r], 1)]]
        elif ring[1, r] == v:
            to[i] = wedge_into[triangle_wedge[turn(ring[2, r], 2)]]
    for i in range(n):
        missing |= to[i] < 0
    if missing:
        for i in range(n):
            if to[i] >= 0:
                continue
            least = np.inf
            segment = v
            while segment >= 0:
                for s in range(start[segment], start[segment + 1]):
                    a, b = into[around[s, 0]], into[around[s, 1]]
                    if (segment != v and (a == v or b == v)) or a == b:
                        continue
                    w = wedge_into[triangle_wedge[around[s, 2]]]
                    error = value_error(wedge_quadrics, went[i], values, w, x, y, z) if len(wedge_quadrics) else 0.0
                    if error < least:
                        least = error
                        to[i] = w
                segment = chain[segment]
    return n


@helper
def collapse_cost(  # type: ignore[no-untyped-def]
    u, v, n_ring, ring, normal, positions, quadrics, wedge_quadrics, values, start, around, chain, into,
    triangle_wedge, wedge_into, went, to,
):  # fmt: skip
    """What moving u, with its gathered ring and ``normal`` of that, onto v adds to the error."""
    x, y, z = positions[v, 0] - positions[u, 0], positions[v, 1] - positions[u, 1], positions[v, 2] - positions[u, 2]
    error = plain_error(quadrics, u, x, y, z)
    if len(wedge_quadrics):
        n = map_wedges(
            v, n_ring, ring, start, around, chain, into, triangle_wedge, wedge_into, values,
            wedge_quadrics, x, y, z, went, to,
        )  # fmt: skip
        if n < 0:
            return np.inf
        for i in range(n):
            error += value_error(wedge_quadrics, went[i], values, to[i], x, y, z)
    error += volume_error(quadrics, u, v, normal[0] * x + normal[1] * y + normal[2] * z)
    return max(error - quadrics[u, 9], 0.0) + LENGTH_WEIGHT * quadrics[u, AREA] * (x * x + y * y + z * z)


@kernel
def evaluate(  # type: ignore[no-untyped-def]
    first, last, positions, quadrics, wedge_quadrics, values, start, around, chain, into,
    triangle_wedge, wedge_into, kind, line, is_plain, cost, target, dirty, ring, went, to,
):  # fmt: skip
    """Renew the cheapest collapse of the dirty vertices ``first`` to ``last``, without asking whether it is allowed.

    ``is_plain``: FREE vertices have a single wedge.
    ``ring`` (3, longest ring), ``went`` and ``to`` are scratch.
    """
    has_values = len(wedge_quadrics) > 0
    for u in range(first, last):
        if not dirty[u]:
            continue
        dirty[u] = 0
        best, least = -1, np.inf
        if kind[u] >= LOCKED:
            target[u] = best
            cost[u] = least
            continue
        n_ring = gather_ring(u, start, around, into, ring)
        normal = area_normal(u, n_ring, ring, positions)
        if kind[u] == FREE and (is_plain or not has_values):
            ux, uy, uz = positions[u, 0], positions[u, 1], positions[u, 2]
            pull = LENGTH_WEIGHT * quadrics[u, AREA]
            for s in range(start[u], start[u + 1]):
                v = around[s, 0]
                x, y, z = positions[v, 0] - ux, positions[v, 1] - uy, positions[v, 2] - uz
                this = plain_error(quadrics, u, x, y, z)
                if has_values:
                    c = around[s, 2]
                    this += value_error(wedge_quadrics, triangle_wedge[c], values, triangle_wedge[turn(c, 1)], x, y, z)
                this += volume_error(quadrics, u, v, normal[0] * x + normal[1] * y + normal[2] * z)
                this = max(this - quadrics[u, 9], 0.0) + pull * (x * x + y * y + z * z)
                if this < least:
                    best, least = v, this
        else:
            for k in range(2 if kind[u] == LINE else n_ring):
                v = index(line[u, k] if kind[u] == LINE else ring[0, k])
                if v < 0:
                    continue
                this = collapse_cost(
                    u, v, n_ring, ring, normal, positions, quadrics, wedge_quadrics, values, start, around,
                    chain, into, triangle_wedge, wedge_into, went, to,
                )  # fmt: skip
                if this < least:
                    best, least = v, this
        target[u] = best
        cost[u] = least


@kernel
def choose(cost, kind, n, share, shift, counts, limit, order):  # type: ignore[no-untyped-def]
    """The vertices that are cheap enough for this pass, in the order of their costs; returns how many and the cost.

    ``share`` of the vertices that can move are taken; costs that agree but in the last ``shift`` bits are taken in the
    order of memory.
    """
    bits = cost.view(np.uint32)
    n_finite = 0
    n_live = 0
    for b in range(1 << (31 - shift)):
        counts[b] = 0
    for u in range(n):
        if kind[u] < LOCKED:
            n_live += 1
        if cost[u] < np.inf:
            counts[bits[u] >> shift] += 1
            n_finite += 1
    if n_finite == 0:
        return 0
    wanted = min(max(share * n_live, min(LEAST, LEAST_SHARE * n_live), 1.0), n_finite)
    total = 0
    last = -1
    while total < wanted:
        last += 1
        total += counts[last]
    at = 0
    for b in range(last + 1):
        count = counts[b]
        counts[b] = at
        at += count
    for u in range(n):
        if cost[u] < np.inf:
            b = bits[u] >> shift
            if b <= last:
                order[counts[b]] = u
                counts[b] += 1
    limit.view(np.uint32)[0] = min((last + 1) << shift, 0x7F7FFFFF)
    return total
