"""Rays against triangles through a tree of boxes: what a face sees, and in what a point lies."""

import numpy as np
from numba import njit

from plindro.core.spatial.boxes import BLOCK, DEEPEST


@njit(cache=True, nogil=True)
def _passes(low, high, origin, inverse):  # type: ignore[no-untyped-def]
    t0, t1 = 0.0, np.inf
    for k in range(3):
        near, far = (low[k] - origin[k]) * inverse[k], (high[k] - origin[k]) * inverse[k]
        if near > far:
            near, far = far, near
        t0, t1 = max(t0, near), min(t1, far)
    return t0 <= t1


@njit(cache=True, nogil=True, error_model="numpy")
def _crossing(p, q, r, origin, direction):  # type: ignore[no-untyped-def]
    """Distance along the ray to the triangle p, q, r, or -1 (Möller and Trumbore 1997)."""
    ax, ay, az = q[0] - p[0], q[1] - p[1], q[2] - p[2]
    bx, by, bz = r[0] - p[0], r[1] - p[1], r[2] - p[2]
    hx = direction[1] * bz - direction[2] * by
    hy = direction[2] * bx - direction[0] * bz
    hz = direction[0] * by - direction[1] * bx
    det = ax * hx + ay * hy + az * hz
    if det == 0.0:
        return -1.0
    sx, sy, sz = origin[0] - p[0], origin[1] - p[1], origin[2] - p[2]
    u = (sx * hx + sy * hy + sz * hz) / det
    if u < 0.0 or u > 1.0:
        return -1.0
    gx, gy, gz = sy * az - sz * ay, sz * ax - sx * az, sx * ay - sy * ax
    v = (direction[0] * gx + direction[1] * gy + direction[2] * gz) / det
    if v < 0.0 or u + v > 1.0:
        return -1.0
    return (bx * gx + by * gy + bz * gz) / det


@njit(cache=True, nogil=True)
def escapes(origin, direction, least, skip, points, triangles, face, order, low, high, first_leaf, stack, left):  # type: ignore[no-untyped-def]
    """Whether a ray meets no triangle beyond the distance ``least``; those of the face ``skip`` do not count.

    ``left`` (1,) is lowered by the triangles that were asked.
    """
    inverse = np.empty(3)
    for k in range(3):
        inverse[k] = 1.0 / (direction[k] if abs(direction[k]) > 1e-300 else 1e-300)
    stack[0] = 0
    depth = 1
    while depth > 0:
        depth -= 1
        node = stack[depth]
        if low[node, 0] > high[node, 0] or not _passes(low[node], high[node], origin, inverse):
            continue
        if node < first_leaf:
            stack[depth] = 2 * node + 1
            stack[depth + 1] = 2 * node + 2
            depth += 2
            continue
        base = (node - first_leaf) * BLOCK
        left[0] -= BLOCK
        for i in range(base, min(base + BLOCK, len(order))):
            t = order[i]
            if face[t] != skip:
                a, b, c = points[triangles[t, 0]], points[triangles[t, 1]], points[triangles[t, 2]]
                if _crossing(a, b, c, origin, direction) > least:
                    return False
    return True


@njit(cache=True, nogil=True)
def sky_shares(  # type: ignore[no-untyped-def]
    origins, normals, skip, directions, least, points, triangles, face, order, low, high, first_leaf, most, out
):  # fmt: skip
    """Share of the sky that points see in front of them (column 0) and behind them (column 1).

    ``directions`` (D, 3) cover a half sphere about +Z by equal area, weighted by cosine. After ``most`` triangles were
    asked, the points that are left see the same on both sides, which decides nothing.
    """
    stack = np.empty(DEEPEST, np.int64)
    d = np.empty(3)
    left = np.full(1, most, np.int64)
    for i in range(len(origins)):
        if left[0] <= 0:
            out[i, 0] = out[i, 1] = 1.0
            continue
        n = normals[i]
        # The same frame for a vector and its opposite, so that turning a face swaps its two shares exactly.
        first = n[0] if n[0] != 0.0 else (n[1] if n[1] != 0.0 else n[2])
        flip = -1.0 if first < 0.0 else 1.0
        nx, ny, nz = flip * n[0], flip * n[1], flip * n[2]
        if abs(nz) < 0.9:
            length = np.sqrt(nx * nx + ny * ny)
            ux, uy, uz = ny / length, -nx / length, 0.0
        else:
            length = np.sqrt(ny * ny + nz * nz)
            ux, uy, uz = 0.0, nz / length, -ny / length
        vx, vy, vz = ny * uz - nz * uy, nz * ux - nx * uz, nx * uy - ny * ux
        for side in range(2):
            sign = 1.0 - 2.0 * side
            free = 0
            for j in range(len(directions)):
                x, y, z = directions[j]
                d[0] = x * ux + y * vx + sign * z * n[0]
                d[1] = x * uy + y * vy + sign * z * n[1]
                d[2] = x * uz + y * vz + sign * z * n[2]
                free += escapes(
                    origins[i], d, least, skip[i], points, triangles, face, order, low, high, first_leaf, stack, left
                )
            out[i, side] = free / len(directions)


@njit(cache=True, nogil=True)
def _count_crossings(origin, direction, least, points, triangles, owner, order, low, high, first_leaf, stack, counts):  # type: ignore[no-untyped-def]
    """Add to ``counts`` how often the ray crosses triangles of each owner beyond the distance ``least``."""
    inverse = np.empty(3)
    for k in range(3):
        inverse[k] = 1.0 / (direction[k] if abs(direction[k]) > 1e-300 else 1e-300)
    stack[0] = 0
    depth = 1
    while depth > 0:
        depth -= 1
        node = stack[depth]
        if low[node, 0] > high[node, 0] or not _passes(low[node], high[node], origin, inverse):
            continue
        if node < first_leaf:
            stack[depth] = 2 * node + 1
            stack[depth + 1] = 2 * node + 2
            depth += 2
            continue
        base = (node - first_leaf) * BLOCK
        for i in range(base, min(base + BLOCK, len(order))):
            t = order[i]
            if owner[t] >= 0:
                a, b, c = points[triangles[t, 0]], points[triangles[t, 1]], points[triangles[t, 2]]
                if _crossing(a, b, c, origin, direction) > least:
                    counts[owner[t]] += 1


@njit(cache=True, nogil=True)
def find_inside(origins, rays, least, points, triangles, owner, order, low, high, first_leaf, inside):  # type: ignore[no-untyped-def]
    """``inside`` (N, O): whether most rays from each point cross the surface of each owner an odd number of times.

    ``owner`` (T,) int32 numbers the closed surfaces; triangles of -1 are passed.
    """
    stack = np.empty(DEEPEST, np.int64)
    counts = np.empty(inside.shape[1], np.int32)
    votes = np.empty(inside.shape[1], np.int32)
    for i in range(len(origins)):
        votes[:] = 0
        for j in range(len(rays)):
            counts[:] = 0
            _count_crossings(
                origins[i], rays[j], least, points, triangles, owner, order, low, high, first_leaf, stack, counts
            )
            for k in range(len(counts)):
                votes[k] += counts[k] & 1
        for k in range(len(counts)):
            inside[i, k] = 2 * votes[k] > len(rays)
