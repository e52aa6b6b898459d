"""A destination: what the receiving engine expects of files, names, form and size."""

from typing import Literal

from pydantic import Field, ValidationInfo, field_validator

from plindro.core.destinations.textures import TextureRules
from plindro.core.settings import StationSettings
from plindro.core.templates import Template, checked_template, read_template

Format = Literal["glb", "gltf", "obj", "ply", "stl", "usd", "usda", "usdz"]
Unit = Literal["m", "dm", "cm", "mm", "in", "ft"]
METRES: dict[Unit, float] = {"m": 1.0, "dm": 0.1, "cm": 0.01, "mm": 0.001, "in": 0.0254, "ft": 0.3048}
DATA_ENDING = ".npz"
ONE_LEVEL: frozenset[Format] = frozenset({"ply", "stl"})
"""Formats that hold one mesh, so that each level is a file."""
GLTF: frozenset[Format] = frozenset({"glb", "gltf"})
ENDINGS: dict[Format, tuple[str, ...]] = {
    "glb": (".glb",), "gltf": (".gltf", ".bin"), "obj": (".obj", ".mtl"), "ply": (".ply",), "stl": (".stl",),
    "usd": (".usdc",), "usda": (".usda",), "usdz": (".usdz",),
}  # fmt: skip
"""Of the files of a prop besides its images."""

_ANY = "\0"
_PROP = ("prop",)
_LEVEL = ("prop", "level")
_PART = ("node", "part")
_PROXY = ("prop", "index", "kind")
_STATE = ("prop", "state")
_MATERIAL = ("prop", "material")
_TEMPLATES: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
    "file_template": (_PROP, _PROP),
    "level_template": (_LEVEL, _LEVEL),
    "part_template": (_PART, _PART),
    "proxy_template": (_PROXY, ("prop", "index")),
    "state_template": (_STATE, _STATE),
    "material_template": (_MATERIAL, ("material",)),
}
"""The variables that each template knows, and those that it needs."""


class Destination(StationSettings):
    """Format, names, form and limits of a receiving engine. OBJ, PLY and USD hold whole polygons."""

    name: str = Field(pattern=r"^[a-z0-9-]+$", max_length=64, description="by which it is chosen")
    title: str = Field(min_length=1, max_length=120, description="what people read")

    format: Format = Field(
        "glb",
        description="glb: all in one file; gltf: buffer and images beside; obj with mtl; usd: binary, usda: text, "
        "usdz: all in one file; ply and stl: a file a level",
    )
    up: Literal["y", "z"] = Field("y", description="axis that points up; glTF has y")
    hand: Literal["right", "left"] = Field("right", description="handedness of the axes; glTF has the right")
    unit: Unit = Field("m", description="unit of lengths; glTF has metres")
    scale: float = Field(1.0, gt=0.0, le=1000.0, description="factor on all lengths, besides the unit")
    winding: Literal["counterclockwise", "clockwise"] = Field(
        "counterclockwise", description="order of a face's corners, seen from outside; glTF has counterclockwise"
    )

    file_template: str = Field("{prop}", description="name of the prop's own file: {prop}")
    level_template: str = Field("{prop}_LOD{level}", description="name of a level's node: {prop} and {level}")
    part_template: str = Field("{node}_{part}", description="name of a part kept apart: {node} of its level, {part}")
    proxy_template: str = Field(
        "{prop}_collision_{index}", description="name of a collision proxy's node: {prop}, {index}, {kind}"
    )
    state_template: str = Field("{prop}_{state}", description="name of a state of a prop: {prop} and {state}")
    material_template: str = Field("{material}", description="name of a material: {material}, {prop}")
    first_level: int = Field(0, ge=0, le=9, description="number of the first level")
    lod0_suffix: bool = Field(True, description="LOD0 is named by the template; else it has the prop's name alone")
    hierarchy: Literal["siblings", "nested"] = Field(
        "siblings", description="levels below one root node, or below the first level; of glTF"
    )

    folders: Literal["one", "prop"] = Field(
        "one", description="files of all props in one folder, or a folder a prop; shared textures lie in theirs"
    )
    data_file: bool = Field(
        False, description="all arrays of a prop beside its file, as .npz for pipelines of your own"
    )
    occlusion: Literal["none", "rgb", "alpha"] = Field(
        "none", description="occlusion by vertex, times the colours of vertices or as their alpha; of all but STL"
    )
    occlusion_reach: float = Field(
        0.5, gt=0.0, le=1000.0, description="what is farther covers nothing", json_schema_extra={"unit": "m"}
    )

    max_engine_vertices: int = Field(65_535, ge=3, description="per mesh, where the engine's indices have 16 bits")
    past_limit: Literal["warn", "split", "stop"] = Field(
        "warn", description="what happens to a level with more vertices: a warning, split into meshes, or held back"
    )
    indices: Literal["fit", "32"] = Field("fit", description="16 bits where they do, or always 32; of glTF")
    normals: bool = Field(True, description="write normals")
    tangents: bool = Field(True, description="write tangents for meshes with a normal map")
    max_uv_channels: int = Field(8, ge=0, description="UV channels of a mesh")
    light_map: bool = Field(False, description="every prop needs a light map on channel 1")
    light_map_channel: int = Field(
        1, ge=1, le=7, description="channel that channel 1 is written as; those between are copies of channel 0"
    )

    max_triangles: tuple[int, ...] = Field(
        (), max_length=16, description="most triangles of each level, from LOD0 on", json_schema_extra={"unit": "tris"}
    )
    max_materials: int | None = Field(None, ge=1, description="most materials of a prop")
    max_proxies: int | None = Field(None, ge=1, description="most collision proxies of a prop")
    stops: tuple[str, ...] = Field((), max_length=64, description="codes of findings that hold a prop back here")

    textures: TextureRules = Field(TextureRules(), description="what it expects of textures")

    @property
    def is_as_seen(self) -> bool:
        """Whether its files are laid out as the view draws props: GLB with everything inside, in metres, undivided."""
        is_whole = self.hierarchy == "siblings" and self.past_limit != "split" and not self.textures.beside
        is_whole &= self.light_map_channel == 1 and self.occlusion == "none" and self.folders == "one"
        return self.format == "glb" and is_whole and self.normals and self.scale == 1.0

    def level_name(self, prop: str, index: int) -> str:
        """The name of a level's node."""
        if index == 0 and not self.lod0_suffix:
            return prop
        return self._template("level_template").fill({"prop": prop, "level": index + self.first_level})

    def level_number(self, prop: str, name: str) -> int | None:
        """Which level of a prop a node of this name is; None where it is no name of one."""
        if not self.lod0_suffix and name == prop:
            return 0
        found = self._template("level_template").pattern().match(name)
        return int(found["level"]) - self.first_level if found and found["prop"] == prop else None

    def owner_of(self, root: str) -> str:
        """The name of the prop whose root node is called ``root``: where levels nest that is its first level."""
        if self.hierarchy != "nested" or not self.lod0_suffix:
            return root
        found = self._template("level_template").pattern().match(root)
        return found["prop"] if found else root

    def owner_by_level(self, name: str) -> str | None:
        """The prop that has a level or a collision proxy of this name; None where it is the name of neither."""
        for field in ("level_template", "proxy_template"):
            found = self._template(field).pattern().match(name)
            if found:
                return str(found["prop"])
        return None

    def owner_of_stem(self, stem: str) -> str:
        """The prop, or the level where each is a file, of a file of this name without ending."""
        found = self._template("file_template").pattern().match(stem)
        return str(found["prop"]) if found else stem

    def part_of(self, node: str, name: str) -> str | None:
        """Which part of the level that is called ``node`` bears this name; None where it is no name of one."""
        before, after = self.part_name(node, _ANY).split(_ANY, 1)
        is_one = name.startswith(before) and name.endswith(after) and len(name) > len(before) + len(after)
        return name[len(before) : len(name) - len(after)] if is_one else None

    def part_name(self, node: str, part: str) -> str:
        """The name of a part of the level that is called ``node``."""
        return self._template("part_template").fill({"node": node, "part": part})

    def proxy_name(self, prop: str, index: int, kind: str) -> str:
        """The name of a collision proxy's node; ``kind`` is its shape."""
        return self._template("proxy_template").fill({"prop": prop, "index": index, "kind": kind})

    def proxy_number(self, prop: str, name: str) -> int | None:
        """The number of a prop's collision proxy of this name; None where it is no name of one."""
        found = self._template("proxy_template").pattern().match(name)
        return int(found["index"]) if found and found["prop"] == prop else None

    def state_name(self, prop: str, state: str) -> str:
        """The name that a state of a prop ships under."""
        return self._template("state_template").fill({"prop": prop, "state": state})

    def material_name(self, prop: str, material: str) -> str:
        """The name that a material ships under."""
        return self._template("material_template").fill({"prop": prop, "material": material})

    def file_stem(self, named: str) -> str:
        """The name without ending of the file of a prop, or of a level where each is a file."""
        return self._template("file_template").fill({"prop": named})

    def files(self, prop: str, levels: tuple[str, ...]) -> tuple[str, ...]:
        """The files of a prop besides its images; ``levels`` are the names of its levels."""
        owners = (levels or (self.level_name(prop, 0),)) if self.format in ONE_LEVEL else (prop,)
        meshes = [self.file_stem(owner) + ending for owner in owners for ending in ENDINGS[self.format]]
        data = [self.file_stem(prop) + DATA_ENDING] if self.data_file else []
        return tuple(self.own_path(prop, path) for path in (*meshes, *data))

    def own_path(self, prop: str, path: str) -> str:
        """Where a prop's own file lies below the folder that is shipped to."""
        return f"{prop}/{path}" if self.folders == "prop" else path

    def is_shared(self, path: str) -> bool:
        """Whether a file lies in the folder of textures, which any prop may use."""
        return bool(self.textures.folder) and path.startswith(f"{self.textures.folder}/")

    def _template(self, field: str) -> Template:
        return read_template(getattr(self, field), *_TEMPLATES[field])

    @field_validator(*_TEMPLATES)
    @classmethod
    def _is_template(cls, value: str, info: ValidationInfo) -> str:
        return checked_template(value, *_TEMPLATES[info.field_name or ""])

    @field_validator("up", "hand", "unit", "winding")
    @classmethod
    def _is_gltfs(cls, value: str, info: ValidationInfo) -> str:
        given = cls.model_fields[info.field_name or ""].default
        if info.data.get("format") in GLTF and value != given:
            raise ValueError(f"glTF always has '{given}'; leave it, or choose OBJ, PLY, STL or USD")
        return value

    @field_validator("hand")
    @classmethod
    def _is_usds(cls, value: str, info: ValidationInfo) -> str:
        if str(info.data.get("format")).startswith("usd") and value == "left":
            raise ValueError("USD always has right-handed axes; leave it, or choose OBJ, PLY or STL")
        return value

    @field_validator("past_limit", "hierarchy", "indices")
    @classmethod
    def _is_of_gltf(cls, value: str, info: ValidationInfo) -> str:
        given = cls.model_fields[info.field_name or ""].default
        if value in ("split", "nested", "32") and info.data.get("format") not in GLTF:
            raise ValueError(f"only glTF has '{value}'; choose '{given}', or the format glb or gltf")
        return value

    @field_validator("occlusion")
    @classmethod
    def _has_colors(cls, value: str, info: ValidationInfo) -> str:
        kind = info.data.get("format")
        if value != "none" and kind == "stl":
            raise ValueError("STL has no colours of vertices; choose 'none', or glTF, OBJ, PLY or USD")
        if value == "alpha" and (kind == "obj" or str(kind).startswith("usd")):
            raise ValueError("OBJ and USD have no alpha beside the colours of vertices here; choose 'rgb'")
        return value

    @field_validator("max_triangles")
    @classmethod
    def _are_counts(cls, value: tuple[int, ...]) -> tuple[int, ...]:
        if any(most < 1 for most in value):
            raise ValueError("each is at least 1")
        return value
