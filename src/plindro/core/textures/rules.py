"""How a map is made a GPU texture: the words of settings, light enough for whatever only reads them."""

from dataclasses import dataclass
from typing import Literal

from plindro.core.blocks.codecs import Codec
from plindro.core.blocks.effort import Quality

Kind = Literal[
    "color", "normal", "roughness", "metallic", "occlusion", "opacity", "height", "emissive", "mask", "packed"
]
By = Literal["slot", "name", "content", "choice"]
"""What told a map's kind."""
Container = Literal["dds", "ktx2"]
Filter = Literal["box", "kaiser", "mitchell", "lanczos"]
Mips = Literal["lanczos", "kaiser", "mitchell", "box", "none"]
Border = Literal["wrap", "clamp"]
Sizes = Literal["keep", "power-of-two"]
BANDS = 6
"""Sizes of detail of a height map, each twice the one before: about one pixel, two, four ... and all that is larger."""


@dataclass(frozen=True, slots=True)
class TextureSettings:
    """How a map is made.

    codec : what it needs by itself where None
    largest : most pixels along a side
    cutoff : of a cut-out, whose coverage mips then keep
    """

    kind: Kind
    codec: Codec | None = None
    quality: Quality = "good"
    perceptual: bool = False
    mips: Mips = "lanczos"
    border: tuple[Border, Border] = ("wrap", "wrap")
    sizes: Sizes = "keep"
    largest: int = 8192
    cutoff: float | None = None
    sharpening: float = 0.0
    container: Container = "dds"
    zstd: bool = False
