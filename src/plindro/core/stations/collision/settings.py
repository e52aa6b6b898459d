"""Settings of Collision."""

from typing import Literal

from pydantic import Field

from plindro.core.settings import StationSettings

Kind = Literal["none", "simple", "box", "turned-box", "ball", "capsule", "hull", "part-hulls", "pieces"]


class PartCollision(StationSettings):
    """What a part has for itself, apart from the rest of the prop."""

    part: str = Field(max_length=400, description="the part's path in the source")
    kind: Kind = Field(description="its own kind")


class CollisionSettings(StationSettings):
    """Which proxies stand for the prop. None are made unless it is asked for."""

    kind: Kind = Field("none", description="simple: the least of box, turned box, ball and capsule")
    margin: float = Field(
        0.0,
        ge=0.0,
        le=1.0,
        description="metres that proxies lie outside of the surface",
        json_schema_extra={"unit": "m"},
    )
    corners: int = Field(32, ge=8, le=255, description="most corners of a hull")
    pieces: int = Field(8, ge=2, le=32, description="most convex pieces")
    mesh: str = Field(
        "",
        max_length=200,
        description="file beside the source with proxies modelled by hand",
        json_schema_extra={"by_hand": True},
    )
    parts: tuple[PartCollision, ...] = Field(
        (), max_length=256, description="parts with a kind of their own", json_schema_extra={"by_hand": True}
    )
