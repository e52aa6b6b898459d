"""Laying a chart flat with as little distortion as possible, without a triangle that turns over.

As rigid as possible (Liu, Zhang, Xu, Gotsman and Gortler 2008): each triangle asks for itself as it is, turned as it
lies now, and the places that suit all together follow from a linear system, which conjugate gradients solve from where
the chart lies already. A step goes no further than the first triangle that would lose its area on the way (Smith and
Schaefer 2015).
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F64, I32, I64
from plindro.core.numeric.envelope import Envelope, eliminate, new_envelope, order_within, solve_within
from plindro.core.numeric.groups import find_root, unite
from plindro.core.numeric.kernels import helper, index, kernel

_SOLVED = 1e-4
"""Squared residual, against that at the start, at which a system is solved well enough for the next turn."""
_MOST_VALUES = 1 << 24
"""Numbers that factors may take; a chart that takes more, from about 100 000 triangles on, is solved without."""
_ROUNDING = 1e-20
"""Squared residual, against what is asked for, at which a chart lies as it should: what is left is rounding."""
NO_SYSTEM = (np.int64(-1), np.int64(-1))
_MOST_STEPS = 30
_SHORT_OF = 0.8
"""Share of the way to the first triangle that would turn over."""
_BEYOND = 1.25
"""How many times as far as it asks for a chart goes at most, before it is stopped short."""
_STILL = 1e-8
"""Squared movement, against the size of a chart, below which it lies still."""


class Room(NamedTuple):
    """What the kernels work in, for charts of up to N triangles; made once.

    ``local`` (3 N,) number of each corner's vertex in its chart, ``place`` (T,) of each triangle in its chart or -1,
    ``parent`` (3 N,) int32; ``ends`` (3 N, 2) the vertices of each edge, ``stiffness`` (3 N,) how hard it holds them;
    ``xy`` and the rest (3 N, 2) by vertex, ``weight`` (3 N,), ``held`` (3 N,) whether a vertex stays where it is, since
    triangles that are not of the chart hang on it.
    """

    local: I64
    place: I64
    parent: I32
    number: I64
    ends: I64
    stiffness: F64
    xy: F64
    wanted: F64
    residual: F64
    ahead: F64
    product: F64
    weight: F64
    held: NDArray[np.uint8]
    envelope: Envelope


def new_room(most: int, n_triangles: int, most_values: int = _MOST_VALUES) -> Room:
    """Room for charts of up to ``most`` triangles of a surface of ``n_triangles``, and ``most_values`` of factors."""
    n = 3 * most
    xy, wanted, residual, ahead, product = (np.empty((n, 2)) for _ in range(5))
    return Room(
        np.empty(n, np.int64), np.full(n_triangles, -1, np.int64), np.empty(n, np.int32), np.empty(n, np.int64),
        np.empty((n, 2), np.int64), np.empty(n), xy, wanted, residual, ahead, product, np.empty(n),
        np.zeros(n, np.uint8), new_envelope(n, n, min(n * n, most_values)),
    )  # fmt: skip


@helper
def number_corners(chart, twin, glued, room):  # type: ignore[no-untyped-def]
    """Number the vertices of a chart: corners on both sides of a glued side are one. Returns how many there are."""
    n = len(chart)
    for i in range(n):
        room.place[chart[i]] = i
        for k in range(3):
            room.parent[3 * i + k] = 3 * i + k
    for i in range(n):
        for k in range(3):
            side = 3 * chart[i] + k
            if glued[side]:
                other = twin[side]
                j = room.place[other // 3]
                if j >= 0:
                    m = other % 3
                    unite(room.parent, 3 * i + k, 3 * j + (m + 1) % 3)
                    unite(room.parent, 3 * i + (k + 1) % 3, 3 * j + m)
    count = index(0)
    for c in range(3 * n):
        root = find_root(room.parent, c)
        if root == c:
            room.number[c] = count
            count += 1
        room.local[c] = room.number[root]
    for v in range(count):
        room.held[v] = 0
    for i in range(n):
        for k in range(3):
            side = 3 * chart[i] + k
            if glued[side] and room.place[twin[side] // 3] < 0:
                room.held[room.local[3 * i + k]] = 1
                room.held[room.local[3 * i + (k + 1) % 3]] = 1
    for i in range(n):
        room.place[chart[i]] = -1
    return count


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
def _ask(chart, cotangents, flat, room, count):  # type: ignore[no-untyped-def]
    """How far each triangle asks for itself as it is, in the turn in which it lies, from how it lies: the right side of
    the system for what moves, into ``residual``. Returns the squares of what is asked for."""
    xy, residual = room.xy, room.residual
    for v in range(count):
        residual[v, 0] = 0.0
        residual[v, 1] = 0.0
    asked = 0.0
    for i in range(len(chart)):
        t = chart[i]
        a, b, c = room.local[3 * i], room.local[3 * i + 1], room.local[3 * i + 2]
        # Sides as they lie, and as they are: corner 0 is the origin, and corner 1 lies along x.
        px, py, qx, qy = xy[a, 0] - xy[b, 0], xy[a, 1] - xy[b, 1], xy[b, 0] - xy[c, 0], xy[b, 1] - xy[c, 1]
        rx, ry = -px - qx, -py - qy
        fx, gx, gy = flat[t, 1, 0], flat[t, 2, 0], flat[t, 2, 1]
        u, v, w = cotangents[t, 0], cotangents[t, 1], cotangents[t, 2]
        cosine = -u * px * fx + v * (qx * (fx - gx) - qy * gy) + w * (rx * gx + ry * gy)
        sine = -u * py * fx + v * (qy * (fx - gx) + qx * gy) + w * (ry * gx - rx * gy)
        length = np.sqrt(cosine * cosine + sine * sine)
        cosine, sine = (cosine / length, sine / length) if length > 0.0 else (1.0, 0.0)
        asked += u * u * fx * fx + v * v * ((fx - gx) * (fx - gx) + gy * gy) + w * w * (gx * gx + gy * gy)
        px, py = u * (-cosine * fx - px), u * (-sine * fx - py)
        qx, qy = v * (cosine * (fx - gx) + sine * gy - qx), v * (sine * (fx - gx) - cosine * gy - qy)
        rx, ry = w * (cosine * gx - sine * gy - rx), w * (sine * gx + cosine * gy - ry)
        residual[a, 0] += px - rx
        residual[a, 1] += py - ry
        residual[b, 0] += qx - px
        residual[b, 1] += qy - py
        residual[c, 0] += rx - qx
        residual[c, 1] += ry - qy
    return asked


@helper
def _solve(n_edges, room, count):  # type: ignore[no-untyped-def]
    """Into ``wanted``, where the chart should lie: L (wanted - xy) = residual by conjugate gradients."""
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
def _first_root(a, b, c):  # type: ignore[no-untyped-def]
    """The least s > 0 with a s² + b s + c = 0, or infinity; c > 0."""
    if a == 0.0:
        return -c / b if b < 0.0 else np.inf
    square = b * b - 4.0 * a * c
    if square < 0.0:
        return np.inf
    q = -0.5 * (b + (np.sqrt(square) if b >= 0.0 else -np.sqrt(square)))
    one = q / a
    two = c / q if q != 0.0 else np.inf
    least = np.inf
    if one > 0.0:
        least = one
    if two > 0.0 and two < least:
        least = two
    return least


@helper
def _furthest(chart, room):  # type: ignore[no-untyped-def]
    """How far ``xy`` may go towards ``wanted`` before a triangle loses its area; 0 to 1, -1 where one has none now."""
    step = 1.0
    for i in range(len(chart)):
        a, b, c = room.local[3 * i], room.local[3 * i + 1], room.local[3 * i + 2]
        x, y = room.xy[b, 0] - room.xy[a, 0], room.xy[b, 1] - room.xy[a, 1]
        u, v = room.xy[c, 0] - room.xy[a, 0], room.xy[c, 1] - room.xy[a, 1]
        now = x * v - y * u
        if now <= 0.0:
            return -1.0
        dx = room.wanted[b, 0] - room.wanted[a, 0] - x
        dy = room.wanted[b, 1] - room.wanted[a, 1] - y
        du = room.wanted[c, 0] - room.wanted[a, 0] - u
        dv = room.wanted[c, 1] - room.wanted[a, 1] - v
        square, straight = dx * dv - dy * du, x * dv + dx * v - y * du - dy * u
        # Most lose nowhere near so much.
        if abs(straight) * _BEYOND + abs(square) * _BEYOND * _BEYOND >= now:
            step = min(step, _SHORT_OF * _first_root(square, straight, now))
    return step


@helper
def _solve_exactly(n, room, count):  # type: ignore[no-untyped-def]
    """The same as ``_solve``, by the factors of the system of ``n`` vertices."""
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
def _begin(chart, twin, glued, cotangents, count, room):  # type: ignore[no-untyped-def]
    """Gather the system of a chart; returns how many edges it has, and how many vertices its factors, none where they
    would be too many."""
    n_edges = _gather_edges(chart, twin, glued, cotangents, count, room)
    n, total = order_within(room.ends, n_edges, room.held, count, room.envelope)
    if total > len(room.envelope.values):
        return n_edges, index(0)
    eliminate(room.ends, room.stiffness, n_edges, n, room.envelope)
    return n_edges, n


@helper
def relax(chart, twin, glued, cotangents, flat, count, turns, system, room):  # type: ignore[no-untyped-def]
    """Move ``room.xy`` so that the chart's triangles are as they are on the surface; ``turns`` times at most.

    Returns the system that it solved, for the next call with the same chart; ``NO_SYSTEM`` goes into the first.
    """
    for _ in range(turns):
        asked = _ask(chart, cotangents, flat, room, count)
        rest = 0.0
        for v in range(count):
            if not room.held[v]:
                rest += room.residual[v, 0] * room.residual[v, 0] + room.residual[v, 1] * room.residual[v, 1]
        if rest <= _ROUNDING * asked:
            break
        n_edges, n = system
        if n_edges < 0:
            system = _begin(chart, twin, glued, cotangents, count, room)
            n_edges, n = system
        if n > 0:
            _solve_exactly(n, room, count)
        else:
            _solve(n_edges, room, count)
        step = _furthest(chart, room)
        if step < 0.0:
            step = 1.0
        moved, size = 0.0, 0.0
        for v in range(count):
            for k in range(2):
                by = step * (room.wanted[v, k] - room.xy[v, k])
                room.xy[v, k] += by
                moved += by * by
                size += room.xy[v, k] * room.xy[v, k]
        if moved <= _STILL * size:
            break
    return system


@helper
def _add_distortion(t, x, y, u, v, flat, areas, out):  # type: ignore[no-untyped-def]
    """Add a triangle whose sides from corner 0 are x, y and u, v; False where it turns right or has no area."""
    double = x * v - y * u
    out[4] = min(out[4], 0.5 * double / areas[t])
    if not double > 0.0:
        out[4] = min(out[4], 0.0)
        return False
    # From the sheet to the surface, where corner 0 is the origin and corner 1 lies along x.
    fx, gx, gy = flat[t, 1, 0], flat[t, 2, 0], flat[t, 2, 1]
    p, q = (fx * v - gx * y) / double, (gx * x - fx * u) / double
    r, s = -gy * y / double, gy * x / double
    sum_, difference = p * p + q * q + r * r + s * s, 2.0 * (p * s - q * r)
    out[0] += areas[t]
    out[1] += 0.5 * double
    out[2] += 0.5 * areas[t] * sum_
    largest = 0.5 * (np.sqrt(max(sum_ + difference, 0.0)) + np.sqrt(max(sum_ - difference, 0.0)))
    out[3] = max(out[3], largest)
    return True


@kernel
def measure_chart(chart, uv, flat, areas, out):  # type: ignore[no-untyped-def]
    """The same as ``find_distortion`` of triangles where ``uv`` (T, 3, 2) has them."""
    out[0], out[1], out[2], out[3], out[4] = 0.0, 0.0, 0.0, 0.0, np.inf
    for t in chart:
        x, y = uv[t, 1, 0] - uv[t, 0, 0], uv[t, 1, 1] - uv[t, 0, 1]
        u, v = uv[t, 2, 0] - uv[t, 0, 0], uv[t, 2, 1] - uv[t, 0, 1]
        if not _add_distortion(t, x, y, u, v, flat, areas, out):
            return


@helper
def find_distortion(chart, flat, areas, room, out):  # type: ignore[no-untyped-def]
    """Into ``out``: area on the surface, area laid flat, the sum of what Sander's L2 sums, the largest stretch, the
    least area laid flat over that on the surface."""
    out[0], out[1], out[2], out[3], out[4] = 0.0, 0.0, 0.0, 0.0, np.inf
    for i in range(len(chart)):
        a, b, c = room.local[3 * i], room.local[3 * i + 1], room.local[3 * i + 2]
        x, y = room.xy[b, 0] - room.xy[a, 0], room.xy[b, 1] - room.xy[a, 1]
        u, v = room.xy[c, 0] - room.xy[a, 0], room.xy[c, 1] - room.xy[a, 1]
        if not _add_distortion(chart[i], x, y, u, v, flat, areas, out):
            return


@helper
def _flatten_chart(chart, twin, glued, cotangents, flat, areas, turns, room, uv, out):  # type: ignore[no-untyped-def]
    """Relax one chart from where ``uv`` (T, 3, 2) has it; where that turns a triangle over it stays as it was."""
    count = number_corners(chart, twin, glued, room)
    for i in range(len(chart)):
        for k in range(3):
            v = room.local[3 * i + k]
            room.xy[v, 0], room.xy[v, 1] = uv[chart[i], k, 0], uv[chart[i], k, 1]
    relax(chart, twin, glued, cotangents, flat, count, turns, NO_SYSTEM, room)
    find_distortion(chart, flat, areas, room, out)
    if out[4] > 0.0:
        for i in range(len(chart)):
            for k in range(3):
                v = room.local[3 * i + k]
                uv[chart[i], k, 0], uv[chart[i], k, 1] = room.xy[v, 0], room.xy[v, 1]


@kernel
def flatten_charts(order, first, twin, glued, cotangents, flat, areas, turns, room, uv, out):  # type: ignore[no-untyped-def]
    """Relax all charts, whose triangles are in ``order`` from ``first`` (N + 1,) on; what is one triangle lies as it
    is."""
    for i in range(len(first) - 1):
        chart = order[first[i] : first[i + 1]]
        if len(chart) == 1:
            for k in range(3):
                uv[chart[0], k, 0], uv[chart[0], k, 1] = flat[chart[0], k, 0], flat[chart[0], k, 1]
        else:
            _flatten_chart(chart, twin, glued, cotangents, flat, areas, turns, room, uv, out)


@kernel
def glue_within(chart, twin, barred, glued):  # type: ignore[no-untyped-def]
    """Mark the sides within one chart as glued."""
    for side in range(len(twin)):
        other = twin[side]
        glued[side] = other >= 0 and not barred[side] and chart[side // 3] == chart[other // 3]
