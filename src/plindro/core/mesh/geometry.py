"""Measures of faces: Newell vectors, unit vectors."""

import numpy as np
from numba import njit

from plindro.core.mesh.mesh import F64, Mesh


@njit(cache=True, nogil=True)
def _newell(positions, face_start, corner_vertex, out):  # type: ignore[no-untyped-def]
    for f in range(len(face_start) - 1):
        begin, end = face_start[f], face_start[f + 1]
        x = y = z = 0.0
        if end - begin >= 3:
            o = corner_vertex[begin]
            ox, oy, oz = positions[o, 0], positions[o, 1], positions[o, 2]
            a = corner_vertex[begin + 1]
            ax, ay, az = positions[a, 0] - ox, positions[a, 1] - oy, positions[a, 2] - oz
            for c in range(begin + 2, end):
                b = corner_vertex[c]
                bx, by, bz = positions[b, 0] - ox, positions[b, 1] - oy, positions[b, 2] - oz
                x += ay * bz - az * by
                y += az * bx - ax * bz
                z += ax * by - ay * bx
                ax, ay, az = bx, by, bz
        out[f, 0], out[f, 1], out[f, 2] = 0.5 * x, 0.5 * y, 0.5 * z


def face_vectors(mesh: Mesh) -> F64:
    """(F, 3) area vectors: along each face's normal, as long as its area in square metres (Newell)."""
    out = np.empty((mesh.n_faces, 3))
    _newell(mesh.positions, mesh.face_start, mesh.corner_vertex, out)
    return out


def unit(vectors: F64) -> F64:
    """(N, 3) vectors at unit length; zero and non-finite vectors become zero."""
    length = np.sqrt(np.einsum("...i,...i->...", vectors, vectors))[..., None]
    good = np.isfinite(length) & (length > 0)
    return np.where(good, vectors / np.where(good, length, 1.0), 0.0)
