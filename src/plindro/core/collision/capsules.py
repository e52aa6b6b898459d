"""The least capsule around points."""

import numpy as np
import scipy

from plindro.core.collision.balls import smallest_ball
from plindro.core.mesh.mesh import F64

_STEPS = 60


def least_capsule(points: F64, starts: F64) -> tuple[F64, F64, float]:
    """Both ends (3,) of its axis and the radius of the least capsule that was found around points.

    A descent over the axis' direction from each of ``starts`` (S, 3). Across the axis stands the smallest circle around
    all points; along it the axis is no longer than the half balls at its ends need it.
    """
    best: tuple[float, F64] | None = None
    for start in starts:
        found = scipy.optimize.minimize(
            lambda turn, start=start: _volume(_fitted(points, _turned(start, turn))), np.zeros(2),
            method="Nelder-Mead",
            options={"maxfev": _STEPS, "initial_simplex": [[0.0, 0.0], [0.15, 0.0], [0.0, 0.15]], "xatol": 1e-4},
        )  # fmt: skip
        if best is None or found.fun < best[0] * (1.0 - 1e-9):
            best = float(found.fun), _turned(start, found.x)
    assert best is not None
    return _fitted(points, best[1])


def _turned(direction: F64, turn: F64) -> F64:
    across = np.cross(direction, np.eye(3)[np.abs(direction).argmin()])
    u = across / np.linalg.norm(across)
    axis = direction + np.tan(np.clip(turn, -1.4, 1.4)) @ np.stack([u, np.cross(direction, u)])
    result: F64 = axis / np.linalg.norm(axis)
    return result


def _fitted(points: F64, axis: F64) -> tuple[F64, F64, float]:
    across = np.cross(axis, np.eye(3)[np.abs(axis).argmin()])
    u = across / np.linalg.norm(across)
    v = np.cross(axis, u)
    flat = points @ np.stack([u, v], axis=1)
    middle, radius = smallest_ball(flat)
    along = points @ axis
    reach = np.sqrt(np.maximum(radius**2 - ((flat - middle) ** 2).sum(axis=1), 0.0))
    low, high = float((along + reach).min()), float((along - reach).max())
    if low > high:
        # A ball of this radius holds them all.
        low = high = 0.5 * (low + high)
    foot = middle[0] * u + middle[1] * v
    return foot + low * axis, foot + high * axis, radius


def _volume(capsule: tuple[F64, F64, float]) -> float:
    low, high, radius = capsule
    return float(np.pi * radius**2 * np.linalg.norm(high - low) + 4.0 / 3.0 * np.pi * radius**3)
