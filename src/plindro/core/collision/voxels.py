"""A mesh as filled voxels: what its surface passes through, and what it encloses."""

from dataclasses import dataclass

import numpy as np
import scipy

from plindro.core.mesh.mesh import F64, I64, Mask, Mesh
from plindro.core.spatial.samples import even_samples

_A_VOXEL = 12
"""Samples of the surface for each voxel that it would fill if it were flat."""
_MOST_SAMPLES = 1_500_000


@dataclass(frozen=True, slots=True)
class Voxels:
    """``filled`` (X, Y, Z) and ``touched`` by the surface; ``low`` is the corner of the first, ``side`` metres.

    ``samples`` (N, 3) lie on the surface, and ``cell`` (N, 3) says in which voxels.
    """

    filled: Mask
    touched: Mask
    low: F64
    side: float
    samples: F64
    cell: I64

    @property
    def volume(self) -> float:
        """Cubic metres enclosed: voxels that the surface passes through count half."""
        return float((self.filled.sum() - 0.5 * self.touched.sum()) * self.side**3)


def voxels_of(mesh: Mesh, along: int) -> Voxels:
    """The voxels of a triangle mesh, ``along`` of them on its longest side. What cannot be reached from outside without
    crossing the surface is enclosed, whether or not the mesh is closed to the last edge."""
    low, high = mesh.bounds()
    side = float((high - low).max()) / along or 1e-6
    # One empty layer all around, through which the outside is one.
    low = low - 1.5 * side
    shape = tuple(np.ceil((high - low) / side + 1.5).astype(int))
    triangles = mesh.positions[mesh.corner_vertex.reshape(-1, 3)]
    cross = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    area = 0.5 * float(np.linalg.norm(cross, axis=1).sum())
    count = int(np.clip(_A_VOXEL * area / side**2, 1000, _MOST_SAMPLES))
    face, weights = even_samples(mesh, count)
    samples = np.einsum("nk,nkd->nd", weights, triangles[face].astype(np.float64))
    samples = np.concatenate([samples, mesh.positions[np.unique(mesh.corner_vertex)].astype(np.float64)])
    cell = np.clip(((samples - low) / side).astype(np.int64), 0, np.array(shape) - 1)
    touched = np.zeros(shape, np.bool_)
    touched[tuple(cell.T)] = True
    outside, _ = scipy.ndimage.label(~touched)
    filled = outside != outside[0, 0, 0]
    return Voxels(filled, touched, low, side, samples, cell)
