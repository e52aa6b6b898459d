"""One pass over a mesh that keeps its vertices: every vertex goes, or stays, onto a neighbour.

The functions take arrays one by one: handed on as a tuple, each call would count references to all of them, which
costs six times the arithmetic.
"""

import numpy as np

from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.reduction.costs import collapse_cost, map_wedges, turn
from plindro.core.reduction.features import LINE
from plindro.core.reduction.quadrics import KEPT, PLAIN_AREA, move_row, move_values
from plindro.core.reduction.soundness import folds, gather_ring, keeps_surface
from plindro.core.reduction.steps import (
    LIVE_TRIANGLES,
    MERGES,
    REMOVED,
    STAMP,
    STEPS,
    UNTOUCHED,
    cheapest_of,
    is_later,
    look_ahead,
    mark_dirty,
    mean_error,
    move_line,
    retire,
)
from plindro.core.reduction.volume import area_normal


@helper
def _folds_wedges(  # type: ignore[no-untyped-def]
    u, v, n_ring, ring, positions, shading, triangle_wedge, wedge_into, values, flat, went, to, n_went
):
    """Whether a triangle of the gathered ring of u folds, on the surface or in its UVs, when u goes to v.

    ``flat`` is the first of two values that hold UVs, -1 where there are none.
    """
    x, y, z = positions[v, 0], positions[v, 1], positions[v, 2]
    ox, oy, oz = positions[u, 0], positions[u, 1], positions[u, 2]
    for r in range(n_ring):
        a, b = ring[0, r], ring[1, r]
        if a == v or b == v:
            continue
        c = ring[2, r]
        w, i, j = triangle_wedge[c], wedge_into[triangle_wedge[turn(c, 1)]], wedge_into[triangle_wedge[turn(c, 2)]]
        goes = to[0]
        for k in range(1, n_went):
            if went[k] == w:
                goes = to[k]
        sx = shading[goes, 0] + shading[i, 0] + shading[j, 0]
        sy = shading[goes, 1] + shading[i, 1] + shading[j, 1]
        sz = shading[goes, 2] + shading[i, 2] + shading[j, 2]
        if folds(positions, a, b, ox, oy, oz, x, y, z, sx, sy, sz):
            return True
        if flat >= 0:
            ex, ey = values[j, flat] - values[i, flat], values[j, flat + 1] - values[i, flat + 1]
            before = ex * (values[w, flat + 1] - values[i, flat + 1]) - ey * (values[w, flat] - values[i, flat])
            now = ex * (values[goes, flat + 1] - values[i, flat + 1]) - ey * (values[goes, flat] - values[i, flat])
            if before * now < 0.0:
                return True
    return False


@helper
def _folds(u, v, n_ring, ring, positions, shading):  # type: ignore[no-untyped-def]
    """The same where every vertex has one wedge, by its own number, and nothing that could fold but the surface."""
    x, y, z = positions[v, 0], positions[v, 1], positions[v, 2]
    ox, oy, oz = positions[u, 0], positions[u, 1], positions[u, 2]
    for r in range(n_ring):
        a, b = ring[0, r], ring[1, r]
        if a == v or b == v:
            continue
        sx = shading[v, 0] + shading[a, 0] + shading[b, 0]
        sy = shading[v, 1] + shading[a, 1] + shading[b, 1]
        sz = shading[v, 2] + shading[a, 2] + shading[b, 2]
        if folds(positions, a, b, ox, oy, oz, x, y, z, sx, sy, sz):
            return True
    return False


@helper
def _match(  # type: ignore[no-untyped-def]
    u, v, n_ring, ring, positions, shading, wedge_quadrics, values, flat, start, around, chain, into, triangle_wedge,
    wedge_into, has_wedges, kind, line, rim, watch, mark, stamp, went, to,
):  # fmt: skip
    """Find what u's wedges become at v; returns how many they are, -1 where u must not go there."""
    if not keeps_surface(u, v, n_ring, ring, start, around, chain, into, kind, line, rim, watch, mark, stamp):
        return -1
    if not has_wedges:
        went[0], to[0] = u, v
        return -1 if _folds(u, v, n_ring, ring, positions, shading) else 1
    n_went = map_wedges(
        v, n_ring, ring, start, around, chain, into, triangle_wedge, wedge_into, values, wedge_quadrics,
        positions[v, 0] - positions[u, 0], positions[v, 1] - positions[u, 1], positions[v, 2] - positions[u, 2],
        went, to,
    )  # fmt: skip
    if n_went >= 0 and _folds_wedges(
        u, v, n_ring, ring, positions, shading, triangle_wedge, wedge_into, values, flat, went, to, n_went
    ):
        return -1
    return n_went


@helper
def _weigh_others(  # type: ignore[no-untyped-def]
    u, v, limit, n_tried, n_ring, ring, ring_cost, positions, quadrics, wedge_quadrics, values, start, around,
    chain, into, triangle_wedge, wedge_into, kind, line, touched, went, to,
):  # fmt: skip
    """What the ways but that to v cost, where they are within ``limit``; returns the cheapest above it and its end,
    which are kept in mind for a later pass."""
    later, after = np.inf, -1
    normal = area_normal(u, n_ring, ring, positions)
    for k in range(n_tried):
        other = index(line[u, k] if kind[u] == LINE else ring[0, k])
        ring_cost[k] = np.inf
        if other < 0 or other == v or touched[other] == REMOVED:
            continue
        this = collapse_cost(
            u, other, n_ring, ring, normal, positions, quadrics, wedge_quadrics, values, start, around, chain,
            into, triangle_wedge, wedge_into, went, to,
        )  # fmt: skip
        if is_later(this, limit):
            if this < later:
                later, after = this, other
        else:
            ring_cost[k] = this
    return later, after


@helper
def _collapse(  # type: ignore[no-untyped-def]
    u, v, n_ring, ring, n_went, went, to, positions, quadrics, wedge_quadrics, values, wedge_into, counters, node,
    merge_from, merge_to, merge_step,
):  # fmt: skip
    """u goes onto v: its error and those of its wedges are added, and which nodes become which is written down."""
    x, y, z = positions[v, 0] - positions[u, 0], positions[v, 1] - positions[u, 1], positions[v, 2] - positions[u, 2]
    normal = area_normal(u, n_ring, ring, positions)
    quadrics[v, KEPT] += quadrics[u, KEPT] + normal[0] * x + normal[1] * y + normal[2] * z
    quadrics[v, PLAIN_AREA] += quadrics[u, PLAIN_AREA]
    move_row(quadrics, u, x, y, z)
    for k in range(n_went):
        w, goes = went[k], to[k]
        wedge_into[w] = goes
        if len(wedge_quadrics) > 0:
            for m in range(values.shape[1]):
                move_values(quadrics, u, wedge_quadrics, w, x, y, z, m, values[goes, m] - values[w, m])
            for m in range(wedge_quadrics.shape[1]):
                wedge_quadrics[goes, m] += wedge_quadrics[w, m]
        at = counters[MERGES]
        merge_from[at], merge_to[at], merge_step[at] = node[w], node[goes], counters[STEPS]
        counters[MERGES] = at + 1
    for k in range(KEPT):
        quadrics[v, k] += quadrics[u, k]


@kernel
def sweep(  # type: ignore[no-untyped-def]
    n_order, order, limit, least_triangles, positions, shading, quadrics, wedge_quadrics, values, flat,
    start, around, chain, into, triangle_wedge, wedge_into, has_wedges, kind, line, rim, watch, cost, target, dirty,
    touched, mark, counters, node, step_of, merge_from, merge_to, merge_step, step_distance,
    ring, ring_cost, went, to,
):  # fmt: skip
    """Collapse the vertices in ``order`` while they cost no more than ``limit``; returns how many went.

    The arrays are those of ``arguments``. Writes one entry per collapse to ``step_distance``, one
    per wedge to ``merge_from``, ``merge_to`` and ``merge_step``.
    """
    n_all = 0
    for i in range(n_order):
        if counters[LIVE_TRIANGLES] <= least_triangles:
            break
        look_ahead(i, n_order, order, target, start, around, positions, shading, quadrics, touched, into, mark)
        u = index(order[i])
        if touched[u] != UNTOUCHED:
            continue
        n_ring = gather_ring(u, start, around, into, ring)
        n_tried = -1
        n_went = 0
        v, later, after = index(target[u]), np.inf, -1
        while v >= 0:
            if touched[v] != REMOVED:
                counters[STAMP] += 2
                n_went = _match(
                    u, v, n_ring, ring, positions, shading, wedge_quadrics, values, flat, start, around, chain, into,
                    triangle_wedge, wedge_into, has_wedges, kind, line, rim, watch, mark, counters[STAMP], went, to,
                )  # fmt: skip
                if n_went >= 0:
                    break
            if n_tried < 0:
                n_tried = 2 if kind[u] == LINE else n_ring
                later, after = _weigh_others(
                    u, v, limit, n_tried, n_ring, ring, ring_cost, positions, quadrics, wedge_quadrics,
                    values, start, around, chain, into, triangle_wedge, wedge_into, kind, line, touched, went, to,
                )  # fmt: skip
            v = -1
            at = cheapest_of(ring_cost, n_tried)
            if at >= 0:
                v = index(line[u, at] if kind[u] == LINE else ring[0, at])
        if v < 0:
            cost[u] = later
            target[u] = after
            continue
        died = mark_dirty(v, n_ring, ring, dirty)
        _collapse(
            u, v, n_ring, ring, n_went, went, to, positions, quadrics, wedge_quadrics, values, wedge_into, counters,
            node, merge_from, merge_to, merge_step,
        )  # fmt: skip
        if kind[u] == LINE:
            move_line(u, v, kind, line)
        retire(
            u, v, mean_error(quadrics, v), died, into, chain, touched, kind, cost, dirty, step_of, counters,
            step_distance,
        )  # fmt: skip
        n_all += 1
    return n_all
