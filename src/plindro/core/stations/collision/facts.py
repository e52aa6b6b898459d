"""What Collision found out: the proxies, and how they fit."""

from pydantic import Field

from plindro.core.collision.proxy import Shape
from plindro.core.settings import StationFacts


class ProxyFacts(StationFacts):
    """A proxy; ``numbers`` say what it is in itself, in metres."""

    shape: Shape
    part: str = Field(description="the part that it is for; empty where it is for the whole")
    corners: int
    triangles: int
    volume: float = Field(description="cubic metres")
    numbers: list[float] = Field(
        description="ball: middle, radius; capsule: both ends, radius; box: middle, half sizes, axes"
    )


class CollisionFacts(StationFacts):
    proxies: list[ProxyFacts]
    volume: float = Field(description="cubic metres of all together")
    enclosed: float = Field(description="cubic metres that the prop encloses")
    added: float = Field(description="volume beside the prop's, as a share of it")
    missed: float = Field(description="share of the prop's surface that lies outside of all proxies")
