"""Thin edges, as of a blade or a leaf: what keeps them from shrinking.

The planes of two faces that lie nearly on each other say little about where the edge between them ends. A plane across
both does, and weighs the more the less they say.
"""

import numpy as np

from plindro.core.mesh.mesh import F32, F64
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.reduction.quadrics import add_plane
from plindro.core.reduction.rings import Rings


@helper
def _hold(u, o, t, across, positions, normals, quadrics):  # type: ignore[no-untyped-def]
    """Add the plane of the edge from u to o, between t and ``across``, where it is sharper than a right angle."""
    ax, ay, az = normals[t, 0], normals[t, 1], normals[t, 2]
    bx, by, bz = normals[across, 0], normals[across, 1], normals[across, 2]
    sharp = -(ax * bx + ay * by + az * bz)
    if sharp <= 0.0:
        return
    gx, gy, gz = positions[o, 0] - positions[u, 0], positions[o, 1] - positions[u, 1], positions[o, 2] - positions[u, 2]
    # Into the one face and into the other, together.
    nx, ny, nz = ax - bx, ay - by, az - bz
    hx, hy, hz = ny * gz - nz * gy, nz * gx - nx * gz, nx * gy - ny * gx
    length = np.sqrt(hx * hx + hy * hy + hz * hz)
    if length > 0.0:
        hx, hy, hz, w = hx / length, hy / length, hz / length, sharp * (gx * gx + gy * gy + gz * gz)
        add_plane(quadrics, u, hx, hy, hz, w)
        add_plane(quadrics, o, hx, hy, hz, w)


@kernel
def _hold_all(start, around, positions, normals, arriving, quadrics):  # type: ignore[no-untyped-def]
    """``arriving`` (V,) of -1 is scratch."""
    for u in range(len(positions)):
        first, last = start[u], start[u + 1]
        for s in range(first, last):
            arriving[around[s, 1]] = s
        for s in range(first, last):
            o = around[s, 0]
            r = arriving[o]
            if o > u and r >= first:
                _hold(u, o, around[s, 2] // 3, around[r, 2] // 3, positions, normals, quadrics)
        for s in range(first, last):
            arriving[around[s, 1]] = -1


def hold_thin_edges(positions: F64, normals: F64, rings: Rings, quadrics: F32) -> None:
    """Let rows of vertices (V, 13) hold the edges that are sharper than a right angle, in place.

    ``normals`` (T, 3) of the triangles of ``rings``, unit, zero where one has no area.
    """
    scratch = np.full(len(positions), -1, np.int32)
    _hold_all(rings.start, rings.around, positions, normals, scratch, quadrics)
