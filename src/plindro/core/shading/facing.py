"""Which way normals point from the triangles that carry them."""

import numpy as np

from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F32, Mask, Mesh
from plindro.core.numeric.facing import points_back


def faces_against(mesh: Mesh, normals: F32) -> Mask:
    """(F,) which triangles' normals (C, 3) point to their back in the mean, by their own winding."""
    return points_back(normals.reshape(-1, 3, 3), face_vectors(mesh))


def own_normals(mesh: Mesh) -> F32:
    """(C, 3) each triangle's own normal at its corners, zero where it has no area."""
    return np.repeat(unit(face_vectors(mesh)), 3, axis=0).astype(np.float32)
