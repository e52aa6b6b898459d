"""Between colours as files and screens have them, and the light that they stand for."""

import numpy as np

from plindro.core.mesh.mesh import F32, F64


def to_linear(srgb: F32 | F64) -> F32:
    """Linear light of sRGB values, both 0 to 1."""
    linear: F32 = np.where(srgb <= 0.04045, srgb / 12.92, ((srgb + 0.055) / 1.055) ** 2.4).astype(np.float32)
    return linear


def to_srgb(linear: F32 | F64) -> F32:
    """sRGB values of linear light, both 0 to 1."""
    lit = np.maximum(linear, 0.0)
    srgb: F32 = np.where(lit <= 0.0031308, lit * 12.92, 1.055 * lit ** (1 / 2.4) - 0.055).astype(np.float32)
    return srgb
