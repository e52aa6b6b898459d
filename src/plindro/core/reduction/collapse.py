"""The collapse itself: sweeps over the vertices, each taking what is cheap enough, instead of a heap.

Every vertex caches its best collapse onto a neighbour. A histogram of the cached costs gives the cost below which a
share of the live vertices falls; one sweep in memory order collapses those. A vertex whose surroundings changed is
dirty and looked at again when the sweep reaches it. A collapse must keep the surface a surface (link condition, Dey et
al. 1999), turn no triangle over and make no needle; where a vertex's best collapse fails, its next best is tried.

The functions take the arrays of ``CollapseState`` one by one: handed on as a tuple, each call would count references
to all of them, which costs six times the arithmetic.
"""

import numpy as np
from numba import njit

from plindro.core.reduction.quadrics import quadric_error
from plindro.core.reduction.state import FREE, LINE, LIVE_TRIANGLES, LIVE_VERTICES, LOCKED, STAMP

SWEEP_SHARE = 0.25
FLIP_COSINE = 0.2
SHADING_COSINE = 0.3
NEEDLE = 1e-3
MAX_DISTANCE = 0.04
"""A collapse further than this share of the diagonal off its planes, in the mean, is never made: rather stop short."""
STALE_LIMIT = 4.0
"""A cached cost that is out of date is renewed when the sweep reaches it, unless it is this far above the threshold."""
LENGTH_WEIGHT = 1e-7
"""Pulls towards short edges where the surface is flat and every collapse costs nothing."""


@njit(cache=True, nogil=True, error_model="numpy")
def _ahead(c):  # type: ignore[no-untyped-def]
    """The next corner of the same triangle."""
    return c - 2 if c % 3 == 2 else c + 1


@njit(cache=True, nogil=True, error_model="numpy")
def _behind(c):  # type: ignore[no-untyped-def]
    """The previous corner of the same triangle."""
    return c + 2 if c % 3 == 0 else c - 1


@njit(cache=True, nogil=True, error_model="numpy")
def _unlink_dead(v, vertex, head, tail, following):  # type: ignore[no-untyped-def]
    """Take dead triangles out of the corner list of ``v``."""
    before = -1
    c = head[v]
    while c >= 0:
        after = following[c]
        if vertex[c - c % 3] < 0:
            if before < 0:
                head[v] = after
            else:
                following[before] = after
        else:
            before = c
        c = after
    tail[v] = before


@njit(cache=True, nogil=True, error_model="numpy")
def _cost(u, v, positions, quadrics):  # type: ignore[no-untyped-def]
    x, y, z = positions[v, 0], positions[v, 1], positions[v, 2]
    dx, dy, dz = positions[u, 0] - x, positions[u, 1] - y, positions[u, 2] - z
    error = quadric_error(quadrics, u, x, y, z)
    if error > MAX_DISTANCE * MAX_DISTANCE * quadrics[u, 10]:
        return np.inf
    return error + LENGTH_WEIGHT * quadrics[u, 10] * (dx * dx + dy * dy + dz * dz)


@njit(cache=True, nogil=True, error_model="numpy")
def _evaluate(u, positions, quadrics, vertex, head, tail, following, kind, line, cost, target, dirty):  # type: ignore[no-untyped-def]
    """Renew the cached best collapse of ``u``, without asking whether it is allowed."""
    dirty[u] = False
    best, best_cost = -1, np.inf
    if kind[u] == LINE:
        for k in range(2):
            v = line[u, k]
            if v >= 0:
                this = _cost(u, v, positions, quadrics)
                if this < best_cost:
                    best, best_cost = v, this
    elif kind[u] == FREE:
        _unlink_dead(u, vertex, head, tail, following)
        c = head[u]
        while c >= 0:
            v = vertex[_ahead(c)]
            this = _cost(u, v, positions, quadrics)
            if this < best_cost:
                best, best_cost = v, this
            c = following[c]
    target[u] = best
    cost[u] = best_cost


@njit(cache=True, nogil=True, error_model="numpy")
def _spoils_triangle(u, v, a, b, wa, wb, wv, p, shading):  # type: ignore[no-untyped-def]
    """Whether the triangle u, a, b turns over or becomes a needle when u moves to v.

    It turns over where it turns far from what it was, or against the shading normals of its wedges ``wa``,
    ``wb`` and ``wv``: many small turns add up.
    """
    ex, ey, ez = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[b, 2] - p[a, 2]
    ux, uy, uz = p[u, 0] - p[a, 0], p[u, 1] - p[a, 1], p[u, 2] - p[a, 2]
    vx, vy, vz = p[v, 0] - p[a, 0], p[v, 1] - p[a, 1], p[v, 2] - p[a, 2]
    ox, oy, oz = ey * uz - ez * uy, ez * ux - ex * uz, ex * uy - ey * ux
    nx, ny, nz = ey * vz - ez * vy, ez * vx - ex * vz, ex * vy - ey * vx
    old = ox * ox + oy * oy + oz * oz
    new = nx * nx + ny * ny + nz * nz
    if old == 0.0:
        return False
    dot = ox * nx + oy * ny + oz * nz
    if dot <= 0.0 or dot * dot < FLIP_COSINE * FLIP_COSINE * old * new:
        return True
    sx = shading[wa, 0] + shading[wb, 0] + shading[wv, 0]
    sy = shading[wa, 1] + shading[wb, 1] + shading[wv, 1]
    sz = shading[wa, 2] + shading[wb, 2] + shading[wv, 2]
    if sx * nx + sy * ny + sz * nz < SHADING_COSINE * np.sqrt(new * (sx * sx + sy * sy + sz * sz)):
        return True
    edge = ex * ex + ey * ey + ez * ez
    longest = max(edge, vx * vx + vy * vy + vz * vz)
    longest = max(longest, (p[v, 0] - p[b, 0]) ** 2 + (p[v, 1] - p[b, 1]) ** 2 + (p[v, 2] - p[b, 2]) ** 2)
    if new >= (NEEDLE * longest) ** 2:
        return False
    was = max(edge, ux * ux + uy * uy + uz * uz)
    was = max(was, (p[u, 0] - p[b, 0]) ** 2 + (p[u, 1] - p[b, 1]) ** 2 + (p[u, 2] - p[b, 2]) ** 2)
    return np.sqrt(new) / longest < 0.25 * np.sqrt(old) / was


@njit(cache=True, nogil=True, error_model="numpy")
def _has_triangle(v, a, b, vertex, head, following):  # type: ignore[no-untyped-def]
    """Whether a triangle of ``v`` holds a and b."""
    c = head[v]
    while c >= 0:
        x, y = vertex[_ahead(c)], vertex[_behind(c)]
        if (x == a and y == b) or (x == b and y == a):
            return True
        c = following[c]
    return False


@njit(cache=True, nogil=True, error_model="numpy")
def _other_on_line(u, v, line):  # type: ignore[no-untyped-def]
    return line[u, 1] if line[u, 0] == v else line[u, 0]


@njit(cache=True, nogil=True, error_model="numpy")
def _closes_line(u, v, kind, line):  # type: ignore[no-untyped-def]
    """Whether a feature line would fold onto itself when u goes along it to v."""
    other = _other_on_line(u, v, line)
    if other < 0 or other == v:
        return True
    if kind[v] == LINE and (line[v, 0] == other or line[v, 1] == other):
        return True
    return kind[other] == LINE and (line[other, 0] == v or line[other, 1] == v)


@njit(cache=True, nogil=True, error_model="numpy")
def _wedge_mapping(u, v, vertex, wedge, head, following):  # type: ignore[no-untyped-def]
    """How wedges of u go over to v: the triangles between, u's second wedge, where its first and second go."""
    n_shared = 0
    from_two = to_one = to_two = -1
    c = head[u]
    while c >= 0:
        at = -1
        if vertex[_ahead(c)] == v:
            at = _ahead(c)
        elif vertex[_behind(c)] == v:
            at = _behind(c)
        if at >= 0:
            n_shared += 1
            if to_one < 0:
                to_one = wedge[at]
            else:
                from_two, to_two = wedge[c], wedge[at]
        c = following[c]
    return n_shared, from_two, to_one, to_two


@njit(cache=True, nogil=True, error_model="numpy")
def _is_allowed(u, v, positions, shading, vertex, wedge, head, tail, following, kind, line, mark, counters):  # type: ignore[no-untyped-def]
    """Whether collapsing u onto v keeps the surface sound."""
    on_line = kind[u] == LINE
    if on_line and _closes_line(u, v, kind, line):
        return False
    _unlink_dead(u, vertex, head, tail, following)
    _unlink_dead(v, vertex, head, tail, following)
    counters[STAMP] += 2
    stamp = counters[STAMP]
    n_around_v = 0
    c = head[v]
    while c >= 0:
        mark[vertex[_ahead(c)]] = stamp
        mark[vertex[_behind(c)]] = stamp
        n_around_v += 1
        c = following[c]
    n_shared, from_two, to_one, to_two = _wedge_mapping(u, v, vertex, wedge, head, following)
    if n_shared == 0 or n_shared > 2 or (n_shared == 1 and not on_line):
        return False
    n_common = n_left = 0
    other = _other_on_line(u, v, line) if on_line else -1
    c = head[u]
    while c >= 0:
        a, b = vertex[_ahead(c)], vertex[_behind(c)]
        if a == v or b == v:
            opposite = b if a == v else a
            if opposite == other and kind[v] == LOCKED and kind[other] == LOCKED:
                return False
        else:
            n_left += 1
            at = to_two if to_two >= 0 and wedge[c] == from_two else to_one
            if _spoils_triangle(u, v, a, b, wedge[_ahead(c)], wedge[_behind(c)], at, positions, shading):
                return False
            if mark[a] >= stamp and mark[b] >= stamp and _has_triangle(v, a, b, vertex, head, following):
                return False
        if a != v and mark[a] == stamp:
            mark[a] = stamp + 1
            n_common += 1
        if b != v and mark[b] == stamp:
            mark[b] = stamp + 1
            n_common += 1
        c = following[c]
    if n_common != n_shared:
        return False
    return n_left > 0 or n_around_v > n_shared


@njit(cache=True, nogil=True, error_model="numpy")
def _best_allowed(u, positions, quadrics, shading, vertex, wedge, head, tail, following, kind, line, mark, counters):  # type: ignore[no-untyped-def]
    """The cheapest allowed collapse of ``u``: target (-1 where none is) and cost."""
    best, best_cost = -1, np.inf
    if kind[u] == LINE:
        for k in range(2):
            v = line[u, k]
            if v >= 0:
                this = _cost(u, v, positions, quadrics)
                if this < best_cost and _is_allowed(
                    u, v, positions, shading, vertex, wedge, head, tail, following, kind, line, mark, counters
                ):
                    best, best_cost = v, this
    else:
        c = head[u]
        while c >= 0:
            v = vertex[_ahead(c)]
            this = _cost(u, v, positions, quadrics)
            if this < best_cost and _is_allowed(
                u, v, positions, shading, vertex, wedge, head, tail, following, kind, line, mark, counters
            ):
                best, best_cost = v, this
            c = following[c]
    return best, best_cost


@njit(cache=True, nogil=True, error_model="numpy")
def _move_line(u, v, kind, line):  # type: ignore[no-untyped-def]
    """Let the feature line through u run through v instead."""
    other = _other_on_line(u, v, line)
    for k in range(2):
        if kind[v] == LINE and line[v, k] == u:
            line[v, k] = other
        if kind[other] == LINE and line[other, k] == u:
            line[other, k] = v


@njit(cache=True, nogil=True, error_model="numpy")
def _collapse(u, v, quadrics, vertex, wedge, head, tail, following, kind, line, dirty, owner):  # type: ignore[no-untyped-def]
    """Move u onto v: the triangles between them die, the others of u and their wedges go over to v.

    Returns how many triangles died.
    """
    died, from_two, to_one, to_two = _wedge_mapping(u, v, vertex, wedge, head, following)
    c = head[u]
    while c >= 0:
        if vertex[_ahead(c)] == v or vertex[_behind(c)] == v:
            vertex[c - c % 3] = -1
        c = following[c]
    _unlink_dead(u, vertex, head, tail, following)
    c = head[u]
    while c >= 0:
        vertex[c] = v
        wedge[c] = to_two if to_two >= 0 and wedge[c] == from_two else to_one
        c = following[c]
    _unlink_dead(v, vertex, head, tail, following)
    if head[u] >= 0:
        if head[v] >= 0:
            following[tail[v]] = head[u]
        else:
            head[v] = head[u]
        tail[v] = tail[u]
        head[u] = -1
    if kind[u] == LINE:
        _move_line(u, v, kind, line)
    for k in range(11):
        quadrics[v, k] += quadrics[u, k]
    owner[u] = v
    dirty[v] = True
    c = head[v]
    while c >= 0:
        dirty[vertex[_ahead(c)]] = True
        dirty[vertex[_behind(c)]] = True
        c = following[c]
    return died


@njit(cache=True, nogil=True, error_model="numpy")
def _threshold(share, live, n_live, cost):  # type: ignore[no-untyped-def]
    """The cost below which ``share`` of the live vertices falls by what is cached; infinite where nothing can fall."""
    counts = np.zeros(2048, np.int64)
    bits = cost.view(np.uint32)
    n_finite = 0
    for i in range(n_live):
        u = live[i]
        if cost[u] < np.inf:
            # The upper bits of a positive float32 order as the float does: exponent and three bits of mantissa.
            counts[bits[u] >> 20] += 1
            n_finite += 1
    if n_finite == 0:
        return np.inf
    wanted = max(1.0, share * n_live)
    total = 0
    for b in range(2048):
        total += counts[b]
        if total >= wanted:
            limit = np.empty(1, np.uint32)
            limit[0] = np.uint32((b + 1) << 20)
            return float(limit.view(np.float32)[0])
    return 3.4e38


@njit(cache=True, nogil=True, error_model="numpy")
def sweep(s, wanted_triangles):  # type: ignore[no-untyped-def]
    """One sweep towards ``wanted_triangles``; returns how many vertices collapsed, -1 where none ever can again."""
    positions, quadrics, vertex, wedge = s.positions, s.quadrics, s.corner_vertex, s.corner_wedge
    head, tail, following, kind, line = s.head, s.tail, s.next_corner, s.kind, s.line
    cost, target, dirty, mark, counters = s.cost, s.target, s.dirty, s.mark, s.counters
    live, owner, shading = s.live, s.owner, s.wedge_normals
    n = counters[LIVE_VERTICES]
    missing = (counters[LIVE_TRIANGLES] - wanted_triangles) / 2.0
    threshold = _threshold(min(SWEEP_SHARE, missing / max(n, 1)), live, n, cost)
    if threshold == np.inf:
        renewed = 0
        for i in range(n):
            if dirty[live[i]]:
                _evaluate(live[i], positions, quadrics, vertex, head, tail, following, kind, line, cost, target, dirty)
                renewed += 1
        return 0 if renewed else -1
    n_collapsed = 0
    kept = 0
    for i in range(n):
        u = live[i]
        if owner[u] != u:
            continue
        live[kept] = u
        kept += 1
        if counters[LIVE_TRIANGLES] <= wanted_triangles or kind[u] == LOCKED:
            continue
        if dirty[u] and (cost[u] <= threshold * STALE_LIMIT or cost[u] == np.inf):
            _evaluate(u, positions, quadrics, vertex, head, tail, following, kind, line, cost, target, dirty)
        if not cost[u] <= threshold or cost[u] == np.inf:
            continue
        v = target[u]
        if not _is_allowed(u, v, positions, shading, vertex, wedge, head, tail, following, kind, line, mark, counters):
            v, best = _best_allowed(
                u, positions, quadrics, shading, vertex, wedge, head, tail, following, kind, line, mark, counters
            )
            target[u] = v
            cost[u] = best
            if v < 0 or not best <= threshold:
                continue
        counters[LIVE_TRIANGLES] -= _collapse(
            u, v, quadrics, vertex, wedge, head, tail, following, kind, line, dirty, owner
        )
        kept -= 1
        n_collapsed += 1
    counters[LIVE_VERTICES] = kept
    return n_collapsed
