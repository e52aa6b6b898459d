"""The mean distance of one surface to another, by samples of which just as many are taken as its error needs."""

from typing import NamedTuple

import numpy as np

from plindro.core.measure.deviation.surface import MeasuredSurface, nearest_triangle
from plindro.core.mesh.mesh import F64
from plindro.core.numeric.kernels import kernel
from plindro.core.spatial.nearest import NO_GUESS
from plindro.core.spatial.search import new_stack

_FIRST, _MOST = 2_048, 60_000
"""Places of the first round, by which the number of the next is judged, and of any round at most."""
_AIM = 0.95
"""Share of the error that is asked for at which a round aims."""
_ROUNDS = 3
_STRATUM = 4
"""Neighbouring places whose spread tells the error."""
_GOLDEN = 0.6180339887498949
"""Step of the golden sequence: even places across a triangle without a random seed."""


class Average(NamedTuple):
    """``mean`` distance in metres, its standard ``error``, and the ``furthest`` of all places that were looked at."""

    mean: float
    error: float
    furthest: float


@kernel
def _distances(corners, face, along, across, surface, stack, out):  # type: ignore[no-untyped-def]
    t = NO_GUESS
    for i in range(len(face)):
        f, root = face[i], np.sqrt(along[i])
        u, v = root * (1.0 - across[i]), root * across[i]
        x = corners[f, 0] + u * (corners[f, 3] - corners[f, 0]) + v * (corners[f, 6] - corners[f, 0])
        y = corners[f, 1] + u * (corners[f, 4] - corners[f, 1]) + v * (corners[f, 7] - corners[f, 1])
        z = corners[f, 2] + u * (corners[f, 5] - corners[f, 2]) + v * (corners[f, 8] - corners[f, 2])
        # Places come in the order of the surface, so that the triangle of one is near the next.
        t, squared = nearest_triangle(x, y, z, t, surface, stack)
        out[i] = np.sqrt(squared)


def _distances_at(shares: F64, one: MeasuredSurface, other: MeasuredSurface) -> F64:
    """Distances at places given as shares (n,) of the area, in the order of the surface."""
    grown, wanted = one.grown, shares * one.grown[-1]
    face = np.minimum(np.searchsorted(grown, wanted), len(grown) - 1)
    before = np.where(face > 0, grown[face - 1], 0.0)
    area = np.maximum(grown[face] - before, np.finfo(float).tiny)
    along = np.clip((wanted - before) / area, 0.0, 1.0)
    across = np.arange(len(shares)) * _GOLDEN % 1.0
    out = np.empty(len(shares))
    _distances(one.surface.corners, face, along, across, other.surface, new_stack(), out)
    return out


def _looked(count: int, one: MeasuredSurface, other: MeasuredSurface) -> Average:
    """The mean of so many places at even steps of the area."""
    found = _distances_at((np.arange(count) + 0.5) / count, one, other)
    strata = found.reshape(-1, _STRATUM)
    error = float(np.sqrt(strata.var(axis=1, ddof=1).sum() / _STRATUM)) / len(strata)
    return Average(float(found.mean()), error, float(found.max()))


def average_distance(one: MeasuredSurface, other: MeasuredSurface, error: float, nothing: float) -> Average:
    """The mean distance of the places of ``one`` to ``other``, its standard error at most this share of it.

    ``nothing`` is a distance in metres that is as good as none: an error within it is small enough.
    Places lie at even steps of the area along the Morton curve, each four of them a stratum of equal area. A round says
    how many the next one needs; only the last one counts.
    """
    count, furthest = _FIRST, 0.0
    for _ in range(_ROUNDS):
        last = _looked(count, one, other)
        furthest = max(furthest, last.furthest)
        if last.error <= max(error * last.mean, nothing) or count >= _MOST:
            break
        count = int(min(count * (last.error / (_AIM * error * last.mean)) ** 2, _MOST)) // _STRATUM * _STRATUM
    return Average(last.mean, last.error, furthest)
