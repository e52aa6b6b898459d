"""T-vertices: a vertex of one face on the open edge of another, where light shines through and shading breaks."""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh
from plindro.core.mesh.surgery import insert_corners
from plindro.core.mesh.topology import Topology, build_topology
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.spatial.boxes import build_box_tree
from plindro.core.spatial.search import begin, new_stack, next_leaf, things_of

MOST_ASKED = 10_000_000
"""Leaves that all open edges together may ask, a few seconds of work; a million edges of a sound surface need half."""


@dataclass(frozen=True, slots=True)
class TVertices:
    """``corners`` (N,) half-edges with a vertex on them, ``vertices`` (N,), ``shares`` (N,) of the way along."""

    corners: I64
    vertices: I32
    shares: F64


@helper
def _along(segment, tree, node):  # type: ignore[no-untyped-def]
    """How far along a segment with ends a, b a box begins that lies within ``reach`` of it along every axis."""
    a, b, reach = segment
    if tree.low[node, 0] > tree.high[node, 0]:
        return np.inf
    t0, t1 = 0.0, 1.0
    for k in range(3):
        d = b[k] - a[k]
        lo, hi = tree.low[node, k] - reach - a[k], tree.high[node, k] + reach - a[k]
        if d == 0.0:
            if lo > 0.0 or hi < 0.0:
                return np.inf
        else:
            near, far = lo / d, hi / d
            if near > far:
                near, far = far, near
            t0, t1 = max(t0, near), min(t1, far)
            if t0 > t1:
                return np.inf
    return t0


@helper
def _share_of(p, a, b, reach):  # type: ignore[no-untyped-def]
    """How far along a, b the point lies, -1 where it is not on the segment or at one of its ends."""
    length = along = 0.0
    for k in range(3):
        length += (b[k] - a[k]) ** 2
        along += (p[k] - a[k]) * (b[k] - a[k])
    if length == 0.0:
        return -1.0
    t = along / length
    off = 0.0
    for k in range(3):
        off += (p[k] - a[k] - t * (b[k] - a[k])) ** 2
    edge = np.sqrt(length)
    if off > reach * reach or t * edge <= reach or (1.0 - t) * edge <= reach:
        return -1.0
    return t


@helper
def _continues(points, v, far_start, far, a, b, reach):  # type: ignore[no-untyped-def]
    """Whether an open edge at ``v`` runs along the segment: only then does the other face end at it."""
    for i in range(far_start[v], far_start[v + 1]):
        w = points[far[i]]
        length = along = 0.0
        for k in range(3):
            length += (b[k] - a[k]) ** 2
            along += (w[k] - a[k]) * (b[k] - a[k])
        t = min(max(along / length, 0.0), 1.0)
        off = 0.0
        for k in range(3):
            off += (w[k] - a[k] - t * (b[k] - a[k])) ** 2
        if off <= (2.0 * reach) ** 2:
            return True
    return False


@kernel
def _search(  # type: ignore[no-untyped-def]
    halves, start, end, face, face_start, corner_vertex, points, tree, vertices, far_start, far, reach, wanted, stack,
    corner, vertex, share,
):  # fmt: skip
    """Vertices on each open half-edge; returns how many there are, which may be more than the arrays hold.

    After ``MOST_ASKED`` leaves the search ends with what it has.
    """
    asked = 0
    found = 0
    for h in halves:
        if asked > MOST_ASKED:
            break
        a, b = points[start[h]], points[end[h]]
        segment = (a, b, reach)
        depth = begin(_along, segment, tree, stack)
        while True:
            leaf, depth = next_leaf(_along, segment, np.inf, tree, stack, depth)
            if leaf < 0:
                break
            asked += 1
            first, last = things_of(leaf, tree)
            for i in range(first, last):
                v = vertices[tree.order[i]]
                t = _share_of(points[v], a, b, reach)
                if t < 0.0 or not (wanted[v] or wanted[start[h]] or wanted[end[h]]):
                    continue
                mine = False
                for c in range(face_start[face[h]], face_start[face[h] + 1]):
                    mine = mine or corner_vertex[c] == v
                if mine or not _continues(points, v, far_start, far, a, b, reach):
                    continue
                if found < len(corner):
                    corner[found], vertex[found], share[found] = h, v, t
                found += 1
    return found


def find_t_vertices(
    mesh: Mesh, tolerance: float, topology: Topology | None = None, among: Mask | None = None
) -> TVertices:
    """Vertices on open edges, within ``tolerance`` metres of them; ``among`` (V,) limits the search to these."""
    topology = topology or build_topology(mesh)
    start, end = mesh.corner_vertex, mesh.corner_vertex[topology.next_corner]
    halves = np.flatnonzero((topology.edge_uses[topology.edge] == 1) & (start != end))
    none = TVertices(np.zeros(0, np.int64), np.zeros(0, np.int32), np.zeros(0))
    if not len(halves):
        return none
    ends = np.concatenate([start[halves], end[halves]])
    others = np.concatenate([end[halves], start[halves]])
    by_vertex = np.argsort(ends, kind="stable")
    far_start = np.concatenate([[0], np.cumsum(np.bincount(ends, minlength=mesh.n_vertices))])
    vertices = np.unique(ends)
    tree = build_box_tree(mesh.positions[vertices], mesh.positions[vertices])
    wanted = np.ones(mesh.n_vertices, bool) if among is None else among
    capacity = 4 * len(halves)
    while True:
        corner, vertex, share = np.empty(capacity, np.int64), np.empty(capacity, np.int32), np.empty(capacity)
        found = _search(
            halves, start, end, mesh.corner_face(), mesh.face_start, mesh.corner_vertex, mesh.positions, tree, vertices,
            far_start, others[by_vertex], tolerance, wanted, new_stack(), corner, vertex, share,
        )  # fmt: skip
        if found <= capacity:
            break
        capacity = found
    once = np.unique(np.stack([corner[:found], vertex[:found]], axis=1), axis=0, return_index=True)[1]
    return _one_a_place(TVertices(corner[once], vertex[once], share[once]))


def _one_a_place(found: TVertices) -> TVertices:
    """Of several vertices at one share of an edge only the first, so that no edge without length arises."""
    order = np.lexsort((found.vertices, found.shares, found.corners))
    corners, shares = found.corners[order], found.shares[order]
    keep = np.ones(len(order), bool)
    keep[1:] = (corners[1:] != corners[:-1]) | (shares[1:] - shares[:-1] > 1e-9)
    kept = order[keep]
    return TVertices(found.corners[kept], found.vertices[kept], found.shares[kept])


def close_t_vertices(mesh: Mesh, found: TVertices) -> Mesh:
    """The mesh with the vertices taken into the edges on which they lie; the shape of every face stays."""
    return insert_corners(mesh, found.corners, found.vertices, found.shares)
