"""How far to reduce: by counts, by deviation, by what a viewer sees; several together mean the first that stops."""

import math
from dataclasses import dataclass, replace

from plindro.core.measure.deviation import Deviation, DeviationFrom
from plindro.core.measure.game_view import View
from plindro.core.mesh.mesh import Mesh
from plindro.core.reduction.sequence import Sequence

_TRIES = 8
"""Measurements after which the search for a tolerance ends."""


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


def take_level(sequence: Sequence, limits: Limits, ruler: DeviationFrom, diagonal: float) -> Reduced:
    """The level of a sequence where ``limits`` stops it; a tolerance holds for the measured deviation."""
    at_counts = limits.step_by_counts(sequence)
    limit = limits.largest_deviation(diagonal)
    step = min(at_counts, sequence.step_of_deviation(limit)) if math.isfinite(limit) else at_counts
    mesh = sequence.level(step)
    deviation = ruler.measure(mesh)
    if math.isfinite(limit):
        step, mesh, deviation = _search(sequence, at_counts, limit, ruler, (step, mesh, deviation))
    is_stopped = step < at_counts
    return Reduced(mesh, step, deviation, is_stopped or limits.is_count_reached(sequence, step), is_stopped)


def _search(
    sequence: Sequence, furthest: int, limit: float, ruler: DeviationFrom, first: tuple[int, Mesh, Deviation]
) -> tuple[int, Mesh, Deviation]:
    """The furthest step found whose measured deviation stays within ``limit``; between steps by their logarithms."""
    best = (0, sequence.level(0), ruler.measure(sequence.level(0)))
    low, high = 0, furthest + 1
    tried = first
    for _ in range(_TRIES):
        step, mesh, deviation = tried
        if deviation.largest <= limit:
            low, best = step, tried if step >= best[0] else best
            if step >= furthest:
                break
        else:
            high = step
        left_low = max(int(sequence.triangles_at[min(high, sequence.n_steps)]), 1)
        left_high = max(int(sequence.triangles_at[low]), 1)
        if high - low <= 1 or left_high <= 1.01 * left_low:
            break
        middle = sequence.step_of_triangles(round(math.sqrt(left_low * left_high)))
        if deviation.largest > 0 and limit > 0:
            # Deviation grows about as the inverse of the count: step towards the limit, but stay inside.
            guess = int(sequence.triangles_at[step]) * (deviation.largest / limit) ** 0.8
            at = sequence.step_of_triangles(round(min(guess, float(sequence.triangles_at[0]))))
            middle = at if low < at < high else middle
        middle = min(max(middle, low + 1), high - 1)
        mesh = sequence.level(middle)
        tried = (middle, mesh, ruler.measure(mesh))
    if tried[2].largest <= limit and tried[0] > best[0]:
        best = tried
    return best
