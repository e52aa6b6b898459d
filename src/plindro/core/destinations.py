"""Destinations: what the receiving engine expects."""

import json
from pathlib import Path
from typing import Literal, TypeVar

from pydantic import Field, ValidationError, field_validator

from plindro.core.blocks.codecs import Codec
from plindro.core.errors import InvalidSettings
from plindro.core.settings import StationSettings
from plindro.core.textures.layouts import ChannelSource, Packing
from plindro.core.textures.rules import Kind, Sizes

Format = Literal["glb", "obj", "usd"]
ImageFormat = Literal["png", "jpeg", "webp"]
_DIGITS = 8
"""Of a digest in a texture's file name."""


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
    largest: int = Field(8192, ge=4, le=16_384, description="most pixels along a side; larger ones are halved")
    folder: str = Field("textures", pattern=r"^[A-Za-z0-9_-]{0,64}$", description="folder beside the props")
    template: str = Field("{image}_{digest}", description="file name: {image}, {kind}, {digest}")
    zstd: bool = Field(False, description="KTX2 supercompressed by Zstandard")
    green_down: bool = Field(False, description="green of normal maps points down the picture")
    packings: tuple[Packing, ...] = Field((), max_length=8, description="packed textures that every material gets")
    budget_mib: float | None = Field(None, gt=0.0, description="memory of a prop's textures with mips, MiB")

    def path(self, image: str, kind: Kind, key: str, suffix: str) -> str:
        """Where a texture lies below the folder that is shipped to; its digest keeps those of one name apart."""
        stem = self.template.format(image=image, kind=kind, digest=key[:_DIGITS])
        return f"{self.folder}/{stem}.{suffix}" if self.folder else f"{stem}.{suffix}"

    @field_validator("template")
    @classmethod
    def _is_template(cls, value: str) -> str:
        if "{digest}" not in value:
            raise ValueError("needs {digest}, which keeps textures of one name apart")
        try:
            value.format(image="a", kind="color", digest="0")
        except (KeyError, IndexError, ValueError) as error:
            raise ValueError("knows only {image}, {kind} and {digest}") from error
        return value


class Destination(StationSettings):
    """Format, naming and limits of a receiving engine. Files are in metres, Y up; OBJ and USD hold whole polygons."""

    name: str = Field(pattern=r"^[a-z0-9-]+$", description="by which it is chosen")
    title: str = Field(description="what people read")
    format: Format = Field("glb", description="of the prop's own file")
    level_template: str = Field("{prop}_LOD{level}", description="name of a level's node: {prop} and {level}")
    proxy_template: str = Field(
        "{prop}_collision_{index}", description="name of a collision proxy's node: {prop} and {index}"
    )
    max_proxies: int | None = Field(None, ge=1, description="most collision proxies of a prop")
    max_engine_vertices: int = Field(65_535, gt=0, description="per level, where the engine's indices have 16 bits")
    max_uv_channels: int = Field(8, ge=0, description="UV channels of a mesh")
    light_map: bool = Field(False, description="every prop needs a light map on channel 1")
    tangents: bool = Field(True, description="write tangents for meshes with a normal map")
    textures: TextureRules = Field(TextureRules(), description="what it expects of textures")

    @field_validator("proxy_template")
    @classmethod
    def _is_proxy_template(cls, value: str) -> str:
        if value.count("{prop}") != 1 or value.count("{index}") != 1:
            raise ValueError("needs {prop} and {index}, each once")
        try:
            value.format(prop="a", index=0)
        except (KeyError, IndexError, ValueError) as error:
            raise ValueError("knows only {prop} and {index}") from error
        return value

    @field_validator("level_template")
    @classmethod
    def _is_template(cls, value: str) -> str:
        if value.count("{prop}") != 1 or value.count("{level}") != 1:
            raise ValueError("needs {prop} and {level}, each once")
        try:
            value.format(prop="a", level=0)
        except (KeyError, IndexError, ValueError) as error:
            raise ValueError("knows only {prop} and {level}") from error
        return value


Settings = TypeVar("Settings", bound=StationSettings)

DESTINATIONS = (
    Destination(name="plain", title="Plain glTF, 16-bit indices"),
    Destination(name="plain-wide", title="Plain glTF, 32-bit indices", max_engine_vertices=4_000_000_000),
    Destination(name="images-beside", title="glTF, images beside", textures=TextureRules(beside=True)),
    Destination(name="dds-beside", title="glTF, DDS textures beside", textures=TextureRules(output="dds")),
    Destination(
        name="dds-packed",
        title="glTF, DDS textures beside, packed ORM",
        textures=TextureRules(
            output="dds",
            sizes="power-of-two",
            packings=(
                Packing(
                    name="ORM",
                    r=ChannelSource(kind="occlusion"),
                    g=ChannelSource(kind="roughness"),
                    b=ChannelSource(kind="metallic", constant=0.0),
                ),
            ),
        ),
    ),
    Destination(
        name="ktx2-beside", title="glTF, KTX2 textures beside", textures=TextureRules(output="ktx2", zstd=True)
    ),
    Destination(
        name="polygons-obj", title="OBJ that may keep polygons whole", format="obj", max_uv_channels=1, tangents=False
    ),
    Destination(name="polygons-usd", title="USD that may keep polygons whole", format="usd", tangents=False),
)
DEFAULT_DESTINATION = "plain"


def destination_named(name: str) -> Destination:
    """A built-in destination; raises ``InvalidSettings``. No file is looked at, whatever the name."""
    for destination in DESTINATIONS:
        if destination.name == name:
            return destination
    known = ", ".join(destination.name for destination in DESTINATIONS)
    raise InvalidSettings(f"there is no destination '{name}'; give one of {known}")


def get_destination(name_or_file: str) -> Destination:
    """A built-in destination by name, or one from a JSON file; raises ``InvalidSettings``."""
    if any(destination.name == name_or_file for destination in DESTINATIONS):
        return destination_named(name_or_file)
    return load_settings(name_or_file, Destination, "destination", [d.name for d in DESTINATIONS])


def load_settings(path: str, model: type[Settings], what: str, known: list[str]) -> Settings:
    """Settings from a JSON file; raises ``InvalidSettings`` with what is wrong and what would do."""
    file = Path(path)
    if not file.is_file():
        raise InvalidSettings(f"there is no {what} '{path}'; known are {', '.join(known)}, or give a JSON file")
    try:
        return model.model_validate(json.loads(file.read_text("utf-8")))
    except ValidationError as error:
        raise InvalidSettings(f"{path}: {describe(error)}; --export shows a whole {what}") from error
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise InvalidSettings(f"{path}: is not valid JSON ({error})") from error


def describe(error: ValidationError) -> str:
    """The first problem of a validation error in one line."""
    first = error.errors()[0]
    place = ".".join(str(part) for part in first["loc"])
    if first["type"] == "missing":
        return f"'{place}' is missing"
    if first["type"] == "extra_forbidden":
        return f"'{place}' is not a setting"
    return f"{place + ': ' if place else ''}{first['msg'].removeprefix('Value error, ')}"
