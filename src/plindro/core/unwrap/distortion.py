"""How a chart that is laid flat is bent: stretch by Sander, Snyder, Gortler and Hoppe (2001)."""

import numpy as np

from plindro.core.numeric.kernels import helper, kernel


@helper
def _add_distortion(t, x, y, u, v, flat, areas, out):  # type: ignore[no-untyped-def]
    """Add a triangle whose sides from corner 0 are x, y and u, v; False where it turns right or has no area."""
    double = x * v - y * u
    out[4] = min(out[4], 0.5 * double / areas[t])
    if not double > 0.0:
        out[4] = min(out[4], 0.0)
        return False
    # From the sheet to the surface, where corner 0 is the origin and corner 1 lies along x.
    fx, gx, gy = flat[t, 1, 0], flat[t, 2, 0], flat[t, 2, 1]
    p, q = (fx * v - gx * y) / double, (gx * x - fx * u) / double
    r, s = -gy * y / double, gy * x / double
    sum_, difference = p * p + q * q + r * r + s * s, 2.0 * (p * s - q * r)
    out[0] += areas[t]
    out[1] += 0.5 * double
    out[2] += 0.5 * areas[t] * sum_
    largest = 0.5 * (np.sqrt(max(sum_ + difference, 0.0)) + np.sqrt(max(sum_ - difference, 0.0)))
    out[3] = max(out[3], largest)
    return True


@kernel
def measure_chart(chart, uv, flat, areas, out):  # type: ignore[no-untyped-def]
    """The same as ``find_distortion`` of triangles where ``uv`` (T, 3, 2) has them."""
    out[0], out[1], out[2], out[3], out[4] = 0.0, 0.0, 0.0, 0.0, np.inf
    for t in chart:
        x, y = uv[t, 1, 0] - uv[t, 0, 0], uv[t, 1, 1] - uv[t, 0, 1]
        u, v = uv[t, 2, 0] - uv[t, 0, 0], uv[t, 2, 1] - uv[t, 0, 1]
        if not _add_distortion(t, x, y, u, v, flat, areas, out):
            return


@helper
def find_distortion(chart, flat, areas, room, out):  # type: ignore[no-untyped-def]
    """Into ``out``: area on the surface, area laid flat, the sum of what Sander's L2 sums, the largest stretch, the
    least area laid flat over that on the surface."""
    out[0], out[1], out[2], out[3], out[4] = 0.0, 0.0, 0.0, 0.0, np.inf
    for i in range(len(chart)):
        a, b, c = room.local[3 * i], room.local[3 * i + 1], room.local[3 * i + 2]
        x, y = room.xy[b, 0] - room.xy[a, 0], room.xy[b, 1] - room.xy[a, 1]
        u, v = room.xy[c, 0] - room.xy[a, 0], room.xy[c, 1] - room.xy[a, 1]
        if not _add_distortion(chart[i], x, y, u, v, flat, areas, out):
            return
