"""How far to reduce: by counts, by deviation, by what a viewer sees; several together mean the first that stops."""

import math
from dataclasses import dataclass, replace

from plindro.core.measure.deviation import Deviation, DeviationFrom
from plindro.core.measure.game_view import View
from plindro.core.mesh.mesh import Mesh
from plindro.core.reduction.sequence import Sequence

_TRIES = 14
"""Questions after which the search for a tolerance ends."""
_STRIDE, _NEAR = 0.06, 1.01
"""The first stride from where the limit should lie, and the ratio of two counts too near to ask between."""


@dataclass(frozen=True, slots=True)
class Limits:
    """Where a reduction stops; None means that this does not stop it.

    ratio : share of the source's triangles
    triangles, vertices : counts, of triangles and of engine vertices
    tolerance : largest deviation in percent of the diagonal of the bounds
    tolerance_mm : largest deviation in millimetres
    pixels, distance : largest deviation in pixels when seen from ``distance`` metres of the prop's middle, with
        ``view_height`` lines over ``view_angle`` degrees
    """

    ratio: float | None = None
    triangles: int | None = None
    vertices: int | None = None
    tolerance: float | None = None
    tolerance_mm: float | None = None
    pixels: float | None = None
    distance: float | None = None
    view_height: int = 1080
    view_angle: float = 60.0

    def __post_init__(self) -> None:
        if (self.pixels is None) != (self.distance is None):
            raise ValueError("pixels and distance belong together: give both or neither")
        if all(value is None for value in self._values()):
            raise ValueError("nothing says how far to reduce: give a ratio, a count or a tolerance")
        if self.ratio is not None and self.ratio > 1:
            raise ValueError(f"ratio: expected a share of 0 to 1, got {self.ratio:g}")
        for value in self._values():
            if value is not None and not (math.isfinite(value) and value >= 0):
                raise ValueError(f"how far to reduce: expected figures of 0 or more, got {value}")

    def _values(self) -> tuple[float | None, ...]:
        return (
            self.ratio,
            self.triangles,
            self.vertices,
            self.tolerance,
            self.tolerance_mm,
            self.pixels,
            self.distance,
        )

    def largest_deviation(self, diagonal: float) -> float:
        """The deviation in metres that stops the reduction; infinite where none does."""
        limits = [math.inf]
        if self.tolerance is not None:
            limits.append(self.tolerance / 100.0 * diagonal)
        if self.tolerance_mm is not None:
            limits.append(self.tolerance_mm / 1000.0)
        if self.pixels is not None and self.distance is not None:
            view = View(self.view_height, self.view_angle, diagonal / 2.0)
            limits.append(view.length(self.pixels, self.distance))
        return min(limits)

    def step_by_counts(self, sequence: Sequence) -> int:
        """The step at which the first of the counts stops it; the last step where none is given."""
        steps = [sequence.n_steps]
        if self.ratio is not None:
            steps.append(sequence.step_of_triangles(max(round(self.ratio * int(sequence.triangles_at[0])), 1)))
        if self.triangles is not None:
            steps.append(sequence.step_of_triangles(self.triangles))
        if self.vertices is not None:
            steps.append(sequence.step_of_vertices(self.vertices))
        return min(steps)

    def is_count_reached(self, sequence: Sequence, step: int) -> bool:
        """Whether one of the counts that are given is reached at a step, or none is given: the first stops it."""
        triangles = int(sequence.triangles_at[step])
        reached = []
        if self.ratio is not None:
            reached.append(triangles <= max(round(self.ratio * int(sequence.triangles_at[0])), 1))
        if self.triangles is not None:
            reached.append(triangles <= self.triangles)
        if self.vertices is not None:
            reached.append(int(sequence.vertices_at[step]) <= self.vertices)
        return any(reached) or not reached

    def of_whole(self, triangles: int) -> "Limits":
        """The same with the ratio as a count, of so many triangles: where a sequence begins with another mesh."""
        if self.ratio is None:
            return self
        count = max(round(self.ratio * triangles), 1)
        return replace(self, ratio=None, triangles=count if self.triangles is None else min(count, self.triangles))


@dataclass(frozen=True, slots=True)
class Reduced:
    """A reduced mesh, its step in the sequence and its measured deviation, in metres.

    ``reached`` is False where nothing more could be collapsed before a count was met; ``stopped_by_deviation`` is True
    where a tolerance stopped it.
    """

    mesh: Mesh
    step: int
    deviation: Deviation
    reached: bool
    stopped_by_deviation: bool


Known = dict[int, Deviation]
"""What was measured of a sequence's levels, by step."""


def measure_step(sequence: Sequence, step: int, ruler: DeviationFrom, known: Known) -> tuple[Mesh, Deviation]:
    """The level at a step with its deviation, measured where it is not ``known`` yet."""
    mesh = sequence.level(step)
    if step not in known:
        known[step] = ruler.measure(mesh)
    return mesh, known[step]


def take_level(
    sequence: Sequence, limits: Limits, ruler: DeviationFrom, diagonal: float, known: Known | None = None
) -> Reduced:
    """The level of a sequence where ``limits`` stops it; a tolerance is never passed.

    ``known`` is what was measured of the sequence before.
    """
    at_counts = limits.step_by_counts(sequence)
    limit = limits.largest_deviation(diagonal)
    step = _furthest_within(sequence, at_counts, limit, ruler) if math.isfinite(limit) else at_counts
    mesh, deviation = measure_step(sequence, step, ruler, Known() if known is None else known)
    if step and deviation.largest > limit >= deviation.reached:
        # It was asked, and lies within; the measure alone leaves it open.
        deviation = replace(deviation, largest=limit)
    is_stopped = step < at_counts
    return Reduced(mesh, step, deviation, is_stopped or limits.is_count_reached(sequence, step), is_stopped)


def _furthest_within(sequence: Sequence, furthest: int, limit: float, ruler: DeviationFrom) -> int:
    """The furthest step found that is certain to stay within ``limit``.

    From the step whose stated deviation is the limit, by ever larger strides of the count until the limit lies between
    two steps, then by halves.
    """
    counts = sequence.triangles_at
    low, high = 0, furthest + 1
    step, stride = min(sequence.step_of_deviation(limit), furthest), _STRIDE
    for _ in range(_TRIES):
        if step == 0 or ruler.is_within(sequence.level(step), limit):
            low = step
        else:
            high = step
        left_low, left_high = max(int(counts[min(high, furthest)]), 1), max(int(counts[low]), 1)
        if high - low <= 1 or (high <= furthest and left_high <= _NEAR * left_low):
            break
        if high > furthest:
            wanted = int(counts[low]) / (1.0 + stride)
        elif low == 0:
            wanted = int(counts[high]) * (1.0 + stride)
        else:
            wanted = math.sqrt(left_low * left_high)
        stride *= 3.0
        step = min(max(sequence.step_of_triangles(round(wanted)), low + 1), high - 1)
    return low
