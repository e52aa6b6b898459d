"""Which channel of which map goes where in a packed map: a layout that a destination asks for."""

from typing import Literal

from pydantic import Field, model_validator

from plindro.core.settings import StationSettings
from plindro.core.textures.rules import Kind

Channel = Literal["r", "g", "b", "a"]


class ChannelSource(StationSettings):
    """Where a channel comes from."""

    kind: Kind | None = Field(None, description="the map; a constant where it is empty")
    channel: Channel = Field("r", description="its channel")
    invert: bool = Field(False, description="1 becomes 0: gloss of roughness")
    constant: float = Field(1.0, ge=0.0, le=1.0, description="the value where there is no such map")


class Packing(StationSettings):
    """A map of several: a layout that a destination asks for."""

    name: str = Field(pattern=r"^[A-Za-z0-9]{1,24}$", description="the ending of its file's name")
    r: ChannelSource = Field(description="what goes into red")
    g: ChannelSource = Field(description="what goes into green")
    b: ChannelSource = Field(description="what goes into blue")
    a: ChannelSource | None = Field(None, description="no alpha where it is empty")

    @model_validator(mode="after")
    def _has_a_map(self) -> "Packing":
        if all(source is None or source.kind is None for source in self.sources()):
            raise ValueError("needs a map for one of its channels")
        return self

    def sources(self) -> tuple[ChannelSource | None, ...]:
        return (self.r, self.g, self.b, self.a)
