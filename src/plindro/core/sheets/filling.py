"""Colours carried from islands out into the pixels around them, so that no mip mixes in what lies there."""

from typing import Any, TypeVar

import numpy as np
import scipy
from numpy.typing import NDArray

from plindro.core.mesh.mesh import I64, Mask

Values = TypeVar("Values", bound=NDArray[Any])


def nearest_covered(covered: Mask) -> tuple[I64, I64]:
    """(H, W) row and column of the covered pixel that is nearest to each."""
    row, column = scipy.ndimage.distance_transform_edt(~covered, return_distances=False, return_indices=True)
    return row, column


def fill_around(values: Values, covered: Mask, most: float) -> Values:
    """(H, W, C) values with every pixel that is not covered like the nearest that is, up to ``most`` pixels away."""
    if covered.all() or not covered.any():
        return values
    distance, (row, column) = scipy.ndimage.distance_transform_edt(~covered, return_indices=True)
    filled: Values = np.where((distance <= most)[:, :, None], values[row, column], values)  # type: ignore[assignment]
    return filled
