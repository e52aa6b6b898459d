"""Topology as flat arrays: a half-edge is a corner, running from its vertex to the face's next corner's."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from plindro.core.mesh.mesh import I32, I64, Mask, Mesh
from plindro.core.mesh.numbering import number_pairs
from plindro.core.numeric.groups import number_roots, unite


@dataclass(frozen=True, slots=True)
class Topology:
    """Edges and neighbours of a mesh.

    Attributes
    ----------
    next_corner : (C,) int64, the next corner around the same face
    edge : (C,) int32, the edge that starts at each corner
    edges : (E, 2) int32 vertex pairs, smaller index first, in the order of first appearance
    edge_uses : (E,) int32, how many half-edges each edge has
    twin : (C,) int32, the half-edge on the other side; -1 on borders and where more than two faces meet
    turned : (E,) bool, edges whose two half-edges run the same way: the faces' windings disagree
    """

    next_corner: I64
    edge: I32
    edges: I32
    edge_uses: I32
    twin: I32
    turned: Mask


def build_topology(mesh: Mesh) -> Topology:
    """Edges, uses and twins of any polygon mesh."""
    corners = np.arange(mesh.n_corners, dtype=np.int64)
    next_corner = corners + 1
    filled = mesh.face_sides > 0
    next_corner[mesh.face_start[1:][filled] - 1] = mesh.face_start[:-1][filled]
    start = mesh.corner_vertex
    end = start[next_corner]
    low, high = np.minimum(start, end), np.maximum(start, end)
    edge, firsts = number_pairs(low, high)
    edges = np.stack([low[firsts], high[firsts]], axis=1)
    uses = np.bincount(edge, minlength=len(edges)).astype(np.int32)

    twin = np.full(mesh.n_corners, -1, np.int32)
    turned = np.zeros(len(edges), bool)
    last = np.empty(len(edges), np.int64)
    last[edge] = corners
    first = firsts.astype(np.int64)
    pair = (uses == 2) & (edges[:, 0] != edges[:, 1])
    a, b = first[pair], last[pair]
    twin[a] = b
    twin[b] = a
    turned[pair] = start[a] == start[b]
    return Topology(next_corner, edge, edges, uses, twin, turned)


@njit(cache=True, nogil=True)
def _join_fans(twin, next_corner, crosses, parent, group):  # type: ignore[no-untyped-def]
    n = len(twin)
    for c in range(n):
        parent[c] = c
    for c in range(n):
        d = twin[c]
        if d > c and crosses[c]:
            unite(parent, c, next_corner[d])
            unite(parent, next_corner[c], d)
    return number_roots(parent, group)


def corner_fans(topology: Topology, crosses: Mask) -> tuple[I32, int]:
    """Group the corners around each vertex that can be reached from one another across edges.

    ``crosses`` (C,) says for each half-edge whether its edge may be crossed; edges without a twin, and those between
    faces of disagreeing winding, never are. Returns (C,) int32 group numbers in the order of first appearance, and
    how many there are.
    """
    allowed = crosses & ~topology.turned[topology.edge]
    parent = np.empty(len(topology.twin), np.int32)
    group = np.empty(len(topology.twin), np.int32)
    count = _join_fans(topology.twin, topology.next_corner, allowed, parent, group)
    return group, int(count)
