"""Settings of Placement: units, axes, scale, and what the engine will turn the prop about."""

from typing import Literal

from pydantic import Field

from plindro.core.settings import StationSettings

Unit = Literal["file", "mm", "cm", "m", "in", "ft"]
Pivot = Literal["stands", "hangs", "hinges", "held", "grid", "source", "object", "bounds", "mass", "point"]
Side = Literal[-1, 0, 1]

METRES: dict[Unit, float] = {"mm": 0.001, "cm": 0.01, "m": 1.0, "in": 0.0254, "ft": 0.3048}


class PlacementSettings(StationSettings):
    """How the prop stands.

    Pivots by kind of prop (``stands`` ... ``grid``) leave a pivot that already fits the kind and move any other;
    ``source`` is the scene's origin, ``object`` that of the object, ``bounds`` a corner, face or middle of the bounds,
    ``mass`` the centre of mass, ``point`` a place on the model or typed coordinates, in the source's units and axes.
    """

    unit: Unit = Field("file", description="what one unit of the source is; file = as the file says, else metres")
    up: Literal["file", "x", "y", "z"] = Field("file", description="the axis of the source that points up")
    yaw: float = Field(0.0, ge=-360, le=360, description="degrees about the upright", json_schema_extra={"unit": "°"})
    scale: float = Field(1.0, gt=0, le=1e6, description="factor on top of the unit")
    pivot: Pivot = "stands"
    anchor: tuple[Side, Side, Side] = Field((0, -1, 0), description="for bounds: -1 low, 0 middle, 1 high on x, y, z")
    point: tuple[float, float, float] | None = Field(
        None, description="for point, in the source's units and axes", json_schema_extra={"by_hand": True}
    )
    snap_to: Literal["typed", "vertex", "edge", "face"] = Field(
        "typed", description="what the point was set on", json_schema_extra={"by_hand": True}
    )
    keep_position: bool = Field(False, description="the prop keeps its place in the scene")
    expected_size_m: tuple[float, float] = Field(
        (0.05, 30.0),
        description="longest side of props of this kind, in metres",
        json_schema_extra={"unit": "m"},
    )
