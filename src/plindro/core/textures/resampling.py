"""Images to other sizes by separable filters: box, Mitchell, Kaiser and Lanczos, wrapped or clamped at the borders."""

from collections.abc import Callable

import numpy as np
import scipy

from plindro.core.mesh.mesh import F32, F64
from plindro.core.textures.rules import Border, Filter

_REACH: dict[Filter, float] = {"box": 0.5, "mitchell": 2.0, "kaiser": 3.0, "lanczos": 3.0}
"""How far each filter reaches, in pixels of the coarser image."""
_KAISER_WIDTH = 4.0
_STRIP = 64
"""Rows of the result that are made at once."""


def _mitchell(x: F64) -> F64:
    """The cubic of Mitchell and Netravali (1988), B = C = 1/3."""
    near = 7 / 6 * x**3 - 2 * x**2 + 8 / 9
    far = -7 / 18 * x**3 + 2 * x**2 - 10 / 3 * x + 16 / 9
    return np.where(x < 1.0, near, np.where(x < 2.0, far, 0.0))


def _response(kind: Filter, x: F64) -> F64:
    """The filter at a distance in pixels of the coarser image."""
    if kind == "box":
        return (x <= 0.5 + 1e-9).astype(np.float64)
    if kind == "mitchell":
        return _mitchell(x)
    inside = np.where(x < 3.0, x, 3.0)
    if kind == "lanczos":
        return np.sinc(inside) * np.sinc(inside / 3.0) * (x < 3.0)
    window = np.i0(_KAISER_WIDTH * np.sqrt(np.maximum(1.0 - (inside / 3.0) ** 2, 0.0))) / np.i0(_KAISER_WIDTH)
    return np.sinc(inside) * window * (x < 3.0)


def _matrix(source: int, target: int, kind: Filter, border: Border) -> "scipy.sparse.csr_array":
    """(target, source) shares of the old pixels in each new one; each row's sum is 1."""
    scale = source / target
    stretch = max(scale, 1.0)
    centre = (np.arange(target) + 0.5) * scale - 0.5
    reach = max(_REACH[kind] * stretch, 0.5)
    first = np.floor(centre - reach).astype(np.int64)
    offsets = np.arange(int(np.ceil(2 * reach)) + 2)
    at = first[:, None] + offsets[None, :]
    if kind == "box":
        # Areas, so that odd sizes count pixels by what they cover.
        low, high = np.arange(target) * scale, (np.arange(target) + 1) * scale
        if scale < 1.0:
            low, high = centre + 0.5 - 0.5, centre + 0.5 + 0.5
        weight = np.clip(np.minimum(high[:, None], at + 1.0) - np.maximum(low[:, None], at), 0.0, None)
    else:
        weight = _response(kind, np.abs(at - centre[:, None]) / stretch)
    weight /= weight.sum(axis=1, keepdims=True)
    column = at % source if border == "wrap" else np.clip(at, 0, source - 1)
    row = np.repeat(np.arange(target), len(offsets))
    shape = (target, source)
    return scipy.sparse.csr_array((weight.reshape(-1).astype(np.float32), (row, column.reshape(-1))), shape)


def _as_it_is(rows: F32) -> F32:
    return rows


def nobody() -> None:
    """Nobody waits."""


def resampled(
    values: F32,
    width: int,
    height: int,
    kind: Filter,
    border: tuple[Border, Border] = ("wrap", "wrap"),
    space: Callable[[F32], F32] = _as_it_is,
    pulse: Callable[[], None] = nobody,
) -> F32:
    """(height, width, C) of (H, W, C) values; ``border`` along x and along y. Filters with lobes may over- and
    undershoot.

    ``space`` brings rows into the numbers that may be averaged. Strip by strip, so that a large image needs little
    memory beside itself; ``pulse`` is called before each, and may raise.
    """
    rows, columns = values.shape[:2]
    down = _matrix(rows, height, kind, border[1]) if height != rows else None
    across = _matrix(columns, width, kind, border[0]) if width != columns else None
    strips = []
    for top in range(0, height, _STRIP):
        pulse()
        bottom = min(top + _STRIP, height)
        if down is None:
            strip = space(values[top:bottom])
        else:
            part = down[top:bottom]
            used, at = np.unique(part.indices, return_inverse=True)
            source = space(values[used])
            small = scipy.sparse.csr_array((part.data, at.reshape(-1), part.indptr), (bottom - top, len(used)))
            strip = (small @ source.reshape(len(used), -1)).reshape(bottom - top, columns, -1)
        if across is not None:
            turned = np.ascontiguousarray(strip.transpose(1, 0, 2)).reshape(columns, -1)
            strip = (across @ turned).reshape(width, bottom - top, -1).transpose(1, 0, 2)
        strips.append(np.ascontiguousarray(strip, np.float32))
    return np.concatenate(strips)


def halved(width: int, height: int) -> tuple[int, int]:
    """The size of the next mip."""
    return max(width // 2, 1), max(height // 2, 1)


def power_of_two(pixels: int, most: int) -> int:
    """The next power of two that is no smaller, or the largest within ``most``."""
    up = 1 << max(pixels - 1, 0).bit_length()
    return min(up, 1 << (most.bit_length() - 1))
