"""Reduction of bare geometry beside two libraries: deviation both ways, and the outline from sixteen sides."""

from collections.abc import Callable, Iterator, Sequence
from functools import partial
from pathlib import Path

import fast_simplification
import meshoptimizer
import numpy as np
from numpy.typing import NDArray

from benchmarks.meshes import (
    drilled_plate,
    hilly_sphere,
    loose_boxes,
    noisy_sphere,
    scattered_parts,
    thin_bowl,
    toothed_wheel,
    wavy_sheet,
)
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.measure.deviation import DeviationFrom
from plindro.core.measure.visible import Camera
from plindro.core.mesh.mesh import Mesh, make_triangles
from plindro.core.mesh.numbering import weld_positions
from plindro.core.polygons import triangulate
from plindro.core.reduction import Placement, calibrated, collapse

SHARES = (0.5, 0.25, 0.1, 0.02)
PLACEMENTS: tuple[Placement, ...] = ("original", "optimal")
Soup = tuple[NDArray[np.float64], NDArray[np.int32]]
_FLOOR = 1e-6
"""Share of the diagonal below which a deviation is none; a flat part gives zeros that no ratio can be taken of."""
_N_VIEWS = 16
_OUTLINE_FLOOR = 1e-5
"""Share of the outline's area below which it does not move."""
_SHAPES: dict[str, Callable[[], Soup]] = {
    "hilly, 14 160": partial(hilly_sphere, 60),
    "hilly, 249 000": partial(hilly_sphere, 250),
    "scan, 249 000": partial(noisy_sphere, 250),
    "open, 44 402": partial(wavy_sheet, 150),
    "hard-surface, 30 720": partial(toothed_wheel, 40, 40),
    "thin, 71 988": partial(thin_bowl, 120),
    "many parts, 21 120": partial(scattered_parts, 40),
    "3 000 boxes, 36 000": partial(loose_boxes, 3000),
    "170 holes, 17 184": partial(drilled_plate, 17, 10, 16),
    "hilly, 998 000": partial(hilly_sphere, 500),
}


def meshopt(points: NDArray[np.float64], triangles: NDArray[np.int32], count: int) -> Mesh:
    """What meshoptimizer leaves of a mesh."""
    single, index = points.astype(np.float32), triangles.astype(np.uint32).reshape(-1)
    out = np.zeros_like(index)
    n = meshoptimizer.simplify(out, index, single, target_index_count=3 * count, target_error=1.0)
    return make_triangles(single.astype(float), out[:n].reshape(-1, 3).astype(np.int32))


def _quick(points: NDArray[np.float64], triangles: NDArray[np.int32], count: int) -> Mesh:
    return make_triangles(*fast_simplification.simplify(points, triangles, target_count=count))


def mean_of(ratios: list[float]) -> str:
    """The geometric mean of ratios."""
    return f"{float(np.exp(np.mean(np.log(ratios)))):.2f}"


def welded(mesh: Mesh) -> Soup:
    """A triangle mesh by its places alone, without triangles of no side."""
    number, first = weld_positions(mesh.positions)
    triangles = number[mesh.triangles()].astype(np.int32)
    a, b, c = triangles.T
    return mesh.positions[first], triangles[(a != b) & (b != c) & (c != a)]


def given(paths: Sequence[str]) -> Iterator[tuple[str, Callable[[], Soup]]]:
    """Meshes of files, as they come."""

    def read(path: Path) -> Soup:
        beside = {p.name: p.read_bytes() for p in path.parent.iterdir() if p.is_file() and p.suffix in (".bin", ".mtl")}
        return welded(triangulate(read_scene(path.read_bytes(), path.name, MemoryFiles(beside)).mesh).mesh)

    for path in map(Path, paths):
        yield path.stem, partial(read, path)


class _Beside:
    """One mesh, what each library leaves of it at each share, and how far that is off."""

    def __init__(self, points: NDArray[np.float64], triangles: NDArray[np.int32]) -> None:
        self.mesh = make_triangles(points, triangles)
        self._ruler = DeviationFrom(self.mesh)
        self._camera = Camera(self.mesh, np.ones(1, bool), _N_VIEWS)
        self._seen = self._camera.draw(self.mesh)
        self.diagonal = float(np.linalg.norm(np.ptp(points, axis=0)))
        self.counts = {share: max(int(len(triangles) * share), 4) for share in SHARES}
        self._meshopt = {s: meshopt(points, triangles, count) for s, count in self.counts.items()}
        self._quick = {s: _quick(points, triangles, count) for s, count in self.counts.items()}
        self.meshopt = {s: self.figures(level) for s, level in self._meshopt.items()}
        self.quick = {s: self.figures(level)[0] for s, level in self._quick.items()}

    def figures(self, level: Mesh) -> tuple[float, float, float]:
        """Mean and largest deviation as shares of the diagonal, and the share of the outline that moves."""
        found = self._ruler.measure(level)
        outline = self._camera.draw(level).against(self._seen).outline_share
        return found.mean / self.diagonal, found.largest / self.diagonal, outline

    def reduced(self, placement: Placement) -> Iterator[tuple[float, tuple[float, float, float], float, float]]:
        """Each share with its figures at the count that meshoptimizer reached, the stated deviation over the measured
        one, 0 where there is none, and the mean at the count that fast-simplification reached."""
        sequence = calibrated(collapse(self.mesh, placement=placement), self._ruler, {})
        for share, count in self.counts.items():
            step = sequence.step_of_triangles(max(count, self._meshopt[share].n_faces))
            figures = self.figures(sequence.level(step))
            stated = float(sequence.largest_at[step]) / self.diagonal
            other = sequence.step_of_triangles(max(count, self._quick[share].n_faces))
            beside_quick = figures[0] if other == step else self.figures(sequence.level(other))[0]
            yield share, figures, stated / figures[1] if figures[1] > 1e-4 else 0.0, beside_quick


def bare(more: dict[str, Callable[[], Soup]], files: Sequence[str] = ()) -> None:
    """Mean deviations with their ratios to meshoptimizer; then the means and the worst of all ratios.

    ``more`` are further meshes. With ``files`` those are measured in place of all.
    """
    shapes = dict(given(files)) if files else {**_SHAPES, **more}
    ratios: dict[tuple[str, str, float], list[float]] = {}
    stated: list[float] = []
    for name, make in shapes.items():
        beside = _Beside(*make())
        for placement in PLACEMENTS:
            row = []
            for share, (mean, largest, outline), states, beside_quick in beside.reduced(placement):
                their_mean, their_largest, their_outline = beside.meshopt[share]
                own = {
                    "mean / meshoptimizer": (mean + _FLOOR) / (their_mean + _FLOOR),
                    "maximum / meshoptimizer": (largest + _FLOOR) / (their_largest + _FLOOR),
                    "outline / meshoptimizer": (outline + _OUTLINE_FLOOR) / (their_outline + _OUTLINE_FLOOR),
                    "mean / fast-simplification": (beside_quick + _FLOOR) / (beside.quick[share] + _FLOOR),
                }
                for what, ratio in own.items():
                    ratios.setdefault((placement, what, share), []).append(ratio)
                row.append(f"{1e6 * mean:.0f} ({own['mean / meshoptimizer']:.2f})")
                stated += [states] if states else []
            print(f"  {name:<22} {placement:<9} {'  '.join(row)}", flush=True)
    for placement in PLACEMENTS:
        for what in dict.fromkeys(what for _, what, _ in ratios):
            means = "  ".join(mean_of(ratios[placement, what, share]) for share in SHARES)
            worst = "  ".join(f"{max(ratios[placement, what, share]):.2f}" for share in SHARES)
            print(f"  {placement}, {what}: geometric mean {means}; worst {worst}")
    if stated:
        print(f"  stated over measured maximum: {min(stated):.2f} to {max(stated):.2f}, {len(stated)} levels")
