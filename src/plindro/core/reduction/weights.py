"""Where an error counts more than elsewhere: on the outline, and where the surface bends."""

import numpy as np

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F64, I32, Mesh
from plindro.core.numeric.kernels import kernel

_SIZE = 256
"""Pixels along each side of the pictures in which the outline is looked for."""
_N_VIEWS = 16
_OFTEN = 0.5
"""A vertex on the outline of this share of the views counts in full."""
_BENT = 0.25
"""Where unit normals cancel out to 1 less this, a vertex counts as bent in full."""


@kernel
def _cover(x, y, triangles, covered):  # type: ignore[no-untyped-def]
    """Mark the pixels that triangles cover; (V,) x and y in pixels."""
    n = covered.shape[0]
    for t in range(len(triangles)):
        a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        area = (x[b] - x[a]) * (y[c] - y[a]) - (y[b] - y[a]) * (x[c] - x[a])
        for v in (a, b, c):
            covered[int(y[v]), int(x[v])] = True
        if area == 0.0:
            continue
        for row in range(int(min(y[a], y[b], y[c])), min(int(max(y[a], y[b], y[c])), n - 1) + 1):
            for column in range(int(min(x[a], x[b], x[c])), min(int(max(x[a], x[b], x[c])), n - 1) + 1):
                px, py = column + 0.5, row + 0.5
                u = ((x[b] - px) * (y[c] - py) - (y[b] - py) * (x[c] - px)) / area
                v = ((x[c] - px) * (y[a] - py) - (y[c] - py) * (x[a] - px)) / area
                if u >= 0.0 and v >= 0.0 and u + v <= 1.0:
                    covered[row, column] = True


@kernel
def _count_rim(x, y, covered, used, hits):  # type: ignore[no-untyped-def]
    """Add 1 for every used vertex beside a pixel that nothing covers."""
    for i in range(len(used)):
        v = used[i]
        row, column = int(y[v]), int(x[v])
        rim = False
        for dy in range(-1, 2):
            for dx in range(-1, 2):
                rim |= not covered[row + dy, column + dx]
        if rim:
            hits[v] += 1


def _views() -> F64:
    """(16, 3, 3) axes of views spread evenly over a half-sphere (Fibonacci), none along an axis of the prop."""
    k = np.arange(_N_VIEWS) + 0.5
    height, around = k / _N_VIEWS, k * np.pi * (3.0 - np.sqrt(5.0))
    flat = np.sqrt(1.0 - height**2)
    towards = np.stack([flat * np.cos(around), height, flat * np.sin(around)], axis=1)
    side = np.cross(towards, (0.0, 1.0, 0.0))
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    return np.stack([side, np.cross(towards, side), towards], axis=1)


def outline(mesh: Mesh) -> F64:
    """(V,) how much each vertex makes the outline, 0 to 1, by the silhouettes of 16 views."""
    triangles: I32 = mesh.triangles()
    used = np.unique(mesh.corner_vertex).astype(np.int32)
    hits = np.zeros(mesh.n_vertices, np.int32)
    views = _views()
    low, high = mesh.bounds()
    radius = float(np.linalg.norm(high - low)) / 2 or 1.0
    centred = (mesh.positions - (low + high) / 2) / radius
    for side, up, _ in views:
        # A pixel of margin on every side, so that what lies beside a vertex can be asked.
        x = (centred @ side * 0.5 + 0.5) * (_SIZE - 3) + 1.5
        y = (centred @ up * 0.5 + 0.5) * (_SIZE - 3) + 1.5
        covered = np.zeros((_SIZE, _SIZE), bool)
        _cover(x.clip(1, _SIZE - 2), y.clip(1, _SIZE - 2), triangles, covered)
        _count_rim(x.clip(1, _SIZE - 2), y.clip(1, _SIZE - 2), covered, used, hits)
    return np.minimum(hits / (_OFTEN * len(views)), 1.0)


def curvature(mesh: Mesh) -> F64:
    """(V,) how much the surface bends at each vertex, 0 where it is flat to 1, by how far its faces' normals agree."""
    vectors = face_vectors(mesh)
    corner = mesh.corner_vertex
    areas = np.repeat(np.linalg.norm(vectors, axis=1), 3)
    total = np.bincount(corner, areas, mesh.n_vertices)
    summed = np.stack([np.bincount(corner, np.repeat(vectors[:, k], 3), mesh.n_vertices) for k in range(3)], axis=1)
    agreement = np.linalg.norm(summed, axis=1) / np.where(total > 0, total, 1.0)
    return np.where(total > 0, np.clip((1.0 - agreement) / _BENT, 0.0, 1.0), 0.0)
