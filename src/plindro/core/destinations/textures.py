"""What a receiving engine expects of textures."""

from typing import Literal

from pydantic import Field, field_validator

from plindro.core.blocks.codecs import Codec
from plindro.core.settings import StationSettings
from plindro.core.templates import checked_template, read_template
from plindro.core.textures.layouts import Packing
from plindro.core.textures.rules import Kind, Sizes

ImageFormat = Literal["png", "jpeg", "webp"]
_DIGITS = 8
"""Of a digest in a texture's file name."""
_VARIABLES = ("image", "kind", "suffix", "digest")


class TextureRules(StationSettings):
    """What an engine expects of textures. GPU textures lie in one folder, each once however many props use it."""

    output: Literal["source", "dds", "ktx2"] = Field("source", description="source: images as they came")
    images: Literal["keep", "png", "jpeg", "webp"] = Field(
        "keep", description="format of images in a prop's GLB or beside it; numbers are never made JPEG"
    )
    image_quality: int = Field(92, ge=1, le=100, description="of colours as JPEG or WebP")
    beside: bool = Field(False, description="images lie in the folder beside the GLB, each once, and are named by it")
    codecs: dict[Kind, Codec] = Field({}, description="codec by kind, where not what a map needs by itself")
    sizes: Sizes = Field("keep", description="keep sizes, or resize to powers of two")
    largest: int = Field(
        8192,
        ge=4,
        le=16_384,
        description="most pixels along a side; larger ones are halved",
        json_schema_extra={"unit": "px"},
    )
    folder: str = Field("textures", pattern=r"^[A-Za-z0-9_-]{0,64}$", description="folder beside the props")
    template: str = Field("{image}_{digest}", description="file name: {image}, {kind}, {suffix}, {digest}")
    suffixes: dict[Kind, str] = Field({}, description="what {suffix} is for a kind of map; the kind itself elsewhere")
    zstd: bool = Field(False, description="KTX2 supercompressed by Zstandard")
    green_down: bool = Field(False, description="green of normal maps points down the picture")
    packings: tuple[Packing, ...] = Field((), max_length=8, description="packed textures that every material gets")
    budget_mib: float | None = Field(
        None, gt=0.0, description="memory of a prop's textures with mips", json_schema_extra={"unit": "MiB"}
    )

    def path(self, image: str, kind: Kind, key: str, ending: str) -> str:
        """Where a texture lies below the folder that is shipped to; its digest keeps those of one name apart."""
        suffix = self.suffixes.get(kind, kind)
        values = {"image": image, "kind": kind, "suffix": suffix, "digest": key[:_DIGITS]}
        stem = read_template(self.template, _VARIABLES).fill(values)
        return f"{self.folder}/{stem}.{ending}" if self.folder else f"{stem}.{ending}"

    @field_validator("template")
    @classmethod
    def _is_template(cls, value: str) -> str:
        return checked_template(value, _VARIABLES, ("digest",))

    @field_validator("suffixes")
    @classmethod
    def _are_suffixes(cls, value: dict[Kind, str]) -> dict[Kind, str]:
        for kind, suffix in value.items():
            if not suffix or len(suffix) > _LONGEST or not suffix.replace("_", "").replace("-", "").isalnum():
                raise ValueError(f"'{suffix}' for {kind} is no suffix; use 1 to {_LONGEST} letters, digits, _ or -")
        return value


_LONGEST = 24
