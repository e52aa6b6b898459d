"""Bounds of many small things at once, axis by axis: NumPy goes through short rows one by one, which takes ten times
as long."""

from typing import Any

import numpy as np
from numpy.typing import NDArray


def corner_bounds(corners: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(T, K) least and largest coordinates of triangles given by their corners (T, 3, K)."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    return np.minimum(np.minimum(a, b), c), np.maximum(np.maximum(a, b), c)


def group_bounds(
    low: NDArray[Any], high: NDArray[Any], group: NDArray[Any], count: int
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(count, K) least and largest coordinates of things (N, K) that lie between ``low`` and ``high``, by group (N,).

    Infinite, the least above the largest, for a group that holds nothing.
    """
    least, largest = np.full((low.shape[1], count), np.inf), np.full((low.shape[1], count), -np.inf)
    for axis in range(low.shape[1]):
        np.minimum.at(least[axis], group, np.ascontiguousarray(low[:, axis], np.float64))
        np.maximum.at(largest[axis], group, np.ascontiguousarray(high[:, axis], np.float64))
    return least.T, largest.T
