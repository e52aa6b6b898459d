"""A height map to a normal map, size of detail by size of detail; and the occlusion that lies in it."""

from collections.abc import Sequence

import numpy as np
import scipy

from plindro.core.mesh.mesh import F32, F64
from plindro.core.textures.rules import BANDS, Border

_MODES: dict[Border, str] = {"wrap": "wrap", "clamp": "nearest"}
_OCCLUSION_SIZES = (1.5, 3.0, 6.0, 12.0, 24.0)


def bands_of(height: F32, border: Border = "wrap") -> list[F64]:
    """(H, W) heights by size of detail, the finest first; their sum is the whole (Burt and Adelson 1983)."""
    rest, bands = height.astype(np.float64), []
    for k in range(BANDS - 1):
        smooth = scipy.ndimage.gaussian_filter(rest, 0.8 * 2.0**k, mode=_MODES[border])
        bands.append(rest - smooth)
        rest = smooth
    return [*bands, rest]


def normals_from_height(
    height: F32,
    strength: float,
    shares: Sequence[float] = (1.0,) * BANDS,
    *,
    border: Border = "wrap",
    green_up: bool = True,
) -> F32:
    """(H, W, 3) a tangent-space normal map, values from 0 to 1, of heights from 0 to 1.

    ``strength`` is how many pixels a height of 1 stands for; ``shares`` say how much of each band is kept. With
    ``green_up`` green rises towards the picture's upper side, as in glTF.
    """
    return normals_of_bands(bands_of(height, border), strength, shares, border=border, green_up=green_up)


def normals_of_bands(
    bands: Sequence[F64],
    strength: float,
    shares: Sequence[float],
    *,
    border: Border = "wrap",
    green_up: bool = True,
) -> F32:
    """The normals of heights that ``bands_of`` has taken apart, as ``normals_from_height`` makes them."""
    kept = np.zeros(bands[0].shape, np.float64)
    for share, band in zip(shares, bands, strict=True):
        kept += share * band
    # Scharr's derivative is the least biased by direction of those of three pixels.
    across = _slope(kept, 1, border)
    down = _slope(kept, 0, border)
    x, y = -strength * across, strength * down * (1.0 if green_up else -1.0)
    vectors = np.stack([x, y, np.ones_like(x)], axis=-1)
    vectors /= np.linalg.norm(vectors, axis=-1, keepdims=True)
    return (vectors * 0.5 + 0.5).astype(np.float32)


def _slope(values: F64, axis: int, border: Border) -> F64:
    mode = _MODES[border]
    smooth = scipy.ndimage.correlate1d(values, [3 / 16, 10 / 16, 3 / 16], axis=1 - axis, mode=mode)
    result: F64 = scipy.ndimage.correlate1d(smooth, [-0.5, 0.0, 0.5], axis=axis, mode=mode)
    return result


def occlusion_from_height(height: F32, strength: float, border: Border = "wrap") -> F32:
    """(H, W) how open each place is, 1 where nothing stands above it: how far it lies below what is around, over the
    distance to that, at several sizes."""
    deep = np.zeros(height.shape, np.float64)
    for size in _OCCLUSION_SIZES:
        around = scipy.ndimage.gaussian_filter(height.astype(np.float64), size, mode=_MODES[border])
        angle = np.arctan(np.maximum(around - height, 0.0) * strength / size)
        deep = np.maximum(deep, angle * (2.0 / np.pi))
    return (1.0 - deep).astype(np.float32)
