"""How far two surfaces are from each other, by samples of both."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F64, Mesh
from plindro.core.spatial.nearest import NearestPlace
from plindro.core.spatial.samples import even_samples

SAMPLES = 50_000


@dataclass(frozen=True, slots=True)
class Deviation:
    """Largest and mean distance in metres, of the worse of both ways."""

    largest: float
    mean: float


class DeviationFrom:
    """Measures surfaces against one source; what it needs of the source is built once."""

    def __init__(self, source: Mesh, samples: int = SAMPLES, on_share: Callable[[], None] | None = None) -> None:
        self._on_share = on_share
        self._source = source
        self._samples = samples
        self._surface = NearestPlace(source.positions, source.triangles())
        self._even = _places(source, samples)
        used = np.unique(source.corner_vertex) if source.n_corners < 3 * samples else source.corner_vertex[::3]
        # Where a reduced surface errs most a vertex of the source is often the furthest.
        self._vertices = source.positions[used[:: max(len(used) // samples, 1)]]

    def measure(self, level: Mesh, samples: int | None = None) -> Deviation:
        """Both ways between the source and ``level``, which has triangles; nothing for the source itself.

        ``samples``, fewer than the ruler has, measure faster and less.
        """
        if level is self._source:
            return Deviation(0.0, 0.0)
        n_back = min(samples or self._samples, self._samples)
        every = max(self._samples // n_back, 1)
        even, used = self._even[::every], np.unique(level.corner_vertex)
        there = NearestPlace(level.positions, level.triangles()).distances(
            np.concatenate([even, self._vertices[::every]]), self._on_share
        )
        back = self._surface.distances(
            np.concatenate([_places(level, n_back), level.positions[used[:: max(len(used) // n_back, 1)]]]),
            self._on_share,
        )
        n_there = len(even)
        return Deviation(
            largest=float(max(there.max(), back.max())), mean=float(max(there[:n_there].mean(), back[:n_back].mean()))
        )


def _places(mesh: Mesh, count: int) -> F64:
    face, weights = even_samples(mesh, count)
    return np.einsum("ij,ijk->ik", weights, mesh.positions[mesh.triangles()[face]])
