"""What of the source's topology a level goes without: shells, through-holes, small open boundaries."""

import numpy as np

from plindro.core.findings import Finding, Severity, counted, length
from plindro.core.mesh.mesh import F64, I32, Mesh
from plindro.core.mesh.numbering import weld_positions
from plindro.core.numeric.bounds import group_bounds
from plindro.core.reduction.sequence import Sequence
from plindro.core.reduction.shells import shells_of


class Topology:
    """Tells of the levels of sequences that begin with one mesh what of its topology is gone."""

    def __init__(self, source: Mesh) -> None:
        self.source = source
        welded, firsts = weld_positions(source.positions)
        at_vertex, count = shells_of(welded[source.triangles()], len(firsts))
        self._of_face: I32 = at_vertex[welded[source.corner_vertex[::3]]]
        used = np.unique(source.corner_vertex)
        places = source.positions[used]
        low, high = group_bounds(places, places, at_vertex[welded[used]], count)
        self._sizes = np.linalg.norm(high - low, axis=1)

    def tell(self, sequence: Sequence, step: int, *, index: int | None = None, parts: str = "") -> Finding | None:
        """What went by ``step``, in one sentence of the level ``index``; None where nothing did.

        ``parts`` are the names of those that went with their last shells.
        """
        sizes = self.sizes(sequence, step)
        holes, borders = sequence.closed_holes(step), sequence.closed_borders(step)
        words = []
        if len(sizes):
            with_them = f", with them all of {parts}" if parts else ""
            words.append(f"{counted(len(sizes), 'shell')} of up to {length(float(sizes.max()))} dropped{with_them}")
        if holes:
            words.append(f"{counted(holes, 'through-hole')} closed")
        if borders:
            words.append(f"{counted(borders, 'small open boundary', 'small open boundaries')} closed")
        if not words:
            return None
        text = ("" if index is None else f"LOD{index}: ") + "; ".join(words)
        code = "shells-dropped" if len(sizes) else "holes-closed"
        return Finding(code, Severity.INFO, text, len(sizes) or holes + borders, level=index)

    def sizes(self, sequence: Sequence, step: int) -> F64:
        """Diagonals in metres of the shells that are there at the start and no more after ``step``."""
        shells = self._of_face[sequence.triangle_source]
        gone = np.setdiff1d(shells, shells[sequence.triangles_of(step)])
        return self._sizes[gone]
