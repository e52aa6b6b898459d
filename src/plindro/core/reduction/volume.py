"""Keeping what the surface encloses, so that a reduced surface lies as much outside its source as inside.

Planes alone place the vertices of a rounded surface on one side of it: outside where they may move, inside where they
stay on the source. Lindstrom and Turk 1998 ask of each place that the volume stays. Here a vertex that moves goes from
its best place to where the volume is kept, and one that stays remembers the volume that has gone around it, which
counts among its errors.

Volumes are six times those of the tetrahedra that come and go, as the triple product has them.
"""

import numpy as np

from plindro.core.numeric.kernels import helper, index
from plindro.core.reduction.quadrics import AREA, KEPT, PLAIN_AREA

VOLUME_WEIGHT = 0.5
"""How much the squared mean offset that a lost volume amounts to counts beside squared distances to planes."""
REACH = 0.15
"""A place moves no further for its volume than this share of the edge."""
FLAT, FLAT_SHARE = 1e-6, 1e-5
"""A place lies in the plane of a triangle that it misses by less than so much of the mesh's size, or of the edge."""
BESIDE = 0.1
"""Sine of an angle below which two directions are one."""


@helper
def area_normal(u, n_ring, ring, positions):  # type: ignore[no-untyped-def]
    """The sum of the normals of a gathered ring, each twice its area long: its product with a way is a volume."""
    nx, ny, nz = 0.0, 0.0, 0.0
    ux, uy, uz = positions[u, 0], positions[u, 1], positions[u, 2]
    for r in range(n_ring):
        a, b = ring[0, r], ring[1, r]
        ax, ay, az = positions[a, 0] - ux, positions[a, 1] - uy, positions[a, 2] - uz
        bx, by, bz = positions[b, 0] - ux, positions[b, 1] - uy, positions[b, 2] - uz
        nx += ay * bz - az * by
        ny += az * bx - ax * bz
        nz += ax * by - ay * bx
    return nx, ny, nz


@helper
def volume_error(q, u, v, gained):  # type: ignore[no-untyped-def]
    """What the volume that is gained when u goes onto v adds to their error; less than nothing where it makes up."""
    a, b = q[u, PLAIN_AREA], q[v, PLAIN_AREA]
    if not (a > 0.0 and b > 0.0):
        return 0.0
    whole = q[u, KEPT] + q[v, KEPT] + gained
    added = whole * whole / (a + b) - q[u, KEPT] * q[u, KEPT] / a - q[v, KEPT] * q[v, KEPT] / b
    return VOLUME_WEIGHT * added * (q[u, AREA] + q[v, AREA]) / (a + b)


@helper
def _off(x, y, z, axes):  # type: ignore[no-untyped-def]
    """What is left of a way at right angles to the axes, of which the rows that are not used are zero."""
    for k in range(2):
        along = x * axes[k, 0] + y * axes[k, 1] + z * axes[k, 2]
        x -= along * axes[k, 0]
        y -= along * axes[k, 1]
        z -= along * axes[k, 2]
    return x, y, z


@helper
def keep_volume(u, v, keeps, n_ring, ring, n_other, other_ring, positions, axes, place):  # type: ignore[no-untyped-def]
    """Move the place of u and v, an offset from the one that ``keeps`` its name, to where the volume around them stays.

    Returns whether it moved. It moves towards the triangles that it misses, and within the planes of those that it lies
    in: what is flat beside what is round stays flat. ``axes`` (2, 3) is scratch.
    """
    dx, dy, dz = positions[u, 0] - positions[v, 0], positions[u, 1] - positions[v, 1], positions[u, 2] - positions[v, 2]
    edge = np.sqrt(dx * dx + dy * dy + dz * dz)
    x, y, z = positions[keeps, 0] + place[0], positions[keeps, 1] + place[1], positions[keeps, 2] + place[2]
    nx, ny, nz = 0.0, 0.0, 0.0
    wx, wy, wz = 0.0, 0.0, 0.0
    missing = 0.0
    n_axes = 0
    axes[:] = 0.0
    for side in range(2):
        own, n, rows = (u, n_ring, ring) if side == 0 else (v, n_other, other_ring)
        ox, oy, oz = positions[own, 0], positions[own, 1], positions[own, 2]
        for r in range(n):
            a, b = index(rows[0, r]), index(rows[1, r])
            if side == 1 and (a == u or b == u):
                continue
            ax, ay, az = positions[a, 0] - ox, positions[a, 1] - oy, positions[a, 2] - oz
            bx, by, bz = positions[b, 0] - ox, positions[b, 1] - oy, positions[b, 2] - oz
            cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
            size = np.sqrt(cx * cx + cy * cy + cz * cz)
            if size == 0.0:
                continue
            this = cx * (ox - x) + cy * (oy - y) + cz * (oz - z)
            missing += this
            nx += cx
            ny += cy
            nz += cz
            share = abs(this) / size
            wx += share * cx
            wy += share * cy
            wz += share * cz
            if share < FLAT + FLAT_SHARE * edge:
                cx, cy, cz = _off(cx / size, cy / size, cz / size, axes)
                left = np.sqrt(cx * cx + cy * cy + cz * cz)
                if left < BESIDE:
                    continue
                if n_axes == 2:
                    return False
                axes[n_axes, 0], axes[n_axes, 1], axes[n_axes, 2] = cx / left, cy / left, cz / left
                n_axes += 1
    wx, wy, wz = _off(wx, wy, wz, axes)
    along, squared = nx * wx + ny * wy + nz * wz, wx * wx + wy * wy + wz * wz
    # Where most of the way is across the surface it would lead astray.
    if not along > 0.0 or along * along < BESIDE * BESIDE * squared * (nx * nx + ny * ny + nz * nz):
        return False
    most = REACH * edge / np.sqrt(squared)
    far = min(max(missing / along, -most), most)
    place[0] += far * wx
    place[1] += far * wy
    place[2] += far * wz
    return True
