"""Fans: the faces around a vertex that hang together across edges, whatever their winding."""

import numpy as np
from numba import njit

from plindro.core.mesh.mesh import I32, I64
from plindro.core.numeric.groups import number_roots, unite


@njit(cache=True, nogil=True)
def _join(partner, next_corner, vertex, parent, group):  # type: ignore[no-untyped-def]
    n = len(partner)
    for c in range(n):
        parent[c] = c
    for c in range(n):
        d = partner[c]
        if d > c:
            if vertex[c] == vertex[d]:
                unite(parent, c, d)
                unite(parent, next_corner[c], next_corner[d])
            else:
                unite(parent, c, next_corner[d])
                unite(parent, next_corner[c], d)
    return number_roots(parent, group)


def vertex_fans(partner: I64, next_corner: I64, vertex: I32) -> tuple[I32, int]:
    """Group corners around vertices across paired half-edges.

    ``partner`` (C,) names the half-edge on the other side, or -1; ``vertex`` (C,) the vertex of each corner, the same
    number on both sides. Returns (C,) int32 groups in the order of first appearance, and how many there are.
    """
    parent = np.empty(len(partner), np.int32)
    group = np.empty(len(partner), np.int32)
    return group, int(_join(partner, next_corner, vertex, parent, group))
