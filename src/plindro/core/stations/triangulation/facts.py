"""What Triangulation found out: what was cut, and what an engine would have made of it."""

from pydantic import Field

from plindro.core.settings import StationFacts


class EngineCutFacts(StationFacts):
    """An engine's triangle fans beside the cut: counts of polygons, and the largest changes in degrees."""

    quads: int
    quads_differ: int
    polygons: int = Field(description="of five sides and more")
    polygons_differ: int
    flips: int
    overlaps: int
    leaves: int = Field(description="fans that leave the outline")
    collapses: int
    whole: int = Field(description="polygons left whole where the format holds them")
    whole_broken: int
    surface_degrees: float
    quad_degrees: float
    shading_degrees: float


class TriangulationFacts(StationFacts):
    """The cut; ``engine`` is None where there were no polygons."""

    sides: dict[int, int] = Field(description="faces by their number of sides")
    triangles: int
    overruled_quads: int = Field(description="concave quads cut along their other diagonal")
    turned: int = Field(description="diagonals set by hand")
    engine: EngineCutFacts | None = None
