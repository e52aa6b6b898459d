"""What single precision, in which files are written, leaves of lengths."""

import numpy as np
from numpy.typing import NDArray


def single_step(points: NDArray[np.float64]) -> float:
    """Metres from one number of single precision to the next where the furthest of the points (N, K) lies."""
    furthest = np.abs(points[np.isfinite(points)]).max(initial=0.0)
    return float(np.spacing(np.float32(furthest)))


def lost_height(points: NDArray[np.float64]) -> float:
    """Metres up to which a triangle of these points (N, 3) may face either way once it is written in single precision.

    Two steps, since each of its corners may move by half of one.
    """
    return 2.0 * single_step(points)


def without_area(
    points: NDArray[np.float64], triangles: NDArray[np.integer], cross: NDArray[np.float64]
) -> NDArray[np.bool_]:
    """(T,) triangles of points (V, 3) no higher than a step of single precision, given twice their area vectors (T, 3).

    Such a one may face either way once it is written; so may one with a corner that is no place.
    """
    a, b, c = (points[triangles[:, k]] for k in range(3))
    with np.errstate(invalid="ignore"):
        longest = np.max([np.einsum("ij,ij->i", side, side) for side in (b - a, c - b, a - c)], axis=0)
        area = np.einsum("ij,ij->i", cross, cross)
        return ~(area > longest * single_step(points) ** 2)
