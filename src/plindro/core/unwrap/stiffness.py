"""The system of a chart that is laid flat: how hard its edges hold its vertices, and where these should lie.

It is solved by its factors, and by conjugate gradients where these would take too much memory. What it is solved for
is how far each vertex should move, so that what is held just has no part in it.
"""

from plindro.core.numeric.envelope import eliminate, order_within, solve_within
from plindro.core.numeric.kernels import helper, index

NO_SYSTEM = (index(-1), index(-1))
_SOLVED = 1e-4
"""Squared residual, against that at the start, at which a system is solved well enough for the next turn."""
_MOST_STEPS = 30


@helper
def _gather_edges(chart, twin, glued, cotangents, count, room):  # type: ignore[no-untyped-def]
    """Gather the edges of a chart, where two triangles share one once, and what scales each vertex; returns how many.

    A vertex that is held is scaled to nothing: no residual counts there, so that the system is that of the others.
    """
    for i in range(len(chart)):
        room.place[chart[i]] = i
    for v in range(count):
        room.weight[v] = 0.0
    n = index(0)
    for i in range(len(chart)):
        for k in range(3):
            a, b = room.local[3 * i + k], room.local[3 * i + (k + 1) % 3]
            w = cotangents[chart[i], k]
            room.weight[a] += abs(w)
            room.weight[b] += abs(w)
            side = 3 * chart[i] + k
            if glued[side] and room.place[twin[side] // 3] >= 0:
                if twin[side] < side:
                    continue
                w += cotangents[twin[side] // 3, twin[side] % 3]
            room.ends[n, 0], room.ends[n, 1], room.stiffness[n] = a, b, w
            n += 1
    for i in range(len(chart)):
        room.place[chart[i]] = -1
    for v in range(count):
        room.weight[v] = 1.0 / room.weight[v] if room.weight[v] > 0.0 else 1.0
        if room.held[v]:
            room.weight[v] = 0.0
    return n


@helper
def begin_system(chart, twin, glued, cotangents, count, room):  # type: ignore[no-untyped-def]
    """Gather the system of a chart; returns how many edges it has, and how many vertices its factors, none where they
    would take too much."""
    n_edges = _gather_edges(chart, twin, glued, cotangents, count, room)
    n, total = order_within(room.ends, n_edges, room.held, count, room.envelope)
    if total > len(room.envelope.values):
        return n_edges, index(0)
    eliminate(room.ends, room.stiffness, n_edges, n, room.envelope)
    return n_edges, n


@helper
def _solve_by_factors(n, room, count):  # type: ignore[no-untyped-def]
    """Into ``wanted``, where the chart should lie: L (wanted - xy) = residual by the factors of ``n`` vertices."""
    envelope = room.envelope
    for v in range(count):
        if envelope.place[v] >= 0:
            for k in range(2):
                envelope.right[k, envelope.place[v]] = room.residual[v, k]
    solve_within(n, envelope)
    for v in range(count):
        for k in range(2):
            room.wanted[v, k] = room.xy[v, k]
            if envelope.place[v] >= 0:
                room.wanted[v, k] += envelope.right[k, envelope.place[v]]


@helper
def _apply(n_edges, room, x, count, out):  # type: ignore[no-untyped-def]
    """out = L x, the stiffness of the chart."""
    for v in range(count):
        out[v, 0] = 0.0
        out[v, 1] = 0.0
    for e in range(n_edges):
        a, b, w = room.ends[e, 0], room.ends[e, 1], room.stiffness[e]
        dx, dy = w * (x[a, 0] - x[b, 0]), w * (x[a, 1] - x[b, 1])
        out[a, 0] += dx
        out[a, 1] += dy
        out[b, 0] -= dx
        out[b, 1] -= dy


@helper
def _solve_by_steps(n_edges, room, count):  # type: ignore[no-untyped-def]
    """The same by conjugate gradients, less well."""
    for v in range(count):
        room.wanted[v, 0], room.wanted[v, 1] = room.xy[v, 0], room.xy[v, 1]
    rho = 0.0
    for v in range(count):
        w = room.weight[v]
        for k in range(2):
            r = room.residual[v, k]
            room.ahead[v, k] = w * r
            rho += w * r * r
    enough = _SOLVED * rho
    for _ in range(_MOST_STEPS):
        if rho <= enough:
            break
        _apply(n_edges, room, room.ahead, count, room.product)
        curve = 0.0
        for v in range(count):
            curve += room.ahead[v, 0] * room.product[v, 0] + room.ahead[v, 1] * room.product[v, 1]
        if curve <= 0.0:
            break
        step = rho / curve
        after = 0.0
        for v in range(count):
            w = room.weight[v]
            for k in range(2):
                room.wanted[v, k] += step * room.ahead[v, k]
                r = room.residual[v, k] - step * room.product[v, k]
                room.residual[v, k] = r
                after += w * r * r
        turn = after / rho
        rho = after
        for v in range(count):
            w = room.weight[v]
            for k in range(2):
                room.ahead[v, k] = w * room.residual[v, k] + turn * room.ahead[v, k]


@helper
def solve_system(system, room, count):  # type: ignore[no-untyped-def]
    """Into ``wanted``, where the chart should lie, by the ``residual`` of where it lies."""
    n_edges, n = system
    if n > 0:
        _solve_by_factors(n, room, count)
    else:
        _solve_by_steps(n_edges, room, count)
