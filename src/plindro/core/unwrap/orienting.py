"""Turning charts upright: along the straight sides that most have, else as their smallest rectangle lies."""

import numpy as np

from plindro.core.mesh.mesh import F64
from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.rectangles import smallest_rectangle

_QUARTER = 0.5 * np.pi
_BINS = 180
"""Angles within a quarter turn that are told apart."""
_BIN = _QUARTER / _BINS
_STRAIGHT = 0.3
"""Share of a rim that must run along or across one direction for it to count."""


@helper
def _side(uv, side):  # type: ignore[no-untyped-def]
    """The length of a side, and its angle within a quarter turn."""
    t, k = side // 3, side % 3
    j = (k + 1) % 3
    x, y = uv[t, j, 0] - uv[t, k, 0], uv[t, j, 1] - uv[t, k, 1]
    return np.sqrt(x * x + y * y), np.arctan2(y, x) % _QUARTER


@kernel
def _angle_along(members, glued, uv, along):  # type: ignore[no-untyped-def]
    """The angle, within a quarter turn, at which most of the rim of a chart lies; NaN where no such share of it does.

    ``along`` (_BINS,) is for it.
    """
    along[:] = 0.0
    total = 0.0
    for t in members:
        for side in range(3 * t, 3 * t + 3):
            if not glued[side]:
                length, angle = _side(uv, side)
                along[index(angle / _BIN) % _BINS] += length
                total += length
    best, most = index(0), -1.0
    for i in range(_BINS):
        near = along[i] + along[i - 1] + along[(i + 1) % _BINS]
        if near > most:
            best, most = i, near
    if most < _STRAIGHT * total:
        return np.nan
    middle = (best + 0.5) * _BIN
    sum_, weight = 0.0, 0.0
    for t in members:
        for side in range(3 * t, 3 * t + 3):
            if not glued[side]:
                length, angle = _side(uv, side)
                off = (angle - middle + 0.5 * _QUARTER) % _QUARTER - 0.5 * _QUARTER
                if abs(off) <= 1.5 * _BIN:
                    sum_ += length * off
                    weight += length
    return middle + sum_ / weight


def orient(charts: Charts) -> F64:
    """(T, 3, 2) the charts turned upright."""
    uv, angles, along = charts.uv, np.empty(charts.count), np.empty(_BINS)
    for chart, members in enumerate(charts.members()):
        angle = _angle_along(members, charts.glued, uv, along)
        angles[chart] = smallest_rectangle(uv[members].reshape(-1, 2)).angle if np.isnan(angle) else angle
    cosine, sine = np.cos(angles)[charts.chart, None], np.sin(angles)[charts.chart, None]
    x, y = uv[:, :, 0], uv[:, :, 1]
    return np.stack([cosine * x + sine * y, cosine * y - sine * x], axis=2)
