"""Which of the 64 ways to part a block may fit: by how far its pixels lie from the longest axis of their own subset.

The sums from which a subset's covariance comes are made for all ways at once, way beside way; so are the axes, by two
steps of power iteration. What is left of a covariance beside its longest axis is what no line can undo.
"""

import numpy as np

from plindro.core.blocks.bc7.tables import SUBSET
from plindro.core.numeric.kernels import inner
from plindro.core.numeric.lanes import HUGE, f32, grid, stack

_WAYS = 64
_IS_OF = np.zeros((4, 2, 16, _WAYS), np.float32)
for _subsets in (2, 3):
    for _which in (1, 2):
        _IS_OF[_subsets, _which - 1] = (SUBSET[_subsets] == _which).T
_SIZE = np.maximum(_IS_OF.sum(axis=2), 1.0).astype(np.float32)
"""(subsets, which, pixel, way): 1 where the pixel is of the second or third subset; and how many are."""


@inner
def moments_of(block, weight, moments):  # type: ignore[no-untyped-def]
    """(9, 16) the moments of each pixel, from the block's middle so that little is lost in their sums."""
    middle = stack(4, np.float32)
    for c in range(3):
        low, high = HUGE, -HUGE
        for i in range(16):
            low, high = min(low, block[c, i]), max(high, block[c, i])
        middle[c] = (low + high) * f32(0.5)
    r, g, b = np.sqrt(weight[0]), np.sqrt(weight[1]), np.sqrt(weight[2])
    for i in range(16):
        x, y, z = (block[0, i] - middle[0]) * r, (block[1, i] - middle[1]) * g, (block[2, i] - middle[2]) * b
        moments[0, i], moments[1, i], moments[2, i] = x, y, z
        moments[3, i], moments[4, i], moments[5, i] = x * x, x * y, x * z
        moments[6, i], moments[7, i], moments[8, i] = y * y, y * z, z * z


@inner
def add_left(sums, size, left, along):  # type: ignore[no-untyped-def]
    """Add to ``left`` what lies beside the longest axis of a subset, and to ``along`` what lies along it."""
    beside, on, kept = stack(64, np.float32), stack(64, np.float32), grid(9, 64, np.float32)
    for m in range(9):
        for p in range(64):
            kept[m, p] = sums[m, p]
    for p in range(64):
        n = f32(1.0) / size[p]
        mx, my, mz = kept[0, p], kept[1, p], kept[2, p]
        xx, xy, xz = kept[3, p] - mx * mx * n, kept[4, p] - mx * my * n, kept[5, p] - mx * mz * n
        yy, yz, zz = kept[6, p] - my * my * n, kept[7, p] - my * mz * n, kept[8, p] - mz * mz * n
        of_x, of_y = (xx >= yy) & (xx >= zz), yy >= zz
        u = xx if of_x else xy if of_y else xz
        v = xy if of_x else yy if of_y else yz
        w = xz if of_x else yz if of_y else zz
        # Two steps of power iteration; numbers stay small enough to need no scaling but one.
        scale = f32(1.0) / (abs(u) + abs(v) + abs(w) + f32(1e-6))
        u, v, w = u * scale, v * scale, w * scale
        u, v, w = xx * u + xy * v + xz * w, xy * u + yy * v + yz * w, xz * u + yz * v + zz * w
        u, v, w = xx * u + xy * v + xz * w, xy * u + yy * v + yz * w, xz * u + yz * v + zz * w
        a, b, c = xx * u + xy * v + xz * w, xy * u + yy * v + yz * w, xz * u + yz * v + zz * w
        longest = (a * u + b * v + c * w) / (u * u + v * v + w * w + f32(1e-12))
        beside[p] = max(xx + yy + zz - longest, f32(0.0))
        on[p] = longest
    for p in range(64):
        left[p] += beside[p]
    for p in range(64):
        along[p] += on[p]


@inner
def rank(block, weight, subsets, left, along):  # type: ignore[no-untyped-def]
    """For each way to part the block's first three channels: what no lines can undo, and what lies along them."""
    moments, part, rest = grid(9, 16, np.float32), grid(9, 64, np.float32), grid(9, 64, np.float32)
    size, others = stack(64, np.float32), stack(64, np.float32)
    moments_of(block, weight, moments)
    for m in range(9):
        value = f32(0.0)
        for i in range(16):
            value += moments[m, i]
        for p in range(64):
            rest[m, p] = value
    for p in range(64):
        left[p], along[p], others[p] = f32(0.0), f32(0.0), f32(16.0)
    for which in range(subsets - 1):
        for p in range(64):
            size[p] = _SIZE[subsets, which, p]
            others[p] -= size[p]
        for m in range(9):
            for p in range(64):
                part[m, p] = f32(0.0)
            for i in range(16):
                value = moments[m, i]
                for p in range(64):
                    part[m, p] += value * _IS_OF[subsets, which, i, p]
            for p in range(64):
                rest[m, p] -= part[m, p]
        add_left(part, size, left, along)
    add_left(rest, others, left, along)
