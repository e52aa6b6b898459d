"""What can be wrong with a mesh: the words for each fault, and what became of it."""

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.findings import Finding, Places, Severity, grouped


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of fault: its code, its name for one and for many, what a repair does, what to do by hand.

    ``severity`` is that of what is left. A kind that is ``open`` to intent (holes, overlaps ...) does not keep a prop
    from being called clean: it is told, and whether it is meant only the artist knows.
    """

    code: str
    one: str
    many: str
    repaired: str
    by_hand: str
    severity: Severity = Severity.WARNING
    is_open: bool = False


POSITIONS = Kind("non-finite-positions", "vertex has no finite position (NaN or infinite)",
    "vertices have no finite position (NaN or infinite)", "their faces were taken out", "repair them in the source",
    Severity.STOP)  # fmt: skip
UVS = Kind("non-finite-uvs", "corner has a UV that is not finite", "corners have a UV that is not finite",
    "set to 0, 0", "unwrap them again", Severity.STOP)  # fmt: skip
NORMALS = Kind("invalid-normals", "corner has a normal that is missing or not finite",
    "corners have a normal that is missing or not finite", "made anew", "export normals again")  # fmt: skip
LOOSE_VERTICES = Kind("loose-vertices", "vertex without a face", "vertices without a face", "taken out",
    "delete them in the source", Severity.INFO)  # fmt: skip
LOOSE_EDGES = Kind("loose-edges", "edge without a face", "edges without a face", "taken out",
    "delete them in the source", Severity.INFO)  # fmt: skip
DOUBLES = Kind("unwelded-vertices", "unwelded double", "unwelded doubles", "welded", "switch the welding on")
DUPLICATES = Kind("duplicate-faces", "face repeats another", "faces repeat others", "taken out",
    "switch the repair on")  # fmt: skip
BACKS = Kind("back-to-back-faces", "face lies back to back on another", "faces lie back to back on others",
    "the one against its neighbours was taken out", "switch the repair on")  # fmt: skip
SHEETS = Kind("two-sided-sheets", "face has a back of its own", "faces have a back of their own", "",
    "left, since the whole sheet is made so", Severity.INFO, is_open=True)  # fmt: skip
NO_SURFACE = Kind("zero-area-faces", "face has no surface", "faces have no surface", "taken out, the seam closed",
    "switch the repair on")  # fmt: skip
NEEDLES = Kind("slivers", "needle face", "needle faces", "taken out, the seam closed",
    "left; switch the repair on to take them out", Severity.INFO, is_open=True)  # fmt: skip
JUNCTIONS = Kind("t-vertices", "vertex lies on an open edge (T-junction)", "vertices lie on open edges (T-junctions)",
    "taken into the edge", "switch the repair on")  # fmt: skip
CROWDED = Kind("non-manifold-edges", "edge has more than two faces", "edges have more than two faces", "taken apart",
    "switch the repair on")  # fmt: skip
PINCHED = Kind("non-manifold-vertices", "vertex joins separate fans", "vertices join separate fans", "taken apart",
    "switch the repair on")  # fmt: skip
FLIPPED = Kind("inconsistent-winding", "face is turned against its shell", "faces are turned against their shell",
    "turned",
    "switch the repair on; the engine shows their backs")  # fmt: skip
INSIDE_OUT = Kind("inside-out-shells", "shell is inside out", "shells are inside out", "turned",
    "switch the repair on; the engine shows their inner side")  # fmt: skip
ONE_SIDED = Kind("non-orientable-shells", "shell has only one side, like a Möbius strip",
    "shells have only one side, like a Möbius strip", "", "cut them open in the source")  # fmt: skip
STRAYS = Kind("small-shells", "tiny stray shell", "tiny stray shells", "taken out",
    "left; switch the repair on to take them out", Severity.INFO, is_open=True)  # fmt: skip
HOLES = Kind("open-boundaries", "open border", "open borders", "closed by a face", "left open", Severity.INFO,
    is_open=True)  # fmt: skip
NOT_PLANAR = Kind("non-planar-polygons", "polygon does not lie in a plane", "polygons do not lie in a plane", "",
    "the Triangulation station cuts them as set there", Severity.INFO, is_open=True)  # fmt: skip
CROSSING = Kind("self-intersecting-polygons", "polygon crosses itself", "polygons cross themselves", "",
    "no cut is without overlap, redraw them in the source")  # fmt: skip
OVERLAPS = Kind("overlapping-faces", "face lies on another in one plane", "faces lie on others in one plane", "",
    "they flicker in the engine, move or cut them in the source")  # fmt: skip
OPPOSED = Kind("back-to-back-overlaps", "face lies back to back on another in one plane",
    "faces lie back to back on others in one plane", "", "check whether a two-sided material was meant",
    Severity.INFO, is_open=True)  # fmt: skip
TANGLE = Kind("overlap-search-incomplete", "surface runs through itself so often that not all overlaps were searched",
    "surfaces run through themselves so often that not all overlaps were searched", "", "untangle it in the source",
    Severity.INFO, is_open=True)  # fmt: skip
MATERIALS = Kind("unused-materials", "material of the source is used by no face",
    "materials of the source are used by no face", "left out", "", Severity.INFO)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Fault:
    """A kind of fault as met: how many, where, and whether it was repaired. ``detail`` goes into the message."""

    kind: Kind
    count: int
    is_repaired: bool
    places: NDArray[Any] | None = field(default=None, repr=False)
    detail: str = ""

    def finding(self) -> Finding:
        """The fault in words."""
        kind = self.kind
        noun = kind.one if self.count == 1 else kind.many
        done = kind.repaired if self.is_repaired else kind.by_hand
        if self.count == 1:
            done = done.replace("their faces were", "its faces were").replace("them", "it")
        detail = f" ({self.detail})" if self.detail else ""
        severity = kind.severity
        if self.is_repaired:
            severity = Severity.WARNING if kind is POSITIONS else Severity.INFO
        places = None if self.places is None or not len(self.places) else Places.of(self.places)
        return Finding(kind.code, severity, f"{grouped(self.count)} {noun}{detail}; {done}", self.count, places=places)


def places_of_vertices(positions: NDArray[np.float64], vertices: NDArray[Any]) -> NDArray[np.float64]:
    """(N, 3) points, of the first few vertices only."""
    found: NDArray[np.float64] = positions[np.asarray(vertices)[:1000]]
    return found
