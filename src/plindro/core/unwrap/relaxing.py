"""Laying a chart flat with as little distortion as possible, without a triangle that turns over.

As rigid as possible (Liu, Zhang, Xu, Gotsman and Gortler 2008): each triangle asks for itself as it is, turned as it
lies now, and the places that suit all together follow from a linear system. A step goes no further than the first
triangle that would lose its area on the way (Smith and Schaefer 2015).
"""

import numpy as np

from plindro.core.numeric.kernels import helper, kernel
from plindro.core.unwrap.distortion import find_distortion
from plindro.core.unwrap.room import number_corners
from plindro.core.unwrap.stiffness import NO_SYSTEM, begin_system, solve_system

_ROUNDING = 1e-20
"""Squared residual, against what is asked for, at which a chart lies as it should: what is left is rounding."""
_SHORT_OF = 0.8
"""Share of the way to the first triangle that would turn over."""
_BEYOND = 1.25
"""How many times as far as it asks for a chart goes at most, before it is stopped short."""
_STILL = 1e-8
"""Squared movement, against the size of a chart, below which it lies still."""


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
        if system[0] < 0:
            system = begin_system(chart, twin, glued, cotangents, count, room)
        solve_system(system, room, count)
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
