"""Cutting one polygon into triangles by ears, on its plane.

An ear is a convex corner whose triangle holds no other corner of the polygon (Meisters 1975); only reflex corners can
lie inside one, so only they are asked, through a grid where they are many. The ring is walked, every other corner is
cut, and a cut is made only where it is certain in spite of rounding; what is left then is decided by exact orientation.
So no triangle without area arises where one can be avoided: corners on a straight line are cut last, and a corner on
the rim of an ear counts as inside.

A hole that is joined to the outline by a keyhole makes corners that share a place. Such a corner blocks an ear only
where it lies on the ear's tip with an edge that runs into it: from the other two places no edge can enter the ear
without a corner inside.
"""

import numpy as np
from numba import njit

from plindro.core.numeric.exact import orient_sign

_CERTAIN = 4e-14
"""Twice an area over the polygon's extent squared, above which rounding cannot have made it."""
ROUND = 1e-5
"""Twice a triangle's area over its longest side squared up to which it is but a line: other cuts come first."""
_PATIENCE = 32
"""Turns around the whole polygon that may go into looking for the better kinds of ears."""
_MANY = 48
"""From so many reflex corners on they are kept in a grid."""

SHAPED, CERTAIN, EXACT, STRAIGHT, _TOUCHED, ANY = 0, 1, 2, 3, 4, 5
"""What is taken for an ear: each is tried only after a whole turn without one of those before it."""


@njit(cache=True, nogil=True)
def _sign(p, a, b, c):  # type: ignore[no-untyped-def]
    return orient_sign(p[a, 0], p[a, 1], p[b, 0], p[b, 1], p[c, 0], p[c, 1])


@njit(cache=True, nogil=True)
def _enters(p, ring, a, b, c, k):  # type: ignore[no-untyped-def]
    """Whether an edge of ``k``, which lies on the tip ``b``, runs into the angle of the ear a, b, c."""
    for side in range(2):
        other = ring[k, side]
        if _sign(p, a, b, other) > 0 and _sign(p, b, c, other) > 0:
            return True
    return False


@njit(cache=True, nogil=True)
def _blocks(p, ring, a, b, c, k, level):  # type: ignore[no-untyped-def]
    """Whether the reflex corner ``k``, in or on the triangle as far as rounding lets see, keeps b from being an ear."""
    if k == a or k == b or k == c:  # noqa: SIM109 (a tuple of mixed integers has no membership here)
        return False
    if level >= EXACT:
        # Where no strict ear is left, what only touches the rim is let pass.
        least = 0 if level == EXACT else 1
        if _sign(p, a, b, k) < least or _sign(p, b, c, k) < least or _sign(p, c, a, k) < least:
            return False
    if (p[k, 0] == p[a, 0] and p[k, 1] == p[a, 1]) or (p[k, 0] == p[c, 0] and p[k, 1] == p[c, 1]):
        return False
    if p[k, 0] == p[b, 0] and p[k, 1] == p[b, 1]:
        return _enters(p, ring, a, b, c, k)
    return True


@njit(cache=True, nogil=True)
def _is_round(p, a, b, c, lost):  # type: ignore[no-untyped-def]
    """Whether a, b, c turn to the left by more than a line does as single precision leaves it: ``lost`` or more."""
    abx, aby, acx, acy = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[c, 0] - p[a, 0], p[c, 1] - p[a, 1]
    longest = max(abx * abx + aby * aby, acx * acx + acy * acy, (abx - acx) ** 2 + (aby - acy) ** 2)
    return abx * acy - aby * acx > max(ROUND * longest, lost * np.sqrt(longest))


@njit(cache=True, nogil=True)
def _fill_grid(p, n, is_reflex, n_reflex, low_x, low_y, high_x, high_y, grid, cells, links):  # type: ignore[no-untyped-def]
    """Reflex corners as linked lists a cell, about one to a cell."""
    side = max(int(np.sqrt(n_reflex)), 1)
    grid[0], grid[1], grid[2] = side, low_x, low_y
    grid[3] = (side - 1e-9 * side) / (high_x - low_x) if high_x > low_x else 0.0
    grid[4] = (side - 1e-9 * side) / (high_y - low_y) if high_y > low_y else 0.0
    for i in range(side * side):
        cells[i] = -1
    for k in range(n):
        if is_reflex[k]:
            i = min(int((p[k, 0] - low_x) * grid[3]), side - 1)
            j = min(int((p[k, 1] - low_y) * grid[4]), side - 1)
            links[k] = cells[j * side + i]
            cells[j * side + i] = k


@njit(cache=True, nogil=True)
def _is_free_in_grid(p, ring, a, b, c, links, grid, cells, is_reflex, slack, level):  # type: ignore[no-untyped-def]
    """Whether no reflex corner lies in the triangle a, b, c; asks the cells under its box."""
    ax, ay, bx, by, cx, cy = p[a, 0], p[a, 1], p[b, 0], p[b, 1], p[c, 0], p[c, 1]
    low_x, high_x = min(ax, bx, cx), max(ax, bx, cx)
    low_y, high_y = min(ay, by, cy), max(ay, by, cy)
    side = int(grid[0])
    i0, i1 = max(int((low_x - grid[1]) * grid[3]), 0), min(int((high_x - grid[1]) * grid[3]), side - 1)
    j0, j1 = max(int((low_y - grid[2]) * grid[4]), 0), min(int((high_y - grid[2]) * grid[4]), side - 1)
    for j in range(j0, j1 + 1):
        for i in range(i0, i1 + 1):
            k = cells[j * side + i]
            while k >= 0:
                x, y = p[k, 0], p[k, 1]
                if (
                    is_reflex[k]
                    and low_x <= x <= high_x
                    and low_y <= y <= high_y
                    and (bx - ax) * (y - ay) - (by - ay) * (x - ax) >= -slack
                    and (cx - bx) * (y - by) - (cy - by) * (x - bx) >= -slack
                    and (ax - cx) * (y - cy) - (ay - cy) * (x - cx) >= -slack
                    and _blocks(p, ring, a, b, c, k, level)
                ):
                    return False
                k = links[k]
    return True


@njit(cache=True, nogil=True)
def _widest(p, ring, start, n_left):  # type: ignore[no-untyped-def]
    """The corner that turns most to the left: the least evil in a polygon that crosses itself."""
    best, widest = start, -np.inf
    k = start
    for _ in range(n_left):
        a, c = ring[k, 0], ring[k, 1]
        value = (p[k, 0] - p[a, 0]) * (p[c, 1] - p[a, 1]) - (p[k, 1] - p[a, 1]) * (p[c, 0] - p[a, 0])
        if value > widest:
            best, widest = k, value
        k = c
    return best


@njit(cache=True, nogil=True)
def _link(t, first, second, third, neighbours):  # type: ignore[no-untyped-def]
    """Note the triangles beside ``t``; each earlier one meets it across the diagonal that cut it off."""
    neighbours[t, 0], neighbours[t, 1], neighbours[t, 2] = first, second, third
    for i in range(3):
        if neighbours[t, i] >= 0:
            neighbours[neighbours[t, i], 2] = t


@njit(cache=True, nogil=True)
def _find_reflex(p, n, slack, ring, reflex, place, slot, is_reflex):  # type: ignore[no-untyped-def]
    """Tie the ring and gather the corners that are not surely convex; returns how many they are."""
    n_reflex = 0
    for k in range(n):
        a = k - 1 if k else n - 1
        c = k + 1 if k + 1 < n else 0
        ring[k, 0], ring[k, 1] = a, c
        turn = (p[k, 0] - p[a, 0]) * (p[c, 1] - p[a, 1]) - (p[k, 1] - p[a, 1]) * (p[c, 0] - p[a, 0])
        is_reflex[k] = turn <= slack
        reflex[n_reflex], slot[k] = k, n_reflex
        place[0, n_reflex], place[1, n_reflex] = p[k, 0], p[k, 1]
        n_reflex += int(is_reflex[k])
    return n_reflex


@njit(cache=True, nogil=True)
def _is_ear_by_itself(p, ring, a, k, c, is_reflex, slack, lost, level):  # type: ignore[no-untyped-def]
    """Whether corner k between a and c is as good an ear as the level asks, whatever lies within it."""
    if level > CERTAIN:
        sign = _sign(p, a, k, c)
        return level == ANY or (sign == 0 if level == STRAIGHT else sign > 0)
    turn = (p[k, 0] - p[a, 0]) * (p[c, 1] - p[a, 1]) - (p[k, 1] - p[a, 1]) * (p[c, 0] - p[a, 0])
    if turn <= slack:
        return False
    # Cut off at its tip, a slim polygon would leave what lies along its far side as a line.
    return level != SHAPED or (
        _is_round(p, a, k, c, lost)
        and (is_reflex[a] or _is_round(p, ring[a, 0], a, c, lost))
        and (is_reflex[c] or _is_round(p, a, c, ring[c, 1], lost))
    )


@njit(cache=True, nogil=True)
def _is_free(p, ring, a, k, c, reflex, place, n_reflex, is_reflex, slack, level):  # type: ignore[no-untyped-def]
    """Whether none of the reflex corners blocks the ear at k between a and c."""
    ax, ay, bx, by, cx, cy = p[a, 0], p[a, 1], p[k, 0], p[k, 1], p[c, 0], p[c, 1]
    # Without branches and early exits the corners are asked four at a time; a and c, where they are reflex, always lie
    # in their own triangle.
    ux, uy, vx, vy, wx, wy = bx - ax, by - ay, cx - bx, cy - by, ax - cx, ay - cy
    u0, v0, w0 = uy * ax - ux * ay + slack, vy * bx - vx * by + slack, wy * cx - wx * cy + slack
    hits = 0
    for i in range(n_reflex):
        x, y = place[0, i], place[1, i]
        hits += min(min(ux * y - uy * x + u0, vx * y - vy * x + v0), wx * y - wy * x + w0) >= 0.0  # noqa: PLW3301
    if hits <= int(is_reflex[a]) + int(is_reflex[c]):
        return True
    for i in range(n_reflex):
        x, y = place[0, i], place[1, i]
        if (
            ux * y - uy * x + u0 >= 0
            and vx * y - vy * x + v0 >= 0
            and wx * y - wy * x + w0 >= 0
            and _blocks(p, ring, a, k, c, reflex[i], level)
        ):
            return False
    return True


@njit(cache=True, nogil=True)
def _drop_reflex(p, ring, a, k, c, slack, has_grid, reflex, place, slot, is_reflex, n_reflex):  # type: ignore[no-untyped-def]
    """After the ear at k is cut take it, and its neighbours a and c where they are convex now, off the reflex corners;
    returns how many are left."""
    for i in range(3):
        v = k if i == 0 else (a if i == 1 else c)
        if not is_reflex[v]:
            continue
        if i > 0:
            u, w = ring[v, 0], ring[v, 1]
            turn = (p[v, 0] - p[u, 0]) * (p[w, 1] - p[u, 1]) - (p[v, 1] - p[u, 1]) * (p[w, 0] - p[u, 0])
            if turn <= slack:
                continue
        is_reflex[v] = False
        n_reflex -= 1
        if not has_grid:
            last, freed = reflex[n_reflex], slot[v]
            reflex[freed] = last
            place[0, freed], place[1, freed] = place[0, n_reflex], place[1, n_reflex]
            slot[last] = freed
    return n_reflex


@njit(cache=True, nogil=True)
def cut_ears(p, n, lost, ring, reflex, place, slot, is_reflex, cells, grid, is_linked, owner, neighbours, out):  # type: ignore[no-untyped-def]
    """Cut the polygon ``p`` (n, 2), counter-clockwise, into ``out`` (n - 2, 3) corner indices; what rises no more than
    ``lost`` counts as straight.

    With ``is_linked``, ``neighbours`` (n - 2, 3) receives the triangle across each triangle's edges (0: first to second
    corner), -1 on the outline.
    ``ring`` (n, 2) uint32, ``place`` (2, n) and the others are scratch of at least ``n`` (``grid``: 5).
    """
    low_x = high_x = p[0, 0]
    low_y = high_y = p[0, 1]
    for k in range(n):
        low_x, high_x = min(low_x, p[k, 0]), max(high_x, p[k, 0])
        low_y, high_y = min(low_y, p[k, 1]), max(high_y, p[k, 1])
        owner[k] = -1
    extent = max(high_x - low_x, high_y - low_y)
    slack = _CERTAIN * extent * extent
    n_reflex = _find_reflex(p, n, slack, ring, reflex, place, slot, is_reflex)
    has_grid = n_reflex >= _MANY
    if has_grid:
        _fill_grid(p, n, is_reflex, n_reflex, low_x, low_y, high_x, high_y, grid, cells, reflex)
    k = ring[1, 0]
    n_left = n
    level = least_level = SHAPED
    misses = 0
    asked = 0
    t = 0
    while n_left > 3:
        if level == ANY and asked < _PATIENCE * _PATIENCE * n:
            k = _widest(p, ring, k, n_left)
        a, c = ring[k, 0], ring[k, 1]
        is_ear = _is_ear_by_itself(p, ring, a, k, c, is_reflex, slack, lost, level)
        if is_ear and n_reflex > 0 and level != ANY:
            if has_grid:
                is_ear = _is_free_in_grid(p, ring, a, k, c, reflex, grid, cells, is_reflex, slack, level)
            else:
                is_ear = _is_free(p, ring, a, k, c, reflex, place, n_reflex, is_reflex, slack, level)
        if not is_ear:
            k = c
            misses += 1
            asked += 1
            if misses >= n_left:
                level += 1
                misses = 0
                if asked > _PATIENCE * (level - SHAPED) * n and level < ANY:
                    least_level = level
            elif least_level < EXACT and asked > _PATIENCE * (least_level + 1) * n:
                # Ears that need long looking for would take the square of the sides: from here on any will do.
                least_level += 1
                level = max(level, least_level)
            continue
        out[t, 0], out[t, 1], out[t, 2] = a, k, c
        if is_linked:
            _link(t, owner[a], owner[k], -1, neighbours)
            owner[a] = t
        t += 1
        ring[a, 1] = c
        ring[c, 0] = a
        n_left -= 1
        level = least_level
        misses = 0
        n_reflex = _drop_reflex(p, ring, a, k, c, slack, has_grid, reflex, place, slot, is_reflex, n_reflex)
        k = ring[c, 1]
    a, c = ring[k, 0], ring[k, 1]
    out[t, 0], out[t, 1], out[t, 2] = a, k, c
    if is_linked:
        _link(t, owner[a], owner[k], owner[c], neighbours)
