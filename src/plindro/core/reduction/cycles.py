"""Cycles of three edges that are no face: where a through-hole or a handle can be cut and closed, or a border.

To cut along a cycle and cap both sides costs what the collapse that it holds back would have cost, and what the caps
are off the surface: over a triangle of area A and inradius r the squared distance to its sides sums up to A r² / 6.
"""

import numpy as np

from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.reduction.features import LINE
from plindro.core.reduction.handles import PINCHED, WATCHES
from plindro.core.reduction.quadrics import plain_error


@helper
def ordered_ring(u, start, around, arriving, fan, corner):  # type: ignore[no-untyped-def]
    """The neighbours of u counter-clockwise, and the corner at u of the triangle from each to the next.

    Returns how many there are; -1 where they do not go around it once. ``arriving`` (V,) of -1 is scratch.
    """
    first, last = start[u], start[u + 1]
    for s in range(first, last):
        arriving[around[s, 0]] = s
    n, at = 0, first
    while n < last - first and n < len(fan):
        fan[n], corner[n] = around[at, 0], around[at, 2]
        n += 1
        at = arriving[around[at, 1]]
        if at < first or at == first:
            break
    for s in range(first, last):
        arriving[around[s, 0]] = -1
    return n if n == last - first and at == first and n >= 3 else -1


@helper
def place_in(fan, n, v):  # type: ignore[no-untyped-def]
    """Where v is among the first n; -1 where it is not."""
    for i in range(n):
        if fan[i] == v:
            return i
    return -1


@helper
def _are_neighbours(v, w, start, around):  # type: ignore[no-untyped-def]
    found = False
    for s in range(start[v], start[v + 1]):
        found |= around[s, 0] == w or around[s, 1] == w
    return found


@helper
def _edge_error(a, b, positions, quadrics):  # type: ignore[no-untyped-def]
    """What making a and b one costs at the better of their places or half way."""
    x, y, z = positions[b, 0] - positions[a, 0], positions[b, 1] - positions[a, 1], positions[b, 2] - positions[a, 2]
    at_a = plain_error(quadrics, a, 0.0, 0.0, 0.0) + plain_error(quadrics, b, -x, -y, -z)
    at_b = plain_error(quadrics, a, x, y, z) + plain_error(quadrics, b, 0.0, 0.0, 0.0)
    x, y, z = 0.5 * x, 0.5 * y, 0.5 * z
    middle = plain_error(quadrics, a, x, y, z) + plain_error(quadrics, b, -x, -y, -z)
    return max(min(at_a, at_b, middle), 0.0)


@helper
def _cycle_price(u, v, w, n_caps, positions, quadrics):  # type: ignore[no-untyped-def]
    ax, ay, az = positions[v, 0] - positions[u, 0], positions[v, 1] - positions[u, 1], positions[v, 2] - positions[u, 2]
    bx, by, bz = positions[w, 0] - positions[u, 0], positions[w, 1] - positions[u, 1], positions[w, 2] - positions[u, 2]
    nx, ny, nz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
    area = 0.5 * np.sqrt(nx * nx + ny * ny + nz * nz)
    around = (
        np.sqrt(ax * ax + ay * ay + az * az)
        + np.sqrt(bx * bx + by * by + bz * bz)
        + np.sqrt((ax - bx) ** 2 + (ay - by) ** 2 + (az - bz) ** 2)
    )
    inner = 2.0 * area / around if around > 0.0 else 0.0
    least = min(
        _edge_error(u, v, positions, quadrics),
        _edge_error(v, w, positions, quadrics),
        _edge_error(w, u, positions, quadrics),
    )
    return least + n_caps * area * inner * inner / 6.0


@kernel
def find_cycles(  # type: ignore[no-untyped-def]
    watch, start, around, positions, quadrics, stays, arriving, fan, corner, cycles, prices
):  # fmt: skip
    """The cheapest cycle at each vertex that was held back; returns how many.

    ``stays`` (V,) vertices that no cut may touch. A vertex without a cycle goes back to watching. ``cycles`` (N, 3)
    and ``prices`` (N,) receive them.
    """
    n_found = 0
    for u in range(len(watch)):
        if watch[u] != PINCHED or n_found == len(cycles):
            continue
        n = -1 if stays[u] else ordered_ring(u, start, around, arriving, fan, corner)
        least = np.inf
        for i in range(n):
            v = index(fan[i])
            if stays[v]:
                continue
            for j in range(i + 2, n):
                w = index(fan[j])
                if (i == 0 and j == n - 1) or stays[w] or not _are_neighbours(v, w, start, around):
                    continue
                price = _cycle_price(u, v, w, 2.0, positions, quadrics)
                if price < least:
                    least = price
                    cycles[n_found, 0], cycles[n_found, 1], cycles[n_found, 2] = u, v, w
        if least == np.inf:
            watch[u] = WATCHES
        else:
            prices[n_found] = least
            n_found += 1
    return n_found


@helper
def _is_on_line(u, v, kind, line):  # type: ignore[no-untyped-def]
    return kind[u] == LINE and (line[u, 0] == v or line[u, 1] == v)


@helper
def corner_of_edge(u, v, start, around):  # type: ignore[no-untyped-def]
    """The corner at u of the one triangle that leaves it along the edge to v; -1 where there are others, or none."""
    corner = -1
    for s in range(start[u], start[u + 1]):
        if around[s, 1] == v:
            return -1
        if around[s, 0] == v:
            if corner >= 0:
                return -1
            corner = around[s, 2]
    return corner


@kernel
def find_loops(start, around, positions, quadrics, kind, line, stays, triangles, loops, prices):  # type: ignore[no-untyped-def]
    """The borders of three edges, as their surface runs around them; returns how many.

    A border whose three vertices are a triangle already is none. ``loops`` (N, 3) and ``prices`` (N,) receive them.
    """
    n_found = 0
    for u in range(len(kind)):
        if kind[u] != LINE or stays[u] or n_found == len(loops):
            continue
        v, w = index(line[u, 0]), index(line[u, 1])
        if v < u or w < u or not _is_on_line(v, w, kind, line) or not _is_on_line(w, u, kind, line):
            continue
        if not _is_on_line(v, u, kind, line) or not _is_on_line(w, v, kind, line) or stays[v] or stays[w]:
            continue
        c = corner_of_edge(u, v, start, around)
        if c < 0:
            v, w = w, v
            c = corner_of_edge(u, v, start, around)
        if c < 0 or corner_of_edge(v, w, start, around) < 0 or corner_of_edge(w, u, start, around) < 0:
            continue
        t = c // 3
        if triangles[t, 0] == w or triangles[t, 1] == w or triangles[t, 2] == w:
            continue
        loops[n_found, 0], loops[n_found, 1], loops[n_found, 2] = u, v, w
        prices[n_found] = _cycle_price(u, v, w, 1.0, positions, quadrics)
        n_found += 1
    return n_found


@helper
def _grow_front(queue, head, tail, own, other, start, around, mark):  # type: ignore[no-untyped-def]
    """One side goes on by one ring; returns where its queue ends then, -1 where it met the other side."""
    end = tail
    for i in range(head, tail):
        v = queue[i]
        for s in range(start[v], start[v + 1]):
            x = around[s, 0]
            if mark[x] == other:
                return -1
            if mark[x] != own and mark[x] >= 0:
                mark[x] = own
                queue[end] = x
                end += 1
    return end


@helper
def keeps_whole(  # type: ignore[no-untyped-def]
    u, v, w, n, fan, start, around, mark, stamp, left, right
):  # fmt: skip
    """Whether the surface hangs together when it is cut along a cycle: its two sides are searched for each other.

    ``fan`` holds the n neighbours of u; ``mark`` (V,) below the two stamps; ``left``, ``right`` (V,) are scratch.
    """
    at_v, at_w = place_in(fan, n, v), place_in(fan, n, w)
    kept = mark[u], mark[v], mark[w]
    mark[u], mark[v], mark[w] = -1, -1, -1
    n_left = n_right = 0
    i = (at_v + 1) % n
    while i != at_w:
        mark[fan[i]] = stamp
        left[n_left] = fan[i]
        n_left += 1
        i = (i + 1) % n
    i = (at_w + 1) % n
    while i != at_v:
        mark[fan[i]] = stamp + 1
        right[n_right] = fan[i]
        n_right += 1
        i = (i + 1) % n
    from_left = from_right = 0
    result = False
    while from_left < n_left and from_right < n_right:
        end = _grow_front(left, from_left, n_left, stamp, stamp + 1, start, around, mark)
        if end < 0:
            result = True
            break
        from_left, n_left = n_left, end
        end = _grow_front(right, from_right, n_right, stamp + 1, stamp, start, around, mark)
        if end < 0:
            result = True
            break
        from_right, n_right = n_right, end
    mark[u], mark[v], mark[w] = kept
    return result
