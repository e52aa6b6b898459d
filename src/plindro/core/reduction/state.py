"""What a collapse works on: flat arrays, built once from a mesh.

Topology is that of welded positions (within a part). A *wedge* is a run of corners around a vertex between two
features; a *feature* is an edge where something ends: an open border, a UV or colour seam, a material border, a hard
edge. The attributes of a wedge are those of one of its corners, so nothing is ever interpolated.
"""

from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F32, F64, I32, Mask, Mesh, make_triangles
from plindro.core.mesh.numbering import float_bits, number_rows
from plindro.core.mesh.topology import Topology, build_topology, corner_fans
from plindro.core.reduction.quadrics import build_quadrics

FREE, LINE, LOCKED = 0, 1, 2
"""A FREE vertex may go to any neighbour, one on a LINE only along its feature, a LOCKED one stays."""


class CollapseState(NamedTuple):
    """Arrays of a collapse in progress. Dead triangles have -1 as the vertex of their first corner.

    positions (V, 3) in units of the bounds' diagonal; quadrics (V, 11); corner_vertex, corner_wedge (3 T,);
    head, tail (V,) and next_corner (3 T,) chain the corners of each vertex; kind (V,); line (V, 2) the neighbours
    along a feature; cost, target (V,) the best collapse known; dirty (V,) whether that is out of date; owner (V,) the
    vertex that took this one in; mark (V,) scratch; live (V,) vertices still in play;
    wedge_normals (W, 3) what a triangle must not turn against, zero where nothing is known; counters: see below.
    """

    positions: F64
    quadrics: F64
    corner_vertex: I32
    corner_wedge: I32
    head: I32
    tail: I32
    next_corner: I32
    kind: NDArray[np.uint8]
    line: I32
    cost: NDArray[np.float32]
    target: I32
    dirty: Mask
    owner: I32
    mark: I32
    live: I32
    wedge_normals: F32
    counters: NDArray[np.int64]


LIVE_TRIANGLES, STAMP, LIVE_VERTICES = 0, 1, 2
"""Places in ``CollapseState.counters``."""


class CollapseInput(NamedTuple):
    """A state with what leads back to the mesh: the corner of each wedge, the vertices, the scale to metres."""

    state: CollapseState
    wedge_corner: I32
    vertex_source: I32
    scale: float


def build_state(mesh: Mesh, *, hold_hard_edges: bool) -> CollapseInput:
    """The state for a triangle mesh; ``hold_hard_edges`` makes breaks of the normal a feature."""
    triangles = mesh.triangles()
    vertex_part = np.zeros(mesh.n_vertices, np.int32)
    vertex_part[mesh.corner_vertex[::-1]] = np.repeat(mesh.face_part, 3)[::-1]
    ids, vertex_source = number_rows(
        np.concatenate([float_bits(mesh.positions), vertex_part.view(np.uint32)[:, None]], axis=1)
    )
    welded = ids[mesh.corner_vertex]
    positions = mesh.positions[vertex_source]
    low, high = positions.min(axis=0), positions.max(axis=0)
    scale = float(np.linalg.norm(high - low)) or 1.0
    positions = (positions - (low + high) / 2) / scale

    triangle_vertex = welded.reshape(-1, 3)
    surface = make_triangles(positions, triangle_vertex)
    topology = build_topology(surface)
    feature = _feature_half_edges(mesh, topology, hold_hard_edges=hold_hard_edges)
    wedge, n_wedges = corner_fans(topology, ~feature)
    wedge_corner = np.zeros(n_wedges, np.int32)
    wedge_corner[wedge[::-1]] = np.arange(len(wedge), dtype=np.int32)[::-1]
    n_corners, n_vertices = 3 * len(triangles), len(positions)
    head, tail = np.full(n_vertices, -1, np.int32), np.full(n_vertices, -1, np.int32)
    next_corner = np.empty(n_corners, np.int32)
    _chain_corners(triangle_vertex, head, tail, next_corner)
    single_fan = np.zeros(n_vertices, bool)
    _mark_single_fans(head, next_corner, topology.twin, topology.next_corner, single_fan)
    kind, line = _classify(topology, feature, single_fan)
    state = CollapseState(
        positions=positions,
        quadrics=build_quadrics(surface, feature),
        corner_vertex=welded.copy(),
        corner_wedge=wedge,
        head=head,
        tail=tail,
        next_corner=next_corner,
        kind=kind,
        line=line,
        cost=np.full(n_vertices, np.inf, np.float32),
        target=np.full(n_vertices, -1, np.int32),
        dirty=np.ones(n_vertices, bool),
        owner=np.arange(n_vertices, dtype=np.int32),
        mark=np.zeros(n_vertices, np.int32),
        live=np.arange(n_vertices, dtype=np.int32),
        wedge_normals=_wedge_normals(mesh, wedge_corner, hold_hard_edges=hold_hard_edges),
        counters=np.array([n_corners // 3, 0, n_vertices], np.int64),
    )
    return CollapseInput(state, wedge_corner, vertex_source, scale)


def _wedge_normals(mesh: Mesh, wedge_corner: I32, *, hold_hard_edges: bool) -> F32:
    """Shading normal of each wedge; zero where hard edges run through wedges, so that one normal says nothing."""
    if mesh.normals is None or not hold_hard_edges:
        return np.zeros((len(wedge_corner), 3), np.float32)
    return np.ascontiguousarray(mesh.normals[wedge_corner])


def _feature_half_edges(mesh: Mesh, topology: Topology, *, hold_hard_edges: bool) -> Mask:
    """(C,) half-edges whose edge is a feature: no proper twin, or an attribute that breaks across it."""
    columns = [mesh.face_material[mesh.corner_face()].view(np.uint32)[:, None]]
    columns += [float_bits(uv) for uv in mesh.uvs]
    if mesh.colors is not None:
        columns.append(float_bits(mesh.colors))
    if hold_hard_edges and mesh.normals is not None:
        # Normals a hair apart come from rounding in the exporter; they are one normal to the eye.
        columns.append(np.round(mesh.normals * 512).astype(np.int32).view(np.uint32))
    there = np.flatnonzero(topology.twin >= 0)
    back = topology.twin[there]
    ahead = topology.next_corner
    there_end, back_end = ahead[there], ahead[back]
    breaks = topology.turned[topology.edge[there]]
    for values in (column for block in columns for column in block.T):
        breaks |= (values[there] != values[back_end]) | (values[there_end] != values[back])
    feature = np.ones(mesh.n_corners, bool)
    feature[there] = breaks
    return feature


def _classify(topology: Topology, feature: Mask, single_fan: Mask) -> tuple[NDArray[np.uint8], I32]:
    """Kind of every vertex, and the two feature neighbours of those on a line."""
    n_vertices = len(single_fan)
    is_feature = np.zeros(len(topology.edges), bool)
    is_feature[topology.edge[feature]] = True
    ends = topology.edges[is_feature]
    degree = np.bincount(ends.reshape(-1), minlength=n_vertices)
    kind = np.full(n_vertices, LOCKED, np.uint8)
    kind[(degree == 0) & single_fan] = FREE
    kind[(degree == 2) & single_fan] = LINE
    bad = topology.is_crowded | topology.turned | (topology.edges[:, 0] == topology.edges[:, 1])
    kind[topology.edges[bad].reshape(-1)] = LOCKED
    line = np.full((n_vertices, 2), -1, np.int32)
    both = np.concatenate([ends, ends[:, ::-1]])
    both = both[kind[both[:, 0]] == LINE]
    both = both[np.argsort(both[:, 0], kind="stable")]
    line[both[::2, 0], 0] = both[::2, 1]
    line[both[1::2, 0], 1] = both[1::2, 1]
    return kind, line


@njit(cache=True, nogil=True)
def _chain_corners(triangle_vertex, head, tail, next_corner):  # type: ignore[no-untyped-def]
    """Linked list of the corners of each vertex, in their order."""
    for t in range(len(triangle_vertex)):
        for k in range(3):
            v, c = triangle_vertex[t, k], 3 * t + k
            next_corner[c] = -1
            if tail[v] < 0:
                head[v] = c
            else:
                next_corner[tail[v]] = c
            tail[v] = c


@njit(cache=True, nogil=True)
def _mark_single_fans(head, next_corner, twin, around, single):  # type: ignore[no-untyped-def]
    """Mark the vertices whose corners all hang together across edges."""
    for v in range(len(head)):
        total = 0
        c = head[v]
        while c >= 0:
            total += 1
            c = next_corner[c]
        if total == 0:
            continue
        start = head[v]
        seen = 1
        c = start
        while True:
            # Across the edge that leaves v: the next corner of its twin lies at v again.
            other = twin[c]
            if other < 0:
                break
            c = around[other]
            if c == start or seen > total:
                break
            seen += 1
        if twin[c] < 0 and seen < total:
            c = start
            while True:
                # Across the edge that arrives at v.
                other = twin[around[around[c]]]
                if other < 0 or seen > total:
                    break
                c = other
                seen += 1
        single[v] = seen == total
