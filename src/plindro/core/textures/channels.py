"""Maps put together channel by channel: which channel of which map, turned over or not, or a constant."""

from collections.abc import Mapping
from typing import Literal

import numpy as np
from pydantic import Field, model_validator

from plindro.core.mesh.mesh import F32
from plindro.core.settings import StationSettings
from plindro.core.textures.mips import MipRules, resized
from plindro.core.textures.pixels import as_rgba
from plindro.core.textures.rules import Kind

Channel = Literal["r", "g", "b", "a"]
_AT: dict[Channel, int] = {"r": 0, "g": 1, "b": 2, "a": 3}


class ChannelSource(StationSettings):
    """Where a channel comes from."""

    kind: Kind | None = Field(None, description="the map; a constant where it is empty")
    channel: Channel = Field("r", description="its channel")
    invert: bool = Field(False, description="1 becomes 0: gloss of roughness")
    constant: float = Field(1.0, ge=0.0, le=1.0, description="the value where there is no such map")


class Packing(StationSettings):
    """A map of several: a layout that a destination asks for."""

    name: str = Field(pattern=r"^[A-Za-z0-9_]{1,24}$", description="the ending of its file's name")
    r: ChannelSource
    g: ChannelSource
    b: ChannelSource
    a: ChannelSource | None = Field(None, description="no alpha where it is empty")

    @model_validator(mode="after")
    def _has_a_map(self) -> "Packing":
        if all(source is None or source.kind is None for source in self.sources()):
            raise ValueError("needs a map for one of its channels")
        return self

    def sources(self) -> tuple[ChannelSource | None, ...]:
        return (self.r, self.g, self.b, self.a)


def pack_channels(packing: Packing, maps: Mapping[Kind, F32]) -> F32:
    """(H, W, 3 or 4) the packed map, as large as the largest of those that go in.

    ``maps`` are (H, W, C) values from 0 to 1; a channel whose map is not there is its constant. Raises ``ValueError``
    where none is there.
    """
    used = [maps[s.kind] for s in packing.sources() if s is not None and s.kind is not None and s.kind in maps]
    if not used:
        raise ValueError(f"none of the maps of '{packing.name}' is there")
    height, width = (max(m.shape[axis] for m in used) for axis in (0, 1))
    channels = [_channel(s, maps, width, height) for s in packing.sources() if s is not None]
    return np.stack(channels, axis=-1)


def _channel(source: ChannelSource, maps: Mapping[Kind, F32], width: int, height: int) -> F32:
    if source.kind is None or source.kind not in maps:
        return np.full((height, width), source.constant, np.float32)
    values = maps[source.kind]
    if values.shape[:2] != (height, width):
        values = resized(values, source.kind, width, height, MipRules("mitchell"))
    one = as_rgba(values)[..., _AT[source.channel]]
    return (1.0 - one if source.invert else one).astype(np.float32)
