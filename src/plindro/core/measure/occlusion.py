"""How much of its surroundings a vertex sees: occlusion by the prop itself, by rays over the half sphere."""

from collections.abc import Callable

import numpy as np

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F32, F64, I32, Mesh
from plindro.core.mesh.numbering import float_bits, number_rows
from plindro.core.spatial.rays import open_shares, ray_targets

RAYS = 64
_BIAS = 1e-4
"""Share of the size that rays begin above the surface; what is nearer than that is the surface itself."""
_PULL = 0.02
"""Share of the way to the middle of a face that rays begin within it."""
_CHUNK = 2_048
_GOLDEN = (5**0.5 - 1) / 2


def vertex_occlusion(mesh: Mesh, reach: float, on_share: Callable[[], None] = lambda: None) -> F32:
    """(C,) the share of the sky that each corner of a triangle mesh sees, 1 in the open and 0 in a closed corner.

    Rays by the cosine of their angle with the normal, so that the share is that of the light which an even sky would
    give; what is farther than ``reach``, in the mesh's unit, covers nothing. Corners of one place and normal are alike.
    Without normals those of the faces count. ``on_share`` is called now and then and may raise to stop.
    """
    if not mesh.n_faces:
        return np.zeros(0, np.float32)
    positions = mesh.positions.astype(np.float64)
    normals = _normals(mesh)
    keys = np.concatenate([mesh.corner_vertex.view(np.uint32)[:, None], float_bits(normals.astype(np.float32))], axis=1)
    number, first = number_rows(keys)
    size = float(np.linalg.norm(np.ptp(positions[mesh.corner_vertex], axis=0))) or 1.0
    targets = ray_targets(positions, mesh.triangles(), np.zeros(mesh.n_faces, np.int32))
    own = np.ascontiguousarray(normals[first])
    origins = positions[mesh.corner_vertex[first]] + own * (_BIAS * size) + _inwards(mesh, number, own)
    seen = np.empty(len(first))
    for start in range(0, len(first), _CHUNK):
        on_share()
        part = slice(start, start + _CHUNK)
        seen[part] = open_shares(origins[part], own[part], _DIRECTIONS, 2 * _BIAS * size, reach, targets)
    return seen[number].astype(np.float32)


def _inwards(mesh: Mesh, number: I32, normals: F64) -> F64:
    """(N, 3) a little way from each place along the surface into its faces, so that what meets it there is ahead."""
    middles = mesh.positions[mesh.triangles()].astype(np.float64).mean(axis=1)
    way = (middles[mesh.corner_face()] - mesh.positions[mesh.corner_vertex]) * _PULL
    count = np.bincount(number, minlength=len(normals))
    mean = np.stack([np.bincount(number, way[:, k], len(normals)) for k in range(3)], axis=1) / count[:, None]
    along: F64 = mean - normals * np.einsum("ij,ij->i", mean, normals)[:, None]
    return along


def _normals(mesh: Mesh) -> F64:
    """(C, 3) unit normals of corners."""
    if mesh.normals is not None:
        return mesh.normals.astype(np.float64)
    vectors = face_vectors(mesh)
    length = np.linalg.norm(vectors, axis=1, keepdims=True)
    unit = np.where(length > 0, vectors / np.maximum(length, 1e-300), (0.0, 1.0, 0.0))
    corners: F64 = unit[mesh.corner_face()]
    return corners


def _directions(count: int) -> F64:
    """(count, 3) over the half sphere about +Z, dense by the cosine: a spiral by the golden ratio."""
    k = np.arange(count)
    height = (k + 0.5) / count
    angle = 2 * np.pi * ((k * _GOLDEN) % 1.0)
    radius = np.sqrt(height)
    return np.stack([radius * np.cos(angle), radius * np.sin(angle), np.sqrt(1 - height)], axis=1)


_DIRECTIONS = _directions(RAYS)
