"""Rasterising triangles: which one is seen at each pixel, and where on it."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F32, F64, I32, Mask


@njit(cache=True, nogil=True, error_model="numpy")
def _draw(screen, triangles, two_sided, depth, seen, weights):  # type: ignore[no-untyped-def]
    height, width = depth.shape
    for t in range(len(triangles)):
        a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        ax, ay, az = screen[a, 0], screen[a, 1], screen[a, 2]
        bx, by, bz = screen[b, 0], screen[b, 1], screen[b, 2]
        cx, cy, cz = screen[c, 0], screen[c, 1], screen[c, 2]
        if az <= 0.0 or bz <= 0.0 or cz <= 0.0:
            continue
        # Screen y grows downwards, so a triangle that faces the eye turns the other way.
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area == 0.0 or (area > 0.0 and not two_sided[t]):
            continue
        x0 = max(int(np.floor(min(ax, bx, cx))), 0)
        x1 = min(int(np.ceil(max(ax, bx, cx))), width - 1)
        y0 = max(int(np.floor(min(ay, by, cy))), 0)
        y1 = min(int(np.ceil(max(ay, by, cy))), height - 1)
        for y in range(y0, y1 + 1):
            py = y + 0.5
            for x in range(x0, x1 + 1):
                px = x + 0.5
                w0 = ((bx - px) * (cy - py) - (by - py) * (cx - px)) / area
                w1 = ((cx - px) * (ay - py) - (cy - py) * (ax - px)) / area
                w2 = 1.0 - w0 - w1
                if w0 < 0.0 or w1 < 0.0 or w2 < 0.0:
                    continue
                # One over depth is linear on the screen; larger is nearer.
                inverse = w0 / az + w1 / bz + w2 / cz
                if inverse > depth[y, x]:
                    depth[y, x] = inverse
                    seen[y, x] = t
                    weights[y, x, 0] = w0 / az / inverse
                    weights[y, x, 1] = w1 / bz / inverse
                    weights[y, x, 2] = w2 / cz / inverse


def rasterise(
    screen: F64, triangles: I32, two_sided: Mask, width: int, height: int
) -> tuple[I32, F32, NDArray[np.float64]]:
    """Draw triangles given by (V, 3) ``screen`` points: x, y in pixels from the upper left, and the distance > 0.

    Triangles that face away are left out unless ``two_sided`` (T,). Returns the triangle at each pixel (-1 for none),
    its perspective-correct barycentric weights (height, width, 3) and one over the distance (0 for none).
    """
    depth = np.zeros((height, width))
    seen = np.full((height, width), -1, np.int32)
    weights = np.zeros((height, width, 3), np.float32)
    _draw(
        np.ascontiguousarray(screen, np.float64),
        np.ascontiguousarray(triangles, np.int32),
        two_sided,
        depth,
        seen,
        weights,
    )
    return seen, weights, depth
