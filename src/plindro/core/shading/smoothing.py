"""Smoothing groups from the normals that a mesh has."""

import numpy as np

from plindro.core.mesh.mesh import I32, NO_GROUP, Mask, Mesh
from plindro.core.mesh.topology import Topology, build_topology
from plindro.core.numeric.groups import connected

SAME_NORMAL = float(np.cos(np.radians(0.5)))
"""Cosine of the angle within which two normals are one to the eye."""


def smooth_by_normals(mesh: Mesh, topology: Topology) -> Mask:
    """(C,) which half-edges the mesh's own normals run smoothly across, at both ends."""
    smooth = np.zeros(mesh.n_corners, bool)
    if mesh.normals is None:
        return smooth
    there = np.flatnonzero((topology.twin >= 0) & ~topology.turned[topology.edge])
    back = topology.twin[there]
    ahead = topology.next_corner
    n = mesh.normals
    start = np.einsum("ij,ij->i", n[there], n[ahead[back]])
    end = np.einsum("ij,ij->i", n[ahead[there]], n[back])
    smooth[there] = (start >= SAME_NORMAL) & (end >= SAME_NORMAL)
    return smooth


def hard_edges(mesh: Mesh) -> I32:
    """(E, 2) edges inside the surface at which the mesh's own normals break, as pairs of vertices."""
    topology = build_topology(mesh)
    hard = ~smooth_by_normals(mesh, topology) & (topology.twin >= 0)
    return topology.edges[np.unique(topology.edge[hard])]


def smoothing_groups(mesh: Mesh) -> I32:
    """(F,) smoothing group of each face, 0 where it is faceted, numbered in the order of first appearance.

    Faces across whose edges the normals run on share a group; a mesh without normals keeps its own groups. An edge that
    is hard between two faces which hang together elsewhere cannot be told by groups; the normals tell it.
    """
    if mesh.normals is None:
        return np.where(mesh.face_smoothing == NO_GROUP, 0, mesh.face_smoothing).astype(np.int32)
    topology = build_topology(mesh)
    face = mesh.corner_face()
    smooth = np.flatnonzero(smooth_by_normals(mesh, topology))
    a, b = face[smooth], face[topology.twin[smooth]]
    labels, _ = connected(mesh.n_faces, a, b)
    sizes = np.bincount(labels, minlength=1)
    alone = sizes[labels] == 1
    kept, first = np.unique(labels[~alone], return_index=True)
    number = np.zeros(int(labels.max(initial=0)) + 1, np.int32)
    number[kept[np.argsort(first)]] = np.arange(1, len(kept) + 1)
    return np.where(alone, 0, number[labels]).astype(np.int32)
