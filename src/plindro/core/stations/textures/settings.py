"""Settings of Textures."""

from typing import Literal

from pydantic import Field

from plindro.core.blocks.codecs import Codec
from plindro.core.blocks.effort import Quality
from plindro.core.settings import StationSettings
from plindro.core.textures.layouts import Packing
from plindro.core.textures.rules import BANDS, Kind, Mips, Sizes

Output = Literal["destination", "source", "dds", "ktx2"]


class HeightRules(StationSettings):
    """How a height map becomes a normal map."""

    strength: float = Field(4.0, gt=0.0, le=256.0, description="pixels that a height of 1 stands for")
    shares: tuple[float, ...] = Field(
        (1.0,) * BANDS,
        min_length=BANDS,
        max_length=BANDS,
        description="how much of each size of detail stays, from fine to coarse",
    )
    occlusion: bool = Field(False, description="materials without occlusion get it from the heights")


class MapChoice(StationSettings):
    """What was decided about one image, by its name."""

    image: str = Field(max_length=200, description="the image's name")
    kind: Kind | None = Field(None, description="what it is for; told by its slot, name or content where it is empty")
    codec: Codec | None = Field(None, description="codec; what its kind and alpha need where it is empty")
    flip_green: bool = Field(False, description="a normal map's green is turned over")
    drop_alpha: bool = Field(False, description="its alpha is left out")
    one_channel: bool = Field(False, description="its first channel alone stays, with its alpha")
    unit: bool = Field(False, description="a normal map's normals are made as long as 1")
    height: HeightRules | None = Field(None, description="it is a height map, and becomes a normal map")


class TexturesSettings(StationSettings):
    """Which form images ship in. Left alone they stay as they came."""

    output: Output = Field(
        "destination",
        description="destination: as it asks; source: images as they came; dds, ktx2: GPU textures beside the prop",
    )
    quality: Quality = Field("good", description="how much is tried for a block")
    codecs: dict[Kind, Codec] = Field({}, description="codec by kind, before what the destination says")
    perceptual: bool = Field(False, description="errors of green count more, in colours alone")
    mips: Mips = Field("lanczos", description="filter of the mips, or none")
    sharpening: float = Field(0.0, ge=0.0, le=2.0, description="share of lost detail that is added back to mips")
    sizes: Sizes = Field("keep", description="keep sizes, or resize to the next power of two")
    largest: int = Field(
        8192,
        ge=4,
        le=16_384,
        description="most pixels along a side; larger ones are halved",
        json_schema_extra={"unit": "px"},
    )
    roughen: bool = Field(False, description="mips of roughness take up what their normal map's lose")
    bake: bool = Field(False, description="factors, vertex colours and UV transforms of materials go into their maps")
    packings: tuple[Packing, ...] = Field(
        (), max_length=8, description="packed textures that every material gets, besides the destination's"
    )
    maps: tuple[MapChoice, ...] = Field(
        (), max_length=512, description="what was decided about single images", json_schema_extra={"by_hand": True}
    )

    def choice(self, image: str) -> MapChoice | None:
        """What was decided about an image; the last word where there are several."""
        return next((choice for choice in reversed(self.maps) if choice.image == image), None)
