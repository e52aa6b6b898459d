"""Finding the vertices, edges and faces that marks lie on, and the patches that grow from a face."""

from typing import Literal

import numpy as np
import scipy

from plindro.core.marks.places import NEAR_OF_EDGE, mark_tolerance
from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F64, I64, Mask, Mesh
from plindro.core.mesh.topology import Topology
from plindro.core.numeric.groups import connected

_CANDIDATES = 8
"""So many vertices near a marked one are asked: several may share a place."""
_SAME_WAY = 0.5
"""Cosine of the largest angle between a face and the side that a mark on it faced."""
GrowBy = Literal["angle", "material", "part", "shell"]


def near_vertices(mesh: Mesh, points: F64, tolerance: F64) -> tuple[I64, F64]:
    """(K, n) vertices near each point, nearest first, and how far they are; -1 and infinity where there are fewer."""
    is_used = np.zeros(mesh.n_vertices, bool)
    is_used[mesh.corner_vertex] = True
    used = np.flatnonzero(is_used & np.isfinite(mesh.positions).all(axis=1))
    if not len(used) or not len(points):
        return np.full((len(points), 1), -1, np.int64), np.full((len(points), 1), np.inf)
    tree = scipy.spatial.cKDTree(mesh.positions[used])
    distance, index = tree.query(points, k=min(_CANDIDATES, len(used)))
    distance, index = np.atleast_2d(distance.T).T, np.atleast_2d(index.T).T
    is_near = distance <= tolerance[:, None]
    return np.where(is_near, used[np.minimum(index, len(used) - 1)], -1), np.where(is_near, distance, np.inf)


def edge_tolerance(mesh: Mesh, ends: F64) -> F64:
    """(K,) how far each marked edge's ends may have moved."""
    length = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    return np.minimum(mark_tolerance(mesh), NEAR_OF_EDGE * length)


def find_edges(mesh: Mesh, topology: Topology, ends: F64) -> tuple[Mask, Mask]:
    """Edges of the mesh that marks with these ends (K, 2, 3) lie on.

    Returns (E,) bool, the edges, and (K,) bool, the marks that found one. Where several edges share the place, as along
    a seam of doubled vertices, all of them are taken.
    """
    marked = np.zeros(len(topology.edges), bool)
    if not len(ends):
        return marked, np.zeros(0, bool)
    tolerance = edge_tolerance(mesh, ends)
    a, off_a = near_vertices(mesh, ends[:, 0], tolerance)
    b, off_b = near_vertices(mesh, ends[:, 1], tolerance)
    wide = np.int64(mesh.n_vertices)
    keys = topology.edges[:, 0] * wide + topology.edges[:, 1]
    order = np.argsort(keys)
    low = np.minimum(a[:, :, None], b[:, None, :])
    wanted = low * wide + np.maximum(a[:, :, None], b[:, None, :])
    at = np.minimum(np.searchsorted(keys, wanted, sorter=order), max(len(keys) - 1, 0))
    is_edge = (low >= 0) & (keys[order[at]] == wanted) if len(keys) else np.zeros(low.shape, bool)
    off = np.where(is_edge, off_a[:, :, None] + off_b[:, None, :], np.inf)
    nearest = off.reshape(len(ends), -1).min(axis=1)
    found = np.isfinite(nearest)
    taken = is_edge & (off <= nearest[:, None, None] + 1e-6 * tolerance[:, None, None]) & found[:, None, None]
    marked[order[at[taken]]] = True
    return marked, found


def face_middles(mesh: Mesh) -> F64:
    """(F, 3) mean of each face's corners; for a triangle mesh that of the polygon it was cut from."""
    points = mesh.positions[mesh.corner_vertex]
    face = mesh.corner_face()
    # Corners of a polygon appear in several of its triangles: each is counted once.
    polygon = mesh.face_polygon[face].astype(np.int64)
    key = polygon * np.int64(mesh.n_vertices) + mesh.corner_vertex
    first = np.unique(key, return_index=True)[1]
    n = int(mesh.face_polygon.max(initial=-1)) + 1
    number = np.maximum(np.bincount(polygon[first], minlength=n), 1)
    sums = np.stack([np.bincount(polygon[first], points[first, k], minlength=n) for k in range(3)], axis=1)
    middles: F64 = (sums / number[:, None])[mesh.face_polygon]
    return middles


def find_faces(mesh: Mesh, points: F64, facings: F64) -> I64:
    """(K,) a face of the mesh for each spot, facing the way it did; -1 where there is none near enough."""
    found = np.full(len(points), -1, np.int64)
    if not len(points) or not mesh.n_faces:
        return found
    middles = face_middles(mesh)
    normals = unit(face_vectors(mesh))
    sound = np.flatnonzero(np.isfinite(middles).all(axis=1))
    tree = scipy.spatial.cKDTree(middles[sound])
    for k, near in enumerate(tree.query_ball_point(points, mark_tolerance(mesh))):
        faces = sound[np.asarray(near, np.int64)]
        faces = faces[normals[faces] @ facings[k] >= _SAME_WAY]
        if len(faces):
            off = ((middles[faces] - points[k]) ** 2).sum(axis=1)
            found[k] = faces[np.lexsort((faces, off))[0]]
    return found


def share_patch(mesh: Mesh, topology: Topology, angles: F64, by: GrowBy, angle: float) -> I64:
    """(F,) number of the patch that each face belongs to, growing over edges.

    ``by`` angle: over edges folded by no more than ``angle`` degrees; material or part: while that stays the same;
    shell: over all edges. Faces cut from one polygon always hang together. ``angles`` (C,) are folds of half-edges.
    """
    face = mesh.corner_face()
    there = np.flatnonzero(topology.twin >= 0)
    mine, other = face[there], face[topology.twin[there]]
    if by == "angle":
        joined = angles[there] <= angle + 1e-6
    elif by == "shell":
        joined = np.ones(len(there), bool)
    else:
        of = mesh.face_material if by == "material" else mesh.face_part
        joined = of[mine] == of[other]
    joined |= mesh.face_polygon[mine] == mesh.face_polygon[other]
    a, b = mine[joined], other[joined]
    return connected(mesh.n_faces, a, b)[0].astype(np.int64)
