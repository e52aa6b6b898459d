"""Which pixels triangles touch, in any part so that no filter reads beside them; and colours blended across them."""

import numpy as np

from plindro.core.mesh.mesh import F32, F64, I32, Mask
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


@kernel
def _blend(corners, colors, same, out, times):  # type: ignore[no-untyped-def]
    """Write the colours of triangles into the pixels whose middles they cover, around the borders; ``times`` is 1 where
    one colour came, and more where others came after it."""
    rows, columns, channels = out.shape
    for t in range(len(corners)):
        ax, ay = corners[t, 0, 0], corners[t, 0, 1]
        bx, by = corners[t, 1, 0] - ax, corners[t, 1, 1] - ay
        cx, cy = corners[t, 2, 0] - ax, corners[t, 2, 1] - ay
        area = bx * cy - by * cx
        if area == 0.0:
            continue
        left, right = ax + min(0.0, bx, cx), ax + max(0.0, bx, cx)
        top, bottom = ay + min(0.0, by, cy), ay + max(0.0, by, cy)
        for y in range(int(np.floor(top)), int(np.floor(bottom)) + 1):
            for x in range(int(np.floor(left)), int(np.floor(right)) + 1):
                px, py = x + 0.5 - ax, y + 0.5 - ay
                v, w = (px * cy - py * cx) / area, (bx * py - by * px) / area
                if v < 0.0 or w < 0.0 or v + w > 1.0:
                    continue
                row, column, differs = y % rows, x % columns, False
                is_first = times[row, column] == 0
                for k in range(channels):
                    color = colors[t, 0, k] * (1.0 - v - w) + colors[t, 1, k] * v + colors[t, 2, k] * w
                    differs |= abs(color - out[row, column, k]) > same
                    if is_first:
                        out[row, column, k] = color
                if is_first or differs:
                    times[row, column] += 1


def paint_colors(corners: F64, colors: F32, width: int, height: int, same: float) -> tuple[F32, Mask, float]:
    """(H, W, K) colours (T, 3, K) blended across triangles (T, 3, 2), in pixels from the upper left; which pixels'
    middles are covered; and the share of those on which colours further apart than ``same`` meet. What leaves the image
    comes in on the other side."""
    out = np.ones((height, width, colors.shape[2]), np.float32)
    times = np.zeros((height, width), np.int32)
    sound = np.isfinite(corners).all(axis=(1, 2)) & (abs(corners) < 1e7).all(axis=(1, 2))
    _blend(np.ascontiguousarray(corners[sound]), np.ascontiguousarray(colors[sound]), same, out, times)
    covered = times > 0
    return out, covered, float((times[covered] > 1).mean()) if covered.any() else 0.0
