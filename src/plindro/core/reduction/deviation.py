"""How far a reduced surface is from its source, by its vertices.

From the triangles around the vertex that took a source vertex in, a walk over neighbours leads to the nearest triangle
of the reduced surface. The walk ends at a local minimum, so the figure is an upper bound of the vertices' distance.
"""

import numpy as np
from numba import njit

from plindro.core.mesh.mesh import F64, I32

MAX_STEPS = 32


@njit(cache=True, nogil=True, error_model="numpy")
def _point_segment(wx, wy, wz, dx, dy, dz):  # type: ignore[no-untyped-def]
    """Squared distance of the point w to the segment from the origin to d."""
    length = dx * dx + dy * dy + dz * dz
    t = (wx * dx + wy * dy + wz * dz) / length if length > 0.0 else 0.0
    t = min(max(t, 0.0), 1.0)
    return (t * dx - wx) ** 2 + (t * dy - wy) ** 2 + (t * dz - wz) ** 2


@njit(cache=True, nogil=True, error_model="numpy")
def _point_triangle(p, v, a, b, c):  # type: ignore[no-untyped-def]
    """Squared distance of vertex v to the triangle a, b, c; and whether its foot lies inside."""
    ux, uy, uz = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[b, 2] - p[a, 2]
    vx, vy, vz = p[c, 0] - p[a, 0], p[c, 1] - p[a, 1], p[c, 2] - p[a, 2]
    wx, wy, wz = p[v, 0] - p[a, 0], p[v, 1] - p[a, 1], p[v, 2] - p[a, 2]
    nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    nn = nx * nx + ny * ny + nz * nz
    if nn > 0.0:
        beta = ((wy * vz - wz * vy) * nx + (wz * vx - wx * vz) * ny + (wx * vy - wy * vx) * nz) / nn
        gamma = ((uy * wz - uz * wy) * nx + (uz * wx - ux * wz) * ny + (ux * wy - uy * wx) * nz) / nn
        if beta >= 0.0 and gamma >= 0.0 and beta + gamma <= 1.0:
            return (wx * nx + wy * ny + wz * nz) ** 2 / nn, True
    d = _point_segment(wx, wy, wz, ux, uy, uz)
    d = min(d, _point_segment(wx, wy, wz, vx, vy, vz))
    return min(d, _point_segment(wx - ux, wy - uy, wz - uz, vx - ux, vy - uy, vz - uz)), False


@njit(cache=True, nogil=True)
def _list_triangles(triangles, slot, around):  # type: ignore[no-untyped-def]
    """Triangles around each vertex, in their order; ``slot`` starts as where each vertex's list begins."""
    for t in range(len(triangles)):
        for k in range(3):
            v = triangles[t, k]
            around[slot[v]] = t
            slot[v] += 1


@njit(cache=True, nogil=True, error_model="numpy")
def _nearest(v, r, positions, triangles, start, around):  # type: ignore[no-untyped-def]
    """Squared distance of ``v`` to the surface, walking from the ring of ``r`` to nearer triangles."""
    nearest, at, within = np.inf, -1, False
    for step in range(MAX_STEPS):
        before = at
        for k in range(1 if step == 0 else 3):
            w = r if step == 0 else triangles[before, k]
            if step > 0 and w == r:
                continue
            for i in range(start[w], start[w + 1]):
                t = around[i]
                distance, inside = _point_triangle(positions, v, triangles[t, 0], triangles[t, 1], triangles[t, 2])
                if distance < nearest:
                    nearest, at, within = distance, t, inside
        # A foot inside the first ring's triangle is nearly always the nearest one: the walk pays at the ring's rim.
        if at == before or (step == 0 and within):
            break
    return nearest


@njit(cache=True, nogil=True)
def _measure(positions, triangles, owner, start, around):  # type: ignore[no-untyped-def]
    worst = total = 0.0
    for v in range(len(positions)):
        r = v
        while owner[r] != r:
            owner[r] = owner[owner[r]]
            r = owner[r]
        owner[v] = r
        if r == v or start[r] == start[r + 1]:
            continue
        nearest = _nearest(v, r, positions, triangles, start, around)
        worst = max(worst, nearest)
        total += np.sqrt(nearest)
    return np.sqrt(worst), total / max(len(positions), 1)


def measure_deviation(positions: F64, live_triangles: I32, owner: I32) -> tuple[float, float]:
    """Largest and mean distance of (V, 3) ``positions`` to the surface ``live_triangles`` (T, 3).

    ``owner`` (V,) leads from each vertex, in steps, to the one that took it in; the steps are shortened in place.
    Same unit as the positions.
    """
    counts = np.bincount(live_triangles.reshape(-1), minlength=len(positions))
    start = np.concatenate([[0], np.cumsum(counts)]).astype(np.int64)
    around = np.empty(3 * len(live_triangles), np.int32)
    _list_triangles(live_triangles, start[:-1].copy(), around)
    worst, mean = _measure(positions, live_triangles, owner, start, around)
    return float(worst), float(mean)
