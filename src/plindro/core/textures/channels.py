"""Maps put together channel by channel: which channel of which map, turned over or not, or a constant."""

from collections.abc import Mapping

import numpy as np

from plindro.core.mesh.mesh import F32
from plindro.core.textures.layouts import Channel, ChannelSource, Packing
from plindro.core.textures.mips import MipRules, resized
from plindro.core.textures.pixels import as_rgba
from plindro.core.textures.rules import Kind

_AT: dict[Channel, int] = {"r": 0, "g": 1, "b": 2, "a": 3}


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
