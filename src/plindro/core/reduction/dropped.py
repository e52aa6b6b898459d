"""Which shells of the source a level goes without, and how large they were."""

import numpy as np

from plindro.core.mesh.mesh import F64, I32, Mesh
from plindro.core.mesh.numbering import weld_positions
from plindro.core.reduction.sequence import Sequence
from plindro.core.reduction.shells import shells_of


class DroppedShells:
    """Tells of the levels of sequences that begin with one mesh which of its shells are gone."""

    def __init__(self, source: Mesh) -> None:
        self.source = source
        welded, firsts = weld_positions(source.positions)
        at_vertex, count = shells_of(welded[source.triangles()], len(firsts))
        self._of_face: I32 = at_vertex[welded[source.corner_vertex[::3]]]
        used = np.unique(source.corner_vertex)
        low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
        np.minimum.at(low, at_vertex[welded[used]], source.positions[used])
        np.maximum.at(high, at_vertex[welded[used]], source.positions[used])
        self._sizes = np.linalg.norm(high - low, axis=1)

    def sizes(self, sequence: Sequence, step: int) -> F64:
        """Diagonals in metres of the shells that are there at the start and no more after ``step``."""
        shells = self._of_face[sequence.triangle_source]
        gone = np.setdiff1d(shells, shells[: sequence.triangles_at[step]])
        return self._sizes[gone]
