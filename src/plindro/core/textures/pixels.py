"""Numbers from 0 to 1 as bytes, and any map as four channels."""

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F32

_STRIP = 256


def to_bytes(values: F32) -> NDArray[np.uint8]:
    """8 bits of values from 0 to 1."""
    result: NDArray[np.uint8] = (np.clip(values, 0.0, 1.0) * 255.0 + 0.5).astype(np.uint8)
    return result


def rgba_bytes(values: F32) -> NDArray[np.uint8]:
    """(H, W, 4) 8 bits of one to four channels, made strip by strip."""
    result = np.empty((*values.shape[:2], 4), np.uint8)
    for top in range(0, len(values), _STRIP):
        result[top : top + _STRIP] = to_bytes(as_rgba(values[top : top + _STRIP]))
    return result


def as_rgba(values: F32) -> F32:
    """(H, W, 4) of one to four channels: a grey in all three colours, alpha 1 where there is none."""
    channels = values.shape[2]
    color = values[..., [0, 0, 0]] if channels < 3 else values[..., :3]
    alpha = values[..., channels - 1 :] if channels in (2, 4) else np.ones_like(values[..., :1])
    return np.concatenate([color, alpha], axis=-1)
