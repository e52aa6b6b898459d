"""One pass over a mesh that keeps its vertices: every vertex goes, or stays, onto a neighbour.

Every vertex knows its cheapest collapse. A histogram of those costs gives the cost below which a share of the vertices
falls; these are taken in the order of their costs, coarsely, and within a step of cost in the order of memory. Costs
are of single precision and so order as their bits do.

The functions take arrays one by one: handed on as a tuple, each call would count references to all of them, which
costs six times the arithmetic.
"""

import numpy as np

from plindro.core.numeric.kernels import helper, kernel, prefetch
from plindro.core.reduction.features import FREE, GONE, LINE, LOCKED
from plindro.core.reduction.quadrics import move_row, move_values, plain_error, value_error
from plindro.core.reduction.soundness import folds, gather_ring, keeps_surface, other_on_line

LENGTH_WEIGHT = 1e-7
"""Pulls towards short edges where the surface is flat and every collapse costs nothing."""
LEAST, LEAST_SHARE = 24.0, 0.25
"""A pass takes so many vertices at least, but no more than this share: it costs more than it does for fewer."""
LIVE_TRIANGLES, STAMP, STEPS, MERGES, NODES = 0, 1, 2, 3, 4
"""Places in the counters."""
UNTOUCHED, SURVIVES, REMOVED = 0, 1, 2
FAR, NEAR, NEXT = 16, 8, 4
"""How many vertices ahead memory is asked for."""
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
def _cost(  # type: ignore[no-untyped-def]
    u, v, n_ring, ring, positions, quadrics, wedge_quadrics, values, start, around, chain, into,
    triangle_wedge, wedge_into, went, to,
):  # fmt: skip
    """The error of moving u, with its gathered ring, onto v."""
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
    return max(error, 0.0) + LENGTH_WEIGHT * quadrics[u, 10] * (x * x + y * y + z * z)


@kernel
def evaluate(  # type: ignore[no-untyped-def]
    first, last, positions, quadrics, wedge_quadrics, values, start, around, chain, into,
    triangle_wedge, wedge_into, kind, line, is_plain, furthest, cost, target, dirty, ring, went, to,
):  # fmt: skip
    """Renew the cheapest collapse of the dirty vertices ``first`` to ``last``, without asking whether it is allowed.

    ``is_plain``: FREE vertices have a single wedge. ``furthest``: mean squared distance of what is not considered.
    ``ring`` (3, longest ring), ``went`` and ``to`` are scratch.
    """
    has_values = len(wedge_quadrics) > 0
    for u in range(first, last):
        if not dirty[u]:
            continue
        dirty[u] = 0
        best, least = -1, np.inf
        if kind[u] == FREE and (is_plain or not has_values):
            ux, uy, uz = positions[u, 0], positions[u, 1], positions[u, 2]
            pull = LENGTH_WEIGHT * quadrics[u, 10]
            for s in range(start[u], start[u + 1]):
                v = around[s, 0]
                x, y, z = positions[v, 0] - ux, positions[v, 1] - uy, positions[v, 2] - uz
                this = plain_error(quadrics, u, x, y, z)
                if has_values:
                    c = around[s, 2]
                    this += value_error(wedge_quadrics, triangle_wedge[c], values, triangle_wedge[turn(c, 1)], x, y, z)
                this = max(this, 0.0) + pull * (x * x + y * y + z * z)
                if this < least:
                    best, least = v, this
        elif kind[u] < LOCKED:
            n_ring = gather_ring(u, start, around, into, ring)
            for k in range(2 if kind[u] == LINE else n_ring):
                v = line[u, k] if kind[u] == LINE else ring[0, k]
                if v < 0:
                    continue
                this = _cost(
                    u, v, n_ring, ring, positions, quadrics, wedge_quadrics, values, start, around,
                    chain, into, triangle_wedge, wedge_into, went, to,
                )  # fmt: skip
                if this < least:
                    best, least = v, this
        if least > furthest * quadrics[u, 10]:
            best, least = -1, np.inf
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
def move_line(u, v, kind, line):  # type: ignore[no-untyped-def]
    """Let the feature line through u run through v instead."""
    other = other_on_line(u, v, line)
    for k in range(2):
        if kind[v] == LINE and line[v, k] == u:
            line[v, k] = other
        if kind[other] == LINE and line[other, k] == u:
            line[other, k] = v


@helper
def retire(  # type: ignore[no-untyped-def]
    u, v, error, died, into, chain, touched, kind, cost, dirty, step_of, counters, step_distance,
    step_died,
):  # fmt: skip
    """u has gone into v: write the step down, with the mean squared distance around v, and hand its ring on."""
    into[u] = v
    chain[u] = chain[v]
    chain[v] = u
    touched[u] = REMOVED
    touched[v] = SURVIVES
    kind[u] = GONE
    cost[u] = np.inf
    dirty[u] = 0
    dirty[v] = 1
    step = counters[STEPS]
    step_of[u] = step
    step_distance[step] = np.sqrt(error)
    step_died[step] = died
    counters[STEPS] = step + 1
    counters[LIVE_TRIANGLES] -= died


@helper
def cheapest_of(costs, n):  # type: ignore[no-untyped-def]
    """Where the least of the first n costs is, which is then taken off; -1 where all are infinite."""
    at, least = -1, np.inf
    for k in range(n):
        if costs[k] < least:
            least, at = costs[k], k
    if at >= 0:
        costs[at] = np.inf
    return at


@helper
def look_ahead(i, n_order, order, target, start, around, positions, shading, quadrics, touched, into, mark):  # type: ignore[no-untyped-def]
    """Ask for what the next vertices in ``order`` will need: their rows first, then their rings and their neighbours.

    A pass that goes by cost hops through memory; without this it waits for most of its time.
    """
    if i + FAR < n_order:
        u = order[i + FAR]
        prefetch(start, u)
        prefetch(target, u)
        prefetch(positions, u)
        prefetch(quadrics, u)
        prefetch(touched, u)
    if i + NEAR < n_order:
        u = order[i + NEAR]
        s = start[u]
        prefetch(around, s)
        prefetch(around, s + 5)
        v = target[u]
        if v >= 0:
            prefetch(start, v)
            prefetch(positions, v)
            prefetch(quadrics, v)
            prefetch(shading, v)
            prefetch(touched, v)
    if i + NEXT < n_order:
        u = order[i + NEXT]
        for s in range(start[u], min(start[u] + 8, start[u + 1])):
            a = around[s, 0]
            prefetch(into, a)
            prefetch(positions, a)
            prefetch(shading, a)
            prefetch(mark, a)
        v = target[u]
        if v >= 0:
            s = start[v]
            prefetch(around, s)
            prefetch(around, s + 5)


@helper
def mark_dirty(v, n_ring, ring, dirty):  # type: ignore[no-untyped-def]
    """All around a gathered ring is to be evaluated anew; returns how many of its triangles have v."""
    with_v = 0
    for r in range(n_ring):
        a, b = ring[0, r], ring[1, r]
        if a == v or b == v:
            with_v += 1
        dirty[a] = 1
        dirty[b] = 1
    return with_v


@helper
def mean_error(quadrics, v):  # type: ignore[no-untyped-def]
    """The mean squared distance that v stands for."""
    return max(quadrics[v, 9], 0.0) / quadrics[v, 10] if quadrics[v, 10] > 0.0 else 0.0


@helper
def _match(  # type: ignore[no-untyped-def]
    u, v, n_ring, ring, positions, shading, wedge_quadrics, values, flat, start, around, chain, into, triangle_wedge,
    wedge_into, has_wedges, kind, line, rim, mark, stamp, went, to,
):  # fmt: skip
    """Find what u's wedges become at v; returns how many they are, -1 where u must not go there."""
    if not keeps_surface(u, v, n_ring, ring, start, around, chain, into, kind, line, rim, mark, stamp):
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
    u, v, limit, furthest, n_tried, n_ring, ring, ring_cost, positions, quadrics, wedge_quadrics, values, start, around,
    chain, into, triangle_wedge, wedge_into, kind, line, touched, went, to,
):  # fmt: skip
    """What the ways but that to v cost, where they are within ``limit``; returns the cheapest above it and its end,
    which are kept in mind for a later pass."""
    later, after = np.inf, -1
    for k in range(n_tried):
        other = line[u, k] if kind[u] == LINE else ring[0, k]
        ring_cost[k] = np.inf
        if other < 0 or other == v or touched[other] == REMOVED:
            continue
        this = _cost(
            u, other, n_ring, ring, positions, quadrics, wedge_quadrics, values, start, around, chain,
            into, triangle_wedge, wedge_into, went, to,
        )  # fmt: skip
        if this > furthest * quadrics[u, 10]:
            continue
        if this > limit:
            if this < later:
                later, after = this, other
        else:
            ring_cost[k] = this
    return later, after


@helper
def _collapse(  # type: ignore[no-untyped-def]
    u, v, n_went, went, to, positions, quadrics, wedge_quadrics, values, wedge_into, counters, node, merge_from,
    merge_to, merge_step,
):  # fmt: skip
    """u goes onto v: its error and those of its wedges are added, and which nodes become which is written down."""
    x, y, z = positions[v, 0] - positions[u, 0], positions[v, 1] - positions[u, 1], positions[v, 2] - positions[u, 2]
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
    for k in range(11):
        quadrics[v, k] += quadrics[u, k]


@kernel
def sweep(  # type: ignore[no-untyped-def]
    n_order, order, limit, furthest, least_triangles, positions, shading, quadrics, wedge_quadrics, values, flat,
    start, around, chain, into, triangle_wedge, wedge_into, has_wedges, kind, line, rim, cost, target, dirty,
    touched, mark, counters, node, step_of, merge_from, merge_to, merge_step, step_distance, step_died,
    ring, ring_cost, went, to,
):  # fmt: skip
    """Collapse the vertices in ``order`` while they cost no more than ``limit``; returns how many went.

    The arrays are those of ``arguments``. Writes one entry per collapse to ``step_distance`` and ``step_died``, one
    per wedge to ``merge_from``, ``merge_to`` and ``merge_step``.
    """
    n_all = 0
    for i in range(n_order):
        if counters[LIVE_TRIANGLES] <= least_triangles:
            break
        look_ahead(i, n_order, order, target, start, around, positions, shading, quadrics, touched, into, mark)
        u = order[i]
        if touched[u] != UNTOUCHED:
            continue
        n_ring = gather_ring(u, start, around, into, ring)
        n_tried = -1
        n_went = 0
        v, later, after = target[u], np.inf, -1
        while v >= 0:
            if touched[v] != REMOVED:
                counters[STAMP] += 2
                n_went = _match(
                    u, v, n_ring, ring, positions, shading, wedge_quadrics, values, flat, start, around, chain, into,
                    triangle_wedge, wedge_into, has_wedges, kind, line, rim, mark, counters[STAMP], went, to,
                )  # fmt: skip
                if n_went >= 0:
                    break
            if n_tried < 0:
                n_tried = 2 if kind[u] == LINE else n_ring
                later, after = _weigh_others(
                    u, v, limit, furthest, n_tried, n_ring, ring, ring_cost, positions, quadrics, wedge_quadrics,
                    values, start, around, chain, into, triangle_wedge, wedge_into, kind, line, touched, went, to,
                )  # fmt: skip
            v = -1
            at = cheapest_of(ring_cost, n_tried)
            if at >= 0:
                v = line[u, at] if kind[u] == LINE else ring[0, at]
        if v < 0:
            cost[u] = later
            target[u] = after
            continue
        died = mark_dirty(v, n_ring, ring, dirty)
        _collapse(
            u, v, n_went, went, to, positions, quadrics, wedge_quadrics, values, wedge_into, counters, node,
            merge_from, merge_to, merge_step,
        )  # fmt: skip
        if kind[u] == LINE:
            move_line(u, v, kind, line)
        retire(
            u, v, mean_error(quadrics, v), died, into, chain, touched, kind, cost, dirty, step_of, counters,
            step_distance, step_died,
        )  # fmt: skip
        n_all += 1
    return n_all


@kernel
def close_up(triangle_vertex, triangle_wedge, name, into, wedge_into, step_of, has_wedges, died_at):  # type: ignore[no-untyped-def]
    """Let the triangles follow their vertices and close up over those that died; returns how many are left.

    ``died_at`` receives the step at which each triangle died, by its first name.
    """
    count = 0
    for t in range(len(triangle_vertex)):
        a, b, c = triangle_vertex[t, 0], triangle_vertex[t, 1], triangle_vertex[t, 2]
        x, y, z = into[a], into[b], into[c]
        if x == y or y == z or z == x:
            # Of two that now agree the later to move made it die.
            step = -1
            if x == y:
                step = max(step_of[a] if a != x else -1, step_of[b] if b != y else -1)
            if y == z:
                other = max(step_of[b] if b != y else -1, step_of[c] if c != z else -1)
                step = other if step < 0 else min(step, other)
            if z == x:
                other = max(step_of[c] if c != z else -1, step_of[a] if a != x else -1)
                step = other if step < 0 else min(step, other)
            died_at[name[t]] = step
            continue
        (triangle_vertex[count, 0], triangle_vertex[count, 1], triangle_vertex[count, 2]) = x, y, z
        if has_wedges:
            for k in range(3):
                triangle_wedge[count, k] = wedge_into[triangle_wedge[t, k]]
        name[count] = name[t]
        count += 1
    return count
