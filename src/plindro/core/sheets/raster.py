"""Which pixels triangles touch: all that they cover in any part, so that no filter reads beside them."""

import numpy as np

from plindro.core.mesh.mesh import F64, I32
from plindro.core.numeric.kernels import kernel


@kernel
def _paint(corners, values, wraps, owner):  # type: ignore[no-untyped-def]
    """Write each triangle's value into the pixels that it touches; around the borders where it ``wraps``."""
    rows, columns = owner.shape
    for t in range(len(corners)):
        low = min(corners[t, 0, 1], corners[t, 1, 1], corners[t, 2, 1])
        high = max(corners[t, 0, 1], corners[t, 1, 1], corners[t, 2, 1])
        for y in range(int(np.floor(low)), int(np.floor(high)) + 1):
            left, right = np.inf, -np.inf
            for k in range(3):
                ax, ay = corners[t, k, 0], corners[t, k, 1]
                bx, by = corners[t, (k + 1) % 3, 0], corners[t, (k + 1) % 3, 1]
                if ay > by:
                    ax, ay, bx, by = bx, by, ax, ay
                if by < y or ay > y + 1.0:
                    continue
                p, q = ax, bx
                if ay < y:
                    p = ax + (bx - ax) * (y - ay) / (by - ay)
                if by > y + 1.0:
                    q = ax + (bx - ax) * (y + 1.0 - ay) / (by - ay)
                left, right = min(left, p, q), max(right, p, q)
            if left > right or ((y < 0 or y >= rows) and not wraps):
                continue
            first, last = int(np.floor(left)), int(np.floor(right))
            if wraps:
                last = min(last, first + columns - 1)
            for x in range(first, last + 1):
                if wraps:
                    owner[y % rows, x % columns] = values[t]
                elif 0 <= x < columns:
                    owner[y, x] = values[t]


def paint(corners: F64, values: I32, width: int, height: int, *, wraps: bool = False) -> I32:
    """(H, W) the value of a triangle (T, 3, 2), in pixels from the upper left, that touches each pixel; -1 where none
    does. With ``wraps`` what leaves the image comes in on the other side."""
    owner = np.full((height, width), -1, np.int32)
    sound = np.isfinite(corners).all(axis=(1, 2)) & (abs(corners) < 1e7).all(axis=(1, 2))
    _paint(np.ascontiguousarray(corners[sound]), np.ascontiguousarray(values[sound]), wraps, owner)
    return owner
