"""Which codec a map needs, by what it is for and what its alpha says."""

from typing import Literal

from plindro.core.blocks.codecs import Codec
from plindro.core.mesh.mesh import F32
from plindro.core.textures.kinds import ONE_CHANNEL
from plindro.core.textures.rules import Kind

Alpha = Literal["none", "opaque", "cutout", "smooth"]
_BETWEEN = 0.04
"""The share of pixels that may be half there in a cut-out: its edges."""


def alpha_of(values: F32) -> Alpha:
    """What a map's alpha is: not there, nowhere less than 1, there or not, or anything between."""
    if values.shape[2] not in (2, 4):
        return "none"
    alpha = values[..., -1]
    if float(alpha.min()) >= 1.0 - 0.5 / 255.0:
        return "opaque"
    between = float(((alpha > 0.1) & (alpha < 0.9)).mean())
    return "cutout" if between <= _BETWEEN else "smooth"


def codec_for(kind: Kind, alpha: Alpha) -> Codec:
    """The codec that a map needs.

    Opaque colours fit in four bits a pixel; with alpha they need eight, as do channels that say
    different things; normals are two channels, masks are one.
    """
    if kind == "normal":
        return "bc5"
    if kind == "packed":
        return "bc7"
    if kind in ONE_CHANNEL:
        return "bc4"
    return "bc7" if alpha in ("cutout", "smooth") else "bc1"


CHANNELS: dict[Codec, tuple[int, ...]] = {
    "bc1": (0, 1, 2), "bc3": (0, 1, 2, 3), "bc4": (0,), "bc5": (0, 1), "bc7": (0, 1, 2, 3), "rgba8": (0, 1, 2, 3)
}  # fmt: skip
"""The channels that a codec holds."""
