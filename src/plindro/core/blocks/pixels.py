"""A block's sixteen pixels, channel by channel, and how they are spread."""

import numpy as np

from plindro.core.numeric.kernels import helper, inner
from plindro.core.numeric.lanes import f32, grid, stack, total

_STEPS = 5
"""Of power iteration: the axis need not be exact, its ends are solved for."""


@inner
def load_block(image, row, column, block):  # type: ignore[no-untyped-def]
    """Put a block's pixels into ``block`` (4, 16); past the image's end its last pixels repeat."""
    height, width = image.shape[0], image.shape[1]
    if row * 4 + 4 <= height and column * 4 + 4 <= width:
        for y in range(4):
            for x in range(4):
                for c in range(4):
                    block[c, y * 4 + x] = f32(image[row * 4 + y, column * 4 + x, c])
        return
    for y in range(4):
        for x in range(4):
            for c in range(4):
                at_y, at_x = min(row * 4 + y, height - 1), min(column * 4 + x, width - 1)
                block[c, y * 4 + x] = f32(image[at_y, at_x, c])


@inner
def power_axis(cov, n, axis):  # type: ignore[no-untyped-def]
    """The longest axis of a symmetric matrix, the first ``n`` rows of ``cov`` (4, 4), by power iteration. Its length is
    1, or 0 where there is none."""
    longest = 0
    for c in range(1, n):
        if cov[c, c] > cov[longest, longest]:
            longest = c
    # Rows and columns past n are 0.
    x, y, z, w = cov[longest, 0], cov[longest, 1], cov[longest, 2], cov[longest, 3]
    for _ in range(_STEPS):
        a = cov[0, 0] * x + cov[0, 1] * y + (cov[0, 2] * z + cov[0, 3] * w)
        b = cov[1, 0] * x + cov[1, 1] * y + (cov[1, 2] * z + cov[1, 3] * w)
        c = cov[2, 0] * x + cov[2, 1] * y + (cov[2, 2] * z + cov[2, 3] * w)
        d = cov[3, 0] * x + cov[3, 1] * y + (cov[3, 2] * z + cov[3, 3] * w)
        size = max(abs(a), abs(b), abs(c), abs(d))
        if size <= f32(1e-12):
            break
        scale = f32(1.0) / size
        x, y, z, w = a * scale, b * scale, c * scale, d * scale
    length = (x * x + y * y) + (z * z + w * w)
    scale = f32(0.0) if length <= f32(1e-12) else f32(1.0) / np.sqrt(length)
    axis[0], axis[1], axis[2], axis[3] = x * scale, y * scale, z * scale, w * scale


@inner
def spread(block, mask, weight, n, mean, cov):  # type: ignore[no-untyped-def]
    """The mean of the pixels with a mask of 1 in ``n`` channels, and (4, 4) their covariance where each channel counts
    by the root of its weight; 0 in the channels past those. Returns how many pixels there are."""
    part = stack(16, np.float32)
    away = grid(4, 16, np.float32)
    for i in range(16):
        part[i] = mask[i]
    count = total(part)
    one = f32(1.0) / max(count, f32(1.0))
    for c in range(4):
        if c >= n:
            for d in range(4):
                cov[c, d] = f32(0.0)
                cov[d, c] = f32(0.0)
            continue
        for i in range(16):
            part[i] = block[c, i] * mask[i]
        middle = total(part) * one
        mean[c] = middle
        root = np.sqrt(weight[c])
        for i in range(16):
            away[c, i] = (block[c, i] - middle) * mask[i] * root
    for a in range(n):
        for b in range(a, n):
            for i in range(16):
                part[i] = away[a, i] * away[b, i]
            value = total(part)
            cov[a, b] = value
            cov[b, a] = value
    return count


@helper
def product(a, b):  # type: ignore[no-untyped-def]
    """The sum of the products of 16 values and 16 others."""
    part = stack(16, np.float32)
    for i in range(16):
        part[i] = a[i] * b[i]
    return total(part)


@helper
def row_product(block, c, share):  # type: ignore[no-untyped-def]
    """The same of a channel of a block."""
    part = stack(16, np.float32)
    for i in range(16):
        part[i] = block[c, i] * share[i]
    return total(part)
