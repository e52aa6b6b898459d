"""Whether the normals of triangles point to their back."""

import numpy as np
from numpy.typing import NDArray

_ASIDE = 1e-3
"""Cosine down to which a normal points aside: rounding alone may turn what lies in its triangle to either side."""


def points_back(normals: NDArray[np.floating], vectors: NDArray[np.float64]) -> NDArray[np.bool_]:
    """(T,) triangles whose unit normals (T, 3, 3) point to their back in the mean, by their area vectors (T, 3)."""
    with np.errstate(invalid="ignore"):
        along = np.einsum("tj,tkj->t", vectors, normals) / 3.0
        return np.asarray(along < -_ASIDE * np.sqrt(np.einsum("tj,tj->t", vectors, vectors)))
