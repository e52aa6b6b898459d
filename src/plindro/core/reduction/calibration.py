"""The deviation that a sequence states, put right by measurements.

While it collapses a run follows places of the source only, and cannot see a face that bridges a gap. Here some levels
are measured like any other: first some where it begins and one at each halving of the triangles, then in the middle of
whichever two neighbours differ most. Between them what is stated follows the logarithm of the count.
"""

import heapq
from collections.abc import Mapping
from dataclasses import replace
from itertools import pairwise

import numpy as np

from plindro.core.measure.deviation import Deviation, DeviationFrom, Unchanged
from plindro.core.mesh.mesh import F32
from plindro.core.reduction.sequence import Sequence

_LARGEST = 100_000
"""Triangles of the largest level that is measured; above, nothing has happened that a run would not see."""
_FALL, _EARLY, _EARLIEST = 0.5, (0.9, 0.7), (0.99, 0.97, 0.94, 0.8)
"""Levels that are measured first: each this share of the one above, and some above the first of them, which are more
where what is stated is shown: the first collapses cost nothing as a rule, and what a run follows says far too much."""
_FEWEST = 8
_ALIKE, _NEAR = 1.08, 1.01
"""None is measured between two whose maxima or whose counts differ by less, times."""
_NOTHING = 1e-6
"""Share of the diagonal below which a deviation is none."""
_MOST, _FEW, _WORTH = 100, 12, 1_500_000
"""How many levels are measured at most, and at least; between, so many that all of them with as many triangles as the
source has would have so many together."""


class _Places:
    """The places of a sequence that were measured: the largest deviation in metres by step."""

    def __init__(
        self, sequence: Sequence, ruler: DeviationFrom, known: Mapping[int, Deviation], nothing: float
    ) -> None:
        self._sequence, self._ruler, self._nothing = sequence, ruler, nothing
        self._counts = np.maximum(sequence.triangles_at, 1).astype(float)
        self.largest = {step: deviation.middle for step, deviation in known.items()}
        self._within = {0: 0.0} | {step: deviation.largest for step, deviation in known.items()}

    def measure(self, count: float) -> int:
        """Measure the level of so many triangles, once; returns its step."""
        step = self._sequence.step_of_triangles(int(count))
        if step not in self.largest:
            reached, largest = self._ruler.estimate_largest(self._sequence.level(step), self._unchanged(step))
            self.largest[step], self._within[step] = (reached * largest) ** 0.5, largest
        return step

    def _unchanged(self, step: int) -> Unchanged | None:
        """What is left of the source, and of the nearest level above that was measured.

        A mirrored way down begins with another surface, of which nothing is known.
        """
        if not self._ruler.is_from(self._sequence.source):
            return None
        sequence, above = self._sequence, max((known for known in self._within if known < step), default=0)
        in_source = np.zeros(sequence.source.n_faces, bool)
        in_source[sequence.source_faces(step)[sequence.unchanged(0, step)]] = True
        return Unchanged(in_source, sequence.unchanged(above, step), self._within[above])

    def measure_first(self, early: tuple[float, ...]) -> None:
        first = float(self._sequence.triangles_at[0])
        for share in early:
            if share * first <= _LARGEST:
                self.measure(share * first)
        wanted, least = min(_FALL * first, _LARGEST), max(_FEWEST, self._sequence.triangles_at[-1])
        while wanted >= least:
            wanted = _FALL * min(wanted, self._counts[self.measure(wanted)])
        if self.largest:
            self.measure(self._sequence.triangles_at[-1])

    def measure_between(self, most: int) -> None:
        """Measure where neighbours differ most, until none do or there are ``most``."""
        steps = sorted(self.largest)
        gaps: list[tuple[float, int, int]] = []
        for above, below in pairwise(steps):
            self._offer(gaps, above, below)
        while gaps and len(self.largest) < most:
            _, above, below = heapq.heappop(gaps)
            middle = self.measure(np.sqrt(self._counts[above] * self._counts[below]))
            if above < middle < below:
                self._offer(gaps, above, middle)
                self._offer(gaps, middle, below)

    def _offer(self, gaps: list[tuple[float, int, int]], above: int, below: int) -> None:
        one, two = (max(self.largest[step], self._nothing) for step in (above, below))
        apart = max(one, two) / min(one, two)
        if apart > _ALIKE and self._counts[above] > _NEAR * self._counts[below]:
            heapq.heappush(gaps, (-apart, above, below))

    def stated(self, own: F32) -> F32:
        """(S + 1,) metres: as measured, between two by the logarithm of the count; before the first as ``own``."""
        steps = np.array(sorted(self.largest))
        measured = np.maximum([self.largest[step] for step in steps.tolist()], self._nothing)
        places = -np.log(self._counts)
        result = np.exp(np.interp(places, places[steps], np.log(measured)))
        first = int(steps[0])
        result[:first] = own[:first] * (measured[0] / max(own[first], self._nothing))
        result[result <= 1.01 * self._nothing] = 0.0
        return result.astype(np.float32)


def calibrated(
    sequence: Sequence, ruler: DeviationFrom, known: Mapping[int, Deviation], *, roughly: bool = False
) -> Sequence:
    """The sequence with ``largest_at`` as measured; ``roughly`` where a search only begins from it.

    ``known`` is what was measured of it before.
    """
    nothing = _NOTHING * float(np.linalg.norm(np.diff(sequence.source.bounds(), axis=0)))
    places = _Places(sequence, ruler, known, nothing)
    places.measure_first(_EARLY if roughly else _EARLY + _EARLIEST)
    if not places.largest:
        return sequence
    places.measure_between(_FEW if roughly else int(np.clip(_WORTH // sequence.source.n_faces, _FEW, _MOST)))
    return replace(sequence, largest_at=places.stated(sequence.largest_at))
