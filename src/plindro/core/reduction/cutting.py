"""Cutting a surface along a cycle of three edges and capping both sides.

The side with fewer triangles gets copies of the three vertices, with their errors shared by area. In the record its
triangles end and begin anew with the copies, so that what was one vertex may go two ways.
"""

import numpy as np

from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.reduction.costs import MOST_WEDGES, turn
from plindro.core.reduction.cycles import corner_of_edge, keeps_whole, ordered_ring, place_in
from plindro.core.reduction.handles import WATCHES
from plindro.core.reduction.steps import LIVE_TRIANGLES, NODES, STAMP, STEPS

WEDGES, VERTICES, BORN = 5, 6, 7
"""Places in the counters, after those of ``steps``: how many wedges, vertices and born triangles there are."""
N_COUNTERS = 8


@helper
def _area(c, triangles, positions):  # type: ignore[no-untyped-def]
    t = c // 3
    a, b, d = triangles[t, 0], triangles[t, 1], triangles[t, 2]
    ux, uy, uz = positions[b, 0] - positions[a, 0], positions[b, 1] - positions[a, 1], positions[b, 2] - positions[a, 2]
    vx, vy, vz = positions[d, 0] - positions[a, 0], positions[d, 1] - positions[a, 1], positions[d, 2] - positions[a, 2]
    x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    return 0.5 * np.sqrt(x * x + y * y + z * z)


@helper
def _arc_length(fan, n, first, last):  # type: ignore[no-untyped-def]
    """How many triangles lie counter-clockwise between two neighbours."""
    return (place_in(fan, n, last) - place_in(fan, n, first)) % n


@helper
def _is_untouched(u, n, fan, touched):  # type: ignore[no-untyped-def]
    if touched[u]:
        return False
    n_touched = 0
    for i in range(n):
        n_touched += touched[fan[i]]
    return n_touched == 0


@helper
def _copy_wedge(  # type: ignore[no-untyped-def]
    wedge, copy, place_of, share, is_split, positions, shading, wedge_quadrics, values, node, counters, node_place,
    node_values, copies,
):  # fmt: skip
    """Wedge ``copy`` becomes what ``wedge`` is, with a node of its own and its share of the error."""
    for k in range(3):
        shading[copy, k] = shading[wedge, k]
    for m in range(values.shape[1]):
        values[copy, m] = values[wedge, m]
    if len(wedge_quadrics):
        for m in range(wedge_quadrics.shape[1]):
            wedge_quadrics[copy, m] = wedge_quadrics[wedge, m] * (share if is_split else 1.0)
            if is_split:
                wedge_quadrics[wedge, m] *= 1.0 - share
    fresh = counters[NODES]
    counters[NODES] = fresh + 1
    node[copy] = fresh
    for k in range(3):
        node_place[fresh, k] = positions[place_of, k]
    for m in range(values.shape[1]):
        node_values[fresh, m] = values[wedge, m]
    at = copies[0, 0]
    copies[at + 1, 0], copies[at + 1, 1], copies[at + 1, 2] = fresh, node[wedge], counters[STEPS]
    copies[at + 1, 3] = place_of
    copies[0, 0] = at + 1


@helper
def _split_vertex(  # type: ignore[no-untyped-def]
    u, first, last, n, fan, corner, triangles, triangle_wedge, has_wedges, positions, shading, quadrics, wedge_quadrics,
    values, node, counters, node_place, node_values, copies, went, to,
):  # fmt: skip
    """Give the triangles of u from the neighbour ``first`` counter-clockwise to ``last`` a copy of it; returns that."""
    begin, length = place_in(fan, n, first), _arc_length(fan, n, first, last)
    own = other = 0.0
    for i in range(n):
        area = _area(corner[(begin + i) % n], triangles, positions)
        if i < length:
            own += area
        else:
            other += area
    share = own / (own + other) if own + other > 0.0 else 0.5
    copy = counters[VERTICES]
    counters[VERTICES] = copy + 1
    for k in range(3):
        positions[copy, k] = positions[u, k]
    for k in range(quadrics.shape[1]):
        quadrics[copy, k] = quadrics[u, k] * share
        quadrics[u, k] *= 1.0 - share
    n_wedges = 0
    for i in range(length):
        c = corner[(begin + i) % n]
        wedge = triangle_wedge[c // 3, c % 3]
        at = place_in(went, n_wedges, wedge)
        if at < 0:
            at = n_wedges
            n_wedges += 1
            went[at], to[at] = wedge, counters[WEDGES]
            counters[WEDGES] += 1
            is_split = False
            for j in range(length, n):
                d = corner[(begin + j) % n]
                is_split |= triangle_wedge[d // 3, d % 3] == wedge
            _copy_wedge(
                wedge, to[at], copy, share, is_split, positions, shading, wedge_quadrics, values, node, counters,
                node_place, node_values, copies,
            )  # fmt: skip
        triangles[c // 3, c % 3] = copy
        if has_wedges:
            triangle_wedge[c // 3, c % 3] = to[at]
    return copy


@helper
def _begin_anew(t, first_new, n_names, triangle_wedge, name, node, counters, died_at, like, born_nodes, born_at):  # type: ignore[no-untyped-def]
    """The triangle t ends at this step and begins again with the nodes that it has now, unless it has done so."""
    old = name[t]
    if old >= first_new:
        return
    at = counters[BORN]
    counters[BORN] = at + 1
    if old < n_names:
        died_at[old] = counters[STEPS]
    name[t] = n_names + at
    like[at] = old
    born_at[at] = counters[STEPS] + 1
    for k in range(3):
        born_nodes[at, k] = node[triangle_wedge[t, k]]


@helper
def _cap(  # type: ignore[no-untyped-def]
    t, beside, a, b, c, wa, wb, wc, triangles, triangle_wedge, has_wedges, name, n_names, node, counters, like,
    born_nodes, born_at,
):  # fmt: skip
    """A new triangle over a cycle, that belongs where the triangle ``beside`` it does."""
    triangles[t, 0], triangles[t, 1], triangles[t, 2] = a, b, c
    if has_wedges:
        triangle_wedge[t, 0], triangle_wedge[t, 1], triangle_wedge[t, 2] = wa, wb, wc
    at = counters[BORN]
    counters[BORN] = at + 1
    name[t] = n_names + at
    like[at] = name[beside]
    born_at[at] = counters[STEPS] + 1
    for k in range(3):
        born_nodes[at, k] = node[triangle_wedge[t, k]]


@helper
def _corner_towards(n, fan, corner, v):  # type: ignore[no-untyped-def]
    """The corner of the triangle that leaves a vertex along the edge to v."""
    return corner[place_in(fan, n, v)]


@kernel
def cut_cycles(  # type: ignore[no-untyped-def]
    cycles, start, around, arriving, fans, corners, mark, left, right, touched, dirty, went, to, triangles,
    triangle_wedge, has_wedges, name, n_triangles, n_names, positions, shading, quadrics, wedge_quadrics, values, node,
    counters, node_place, node_values, copies, made_of, died_at, like, born_nodes, born_at, step_distance, watch,
):  # fmt: skip
    """Cut along the ``cycles`` (N, 3) in their order, those that lie apart and part nothing; returns how many.

    The arrays have room behind the ``n_triangles``, and as many vertices and wedges as the counters say, for what
    comes. ``copies`` (1 + N, 4): its first entry counts; rows of node, node that it copies, step and vertex. ``like``,
    ``born_nodes`` (B, 3) and ``born_at``: of each new triangle the name of that which it continues or lies beside, its
    nodes, and the step from which it is there; ``made_of`` (3 N,) what each new vertex was.
    """
    n_cuts, first_made = 0, counters[VERTICES]
    for i in range(len(cycles)):
        u, v, w = cycles[i, 0], cycles[i, 1], cycles[i, 2]
        n_u = ordered_ring(u, start, around, arriving, fans[0], corners[0])
        n_v = ordered_ring(v, start, around, arriving, fans[1], corners[1])
        n_w = ordered_ring(w, start, around, arriving, fans[2], corners[2])
        if min(n_u, n_v, n_w) < 3 or max(n_u, n_v, n_w) > MOST_WEDGES:
            watch[u] = WATCHES
            continue
        if not (
            _is_untouched(u, n_u, fans[0], touched)
            and _is_untouched(v, n_v, fans[1], touched)
            and _is_untouched(w, n_w, fans[2], touched)
        ):
            continue
        room = n_u + n_v + n_w
        if (
            counters[BORN] + room + 2 > len(like)
            or counters[WEDGES] + 3 * MOST_WEDGES > len(node)
            or copies[0, 0] + 1 + 3 * MOST_WEDGES > len(copies)
            or counters[NODES] + 3 * MOST_WEDGES > len(node_place)
        ):
            break
        counters[STAMP] += 2
        if not keeps_whole(u, v, w, n_u, fans[0], start, around, mark, counters[STAMP], left, right):
            watch[u] = WATCHES
            continue
        # The side that is on the right of the cycle gets the copies: the one with fewer triangles.
        on_right = _arc_length(fans[0], n_u, w, v) + _arc_length(fans[1], n_v, u, w) + _arc_length(fans[2], n_w, v, u)
        is_turned = 2 * on_right > room
        if is_turned:
            v, w = w, v
            for k in range(fans.shape[1]):
                fans[1, k], fans[2, k] = fans[2, k], fans[1, k]
                corners[1, k], corners[2, k] = corners[2, k], corners[1, k]
            n_v, n_w = n_w, n_v
        left_uv, left_wu = _corner_towards(n_u, fans[0], corners[0], v), _corner_towards(n_w, fans[2], corners[2], u)
        right_vu, right_uw = _corner_towards(n_v, fans[1], corners[1], u), _corner_towards(n_u, fans[0], corners[0], w)
        shared = (
            triangles, triangle_wedge, has_wedges, positions, shading, quadrics, wedge_quadrics, values, node,
            counters, node_place, node_values, copies, went, to,
        )  # fmt: skip
        new_u = _split_vertex(u, w, v, n_u, fans[0], corners[0], *shared)
        new_v = _split_vertex(v, u, w, n_v, fans[1], corners[1], *shared)
        new_w = _split_vertex(w, v, u, n_w, fans[2], corners[2], *shared)
        made_of[new_u - first_made], made_of[new_v - first_made], made_of[new_w - first_made] = u, v, w
        first_new = n_names + counters[BORN]
        for which in range(3):
            n = n_u if which == 0 else n_v if which == 1 else n_w
            first = w if which == 0 else u if which == 1 else v
            last = v if which == 0 else w if which == 1 else u
            begin = place_in(fans[which], n, first)
            for k in range(_arc_length(fans[which], n, first, last)):
                _begin_anew(
                    corners[which, (begin + k) % n] // 3, first_new, n_names, triangle_wedge, name, node, counters,
                    died_at, like, born_nodes, born_at,
                )  # fmt: skip
        t = n_triangles + 2 * n_cuts
        # Each cap goes on from the triangles beside it.
        _cap(
            t, left_uv // 3, u, w, v, _wedge_at(left_uv, 0, triangle_wedge), _wedge_at(left_wu, 0, triangle_wedge),
            _wedge_at(left_uv, 1, triangle_wedge), triangles, triangle_wedge, has_wedges, name, n_names, node, counters,
            like, born_nodes, born_at,
        )  # fmt: skip
        _cap(
            t + 1, right_vu // 3, new_u, new_v, new_w, _wedge_at(right_vu, 1, triangle_wedge),
            _wedge_at(right_vu, 0, triangle_wedge), _wedge_at(right_uw, 1, triangle_wedge), triangles, triangle_wedge,
            has_wedges, name, n_names, node, counters, like, born_nodes, born_at,
        )  # fmt: skip
        _touch(u, n_u, fans[0], touched, dirty)
        _touch(v, n_v, fans[1], touched, dirty)
        _touch(w, n_w, fans[2], touched, dirty)
        step_distance[counters[STEPS]] = 0.0
        counters[STEPS] += 1
        counters[LIVE_TRIANGLES] += 2
        n_cuts += 1
    return n_cuts


@kernel
def close_loops(  # type: ignore[no-untyped-def]
    loops, start, around, shell, left, touched, dirty, triangles, triangle_wedge, has_wedges, name, n_triangles,
    n_names, node, counters, like, born_nodes, born_at, step_distance,
):  # fmt: skip
    """Close the ``loops`` (N, 3) in their order, those that lie apart; returns how many.

    The last border of a shell stays: ``left`` (S,) says how many each has. Otherwise as ``cut_cycles``.
    """
    n_closed = 0
    for i in range(len(loops)):
        u, v, w = index(loops[i, 0]), index(loops[i, 1]), index(loops[i, 2])
        if touched[u] or touched[v] or touched[w] or left[shell[u]] < 2:
            continue
        c, d = corner_of_edge(u, v, start, around), corner_of_edge(w, u, start, around)
        _cap(
            n_triangles + n_closed, c // 3, u, w, v, _wedge_at(c, 0, triangle_wedge), _wedge_at(d, 0, triangle_wedge),
            _wedge_at(c, 1, triangle_wedge), triangles, triangle_wedge, has_wedges, name, n_names, node, counters, like,
            born_nodes, born_at,
        )  # fmt: skip
        for which in range(3):
            x = loops[i, which]
            touched[x] = 1
            dirty[x] = 1
            for s in range(start[x], start[x + 1]):
                for k in range(2):
                    touched[around[s, k]] = 1
                    dirty[around[s, k]] = 1
        left[shell[u]] -= 1
        step_distance[counters[STEPS]] = 0.0
        counters[STEPS] += 1
        counters[LIVE_TRIANGLES] += 1
        n_closed += 1
    return n_closed


@helper
def _wedge_at(c, by, triangle_wedge):  # type: ignore[no-untyped-def]
    at = turn(c, by)
    return triangle_wedge[at // 3, at % 3]


@helper
def _touch(u, n, fan, touched, dirty):  # type: ignore[no-untyped-def]
    touched[u] = 1
    dirty[u] = 1
    for i in range(n):
        touched[fan[i]] = 1
        dirty[fan[i]] = 1
