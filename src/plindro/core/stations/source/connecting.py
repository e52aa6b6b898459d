"""Maps that lie beside a source and that no material of it uses, connected by their names where that is wished."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import PurePosixPath

import numpy as np

from plindro.core.errors import UnreadableFile
from plindro.core.files.images import read_image
from plindro.core.files.pixels import read_pixels
from plindro.core.files.sidefiles import SideFiles
from plindro.core.findings import Finding, Severity, counted
from plindro.core.mesh.mesh import F32
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.scene import Image, Material, Texture, TextureSlot
from plindro.core.textures.channels import pack_channels
from plindro.core.textures.images import encode
from plindro.core.textures.kinds import named_kind
from plindro.core.textures.layouts import ChannelSource, Packing
from plindro.core.textures.pixels import to_bytes
from plindro.core.textures.rules import Kind

IMAGE_SUFFIXES = (".png", ".jpg", ".jpeg", ".tga", ".bmp", ".webp", ".tif", ".tiff", ".exr", ".hdr")
_SLOTS: dict[Kind, TextureSlot] = {
    "color": "base_color",
    "normal": "normal",
    "height": "normal",
    "roughness": "metallic_roughness",
    "metallic": "metallic_roughness",
    "packed": "metallic_roughness",
    "occlusion": "occlusion",
    "emissive": "emissive",
}
_AS_GLTF = Packing(
    name="roughnessmetallic",
    r=ChannelSource(),
    g=ChannelSource(kind="roughness"),
    b=ChannelSource(kind="metallic"),
)


@dataclass(frozen=True, slots=True)
class Beside:
    """A map beside the source, and the place of a material that its name says it is for."""

    file: str
    kind: Kind
    material: int
    slot: TextureSlot


def maps_beside(prop: Prop, source: str, side_files: SideFiles) -> list[Beside]:
    """The maps whose names fit an empty place of a material in use, of each kind the first by name."""
    found: dict[tuple[int, Kind], Beside] = {}
    names = [n for n in sorted(side_files.names()) if PurePosixPath(n).suffix.lower() in IMAGE_SUFFIXES]
    used = [int(m) for m in np.unique(prop.mesh.face_material)]
    for number in used:
        material = prop.materials[number]
        stems = _stems(material, prop, source if len(used) == 1 else "")
        for name in names:
            told = named_kind(name)
            slot = _SLOTS.get(told.kind) if told and told.stem in stems else None
            if told and slot and material.texture(slot) is None:
                found.setdefault((number, told.kind), Beside(name, told.kind, number, slot))
    return list(_without_rivals(found))


def _stems(material: Material, prop: Prop, source: str) -> set[str]:
    """What names of a material's maps begin with: its own name, the beginnings of those it uses, the source's name."""
    used = (named_kind(prop.images[t.image].name) for t in material.all_textures())
    words = {material.name, source, *(told.stem for told in used if told)}
    return {word.casefold() for word in words if word}


def _without_rivals(found: dict[tuple[int, Kind], Beside]) -> Iterator[Beside]:
    """A normal map goes before heights, and a packed map before those that it would hold."""
    for (material, kind), beside in found.items():
        over: Kind | None = {"height": "normal", "roughness": "packed", "metallic": "packed"}.get(kind)  # type: ignore[assignment]
        if over is None or (material, over) not in found:
            yield beside


def connect_maps(prop: Prop, source: str, side_files: SideFiles, *, connects: bool, report: Report) -> Prop:
    """The prop with maps beside it in the empty places that they are named for; else a finding that they are there."""
    found = maps_beside(prop, source, side_files)
    if not found:
        return prop
    if not connects:
        first = PurePosixPath(found[0].file).name
        more = f" and {counted(len(found) - 1, 'other map')}" if len(found) > 1 else ""
        verb, what = ("lie", "them") if more else ("lies", "it")
        text = f"{first}{more} {verb} beside the source and no material uses {what}; connect {what} at Source"
        report.find(Finding("maps-not-used", Severity.WARNING, text, len(found)))
        return prop
    images, materials, made = list(prop.images), list(prop.materials), 0
    for number in sorted({beside.material for beside in found}):
        own = [beside for beside in found if beside.material == number]
        try:
            new = list(_images(own, side_files, tuple(images)))
        except UnreadableFile as error:
            report.find(Finding("unreadable-texture", Severity.WARNING, str(error)))
            continue
        for slot, image in new:
            materials[number] = _with_map(materials[number], slot, len(images), {beside.kind for beside in own})
            images.append(image)
        made += len(own)
    if made:
        text = f"{counted(made, 'map')} beside the source {'was' if made == 1 else 'were'} connected by name"
        report.find(Finding("maps-connected", Severity.INFO, text, made))
    return replace(prop, images=tuple(images), materials=tuple(materials))


def _images(own: list[Beside], side_files: SideFiles, there: tuple[Image, ...]) -> Iterator[tuple[TextureSlot, Image]]:
    """The images for a material's empty slots; roughness and metallic as the one image that glTF holds them in."""
    parts: dict[Kind, F32] = {}
    for beside in own:
        data = side_files.get(beside.file)
        if data is None:
            continue
        if beside.kind in ("roughness", "metallic"):
            parts[beside.kind] = read_pixels(data, beside.file).values
        else:
            yield beside.slot, read_image(data, beside.file, there)
    if parts:
        first = next(beside.file for beside in own if beside.kind in parts)
        stem = "_".join([PurePosixPath(first).stem, *(kind for kind in list(parts)[1:])])
        yield "metallic_roughness", encode(f"{stem}.png", to_bytes(pack_channels(_AS_GLTF, parts)))


def _with_map(material: Material, slot: TextureSlot, image: int, kinds: set[Kind]) -> Material:
    """The material with a map laid out as its others are, and the factor 1 for what maps of these kinds say."""
    like = next((texture for _, texture in material.textures), Texture(0))
    material = replace(material, textures=(*material.textures, (slot, replace(like, image=image, strength=1.0))))
    if slot == "base_color":
        return replace(material, base_color=(1.0, 1.0, 1.0, material.base_color[3]))
    if slot == "metallic_roughness":
        # A channel that no map gives is 1 in the image, and stays with its factor.
        roughness = 1.0 if {"roughness", "packed"} & kinds else material.roughness
        return replace(
            material, roughness=roughness, metallic=1.0 if {"metallic", "packed"} & kinds else material.metallic
        )
    return replace(material, emissive=(1.0, 1.0, 1.0)) if slot == "emissive" else material
