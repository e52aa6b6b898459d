"""Shells: pieces of a mesh that hang together across edges."""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F64, I32, Mask, Mesh
from plindro.core.mesh.topology import Topology


@dataclass(frozen=True, slots=True)
class Shells:
    """``face_shell`` (F,) numbers the shells; ``is_closed`` (S,); ``volume`` (S,) in m³, negative where inside out."""

    face_shell: I32
    is_closed: Mask
    volume: F64


def find_shells(mesh: Mesh, topology: Topology) -> Shells:
    """Shells by edges with two faces; a shell is closed where each of its edges has a twin of agreeing winding."""
    face = mesh.corner_face()
    paired = (topology.twin >= 0) & ~topology.turned[topology.edge]
    pairs = (face[paired], face[topology.twin[paired]])
    graph = coo_array((np.ones(len(pairs[0]), np.int8), pairs), shape=(mesh.n_faces, mesh.n_faces))
    count, labels = connected_components(graph, directed=False)
    is_closed = np.ones(count, bool)
    is_closed[labels[face[~paired]]] = False
    first = mesh.positions[mesh.corner_vertex[mesh.face_start[:-1]]]
    # About each shell's own point, so that far shells lose no digits.
    origin = np.zeros((count, 3))
    origin[labels[::-1]] = first[::-1]
    parts = np.einsum("ij,ij->i", first - origin[labels], face_vectors(mesh)) / 3.0
    return Shells(labels.astype(np.int32), is_closed, np.bincount(labels, parts, minlength=count).astype(np.float64))


def inside_out(mesh: Mesh, shells: Shells) -> I32:
    """Closed shells that are inside out and do not lie within the bounds of another: those may be hollows."""
    suspects = np.flatnonzero(shells.is_closed & (shells.volume < 0))
    if not len(suspects):
        return suspects.astype(np.int32)
    corner_shell = np.repeat(shells.face_shell, mesh.face_sides)
    count = len(shells.volume)
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    np.minimum.at(low, corner_shell, mesh.positions[mesh.corner_vertex])
    np.maximum.at(high, corner_shell, mesh.positions[mesh.corner_vertex])
    outer = np.flatnonzero(shells.is_closed & (shells.volume > 0))
    hollow = [bool(((low[outer] <= low[s]) & (high[outer] >= high[s])).all(axis=1).any()) for s in suspects]
    return suspects[~np.array(hollow)].astype(np.int32)
