"""What making the two ends of an edge one costs, and where the vertex that they become goes.

An edge belongs to its end that comes first in memory, and every vertex knows the cheapest of its edges.
"""

import numpy as np

from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.reduction.costs import LENGTH_WEIGHT, MOST_WEDGES, turn
from plindro.core.reduction.features import FREE, GONE, LINE, LOCKED
from plindro.core.reduction.quadrics import AREA, KEPT
from plindro.core.reduction.soundness import gather_ring

MIDDLE_PULL = 1e-5
"""Share of the quadric's trace with which the middle of the edge pulls: it decides along what is flat (Tikhonov)."""
CORNER_COSINE = 0.7
"""A line that turns further than this has a corner, which does not move."""
REACH = 1.5
"""A merged vertex lies no further than this many lengths of the edge from its middle."""


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
def _pair_area(a, b, wedge_quadrics):  # type: ignore[no-untyped-def]
    """Area that two wedges stand for, of which one may be missing (-1)."""
    area = 0.0
    if a >= 0:
        area += wedge_quadrics[a, 0]
    if b >= 0:
        area += wedge_quadrics[b, 0]
    return area


@helper
def fit_values(place, is_fixed, n_pairs, pairs, wedge_quadrics, n_values, rows):  # type: ignore[no-untyped-def]
    """Let every value of every pair take what is best for it at a place; returns how much error that saves."""
    saved = 0.0
    for p in range(n_pairs):
        a, b = pairs[0, p], pairs[1, p]
        area = _pair_area(a, b, wedge_quadrics)
        for m in range(n_values):
            row = p * n_values + m
            rows[row, 4] = 0.0
            if area > 0.0 and not (is_fixed and b >= 0):
                change = (
                    rows[row, 0] * place[0] + rows[row, 1] * place[1] + rows[row, 2] * place[2] + rows[row, 3]
                ) / area
                rows[row, 4] = change
                saved += area * change * change
    return saved


@helper
def solve(dies, keeps, is_fixed, n_pairs, pairs, positions, quadrics, wedge_quadrics, values, rows, place):  # type: ignore[no-untyped-def]
    """The least error of making two vertices one, at ``place``, an offset from the one that keeps its name.

    ``rows`` (pairs x K, 5) receives for each value of each pair gradient, offset and, last, the change of the value.
    """
    q = quadrics
    dx = positions[keeps, 0] - positions[dies, 0]
    dy = positions[keeps, 1] - positions[dies, 1]
    dz = positions[keeps, 2] - positions[dies, 2]
    mx = q[dies, 0] * dx + q[dies, 1] * dy + q[dies, 2] * dz
    my = q[dies, 1] * dx + q[dies, 3] * dy + q[dies, 4] * dz
    mz = q[dies, 2] * dx + q[dies, 4] * dy + q[dies, 5] * dz
    c = (
        q[keeps, 9]
        + q[dies, 9]
        + 2.0 * (q[dies, 6] * dx + q[dies, 7] * dy + q[dies, 8] * dz)
        + mx * dx
        + my * dy
        + mz * dz
    )
    bx, by, bz = q[keeps, 6] + q[dies, 6] + mx, q[keeps, 7] + q[dies, 7] + my, q[keeps, 8] + q[dies, 8] + mz
    xx, xy, xz = q[keeps, 0] + q[dies, 0], q[keeps, 1] + q[dies, 1], q[keeps, 2] + q[dies, 2]
    yy, yz, zz = q[keeps, 3] + q[dies, 3], q[keeps, 4] + q[dies, 4], q[keeps, 5] + q[dies, 5]
    n_values = values.shape[1]
    # The system of the place alone, once every value takes what is best for it there.
    rxx, rxy, rxz, ryy, ryz, rzz, rx, ry, rz = xx, xy, xz, yy, yz, zz, bx, by, bz
    for p in range(n_pairs):
        a, b = pairs[0, p], pairs[1, p]
        area = _pair_area(a, b, wedge_quadrics)
        for m in range(n_values):
            at = 1 + 4 * m
            gx, gy, gz, d = 0.0, 0.0, 0.0, 0.0
            if a >= 0:
                gx, gy, gz = wedge_quadrics[a, at], wedge_quadrics[a, at + 1], wedge_quadrics[a, at + 2]
                d = gx * dx + gy * dy + gz * dz + wedge_quadrics[a, at + 3]
                if b >= 0:
                    change = values[b, m] - values[a, m]
                    c += change * (wedge_quadrics[a, 0] * change - 2.0 * d)
                    bx -= gx * change
                    by -= gy * change
                    bz -= gz * change
                    rx -= gx * change
                    ry -= gy * change
                    rz -= gz * change
                    d -= wedge_quadrics[a, 0] * change
            if b >= 0:
                gx += wedge_quadrics[b, at]
                gy += wedge_quadrics[b, at + 1]
                gz += wedge_quadrics[b, at + 2]
                d += wedge_quadrics[b, at + 3]
            row = p * n_values + m
            rows[row, 0], rows[row, 1], rows[row, 2], rows[row, 3] = gx, gy, gz, d
            if area > 0.0:
                gx, gy, gz, ex, ey, ez, d = gx / area, gy / area, gz / area, gx, gy, gz, d / area
                rxx -= gx * ex
                rxy -= gx * ey
                rxz -= gx * ez
                ryy -= gy * ey
                ryz -= gy * ez
                rzz -= gz * ez
                rx -= d * ex
                ry -= d * ey
                rz -= d * ez
    x, y, z = 0.0, 0.0, 0.0
    length = dx * dx + dy * dy + dz * dz
    if not is_fixed:
        pull = MIDDLE_PULL * (rxx + ryy + rzz) + 1e-30
        rxx += pull
        ryy += pull
        rzz += pull
        rx += 0.5 * pull * dx
        ry += 0.5 * pull * dy
        rz += 0.5 * pull * dz
        ixx, ixy, ixz = ryy * rzz - ryz * ryz, rxz * ryz - rxy * rzz, rxy * ryz - rxz * ryy
        iyy, iyz, izz = rxx * rzz - rxz * rxz, rxy * rxz - rxx * ryz, rxx * ryy - rxy * rxy
        determinant = rxx * ixx + rxy * ixy + rxz * ixz
        x, y, z = -0.5 * dx, -0.5 * dy, -0.5 * dz
        if determinant > 0.0:
            over = -1.0 / determinant
            sx = (ixx * rx + ixy * ry + ixz * rz) * over
            sy = (ixy * rx + iyy * ry + iyz * rz) * over
            sz = (ixz * rx + iyz * ry + izz * rz) * over
            if (sx - x) ** 2 + (sy - y) ** 2 + (sz - z) ** 2 <= REACH * REACH * length:
                x, y, z = sx, sy, sz
    error = (
        c
        + xx * x * x
        + yy * y * y
        + zz * z * z
        + 2.0 * (xy * x * y + xz * x * z + yz * y * z + bx * x + by * y + bz * z)
    )
    place[0], place[1], place[2] = x, y, z
    error -= fit_values(place, is_fixed, n_pairs, pairs, wedge_quadrics, n_values, rows)
    # What was spent on keeping the volume makes no later merge cheaper.
    before = q[keeps, 9] - q[keeps, KEPT] + q[dies, 9] - q[dies, KEPT]
    return max(error - before, 0.0) + LENGTH_WEIGHT * (q[dies, AREA] + q[keeps, AREA]) * length


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
