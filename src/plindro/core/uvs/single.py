"""UVs in single precision that stay the same where a reader turns V over."""

import numpy as np

from plindro.core.mesh.mesh import F32, F64

_STEP = 2.0**-24


def to_single(uv: F64) -> F32:
    """UVs of any shape, in whole steps of 2^-24.

    From 0 to 1 single precision holds all of these, and with them 1 - V: OBJ, USD and many readers count V upwards, and
    finer values would be rounded once more on the way, by which a sliver that was sound turns over.
    """
    return (np.round(uv / _STEP) * _STEP).astype(np.float32)
