"""How far a result is from its source: PSNR, SSIM, the angle between normals, and what a cut-out loses or gains."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F64
from plindro.core.textures.resampling import nobody
from plindro.core.textures.rules import Kind

U8 = NDArray[np.uint8]
_STRIP, _REACH = 256, 6
"""Rows that are compared at once, and how far SSIM's window reaches past them."""
_BEST_PSNR = 99.0
"""Told where nothing differs."""
_LUMA = np.array([0.2126, 0.7152, 0.0722])
_SPREAD, _C1, _C2 = 1.5, (0.01 * 255) ** 2, (0.03 * 255) ** 2
"""Of SSIM (Wang et al. 2004): a Gaussian window of 11 pixels, and the two constants that keep it steady."""


@dataclass(frozen=True, slots=True)
class Quality:
    """Differences of 8-bit pixels. Angles are in degrees, of normals alone; ``coverage`` is the change of the share
    of a cut-out that is there, None where there is none."""

    psnr: float
    ssim: float
    angle_mean: float | None = None
    angle_p95: float | None = None
    coverage: float | None = None


def compare(
    source: U8,
    result: U8,
    kind: Kind,
    channels: tuple[int, ...],
    cutoff: float | None = None,
    pulse: Callable[[], None] = nobody,
) -> Quality:
    """Compare (H, W, 4) pixels in the channels that count; strip by strip, so that large ones need little memory.

    ``pulse`` is called before each strip, and may raise.
    """
    strips = list(_strips(len(source)))
    similar = 0.0
    for own, wide in strips:
        pulse()
        places = _similarity(_grey(source[wide], channels), _grey(result[wide], channels))
        similar += float(places[own.start - wide.start :][: own.stop - own.start].sum())
    quality = Quality(psnr(source, result, channels), similar / (source.shape[0] * source.shape[1]))
    if kind == "normal":
        angles = np.concatenate([normal_angles(source[own], result[own]).astype(np.float32) for own, _ in strips])
        mean, high = float(angles.mean(dtype=np.float64)), float(np.percentile(angles, 95))
        return Quality(quality.psnr, quality.ssim, mean, high)
    if cutoff is not None:
        limit = cutoff * 255.0
        drift = float((result[..., 3] >= limit).mean() - (source[..., 3] >= limit).mean())
        return Quality(quality.psnr, quality.ssim, coverage=drift)
    return quality


def psnr(source: U8, result: U8, channels: tuple[int, ...]) -> float:
    """dB of the channels that count, all pixels together."""
    squares = [_squares(source[own], result[own], channels) for own, _ in _strips(len(source))]
    mean_square = sum(squares) / (source.shape[0] * source.shape[1] * len(channels))
    return _BEST_PSNR if mean_square == 0.0 else float(min(10.0 * np.log10(255.0**2 / mean_square), _BEST_PSNR))


def _strips(rows: int) -> Iterator[tuple[slice, slice]]:
    """The rows of each strip, and those with what its windows reach."""
    for top in range(0, rows, _STRIP):
        bottom = min(top + _STRIP, rows)
        yield slice(top, bottom), slice(max(top - _REACH, 0), min(bottom + _REACH, rows))


def _squares(source: U8, result: U8, channels: tuple[int, ...]) -> float:
    away = source[..., channels].astype(np.float32) - result[..., channels]
    return float((away**2).sum(dtype=np.float64))


def _grey(pixels: U8, channels: tuple[int, ...]) -> F64:
    if len(channels) >= 3:
        return pixels[..., :3] @ _LUMA
    return pixels[..., channels].astype(np.float64).mean(axis=-1)


def _similarity(a: F64, b: F64) -> F64:
    """(H, W) the structural similarity of two pictures of 0 to 255 at each place; 1 at best."""

    def blurred(values: F64) -> F64:
        result: F64 = scipy.ndimage.gaussian_filter(values, _SPREAD, truncate=3.5, mode="nearest")
        return result

    mean_a, mean_b = blurred(a), blurred(b)
    spread_a, spread_b = blurred(a * a) - mean_a**2, blurred(b * b) - mean_b**2
    both = blurred(a * b) - mean_a * mean_b
    top = (2 * mean_a * mean_b + _C1) * (2 * both + _C2)
    return top / ((mean_a**2 + mean_b**2 + _C1) * (spread_a + spread_b + _C2))


def normals_of(pixels: U8) -> F64:
    """(H, W, 3) unit normals of x and y, the third from them as a shader finds it."""
    flat = pixels[..., :2].astype(np.float64) / 127.5 - 1.0
    up = np.sqrt(np.clip(1.0 - (flat**2).sum(axis=-1, keepdims=True), 0.0, None))
    vectors = np.concatenate([flat, up], axis=-1)
    return vectors / np.linalg.norm(vectors, axis=-1, keepdims=True)


def normal_angles(source: U8, result: U8) -> F64:
    """(H, W) degrees between the normals of two maps."""
    cosine = (normals_of(source) * normals_of(result)).sum(axis=-1)
    return np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0)))
