"""What both passes do at a collapse: look ahead, write the step down, and close up over the triangles that died."""

import numpy as np

from plindro.core.numeric.kernels import helper, kernel, prefetch
from plindro.core.reduction.features import GONE, LINE
from plindro.core.reduction.quadrics import AREA
from plindro.core.reduction.soundness import other_on_line

LIVE_TRIANGLES, STAMP, STEPS, MERGES, NODES = 0, 1, 2, 3, 4
"""Places in the counters."""
UNTOUCHED, SURVIVES, REMOVED = 0, 1, 2
FAR, NEAR, NEXT = 16, 8, 4
"""How many vertices ahead memory is asked for."""


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
    counters[STEPS] = step + 1
    counters[LIVE_TRIANGLES] -= died


@helper
def is_later(cost, limit):  # type: ignore[no-untyped-def]
    """Whether what costs so much waits for a later pass.

    Costs are kept in single precision. In double two ways that cost the same could put each other off for ever.
    """
    return np.float32(cost) > limit


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
    return max(quadrics[v, 9], 0.0) / quadrics[v, AREA] if quadrics[v, AREA] > 0.0 else 0.0


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
