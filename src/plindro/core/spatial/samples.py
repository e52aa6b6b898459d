"""Places spread evenly over a surface."""

import numpy as np

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F64, I64, Mesh

_GOLDEN = np.array([0.7548776662466927, 0.5698402909980532])
"""Steps of the two-dimensional golden sequence (Roberts 2018): even samples without a random seed."""


def even_samples(mesh: Mesh, count: int) -> tuple[I64, F64]:
    """Places spread evenly over a surface: (count,) triangles and (count, 3) barycentric coordinates."""
    vectors = face_vectors(mesh)
    grown = np.cumsum(np.linalg.norm(vectors, axis=1))
    along = (np.arange(count) + 0.5) / count * grown[-1]
    face = np.minimum(np.searchsorted(grown, along), mesh.n_faces - 1)
    u, v = (np.arange(count)[:, None] * _GOLDEN % 1.0).T
    root = np.sqrt(u)
    weights = np.stack([1.0 - root, root * (1.0 - v), root * v], axis=1)
    return face, weights
