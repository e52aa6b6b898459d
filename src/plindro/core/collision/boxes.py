"""The least box around points, turned as it likes."""

import numpy as np
import scipy

from plindro.core.mesh.mesh import F64

_MOST_FACES = 256
_STEPS = 400


def least_box(points: F64, normals: F64) -> tuple[F64, F64, F64]:
    """(3, 3) axes as rows, (3,) lowest and (3,) highest coordinate along them, of the least box around a hull's points.

    ``normals`` (F, 3) are those of the hull's faces, the largest first. The least box has two sides that lie along
    edges of the hull (O'Rourke 1985, "Finding minimal enclosing boxes"), and nearly always one that lies on a face: of
    those the least is found by turning a rectangle about each face (Toussaint 1983), and a descent over all turns goes
    on from there.
    """
    best, least = np.eye(3), _volume(np.eye(3), points)
    for normal in normals[:_MOST_FACES]:
        axes = _about(normal, points)
        volume = _volume(axes, points)
        if volume < least * (1.0 - 1e-9):
            best, least = axes, volume

    def turned(angles: F64) -> F64:
        axes: F64 = scipy.spatial.transform.Rotation.from_rotvec(angles).as_matrix() @ best
        return axes

    found = scipy.optimize.minimize(
        lambda angles: _volume(turned(angles), points), np.zeros(3), method="Nelder-Mead",
        options={"maxfev": _STEPS, "initial_simplex": np.vstack([np.zeros(3), 0.1 * np.eye(3)]), "xatol": 1e-6},
    )  # fmt: skip
    if found.fun < least * (1.0 - 1e-6):
        best = turned(found.x)
    along = points @ best.T
    return best, along.min(axis=0), along.max(axis=0)


def _volume(axes: F64, points: F64) -> float:
    return float(np.ptp(points @ axes.T, axis=0).prod())


def _about(normal: F64, points: F64) -> F64:
    """Axes of the least box with a side across ``normal``."""
    across = np.cross(normal, np.eye(3)[np.abs(normal).argmin()])
    u = across / np.linalg.norm(across)
    v = np.cross(normal, u)
    flat = points @ np.stack([u, v], axis=1)
    try:
        rim = flat[scipy.spatial.ConvexHull(flat).vertices]
    except scipy.spatial.QhullError:
        return np.stack([u, v, normal])
    edges = np.roll(rim, -1, axis=0) - rim
    edges /= np.linalg.norm(edges, axis=1, keepdims=True)
    along = rim @ edges.T
    beside = rim @ np.stack([-edges[:, 1], edges[:, 0]])
    best = edges[(np.ptp(along, axis=0) * np.ptp(beside, axis=0)).argmin()]
    first = best[0] * u + best[1] * v
    return np.stack([first, np.cross(normal, first), normal])
