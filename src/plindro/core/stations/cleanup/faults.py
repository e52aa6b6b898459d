"""What can be wrong with a mesh: the words for each fault, and what became of it."""

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.findings import Finding, Places, Severity, grouped


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of fault: its code, its name for one and for many, what a repair does, what to do by hand.

    ``severity`` is that of what is left. A kind that is ``open`` to intent (boundaries, overlaps ...) does not keep a
    prop from being called clean: it is reported, and whether it is meant only the artist knows.
    """

    code: str
    one: str
    many: str
    repaired: str
    by_hand: str
    severity: Severity = Severity.WARNING
    is_open: bool = False


SWITCH_ON = "switch the repair on"

POSITIONS = Kind("non-finite-positions", "vertex with a non-finite position (NaN or infinite)",
    "vertices with a non-finite position (NaN or infinite)", "their faces were removed", "repair them in the source",
    Severity.STOP)  # fmt: skip
UVS = Kind("non-finite-uvs", "corner with a non-finite UV", "corners with a non-finite UV", "set to 0, 0",
    "unwrap them again", Severity.STOP)  # fmt: skip
NORMALS = Kind("invalid-normals", "corner with a missing, zero-length or non-finite normal",
    "corners with a missing, zero-length or non-finite normal", "recomputed", "export normals again")  # fmt: skip
LOOSE_VERTICES = Kind("loose-vertices", "loose vertex", "loose vertices", "removed", SWITCH_ON,
    Severity.INFO)  # fmt: skip
LOOSE_EDGES = Kind("loose-edges", "loose edge", "loose edges", "removed", SWITCH_ON, Severity.INFO)
UNWELDED = Kind("unwelded-vertices", "unwelded vertex", "unwelded vertices", "welded", SWITCH_ON)
DUPLICATES = Kind("duplicate-faces", "duplicate face", "duplicate faces", "removed", SWITCH_ON)
BACKS = Kind("back-to-back-faces", "face back to back with another", "faces back to back with others",
    "the one with the wrong winding was removed", SWITCH_ON)  # fmt: skip
SHEETS = Kind("two-sided-sheets", "face with a back of its own", "faces with a back of their own", "",
    "both sides are kept, since the whole sheet is modelled so", Severity.INFO, is_open=True)  # fmt: skip
NO_SURFACE = Kind("zero-area-faces", "zero-area face", "zero-area faces", "removed, the seam closed", SWITCH_ON)
SLIVERS = Kind("slivers", "sliver", "slivers", "removed, the seam closed",
    "left; switch the repair on to remove them", Severity.INFO, is_open=True)  # fmt: skip
T_VERTICES = Kind("t-vertices", "T-vertex", "T-vertices", "inserted into the edge", SWITCH_ON)
NON_MANIFOLD_EDGES = Kind("non-manifold-edges", "non-manifold edge (more than two faces)",
    "non-manifold edges (more than two faces)", "split", SWITCH_ON)  # fmt: skip
NON_MANIFOLD_VERTICES = Kind(
    "non-manifold-vertices", "non-manifold vertex", "non-manifold vertices", "split", SWITCH_ON
)
FLIPPED = Kind("inconsistent-winding", "face wound against its shell", "faces wound against their shell", "flipped",
    "switch the repair on; the engine shows their backs")  # fmt: skip
INSIDE_OUT = Kind("inside-out-shells", "inside-out shell", "inside-out shells", "flipped",
    "switch the repair on; the engine shows their inner side")  # fmt: skip
ONE_SIDED = Kind("non-orientable-shells", "non-orientable shell (like a Möbius strip)",
    "non-orientable shells (like a Möbius strip)", "", "cut them open in the source")  # fmt: skip
SMALL_SHELLS = Kind("small-shells", "small shell", "small shells", "removed",
    "left; switch the repair on to remove them", Severity.INFO, is_open=True)  # fmt: skip
HOLES = Kind("open-boundaries", "open boundary", "open boundaries", "filled", "left open", Severity.INFO,
    is_open=True)  # fmt: skip
NOT_PLANAR = Kind("non-planar-polygons", "non-planar polygon", "non-planar polygons", "", "cut as set at Triangulation",
    Severity.INFO, is_open=True)  # fmt: skip
CROSSING = Kind("self-intersecting-polygons", "self-intersecting polygon", "self-intersecting polygons", "",
    "no triangulation is without overlap, redraw them in the source")  # fmt: skip
OVERLAPS = Kind("overlapping-faces", "face overlapping another in one plane", "faces overlapping others in one plane",
    "", "they flicker in the engine, move or cut them in the source")  # fmt: skip
OPPOSED = Kind("back-to-back-overlaps", "face overlapping another back to back",
    "faces overlapping others back to back", "", "check whether a two-sided material was meant", Severity.INFO,
    is_open=True)  # fmt: skip
TANGLE = Kind("overlap-search-incomplete", "surface that intersects itself too often for a full overlap search",
    "surfaces that intersect themselves too often for a full overlap search", "", "untangle it in the source",
    Severity.INFO, is_open=True)  # fmt: skip
MATERIALS = Kind("unused-materials", "material of the source that no face uses",
    "materials of the source that no face uses", "excluded", "", Severity.INFO)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Fault:
    """A kind of fault as met: how many, where, and whether it was repaired.

    ``detail`` goes into the message; ``advice`` takes the place of the kind's own where that would not help.
    """

    kind: Kind
    count: int
    is_repaired: bool
    places: NDArray[Any] | None = field(default=None, repr=False)
    detail: str = ""
    advice: str = ""

    @property
    def by_hand(self) -> str:
        """What to do where it was not repaired."""
        return self.advice or self.kind.by_hand

    def name(self) -> str:
        """How many of what: ``3 open boundaries``."""
        return f"{grouped(self.count)} {self.kind.one if self.count == 1 else self.kind.many}"

    def finding(self) -> Finding:
        """The fault in words."""
        kind = self.kind
        done = kind.repaired if self.is_repaired else self.by_hand
        if self.count == 1:
            done = done.replace("their faces were", "its faces were").replace("them", "it")
        detail = f" ({self.detail})" if self.detail else ""
        severity = kind.severity
        if self.is_repaired:
            severity = Severity.WARNING if kind is POSITIONS else Severity.INFO
        places = None if self.places is None or not len(self.places) else Places.of(self.places)
        text = f"{self.name()}{detail}" + (f"; {done}" if done else "")
        return Finding(kind.code, severity, text, self.count, places=places)


def places_of_vertices(positions: NDArray[np.float64], vertices: NDArray[Any]) -> NDArray[np.float64]:
    """(N, 3) points, of the first few vertices only."""
    found: NDArray[np.float64] = positions[np.asarray(vertices)[:1000]]
    return found
