"""What a collapse must not do: fold a triangle or make it a sliver, pinch the surface, shut a line.

The link condition is Dey, Edelsbrunner, Guha and Nekhayev 1999. Within a pass ``into`` names the vertex that a vertex
has gone into, itself while it has not, and ``chain`` leads from a vertex to those whose rings it has taken over.
"""

import numpy as np

from plindro.core.numeric.kernels import helper
from plindro.core.reduction.features import LINE, LOCKED
from plindro.core.reduction.handles import PINCHED, WATCHES

FLIP_COSINE = 0.2
"""A triangle may not turn further than this in one collapse."""
BACK_COSINE = 0.5
"""Nor further than this away from the side that its corners' normals face, in all."""
NEEDLE = 1e-3
"""Twice the area over the longest side squared, below which a triangle is a sliver."""


@helper
def folds(p, a, b, ox, oy, oz, x, y, z, sx, sy, sz):  # type: ignore[no-untyped-def]
    """Whether the triangle of a corner at o and the vertices a, b folds or becomes a sliver when o moves to x, y, z.

    ``s`` is the sum of the shading normals of its corners, zero where nothing is known.
    """
    ex, ey, ez = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[b, 2] - p[a, 2]
    ux, uy, uz = ox - p[a, 0], oy - p[a, 1], oz - p[a, 2]
    vx, vy, vz = x - p[a, 0], y - p[a, 1], z - p[a, 2]
    mx, my, mz = ey * uz - ez * uy, ez * ux - ex * uz, ex * uy - ey * ux
    nx, ny, nz = ey * vz - ez * vy, ez * vx - ex * vz, ex * vy - ey * vx
    old, new = mx * mx + my * my + mz * mz, nx * nx + ny * ny + nz * nz
    if old == 0.0:
        return False
    dot = mx * nx + my * ny + mz * nz
    if dot <= 0.0 or dot * dot < FLIP_COSINE * FLIP_COSINE * old * new:
        return True
    # Many turns add up. What faced away before, as in a scan's noise, must not hold the rest back.
    turned, before = sx * nx + sy * ny + sz * nz, sx * mx + sy * my + sz * mz
    most = BACK_COSINE * BACK_COSINE * new * (sx * sx + sy * sy + sz * sz)
    if turned < 0.0 and before >= 0.0 and turned * turned > most:
        return True
    edge = ex * ex + ey * ey + ez * ez
    wx, wy, wz = x - p[b, 0], y - p[b, 1], z - p[b, 2]
    longest = max(edge, vx * vx + vy * vy + vz * vz, wx * wx + wy * wy + wz * wz)
    if new >= (NEEDLE * longest) ** 2:
        return False
    wx, wy, wz = ox - p[b, 0], oy - p[b, 1], oz - p[b, 2]
    was = max(edge, ux * ux + uy * uy + uz * uz, wx * wx + wy * wy + wz * wz)
    return np.sqrt(new) * was < 0.25 * np.sqrt(old) * longest


@helper
def mark_ring(v, start, around, chain, into, mark, stamp):  # type: ignore[no-untyped-def]
    """Put ``stamp`` on the neighbours of ``v``; returns how many triangles are around it."""
    count = 0
    segment = v
    while segment >= 0:
        for s in range(start[segment], start[segment + 1]):
            a, b = into[around[s, 0]], into[around[s, 1]]
            if a != v and b != v and a != b:
                mark[a] = stamp
                mark[b] = stamp
                count += 1
        segment = chain[segment]
    return count


@helper
def has_triangle(v, a, b, start, around, chain, into):  # type: ignore[no-untyped-def]
    """Whether a triangle of ``v`` holds a and b."""
    segment = v
    while segment >= 0:
        for s in range(start[segment], start[segment + 1]):
            x, y = into[around[s, 0]], into[around[s, 1]]
            if (x == a and y == b) or (x == b and y == a):
                return True
        segment = chain[segment]
    return False


@helper
def other_on_line(u, v, line):  # type: ignore[no-untyped-def]
    """The neighbour of ``u`` along its feature that is not ``v``."""
    return line[u, 1] if line[u, 0] == v else line[u, 0]


@helper
def closes_line(u, v, kind, line):  # type: ignore[no-untyped-def]
    """Whether a feature line would fold onto itself when u goes along it to v."""
    other = other_on_line(u, v, line)
    if other < 0 or other == v:
        return True
    if kind[v] == LINE and (line[v, 0] == other or line[v, 1] == other):
        return True
    return kind[other] == LINE and (line[other, 0] == v or line[other, 1] == v)


@helper
def gather_ring(u, start, around, into, ring):  # type: ignore[no-untyped-def]
    """The triangles around a vertex that has taken in none, as they stand now, in columns; returns how many."""
    count = 0
    for s in range(start[u], start[u + 1]):
        a, b = into[around[s, 0]], into[around[s, 1]]
        if a != b:
            ring[0, count], ring[1, count], ring[2, count] = a, b, around[s, 2]
            count += 1
    return count


@helper
def keeps_surface(u, v, n_ring, ring, start, around, chain, into, kind, line, rim, watch, mark, stamp):  # type: ignore[no-untyped-def]
    """Whether u, with its gathered ring, can go into v and leave the surface a surface.

    Marks the ring of v with ``stamp``, what both have in common with one more; a vertex that watches is told where they
    have too much in common. Vertices on the ``rim``, where a
    reflection will be joined, must not be joined by an edge across the surface, which would have four faces then.
    """
    on_line = kind[u] == LINE
    if on_line and closes_line(u, v, kind, line):
        return False
    n_around = mark_ring(v, start, around, chain, into, mark, stamp)
    n_shared = n_common = 0
    other = other_on_line(u, v, line) if on_line and kind[v] == LOCKED else -1
    suspect = -1
    joins_rim = len(rim) > 0 and rim[v] and not rim[u]
    for i in range(n_ring):
        a, b = ring[0, i], ring[1, i]
        if a == v or b == v:
            n_shared += 1
            opposite = b if a == v else a
            if opposite == other and kind[other] == LOCKED:
                return False
        elif mark[a] >= stamp and mark[b] >= stamp:
            suspect = i
        if joins_rim and ((a != v and rim[a] and mark[a] < stamp) or (b != v and rim[b] and mark[b] < stamp)):
            return False
        if a != v and mark[a] == stamp:
            mark[a] = stamp + 1
            n_common += 1
        if b != v and mark[b] == stamp:
            mark[b] = stamp + 1
            n_common += 1
    if n_common > n_shared and watch[u] == WATCHES:
        watch[u] = PINCHED
    if n_shared == 0 or n_shared > 2 or n_common != n_shared or (n_shared == 1 and not on_line):
        return False
    if n_ring == n_shared and n_around == n_shared:
        return False
    if suspect >= 0:
        for i in range(n_ring):
            a, b = ring[0, i], ring[1, i]
            is_suspect = a != v and b != v and mark[a] >= stamp and mark[b] >= stamp
            if is_suspect and has_triangle(v, a, b, start, around, chain, into):
                return False
    return True
