"""A texture read through a map of pixels onto UVs: sharp where it grows, averaged where it shrinks."""

import numpy as np

from plindro.core.mesh.mesh import F32, F64, I32, Mask
from plindro.core.numeric.kernels import helper, index, kernel

_MOST_TAPS = 16
"""Readings along a side of a pixel; a texture that shrinks by more loses what lies between."""


@helper
def _weight(x):  # type: ignore[no-untyped-def]
    """The cubic of Catmull and Rom (Keys 1981, a = -0.5)."""
    x = abs(x)
    if x < 1.0:
        return (1.5 * x - 2.5) * x * x + 1.0
    if x < 2.0:
        return ((-0.5 * x + 2.5) * x - 4.0) * x + 2.0
    return 0.0


@helper
def _at(i, size, repeats):  # type: ignore[no-untyped-def]
    if repeats:
        return i % size
    return min(max(i, 0), size - 1)


@helper
def _read(source, x, y, reach, repeats, share, out):  # type: ignore[no-untyped-def]
    """Add ``share`` of the texture at a place in its pixels: by the cubic for a ``reach`` of 2, else between four."""
    rows, columns, channels = source.shape
    fx, fy = np.floor(x - 0.5), np.floor(y - 0.5)
    dx, dy = x - 0.5 - fx, y - 0.5 - fy
    left, top = int(fx), int(fy)
    for j in range(1 - reach, 1 + reach):
        wy = _weight(j - dy) if reach == 2 else (dy if j == 1 else 1.0 - dy)
        row = _at(top + j, rows, repeats)
        for i in range(1 - reach, 1 + reach):
            w = share * wy * (_weight(i - dx) if reach == 2 else (dx if i == 1 else 1.0 - dx))
            column = _at(left + i, columns, repeats)
            for c in range(channels):
                out[c] += w * source[row, column, c]


@kernel
def _sample(owner, chosen, to_uv, source, repeats, out):  # type: ignore[no-untyped-def]
    """Fill the pixels whose owner is chosen; ``to_uv`` (N, 2, 3) takes pixels from the upper left to UVs."""
    rows, columns, _ = source.shape
    height, width = owner.shape
    for y in range(height):
        for x in range(width):
            o = owner[y, x]
            if o < 0 or not chosen[o]:
                continue
            m = to_uv[o]
            # Along each axis of the pixel the texture's pixels that it crosses.
            across = max(
                np.hypot(m[0, 0] * columns, m[1, 0] * rows), np.hypot(m[0, 1] * columns, m[1, 1] * rows)
            )  # fmt: skip
            taps = min(max(index(np.ceil(across - 0.05)), index(1)), index(_MOST_TAPS))
            share = 1.0 / (taps * taps)
            for j in range(taps):
                for i in range(taps):
                    px, py = x + (i + 0.5) / taps, y + (j + 0.5) / taps
                    u = m[0, 0] * px + m[0, 1] * py + m[0, 2]
                    v = m[1, 0] * px + m[1, 1] * py + m[1, 2]
                    _read(source, u * columns, v * rows, 2 if taps == 1 else 1, repeats, share, out[y, x])


def sample(owner: I32, chosen: Mask, to_uv: F64, source: F32, repeats: bool, out: F32) -> None:
    """Read ``source`` (h, w, C) into ``out`` (H, W, C), zero so far, at the pixels whose owner is chosen.

    owner : (H, W) number of the piece that a pixel belongs to, -1 for none
    to_uv : (N, 2, 3) takes a place in pixels from the upper left to the UVs of a piece
    """
    _sample(owner, chosen, np.ascontiguousarray(to_uv), np.ascontiguousarray(source), repeats, out)
