"""The destinations that come with the product, and destinations from files."""

from plindro.core.destinations.destination import Destination
from plindro.core.destinations.loading import load_settings
from plindro.core.destinations.textures import TextureRules
from plindro.core.errors import InvalidSettings
from plindro.core.textures.layouts import ChannelSource, Packing

_ORM = Packing(
    name="ORM",
    r=ChannelSource(kind="occlusion"),
    g=ChannelSource(kind="roughness"),
    b=ChannelSource(kind="metallic", constant=0.0),
)

DESTINATIONS = (
    Destination(name="plain", title="Plain glTF, 16-bit indices"),
    Destination(name="plain-wide", title="Plain glTF, 32-bit indices", max_engine_vertices=4_000_000_000),
    Destination(name="images-beside", title="glTF, images beside", textures=TextureRules(beside=True)),
    Destination(name="dds-beside", title="glTF, DDS textures beside", textures=TextureRules(output="dds")),
    Destination(
        name="dds-packed",
        title="glTF, DDS textures beside, packed ORM",
        textures=TextureRules(output="dds", sizes="power-of-two", packings=(_ORM,)),
    ),
    Destination(
        name="ktx2-beside", title="glTF, KTX2 textures beside", textures=TextureRules(output="ktx2", zstd=True)
    ),
    Destination(
        name="nested-split",
        title="Y-up metres, levels below LOD0, 16-bit meshes split, packed ORM, BC7 in DDS",
        hierarchy="nested",
        lod0_suffix=False,
        past_limit="split",
        textures=TextureRules(
            output="dds",
            sizes="power-of-two",
            largest=4096,
            codecs={"color": "bc7"},
            suffixes={"color": "C", "normal": "N", "packed": "P", "emissive": "E"},
            template="{image}_{suffix}_{digest}",
            packings=(_ORM,),
        ),
    ),
    Destination(
        name="files-beside",
        title="Y-up metres, glTF with buffer and WebP images beside, 32-bit indices",
        format="gltf",
        indices="32",
        max_engine_vertices=4_000_000_000,
        textures=TextureRules(images="webp", beside=True),
    ),
    Destination(
        name="polygons-obj", title="OBJ that may keep polygons whole", format="obj", max_uv_channels=1, tangents=False
    ),
    Destination(
        name="z-up-obj",
        title="Z-up centimetres, OBJ with polygons, levels by suffix",
        format="obj",
        up="z",
        unit="cm",
        max_uv_channels=1,
        tangents=False,
    ),
    Destination(name="polygons-usd", title="USD that may keep polygons whole", format="usd", tangents=False),
    Destination(
        name="z-up-usdz", title="Z-up centimetres, USDZ in one file", format="usdz", up="z", unit="cm", tangents=False
    ),
    Destination(
        name="left-hand-ply",
        title="Y-up left-handed metres, clockwise, a PLY a level",
        format="ply",
        hand="left",
        winding="clockwise",
        max_uv_channels=1,
        tangents=False,
    ),
    Destination(
        name="print-stl",
        title="Z-up millimetres, an STL a level",
        format="stl",
        up="z",
        unit="mm",
        normals=False,
        tangents=False,
    ),
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
