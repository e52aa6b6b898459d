"""Settings of Triangulation."""

from typing import Literal

from pydantic import Field

from plindro.core.settings import StationSettings

QuadRule = Literal["shortest", "shapely", "first", "second"]
QUAD_RULES: tuple[QuadRule, ...] = ("shortest", "shapely", "first", "second")


class TriangulationSettings(StationSettings):
    """How quads are cut. Whatever the choice, a concave quad is cut inside."""

    quads: QuadRule = Field(
        "shortest",
        description="shortest diagonal; shapely: the larger smallest angle; first: corners 1-3; second: corners 2-4",
    )
