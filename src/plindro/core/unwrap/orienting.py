"""Turning charts upright: along the straight sides that most have, else as their smallest rectangle lies."""

import numpy as np

from plindro.core.mesh.mesh import F64
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.rectangles import smallest_rectangle
from plindro.core.unwrap.surface import Surface

_BIN = np.radians(0.5)
_STRAIGHT = 0.3
"""Share of a rim that must run along or across one direction for it to count."""


def orient(surface: Surface, charts: Charts) -> F64:
    """(T, 3, 2) the charts turned upright."""
    uv = charts.uv.copy()
    for members in charts.members():
        sides = (3 * members[:, None] + np.arange(3)).reshape(-1)
        sides = sides[~charts.glued[sides]]
        at = uv[members]
        angle = _along_sides(uv[sides // 3, (sides % 3 + 1) % 3] - uv[sides // 3, sides % 3])
        if angle is None:
            angle = smallest_rectangle(at.reshape(-1, 2)).angle
        cosine, sine = np.cos(angle), np.sin(angle)
        uv[members] = at @ np.array([[cosine, -sine], [sine, cosine]])
    return uv


def _along_sides(vectors: F64) -> float | None:
    """The angle, within a quarter turn, at which most of a rim's length lies; None where no such share of it does."""
    lengths = np.linalg.norm(vectors, axis=1)
    angles = np.arctan2(vectors[:, 1], vectors[:, 0]) % (np.pi / 2)
    n = round(np.pi / 2 / _BIN)
    histogram = np.bincount((angles / _BIN).astype(int) % n, lengths, minlength=n)
    near = histogram + np.roll(histogram, 1) + np.roll(histogram, -1)
    best = int(np.argmax(near))
    if near[best] < _STRAIGHT * lengths.sum():
        return None
    middle = (best + 0.5) * _BIN
    off = (angles - middle + np.pi / 4) % (np.pi / 2) - np.pi / 4
    chosen = abs(off) <= 1.5 * _BIN
    return float(middle + np.average(off[chosen], weights=lengths[chosen]))
