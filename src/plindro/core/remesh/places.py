"""Where the vertices of an even mesh go: where the planes of each cluster's triangles come nearest to one another.

Quadrics as by Garland and Heckbert 1997, summed over clusters as by Valette, Chassery and Prost 2008.
"""

import numpy as np

from plindro.core.mesh.mesh import F64, I32
from plindro.core.numeric.kernels import kernel

_LEAST = 0.05
"""Share of the largest eigenvalue below which a quadric says nothing about a direction: there it is flat."""


def places_of_clusters(positions: F64, triangles: I32, cluster: I32, centre: F64) -> F64:
    """(C, 3) a place for each cluster of vertices.

    ``positions`` (V, 3), ``triangles`` (T, 3), ``cluster`` (V,) of -1 where a vertex has none, ``centre`` (C, 3) the
    clusters' middles, from which places move only in directions in which their triangles bend, and no further than
    the cluster reaches.
    """
    matrix, towards, reach = np.zeros((len(centre), 3, 3)), np.zeros(centre.shape), np.zeros(len(centre))
    points = positions[triangles]
    normals = np.cross(points[:, 1] - points[:, 0], points[:, 2] - points[:, 0])
    _gather(positions, triangles, normals, cluster, centre, matrix, towards, reach)
    values, axes = np.linalg.eigh(matrix)
    says = values > _LEAST * np.maximum(values[:, 2:], 1e-300)
    along = np.einsum("ckj,ck->cj", axes, towards)
    step = np.einsum("ckj,cj->ck", axes, np.where(says, along / np.where(says, values, 1.0), 0.0))
    length = np.linalg.norm(step, axis=1)
    return np.asarray(centre + step * np.minimum(1.0, reach / np.maximum(length, 1e-300))[:, None])


@kernel
def _gather(positions, triangles, normals, cluster, centre, matrix, towards, reach):  # type: ignore[no-untyped-def]
    """Per cluster the sum of its triangles' planes, by area, about its middle; how far its vertices reach.

    ``normals`` (T, 3) are as long as twice the area.
    """
    for t in range(len(triangles)):
        a = triangles[t, 0]
        nx, ny, nz = normals[t, 0], normals[t, 1], normals[t, 2]
        size = np.sqrt(nx * nx + ny * ny + nz * nz)
        if size == 0.0:
            continue
        for corner in range(3):
            c = cluster[triangles[t, corner]]
            if c < 0:
                continue
            off = 0.0
            for k in range(3):
                off += (positions[a, k] - centre[c, k]) * normals[t, k] / size
            for k in range(3):
                towards[c, k] += off * normals[t, k]
                for m in range(3):
                    matrix[c, k, m] += normals[t, k] * normals[t, m] / size
    for v in range(len(cluster)):
        c = cluster[v]
        if c >= 0:
            away = 0.0
            for k in range(3):
                away += (positions[v, k] - centre[c, k]) ** 2
            reach[c] = max(reach[c], np.sqrt(away))
