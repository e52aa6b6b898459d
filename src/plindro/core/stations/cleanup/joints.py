"""Edges with more than two faces and vertices that join separate fans: found, and taken apart.

Nothing moves: faces that do not belong together get vertices of their own in the same place.
"""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.fans import vertex_fans
from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import I32, I64, Mesh
from plindro.core.mesh.pairing import pair_half_edges
from plindro.core.mesh.surgery import split_vertices
from plindro.core.mesh.topology import Topology, build_topology
from plindro.core.stations.cleanup.duplicates import face_ids_by_position


@dataclass(frozen=True, slots=True)
class Joints:
    """``edges`` (E,) edge numbers; ``vertices`` (V,) vertices; the corner groups that tell their sides apart.

    ``between_sides`` (V,) are the vertices on the border of a sheet with two sides, where front and back meet.
    """

    topology: Topology
    edges: I64
    vertices: I64
    between_sides: I64
    fans: I32
    paired_fans: I32


def find_joints(mesh: Mesh, topology: Topology | None = None) -> Joints:
    """Non-manifold edges, and vertices whose faces fall into separate fans even where such edges hold them together."""
    topology = topology or build_topology(mesh)
    edges = np.flatnonzero(topology.edge_uses > 2)
    together = topology.twin.astype(np.int64)
    paired = together
    between_sides = np.zeros(0, np.int64)
    if len(edges):
        chosen = (topology.edge_uses > 2)[topology.edge]
        start, end = mesh.corner_vertex, mesh.corner_vertex[topology.next_corner]
        vectors = np.zeros((mesh.n_corners, 3))
        vectors[chosen] = face_vectors(mesh)[mesh.corner_face()[chosen]]
        found = pair_half_edges(
            topology.edge, chosen, topology.edge_uses[topology.edge], mesh.positions, start, end, vectors
        )
        paired = np.where(chosen, found, together)
        paired, between_sides = _apart_from_backs(mesh, topology, paired)
        # A chain through all half-edges of an edge holds them together as one fan.
        order = np.flatnonzero(chosen)
        order = order[np.argsort(topology.edge[order], kind="stable")]
        same = topology.edge[order[1:]] == topology.edge[order[:-1]]
        together = together.copy()
        together[order[:-1][same]] = order[1:][same]
    vertex = mesh.corner_vertex
    paired_fans, _ = vertex_fans(paired, topology.next_corner, vertex)
    fans = vertex_fans(together, topology.next_corner, vertex)[0] if len(edges) else paired_fans
    owner = np.full(int(fans.max(initial=-1)) + 1, -1, np.int32)
    owner[fans] = vertex
    vertices = np.flatnonzero(np.bincount(owner, minlength=mesh.n_vertices) > 1)
    return Joints(topology, edges, vertices, between_sides, fans, paired_fans)


def _apart_from_backs(mesh: Mesh, topology: Topology, paired: I64) -> tuple[I64, I64]:
    """Pairs without those of a face and its own back, and the vertices at which such pairs meet."""
    outline = face_ids_by_position(mesh, np.arange(mesh.n_vertices, dtype=np.int32))
    face = mesh.corner_face()
    halves = np.flatnonzero(paired >= 0)
    backs = halves[outline[face[halves]] == outline[face[paired[halves]]]]
    if not len(backs):
        return paired, np.zeros(0, np.int64)
    alone = paired.copy()
    alone[backs] = -1
    return alone, np.unique(topology.edges[topology.edge[backs]]).astype(np.int64)


def take_apart(mesh: Mesh, joints: Joints, *, edges: bool, vertices: bool) -> Mesh:
    """The mesh with its non-manifold edges, vertices or both taken apart."""
    on_edges = np.zeros(mesh.n_vertices, bool)
    on_edges[joints.topology.edges[joints.edges]] = True
    on_edges[joints.between_sides] = True
    group = joints.fans.astype(np.int64) * 2
    if not vertices:
        group = mesh.corner_vertex.astype(np.int64) * 2
    if edges:
        group = np.where(on_edges[mesh.corner_vertex], joints.paired_fans.astype(np.int64) * 2 + 1, group)
    _, numbers = np.unique(group, return_inverse=True)
    return split_vertices(mesh, numbers.astype(np.int32))
