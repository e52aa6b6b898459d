"""Settings of Triangulation."""

from pydantic import Field

from plindro.core.polygons.triangulate import PolygonRule, QuadRule
from plindro.core.settings import StationSettings

Place = tuple[float, float, float]
Diagonal = tuple[Place, Place]


class TriangulationSettings(StationSettings):
    """How polygons are cut. Whatever the choice, a concave quad is cut inside."""

    quads: QuadRule = Field(
        "shortest",
        description="shortest diagonal; shapely: the larger smallest angle, less for the fold; "
        "first: corners 1-3; second: corners 2-4",
    )
    ngons: PolygonRule = Field(
        "ears", description="polygons of five sides and more: ear clipping; shapely: constrained Delaunay"
    )
    min_sides: int = Field(
        4, ge=3, description="polygons of fewer sides stay whole where the destination's format holds them"
    )
    flipped_diagonals: tuple[Diagonal, ...] = Field(
        (),
        max_length=20_000,
        description="diagonals set by hand: their two ends, in the source's units and axes",
        json_schema_extra={"by_hand": True},
    )
