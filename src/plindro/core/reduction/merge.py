"""One pass that moves vertices: the two ends of an edge become one vertex where their errors together are least.

Otherwise a pass is that of ``sweep``; here a vertex takes part in one merge a pass, since its place and its error have
changed.
"""

import numpy as np

from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.reduction.costs import MOST_WEDGES, turn
from plindro.core.reduction.edges import edge_cost, is_edge, pair_wedges, roles
from plindro.core.reduction.features import FREE, LINE
from plindro.core.reduction.quadrics import KEPT, move_row, move_values, plain_error
from plindro.core.reduction.solving import CHANGE, fit_values, shared_value, solve
from plindro.core.reduction.soundness import folds, gather_ring, keeps_surface
from plindro.core.reduction.steps import (
    LIVE_TRIANGLES,
    MERGES,
    NODES,
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
from plindro.core.reduction.volume import keep_volume


@helper
def _folds_wedges(  # type: ignore[no-untyped-def]
    u, other, x, y, z, n_ring, ring, positions, shading, triangle_wedge, wedge_into, values, flat, has_normals,
    side, n_pairs, pairs, rows,
):  # fmt: skip
    """Whether a triangle of the gathered ring of u, but those with ``other``, folds when u moves to x, y, z.

    ``flat`` is the first of two values that hold UVs, -1 where there are none; ``side`` of the pairs are u's wedges.
    """
    n_values = values.shape[1]
    ox, oy, oz = positions[u, 0], positions[u, 1], positions[u, 2]
    for r in range(n_ring):
        a, b = ring[0, r], ring[1, r]
        if a == other or b == other:
            continue
        c = ring[2, r]
        w = wedge_into[triangle_wedge[c]]
        i, j = wedge_into[triangle_wedge[turn(c, 1)]], wedge_into[triangle_wedge[turn(c, 2)]]
        at = -1
        for p in range(n_pairs):
            if pairs[side, p] == w:
                at = p
        sx, sy, sz = shading[w, 0], shading[w, 1], shading[w, 2]
        mate = pairs[1 - side, at] if at >= 0 else -1
        if has_normals and at >= 0:
            from_wedge = pairs[1, at] if pairs[1, at] >= 0 else w
            sx = values[from_wedge, 0] + rows[at * n_values, CHANGE]
            sy = values[from_wedge, 1] + rows[at * n_values + 1, CHANGE]
            sz = values[from_wedge, 2] + rows[at * n_values + 2, CHANGE]
            size = np.sqrt(sx * sx + sy * sy + sz * sz)
            if size > 0.0:
                sx, sy, sz = sx / size, sy / size, sz / size
        elif mate >= 0:
            sx = 0.5 * (sx + shading[mate, 0])
            sy = 0.5 * (sy + shading[mate, 1])
            sz = 0.5 * (sz + shading[mate, 2])
        sx += shading[i, 0] + shading[j, 0]
        sy += shading[i, 1] + shading[j, 1]
        sz += shading[i, 2] + shading[j, 2]
        if folds(positions, a, b, ox, oy, oz, x, y, z, sx, sy, sz):
            return True
        if flat >= 0 and at >= 0:
            from_wedge = pairs[1, at] if pairs[1, at] >= 0 else w
            s = values[from_wedge, flat] + rows[at * n_values + flat, CHANGE]
            t = values[from_wedge, flat + 1] + rows[at * n_values + flat + 1, CHANGE]
            ex, ey = values[j, flat] - values[i, flat], values[j, flat + 1] - values[i, flat + 1]
            before = ex * (values[w, flat + 1] - values[i, flat + 1]) - ey * (values[w, flat] - values[i, flat])
            now = ex * (t - values[i, flat + 1]) - ey * (s - values[i, flat])
            if before * now < 0.0:
                return True
    return False


@helper
def _folds_ring(u, other, x, y, z, n_ring, ring, positions, shading):  # type: ignore[no-untyped-def]
    """The same where every vertex has one wedge, by its own number, and nothing that could fold but the surface."""
    ox, oy, oz = positions[u, 0], positions[u, 1], positions[u, 2]
    mx = 0.5 * (shading[u, 0] + shading[other, 0])
    my = 0.5 * (shading[u, 1] + shading[other, 1])
    mz = 0.5 * (shading[u, 2] + shading[other, 2])
    for r in range(n_ring):
        a, b = ring[0, r], ring[1, r]
        if a == other or b == other:
            continue
        sx = mx + shading[a, 0] + shading[b, 0]
        sy = my + shading[a, 1] + shading[b, 1]
        sz = mz + shading[a, 2] + shading[b, 2]
        if folds(positions, a, b, ox, oy, oz, x, y, z, sx, sy, sz):
            return True
    return False


@helper
def _match(  # type: ignore[no-untyped-def]
    dies, keeps, is_fixed, n_ring, ring, start, around, chain, into, kind, line, rim, watch, mark, stamp, has_wedges,
    triangle_wedge, wedge_into, pairs,
):  # fmt: skip
    """Pair the wedges of both ends, over the gathered ring of the one that dies; -1 where they must not become one."""
    if not keeps_surface(dies, keeps, n_ring, ring, start, around, chain, into, kind, line, rim, watch, mark, stamp):
        return -1
    if not has_wedges:
        pairs[0, 0], pairs[1, 0] = dies, keeps
        return 1
    return pair_wedges(dies, keeps, is_fixed, n_ring, ring, start, around, into, triangle_wedge, wedge_into, pairs)


@helper
def _hold_axes(u, v, positions, x, y, z, place):  # type: ignore[no-untyped-def]
    """A border along an axis stays on it to the last bit."""
    if positions[u, 0] == positions[v, 0]:
        x, place[0] = positions[u, 0], 0.0
    if positions[u, 1] == positions[v, 1]:
        y, place[1] = positions[u, 1], 0.0
    if positions[u, 2] == positions[v, 2]:
        z, place[2] = positions[u, 2], 0.0
    return x, y, z


@helper
def _error_at(dies, keeps, x, y, z, positions, quadrics):  # type: ignore[no-untyped-def]
    """What both ends err, their values kept, when they go to an offset from the one that keeps its name."""
    dx, dy, dz = (
        positions[keeps, 0] - positions[dies, 0],
        positions[keeps, 1] - positions[dies, 1],
        positions[keeps, 2] - positions[dies, 2],
    )
    whole = plain_error(quadrics, keeps, x, y, z) + plain_error(quadrics, dies, x + dx, y + dy, z + dz)
    return whole - quadrics[keeps, 9] + quadrics[keeps, KEPT] - quadrics[dies, 9] + quadrics[dies, KEPT]


@helper
def _other_place(which, dies, keeps, positions, place):  # type: ignore[no-untyped-def]
    """A plain place of an edge, as an offset: the end that keeps its name, the middle, the other end."""
    for k in range(3):
        place[k] = 0.5 * which * (positions[dies, k] - positions[keeps, k])


@helper
def _folds_there(  # type: ignore[no-untyped-def]
    u, v, dies, is_fixed, x, y, z, n_ring, ring, n_other, other_ring, n_pairs, pairs, positions, shading, values, flat,
    has_normals, has_wedges, triangle_wedge, wedge_into, rows,
):  # fmt: skip
    """Whether a triangle around u or v folds when they go to x, y, z."""
    # Where the one that keeps its name keeps its place too, its triangles stay as they are.
    moves_u, moves_v = not is_fixed or dies == u, not is_fixed or dies == v
    if not has_wedges:
        return (moves_u and _folds_ring(u, v, x, y, z, n_ring, ring, positions, shading)) or (
            moves_v and _folds_ring(v, u, x, y, z, n_other, other_ring, positions, shading)
        )
    side_u = 0 if dies == u else 1
    return (moves_u and _folds_wedges(
        u, v, x, y, z, n_ring, ring, positions, shading, triangle_wedge, wedge_into, values, flat, has_normals, side_u,
        n_pairs, pairs, rows,
    )) or (moves_v and _folds_wedges(
        v, u, x, y, z, n_other, other_ring, positions, shading, triangle_wedge, wedge_into, values, flat, has_normals,
        1 - side_u, n_pairs, pairs, rows,
    ))  # fmt: skip


@helper
def _balance(  # type: ignore[no-untyped-def]
    u, v, dies, keeps, n_ring, ring, n_other, other_ring, n_pairs, pairs, positions, quadrics, values, rows, axes,
    place,
):  # fmt: skip
    """Move the best place to where the volume stays, and fit the values there; ``place[4]`` becomes what that costs."""
    n_values = values.shape[1]
    best = (place[0], place[1], place[2])
    if not keep_volume(u, v, keeps, n_ring, ring, n_other, other_ring, positions, axes, place):
        return
    least = _error_at(dies, keeps, best[0], best[1], best[2], positions, quadrics)
    least -= fit_values(best, False, n_pairs, pairs, n_values, rows)
    error = _error_at(dies, keeps, place[0], place[1], place[2], positions, quadrics)
    error -= fit_values(place, False, n_pairs, pairs, n_values, rows)
    place[4] = max(error - least, 0.0)


@helper
def _fits(  # type: ignore[no-untyped-def]
    u, v, dies, keeps, is_fixed, floor, limit, n_ring, ring, n_other, other_ring, n_pairs, pairs, positions, shading,
    quadrics, wedge_quadrics, values, flat, has_normals, has_wedges, triangle_wedge, wedge_into, kind, rows, axes,
    place,
):  # fmt: skip
    """Find where u and v go as one, so that no triangle around them folds; fills ``rows`` and ``place``.

    Where one folds at the best place the ends and the middle are tried. ``place[3]`` becomes what those cost that cost
    more than ``limit``, infinite where there are none; ``place[4]`` what keeping the volume costs.
    """
    # Without values the wedges are counted, but none is solved for.
    n_solved = n_pairs if len(wedge_quadrics) > 0 else 0
    solve(dies, keeps, is_fixed, n_solved, pairs, positions, quadrics, wedge_quadrics, values, rows, place)
    place[3] = np.inf
    place[4] = 0.0
    if not is_fixed:
        _balance(
            u, v, dies, keeps, n_ring, ring, n_other, other_ring, n_solved, pairs, positions, quadrics, values, rows,
            axes, place,
        )  # fmt: skip
    for which in range(-1, 3):
        if which >= 0:
            if is_fixed:
                return False
            _other_place(which, dies, keeps, positions, place)
            place[4] = 0.0
            error = _error_at(dies, keeps, place[0], place[1], place[2], positions, quadrics)
            if is_later(error, limit):
                place[3] = min(place[3], error)
                continue
            fit_values(place, is_fixed, n_solved, pairs, values.shape[1], rows)
        x, y, z = positions[keeps, 0] + place[0], positions[keeps, 1] + place[1], positions[keeps, 2] + place[2]
        if kind[u] == LINE and kind[v] == LINE and not is_fixed:
            x, y, z = _hold_axes(u, v, positions, x, y, z, place)
        if not is_fixed and x < floor:
            continue
        if not _folds_there(
            u, v, dies, is_fixed, x, y, z, n_ring, ring, n_other, other_ring, n_pairs, pairs, positions, shading,
            values, flat, has_normals, has_wedges, triangle_wedge, wedge_into, rows,
        ):  # fmt: skip
            return True
    return False


@helper
def _weigh_others(  # type: ignore[no-untyped-def]
    u, v, limit, n_ring, ring, other_ring, ring_cost, positions, quadrics, wedge_quadrics, values, start,
    around, into, triangle_wedge, wedge_into, kind, line, lines_move, touched, pairs, rows, place,
):  # fmt: skip
    """What u's edges but that to v cost, where they are within ``limit``; returns the cheapest above it and its end."""
    later, after = np.inf, -1
    for k in range(n_ring + 2):
        other = index(ring[0, k] if k < n_ring else line[u, k - n_ring])
        ring_cost[k] = np.inf
        if other <= u or other == v or (k >= n_ring and kind[u] != LINE) or touched[other] != UNTOUCHED:
            continue
        if not is_edge(u, other, kind, line) or (k < n_ring and kind[u] == LINE and kind[other] != FREE):
            continue
        this = edge_cost(
            u, other, n_ring, ring, other_ring, positions, quadrics, wedge_quadrics, values, start,
            around, into, triangle_wedge, wedge_into, kind, line, lines_move, pairs, rows, place,
        )  # fmt: skip
        if is_later(this, limit):
            if this < later:
                later, after = this, other
        else:
            ring_cost[k] = this
    return later, after


@helper
def _add_errors(dies, keeps, n_pairs, pairs, positions, quadrics, wedge_quadrics, values):  # type: ignore[no-untyped-def]
    """The error of the one that dies, seen from the other's place and values, is added to the other's."""
    dx = positions[keeps, 0] - positions[dies, 0]
    dy = positions[keeps, 1] - positions[dies, 1]
    dz = positions[keeps, 2] - positions[dies, 2]
    move_row(quadrics, dies, dx, dy, dz)
    for p in range(n_pairs):
        a, b = pairs[0, p], pairs[1, p]
        if a < 0 or len(wedge_quadrics) == 0:
            continue
        for m in range(values.shape[1]):
            change = values[b, m] - values[a, m] if b >= 0 else 0.0
            move_values(quadrics, dies, wedge_quadrics, a, dx, dy, dz, m, change)
        if b >= 0:
            for m in range(wedge_quadrics.shape[1]):
                wedge_quadrics[b, m] += wedge_quadrics[a, m]
    for k in range(KEPT):
        quadrics[keeps, k] += quadrics[dies, k]


@helper
def _move(keeps, place, positions, quadrics):  # type: ignore[no-untyped-def]
    """The one that keeps its name goes to its place."""
    if place[0] != 0.0 or place[1] != 0.0 or place[2] != 0.0:
        move_row(quadrics, keeps, place[0], place[1], place[2])
        for k in range(3):
            positions[keeps, k] += place[k]


@helper
def _blend_shading(w, a, b, is_new, has_normals, values, shading):  # type: ignore[no-untyped-def]
    """The normal of wedge w once a and b have become it."""
    if a >= 0 and b >= 0 and not has_normals:
        for k in range(3):
            shading[b, k] += shading[a, k]
    elif is_new and has_normals:
        for k in range(3):
            shading[w, k] = values[w, k]
    size = np.sqrt(shading[w, 0] ** 2 + shading[w, 1] ** 2 + shading[w, 2] ** 2)
    for k in range(3):
        shading[w, k] = shading[w, k] / size if size > 0.0 else 0.0


@helper
def _record(  # type: ignore[no-untyped-def]
    w, a, b, keeps, is_new, step, positions, values, wedge_into, counters, node, merge_from, merge_to, merge_step,
    node_place, node_values,
):  # fmt: skip
    """Write down which nodes become which, and what a new one holds."""
    goes = node[w]
    at = counters[MERGES]
    if is_new:
        goes = counters[NODES]
        counters[NODES] = goes + 1
        for k in range(3):
            node_place[goes, k] = positions[keeps, k]
        for m in range(values.shape[1]):
            node_values[goes, m] = values[w, m]
        if b >= 0:
            merge_from[at], merge_to[at], merge_step[at] = node[b], goes, step
            at += 1
    if a >= 0:
        merge_from[at], merge_to[at], merge_step[at] = node[a], goes, step
        at += 1
        if b >= 0:
            wedge_into[a] = b
    node[w] = goes
    counters[MERGES] = at


@helper
def _join_wedges(  # type: ignore[no-untyped-def]
    keeps, is_fixed, has_normals, n_pairs, pairs, rows, place, positions, shading, quadrics, wedge_quadrics, values,
    wedge_into, counters, node, merge_from, merge_to, merge_step, node_place, node_values,
):  # fmt: skip
    """Each pair of wedges becomes one, with the values that were solved for."""
    n_values = values.shape[1]
    step = counters[STEPS]
    for p in range(n_pairs):
        a, b = pairs[0, p], pairs[1, p]
        w = b if b >= 0 else a
        is_new = not is_fixed or b < 0
        for other in range(p):
            # Two wedges that go into one: the first has made what it becomes.
            is_new &= b < 0 or pairs[1, other] != b
        if is_new and len(wedge_quadrics) > 0:
            for m in range(n_values):
                change = rows[p * n_values + m, CHANGE]
                move_values(quadrics, keeps, wedge_quadrics, w, place[0], place[1], place[2], m, change)
                values[w, m] += change
                values[w, m] = shared_value(p, m, is_fixed, n_pairs, pairs, values, rows)
        _blend_shading(w, a, b, is_new, has_normals, values, shading)
        _record(
            w, a, b, keeps, is_new, step, positions, values, wedge_into, counters, node, merge_from, merge_to,
            merge_step, node_place, node_values,
        )  # fmt: skip


@kernel
def merge(  # type: ignore[no-untyped-def]
    n_order, order, limit, least_triangles, floor, positions, shading, quadrics, wedge_quadrics, values, flat,
    has_normals, start, around, chain, into, triangle_wedge, wedge_into, has_wedges, kind, line, lines_move, rim,
    watch, cost, target, dirty, touched, mark, counters, node, step_of, merge_from, merge_to, merge_step,
    step_distance, node_place, node_values, ring, other_ring, ring_cost, pairs, rows, axes, place,
):  # fmt: skip
    """Merge the edges of the vertices in ``order`` while they cost no more than ``limit``; returns how many.

    The arrays are those of ``arguments``. Writes one entry per merge to ``step_distance``, one per
    wedge to ``merge_from``, ``merge_to`` and ``merge_step``, and what a new vertex holds to ``node_place`` and
    ``node_values``.
    """
    n_all = n_other = 0
    for i in range(n_order):
        # Wedges that stand alone make nodes without end; there is always room for one more vertex.
        is_full = counters[NODES] + MOST_WEDGES > len(node_place) or counters[MERGES] + 2 * MOST_WEDGES > len(
            merge_from
        )
        if counters[LIVE_TRIANGLES] <= least_triangles or is_full:
            break
        look_ahead(i, n_order, order, target, start, around, positions, shading, quadrics, touched, into, mark)
        u = index(order[i])
        # Beside a vertex that has changed all is to be evaluated anew.
        if touched[u] != UNTOUCHED or touched[target[u]] != UNTOUCHED:
            continue
        n_ring = gather_ring(u, start, around, into, ring)
        n_tried = -1
        v, later, after, deferred, until = index(target[u]), np.inf, -1, np.inf, -1
        dies, keeps, is_fixed, n_pairs = u, v, False, 0
        while v >= 0:
            if touched[v] == UNTOUCHED:
                dies, keeps, is_fixed = roles(u, v, kind, line, positions, lines_move)
                n_other = gather_ring(v, start, around, into, other_ring)
                counters[STAMP] += 2
                # A surface is kept or not whichever of the two dies, but along a line the one that dies must lie on it.
                if dies == u:
                    n_pairs = _match(
                        dies, keeps, is_fixed, n_ring, ring, start, around, chain, into, kind, line, rim, watch, mark,
                        counters[STAMP], has_wedges, triangle_wedge, wedge_into, pairs,
                    )  # fmt: skip
                else:
                    n_pairs = _match(
                        dies, keeps, is_fixed, n_other, other_ring, start, around, chain, into, kind, line, rim, watch,
                        mark, counters[STAMP], has_wedges, triangle_wedge, wedge_into, pairs,
                    )  # fmt: skip
                if n_pairs >= 0 and _fits(
                    u, v, dies, keeps, is_fixed, floor, limit, n_ring, ring, n_other, other_ring, n_pairs, pairs,
                    positions, shading, quadrics, wedge_quadrics, values, flat, has_normals, has_wedges, triangle_wedge,
                    wedge_into, kind, rows, axes, place,
                ):  # fmt: skip
                    break
                if n_pairs >= 0 and place[3] < deferred:
                    deferred, until = place[3], v
            if n_tried < 0:
                n_tried = n_ring + 2
                later, after = _weigh_others(
                    u, v, limit, n_ring, ring, other_ring, ring_cost, positions, quadrics, wedge_quadrics,
                    values, start, around, into, triangle_wedge, wedge_into, kind, line, lines_move, touched, pairs,
                    rows, place,
                )  # fmt: skip
            v = -1
            at = cheapest_of(ring_cost, n_tried)
            if at >= 0:
                v = index(ring[0, at] if at < n_ring else line[u, at - n_ring])
        if v < 0:
            cost[u] = min(later, deferred)
            target[u] = after if later <= deferred else until
            continue
        died = mark_dirty(v, n_ring, ring, dirty)
        mark_dirty(v, n_other, other_ring, dirty)
        _add_errors(dies, keeps, n_pairs, pairs, positions, quadrics, wedge_quadrics, values)
        _move(keeps, place, positions, quadrics)
        quadrics[keeps, KEPT] = place[4]
        _join_wedges(
            keeps, is_fixed, has_normals, n_pairs, pairs, rows, place, positions, shading, quadrics, wedge_quadrics,
            values, wedge_into, counters, node, merge_from, merge_to, merge_step, node_place, node_values,
        )  # fmt: skip
        if kind[dies] == LINE:
            move_line(dies, keeps, kind, line)
        retire(
            dies, keeps, mean_error(quadrics, keeps), died, into, chain, touched, kind, cost, dirty, step_of, counters,
            step_distance,
        )  # fmt: skip
        n_all += 1
    return n_all
