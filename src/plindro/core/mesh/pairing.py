"""Which faces belong together where many meet on one edge.

Around an edge the faces are sorted by angle. A face whose half-edge runs against the edge opens a wedge of solid in the
direction of growing angle, one along it closes a wedge: pairing is matching brackets around a circle. Two boxes that
touch along an edge come apart as two boxes, and a wall that stands on a floor comes off the floor. Faces that all run
the same way along an edge have no partners. Where two faces lie back to back, the wedge that ends there closes before
the next one opens, so that a sheet with a front and a back comes apart as its two sides.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F64, I32, I64, Mask

BEHIND = 1e-9
"""Radians within which two faces around an edge lie in one place."""


@njit(cache=True, nogil=True)
def _angles(origin, far, inward, items, forward, theta):  # type: ignore[no-untyped-def]
    """Angle around the edge of each half-edge's direction into its face; of two in one place the closing one first."""
    ux, uy, uz = far[0] - origin[0], far[1] - origin[1], far[2] - origin[2]
    length = np.sqrt(ux * ux + uy * uy + uz * uz)
    if length > 0:
        ux, uy, uz = ux / length, uy / length, uz / length
    if abs(ux) <= abs(uy) and abs(ux) <= abs(uz):
        ax, ay, az = 0.0, uz, -uy
    elif abs(uy) <= abs(uz):
        ax, ay, az = -uz, 0.0, ux
    else:
        ax, ay, az = uy, -ux, 0.0
    bx, by, bz = uy * az - uz * ay, uz * ax - ux * az, ux * ay - uy * ax
    for i in range(len(items)):
        d = inward[items[i]]
        theta[i] = np.arctan2(d[0] * bx + d[1] * by + d[2] * bz, d[0] * ax + d[1] * ay + d[2] * az)
        if not forward[items[i]]:
            theta[i] += BEHIND


@njit(cache=True, nogil=True)
def _match_brackets(items, forward, order, stack, partner):  # type: ignore[no-untyped-def]
    """Twice around the circle, so that a wedge across the start closes as well."""
    n = len(items)
    depth = 0
    for step in range(2 * n):
        h = items[order[step % n]]
        if partner[h] >= 0:
            continue
        if not forward[h]:
            if step < n:
                stack[depth] = h
                depth += 1
        elif depth > 0:
            depth -= 1
            partner[h] = stack[depth]
            partner[stack[depth]] = h


@njit(cache=True, nogil=True)
def _pair(start, items, crowd, positions, low, high, inward, forward, partner):  # type: ignore[no-untyped-def]
    largest = 1
    for g in range(len(start) - 1):
        largest = max(largest, start[g + 1] - start[g])
    theta = np.empty(largest)
    stack = np.empty(largest, np.int64)
    for g in range(len(start) - 1):
        mine = items[start[g] : start[g + 1]]
        n = len(mine)
        if n == 2 and (crowd[mine[0]] == 2 or forward[mine[0]] != forward[mine[1]]):
            partner[mine[0]] = mine[1]
            partner[mine[1]] = mine[0]
        elif n > 2:
            _angles(positions[low[mine[0]]], positions[high[mine[0]]], inward, mine, forward, theta[:n])
            _match_brackets(mine, forward, np.argsort(theta[:n], kind="mergesort"), stack, partner)


def pair_half_edges(group: I32, chosen: Mask, crowd: I32, positions: F64, start: I32, end: I32, vectors: F64) -> I64:
    """Pair the chosen half-edges that lie on one edge.

    Two that are alone on an edge belong together whichever way they run; where there are more, only a half-edge along
    the edge and one against it do.

    Parameters
    ----------
    group : (C,) int32, the edge each half-edge lies on
    chosen : (C,) bool, half-edges to be paired
    crowd : (C,) int32, how many half-edges lie on each one's edge, chosen or not
    positions : (V, 3); ``start``, ``end`` : (C,) vertices of each half-edge, the same names for coincident ones
    vectors : (C, 3) area vectors of the half-edges' faces

    Returns (C,) int64: the partner of each half-edge, -1 where it has none.
    """
    partner = np.full(len(group), -1, np.int64)
    picked = np.flatnonzero(chosen)
    order = picked[np.argsort(group[picked], kind="stable")]
    if not len(order):
        return partner
    begins = np.concatenate([[0], np.flatnonzero(np.diff(group[order])) + 1, [len(order)]])
    forward: NDArray[np.bool_] = start < end
    low, high = np.minimum(start, end), np.maximum(start, end)
    inward = np.zeros((len(group), 3))
    inward[picked] = np.cross(vectors[picked], positions[end[picked]] - positions[start[picked]])
    length = np.linalg.norm(inward[picked], axis=1, keepdims=True)
    inward[picked] /= np.where(length > 0, length, 1.0)
    _pair(begins, order, crowd, positions, low, high, inward, forward, partner)
    return partner
