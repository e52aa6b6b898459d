"""Measuring levels against their source."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from plindro.core.measure.deviation.average import average_distance
from plindro.core.measure.deviation.largest import Goal, largest_distance
from plindro.core.measure.deviation.surface import MeasuredSurface, RecentSurfaces
from plindro.core.mesh.mesh import Mask, Mesh


class _Care(NamedTuple):
    """How far apart the two bounds of the maximum may stay, and the standard error of the mean, as shares of them."""

    apart: float
    error: float


_EXACT, _LARGEST = _Care(0.002, 0.01), _Care(0.002, 0.05)
_ROUGHLY = 0.02
"""How far apart the bounds of an estimate may stay."""
_NOTHING = 2e-7
"""Share of the diagonal below which two surfaces are one."""


@dataclass(frozen=True, slots=True)
class Deviation:
    """Maximum and mean distance in metres, of the worse of both ways.

    largest : no place is further; unless a budget ended the search, at most 0.2 percent more than the maximum
    mean : with a standard error of 1 percent at most
    reached : a distance that some place has; the maximum lies between it and ``largest``
    """

    largest: float
    mean: float
    reached: float

    @property
    def middle(self) -> float:
        """The maximum as it most likely is."""
        return (self.reached * self.largest) ** 0.5

    @property
    def is_certain(self) -> bool:
        """Whether the maximum is known to 1 percent."""
        return self.largest <= 1.01 * self.reached or self.largest == 0.0


_NONE = Deviation(0.0, 0.0, 0.0)


class Unchanged(NamedTuple):
    """What a level has of the source, and of one above it on the same way down that was measured.

    in_source : (F,) faces of the source that the level has, just so
    in_level : (T,) triangles of the level that the one above has, just so
    within : metres that no place of the one above is from the source by more
    """

    in_source: Mask
    in_level: Mask
    within: float


class DeviationFrom:
    """Measures surfaces against one source; what it needs of the source is built once."""

    def __init__(
        self, source: Mesh, on_share: Callable[[], None] | None = None, surfaces: RecentSurfaces | None = None
    ) -> None:
        """``on_share`` is called now and then and may raise to stop; ``surfaces`` may be shared with other sources."""
        self._source, self._on_share = source, on_share
        self._surfaces = surfaces or RecentSurfaces()
        self._surface = self._surfaces.of(source)
        self._nothing = _NOTHING * float(np.linalg.norm(np.ptp(source.positions, axis=0)))

    def is_from(self, mesh: Mesh) -> bool:
        """Whether the surface of ``mesh`` is the source's, face by face."""
        return mesh.positions is self._source.positions and mesh.corner_vertex is self._source.corner_vertex

    def measure(self, level: Mesh) -> Deviation:
        """Both ways between the source and ``level``, which has triangles; nothing for the source itself."""
        return self._measured(level, _EXACT)

    def measure_largest(self, level: Mesh) -> Deviation:
        """The same where the maximum is what counts: the mean with an error of 5 percent."""
        return self._measured(level, _LARGEST)

    def estimate_largest(self, level: Mesh, unchanged: Unchanged | None) -> tuple[float, float]:
        """Two bounds of the maximum alone, 2 percent apart, in metres; what is unchanged is not asked again."""
        if level is self._source:
            return 0.0, 0.0
        other = self._surfaces.of(level)
        if unchanged is None:
            return self._search(other, _ROUGHLY, 0.0)
        here, there = (
            unchanged.in_source[self._surface.surface.tree.order],
            unchanged.in_level[other.surface.tree.order],
        )
        reached, largest = self._search(other, _ROUGHLY, 0.0, (here, there))
        if largest < unchanged.within:
            # Only what was left out may be further.
            reached, largest = self._search(other, _ROUGHLY, reached, (np.ones_like(here), ~there))
        return reached, largest

    def of_another(self, source: Mesh, on_share: Callable[[], None] | None = None) -> "DeviationFrom":
        """The same for another source; what was made ready for this one is not made again."""
        return DeviationFrom(source, on_share, self._surfaces)

    def _measured(self, level: Mesh, care: _Care) -> Deviation:
        if level is self._source:
            return _NONE
        other = self._surfaces.of(level)
        there = average_distance(self._surface, other, care.error, self._nothing)
        back = average_distance(other, self._surface, care.error, self._nothing)
        reached, largest = self._search(other, care.apart, max(there.furthest, back.furthest))
        return Deviation(reached if largest <= self._nothing else largest, max(there.mean, back.mean), reached)

    def _search(
        self,
        other: MeasuredSurface,
        apart: float,
        found: float,
        left_out: tuple[Mask | None, Mask | None] = (None, None),
    ) -> tuple[float, float]:
        """Two bounds of the maximum in metres, at most ``apart``; some place is known to be as far as ``found``."""
        goal = Goal((1.0 + apart) ** 2, self._nothing**2, False)
        return largest_distance(self._surface, other, goal, found, self._on_share, left_out)

    def is_within(self, level: Mesh, limit: float) -> bool:
        """Whether it is certain that no place of either is further than ``limit`` metres from the other.

        Costs less than the maximum, most of all where the answer is no.
        """
        if level is self._source:
            return True
        limit = max(limit, self._nothing)
        goal = Goal(1.0, limit**2, True)
        return largest_distance(self._surface, self._surfaces.of(level), goal, 0.0, self._on_share)[1] <= limit
