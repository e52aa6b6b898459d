"""Corner normals: the faces around a corner that are smoothly connected, weighted by their corner's angle.

The weight by corner angle (Thürmer and Wüthrich 1998) makes a normal independent of how the faces around it are cut.
A cut within one polygon is never an edge: its two triangles are one face to the eye.
"""

import numpy as np
from numba import njit

from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F32, F64, I32, Mask, Mesh
from plindro.core.mesh.topology import Topology, build_topology, corner_fans


@njit(cache=True, nogil=True)
def _accumulate(positions, triangles, face_normals, group, sums):  # type: ignore[no-untyped-def]
    for t in range(len(triangles)):
        for k in range(3):
            a, b, c = triangles[t, k], triangles[t, (k + 1) % 3], triangles[t, (k + 2) % 3]
            ux, uy, uz = (
                positions[b, 0] - positions[a, 0],
                positions[b, 1] - positions[a, 1],
                positions[b, 2] - positions[a, 2],
            )
            vx, vy, vz = (
                positions[c, 0] - positions[a, 0],
                positions[c, 1] - positions[a, 1],
                positions[c, 2] - positions[a, 2],
            )
            cx, cy, cz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
            angle = np.arctan2(np.sqrt(cx * cx + cy * cy + cz * cz), ux * vx + uy * vy + uz * vz)
            g = group[3 * t + k]
            for j in range(3):
                sums[g, j] += angle * face_normals[t, j]


def fold_angles(mesh: Mesh, topology: Topology) -> F64:
    """(C,) fold in degrees at the edge of each half-edge of a triangle mesh.

    NaN where the edge has no proper twin; 0 at a cut within one polygon and beside faces without area.
    """
    normals = unit(face_vectors(mesh))
    face = mesh.corner_face()
    paired = (topology.twin >= 0) & ~topology.turned[topology.edge]
    angles = np.full(mesh.n_corners, np.nan)
    mine = normals[face[paired]]
    other_face = face[topology.twin[paired]]
    other = normals[other_face]
    cross = np.linalg.norm(np.cross(mine, other), axis=1)
    fold = np.degrees(np.arctan2(cross, np.einsum("ij,ij->i", mine, other)))
    flat = mesh.face_polygon[face[paired]] == mesh.face_polygon[other_face]
    flat |= (np.abs(mine).sum(axis=1) == 0) | (np.abs(other).sum(axis=1) == 0)
    angles[paired] = np.where(flat, 0.0, fold)
    return angles


def smooth_by_angle(mesh: Mesh, topology: Topology, angles: F64, threshold: float) -> Mask:
    """(C,) which half-edges are smooth at a threshold in degrees; the mesh's own hard edges never are."""
    with np.errstate(invalid="ignore"):
        return (angles <= threshold + 1e-6) & ~_hard_half_edges(mesh, topology)


def _hard_half_edges(mesh: Mesh, topology: Topology) -> Mask:
    """(C,) which half-edges lie on one of the mesh's hard edges."""
    if not len(mesh.hard_edges):
        return np.zeros(mesh.n_corners, bool)
    wide = np.int64(mesh.n_vertices)
    keys = topology.edges[:, 0] * wide + topology.edges[:, 1]
    hard = np.sort(mesh.hard_edges, axis=1)
    return np.isin(keys, hard[:, 0] * wide + hard[:, 1])[topology.edge]


def smooth_by_groups(mesh: Mesh, topology: Topology) -> Mask:
    """(C,) which half-edges lie between faces of the same smoothing group, or within one polygon."""
    face = mesh.corner_face()
    smooth = np.zeros(mesh.n_corners, bool)
    paired = topology.twin >= 0
    mine, other = face[paired], face[topology.twin[paired]]
    group = mesh.face_smoothing
    same = (group[mine] == group[other]) & (group[mine] != 0)
    smooth[paired] = same | (mesh.face_polygon[mine] == mesh.face_polygon[other])
    return smooth & ~_hard_half_edges(mesh, topology)


def normals_of_groups(mesh: Mesh, group: I32, n_groups: int) -> F32:
    """(C, 3) unit float32 normals of a triangle mesh whose corners share a normal with their group.

    Where a group's faces cancel out or have no area, the face's own normal is taken, and up where that is missing too.
    """
    face_normals = unit(face_vectors(mesh))
    sums = np.zeros((n_groups, 3))
    _accumulate(mesh.positions, mesh.triangles(), face_normals, group, sums)
    lengths = np.linalg.norm(sums, axis=1)
    normals = unit(sums)[group]
    weak = ~(lengths[group] > 1e-9)
    if weak.any():
        own = face_normals[mesh.corner_face()[weak]]
        own[np.abs(own).sum(axis=1) == 0] = (0.0, 1.0, 0.0)
        normals[weak] = own
    return normals.astype(np.float32)


def normals_by_angle(mesh: Mesh, threshold: float, topology: Topology | None = None) -> F32:
    """(C, 3) normals of a triangle mesh, hard where an edge folds by more than ``threshold`` degrees."""
    topology = topology or build_topology(mesh)
    group, count = corner_fans(topology, smooth_by_angle(mesh, topology, fold_angles(mesh, topology), threshold))
    return normals_of_groups(mesh, group, count)
