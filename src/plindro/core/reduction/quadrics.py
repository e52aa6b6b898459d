"""Quadrics: sums of squared distances that a vertex has come to stand for.

Garland and Heckbert 1997, weighted by area; along a feature stands a plane across the face, so that borders and seams
keep their line. Attributes weigh in as Hoppe 1999 has it: over each triangle an attribute is a linear function of the
place, and its squared difference is one more quadric. Every row has its origin at its own vertex and at its own
wedge's values, so that single precision keeps what matters on dense meshes.

Row of a vertex (13,): the symmetric matrix xx xy xz yy yz zz, the linear part x y z, the constant, the area with its
weight, what ``volume`` keeps there, the area without. Kept is, where vertices stay, the volume that was gained around;
where they move, the part of the constant that was spent on keeping it.
Row of a wedge (1 + 4 K,): the area, then for each attribute its summed gradient x y z and its summed offset.
"""

import numpy as np

from plindro.core.mesh.mesh import F32, F64, I32
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.reduction.features import BORDER, SEAM
from plindro.core.reduction.values import UV_WEIGHT

AREA, KEPT, PLAIN_AREA = 10, 11, 12
ROW = 13
BORDER_WEIGHT = 10.0
INNER_WEIGHT = 1.0
"""Weights of the planes along features, per squared length of the edge."""
_JUMP_WEIGHT = 1.0 / UV_WEIGHT**2
"""Makes of a squared jump of values that of the length over the surface that it stands for, where it is one of UVs."""
_AGREE = 0.5
"""Length of the mean of a wedge's face normals below which it says nothing."""
_SLIVER = 1e-5
"""Triangles flatter than this share of their longest side say nothing about how attributes change."""


@helper
def add_plane(q, v, a, b, c, w):  # type: ignore[no-untyped-def]
    """Add a plane through the vertex itself."""
    q[v, 0] += w * a * a
    q[v, 1] += w * a * b
    q[v, 2] += w * a * c
    q[v, 3] += w * b * b
    q[v, 4] += w * b * c
    q[v, 5] += w * c * c


@helper
def _jump(c, d, triangle_wedge, values):  # type: ignore[no-untyped-def]
    """The largest squared jump of values from corner c, and the end of the edge that leaves it, to those beside."""
    largest = 0.0
    for end in range(2):
        e, f = (c, d) if end == 0 else (c - c % 3 + (c + 1) % 3, d - d % 3 + (d + 2) % 3)
        p, q = triangle_wedge[e // 3, e % 3], triangle_wedge[f // 3, f % 3]
        squared = 0.0
        for m in range(values.shape[1]):
            squared += (values[p, m] - values[q, m]) ** 2
        largest = max(largest, squared)
    return largest


@helper
def _line_weight(what, squared, c, beside, triangle_wedge, values):  # type: ignore[no-untyped-def]
    """What the plane along a feature weighs that leaves corner c and has a squared length."""
    if what == BORDER:
        return BORDER_WEIGHT * squared
    if what == SEAM:
        # Where a texture jumps by less than the edge is long, as around a pole, the line is hardly seen.
        squared = min(squared, _JUMP_WEIGHT * _jump(c, beside[c], triangle_wedge, values))
    return INNER_WEIGHT * squared


@kernel
def _fill(  # type: ignore[no-untyped-def]
    positions, triangle_vertex, triangle_wedge, feature, beside, values, weight,
    quadrics, wedge_quadrics, normals, sizes,
):  # fmt: skip
    n_values = values.shape[1]
    has_normals = len(normals) > 0
    for t in range(len(triangle_vertex)):
        i, j, k = triangle_vertex[t, 0], triangle_vertex[t, 1], triangle_vertex[t, 2]
        ex, ey, ez = (
            positions[j, 0] - positions[i, 0],
            positions[j, 1] - positions[i, 1],
            positions[j, 2] - positions[i, 2],
        )
        fx, fy, fz = (
            positions[k, 0] - positions[i, 0],
            positions[k, 1] - positions[i, 1],
            positions[k, 2] - positions[i, 2],
        )
        nx, ny, nz = ey * fz - ez * fy, ez * fx - ex * fz, ex * fy - ey * fx
        length = np.sqrt(nx * nx + ny * ny + nz * nz)
        if not length > 0.0:
            continue
        if has_normals:
            sx, sy, sz, size = np.float32(nx), np.float32(ny), np.float32(nz), np.float32(length)
            for s in range(3):
                w = triangle_wedge[t, s]
                normals[w, 0] += sx
                normals[w, 1] += sy
                normals[w, 2] += sz
                sizes[w] += size
        over = 1.0 / length
        nx, ny, nz = nx * over, ny * over, nz * over
        area = 0.5 * length
        # In single precision from here, as the rows are: the sums wait for one another.
        xx, xy, xz = np.float32(area * nx * nx), np.float32(area * nx * ny), np.float32(area * nx * nz)
        yy, yz, zz = np.float32(area * ny * ny), np.float32(area * ny * nz), np.float32(area * nz * nz)
        for s in range(3):
            v = triangle_vertex[t, s]
            w = np.float32(weight[v]) if len(weight) else np.float32(1.0)
            quadrics[v, 0] += w * xx
            quadrics[v, 1] += w * xy
            quadrics[v, 2] += w * xz
            quadrics[v, 3] += w * yy
            quadrics[v, 4] += w * yz
            quadrics[v, 5] += w * zz
            quadrics[v, AREA] += w * np.float32(area)
            quadrics[v, PLAIN_AREA] += np.float32(area)
        for s in range(3):
            what = feature[3 * t + s]
            if what:
                v, o = triangle_vertex[t, s], triangle_vertex[t, (s + 1) % 3]
                gx, gy, gz = (
                    positions[o, 0] - positions[v, 0],
                    positions[o, 1] - positions[v, 1],
                    positions[o, 2] - positions[v, 2],
                )
                squared = gx * gx + gy * gy + gz * gz
                w = _line_weight(what, squared, 3 * t + s, beside, triangle_wedge, values)
                squared = np.sqrt(squared)
                hx, hy, hz = (
                    (ny * gz - nz * gy) / squared,
                    (nz * gx - nx * gz) / squared,
                    (nx * gy - ny * gx) / squared,
                )
                add_plane(quadrics, v, hx, hy, hz, w)
                add_plane(quadrics, o, hx, hy, hz, w)
        if n_values == 0:
            continue
        ee, ff, ef = ex * ex + ey * ey + ez * ez, fx * fx + fy * fy + fz * fz, ex * fx + ey * fy + ez * fz
        for s in range(3):
            wedge_quadrics[triangle_wedge[t, s], 0] += area
        if length < _SLIVER * max(ee, ff):
            continue
        a, b, c = triangle_wedge[t, 0], triangle_wedge[t, 1], triangle_wedge[t, 2]
        for m in range(n_values):
            d, e = values[b, m] - values[a, m], values[c, m] - values[a, m]
            x, y = (d * ff - e * ef) / (length * length), (e * ee - d * ef) / (length * length)
            gx, gy, gz = x * ex + y * fx, x * ey + y * fy, x * ez + y * fz
            for s in range(3):
                v, w = triangle_vertex[t, s], triangle_wedge[t, s]
                quadrics[v, 0] += area * gx * gx
                quadrics[v, 1] += area * gx * gy
                quadrics[v, 2] += area * gx * gz
                quadrics[v, 3] += area * gy * gy
                quadrics[v, 4] += area * gy * gz
                quadrics[v, 5] += area * gz * gz
                wedge_quadrics[w, 1 + 4 * m] += area * gx
                wedge_quadrics[w, 2 + 4 * m] += area * gy
                wedge_quadrics[w, 3 + 4 * m] += area * gz


@kernel
def _agree(normals, sizes):  # type: ignore[no-untyped-def]
    """Make sums of normals unit, and zero where what was summed disagrees. ``sizes`` (W,) are the sums of lengths."""
    for w in range(len(normals)):
        length = np.sqrt(normals[w, 0] ** 2 + normals[w, 1] ** 2 + normals[w, 2] ** 2)
        over = 1.0 / length if length > _AGREE * sizes[w] else 0.0
        for s in range(3):
            normals[w, s] *= over


def build_quadrics(
    positions: F64,
    triangle_vertex: I32,
    triangle_wedge: I32,
    feature: np.ndarray,
    beside: I32,
    values: F64,
    weight: F64,
    *,
    with_normals: bool,
) -> tuple[F32, F32, F32]:
    """Rows of the vertices (V, 13) and of the wedges (W, 1 + 4 K, or no rows where K = 0), and the normals (W, 3).

    ``feature`` and ``beside`` (3 T,) are what ``find_wedges`` says of each half-edge. ``values`` (W, K) are the wedges'
    attributes in units of length; ``weight`` (V,) or empty makes errors count more there. The wedges' unit normals, by
    their triangles' areas, are zero where these disagree; without them there are no rows.
    """
    quadrics = np.zeros((len(positions), ROW), np.float32)
    n_wedges, n_values = values.shape
    wedge_quadrics = np.zeros((n_wedges if n_values else 0, 1 + 4 * n_values), np.float32)
    normals = np.zeros((n_wedges if with_normals else 0, 3), np.float32)
    sizes = np.zeros(len(normals), np.float32)
    _fill(
        positions, triangle_vertex, triangle_wedge, feature, beside, values, weight,
        quadrics, wedge_quadrics, normals, sizes,
    )  # fmt: skip
    _agree(normals, sizes)
    return quadrics, wedge_quadrics, normals


@helper
def plain_error(q, u, x, y, z):  # type: ignore[no-untyped-def]
    """The error of row ``u`` at an offset from its vertex, its own values kept."""
    return (
        q[u, 9]
        + q[u, 0] * x * x
        + q[u, 3] * y * y
        + q[u, 5] * z * z
        + 2.0 * (q[u, 1] * x * y + q[u, 2] * x * z + q[u, 4] * y * z + q[u, 6] * x + q[u, 7] * y + q[u, 8] * z)
    )


@helper
def value_error(wedge_quadrics, w, values, to, x, y, z):  # type: ignore[no-untyped-def]
    """What taking the values of wedge ``to`` adds to that error for wedge ``w``."""
    error = 0.0
    area = wedge_quadrics[w, 0]
    for m in range(values.shape[1]):
        d = values[to, m] - values[w, m]
        at = 1 + 4 * m
        slope = (
            wedge_quadrics[w, at] * x
            + wedge_quadrics[w, at + 1] * y
            + wedge_quadrics[w, at + 2] * z
            + wedge_quadrics[w, at + 3]
        )
        error += d * (area * d - 2.0 * slope)
    return error


@helper
def move_row(q, u, x, y, z):  # type: ignore[no-untyped-def]
    """Shift the origin of row ``u`` by an offset."""
    q[u, 9] = plain_error(q, u, x, y, z)
    dx = q[u, 0] * x + q[u, 1] * y + q[u, 2] * z
    dy = q[u, 1] * x + q[u, 3] * y + q[u, 4] * z
    dz = q[u, 2] * x + q[u, 4] * y + q[u, 5] * z
    q[u, 6] += dx
    q[u, 7] += dy
    q[u, 8] += dz


@helper
def move_values(q, u, wedge_quadrics, w, x, y, z, m, d):  # type: ignore[no-untyped-def]
    """Shift value ``m`` of wedge ``w`` of vertex ``u`` by ``d``, after row ``u`` was moved by x, y, z but not this."""
    at = 1 + 4 * m
    gx, gy, gz = wedge_quadrics[w, at], wedge_quadrics[w, at + 1], wedge_quadrics[w, at + 2]
    slope = gx * x + gy * y + gz * z + wedge_quadrics[w, at + 3]
    q[u, 9] += d * (wedge_quadrics[w, 0] * d - 2.0 * slope)
    q[u, 6] -= gx * d
    q[u, 7] -= gy * d
    q[u, 8] -= gz * d
    wedge_quadrics[w, at + 3] = slope - wedge_quadrics[w, 0] * d
