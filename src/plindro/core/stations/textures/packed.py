"""Maps put together for an engine: one packed texture a material and layout of the destination."""

import hashlib
from collections.abc import Iterator
from typing import Any

import numpy as np

from plindro.core.files.pixels import read_pixels
from plindro.core.findings import Finding, Severity
from plindro.core.mesh.mesh import F32
from plindro.core.names import clean_name
from plindro.core.prop import GpuFile, Prop
from plindro.core.report import Report
from plindro.core.scene import Image, Material
from plindro.core.station import Context
from plindro.core.stations.textures.facts import TextureFacts, made_facts
from plindro.core.stations.textures.settings import TexturesSettings
from plindro.core.textures.channels import pack_channels
from plindro.core.textures.kept import ready_texture, texture_key
from plindro.core.textures.layouts import Packing
from plindro.core.textures.making import make_texture
from plindro.core.textures.mips import mip_sizes
from plindro.core.textures.pixels import as_rgba
from plindro.core.textures.rules import Container, Kind, TextureSettings


def pack_materials(
    prop: Prop,
    images: tuple[Image, ...],
    settings: TexturesSettings,
    container: Container | None,
    context: Context,
    report: Report,
) -> list[tuple[GpuFile, TextureFacts]]:
    """The packed textures of the materials in use; none where images ship as they came."""
    layouts = (*context.destination.textures.packings, *settings.packings)
    if container is None or not layouts:
        return []
    meshes = [level.mesh for level in prop.levels] or [prop.mesh]
    used = sorted({int(m) for mesh in meshes for m in np.unique(mesh.face_material)})
    found = []
    for number in used:
        maps = dict(_maps_of(prop.materials[number], images))
        for layout in layouts:
            if any(source is not None and source.kind in maps for source in layout.sources()):
                found.append(_packed(prop.materials[number], layout, maps, settings, container, context, report))
            elif maps:
                text = f"material '{prop.materials[number].name}': has none of the maps that '{layout.name}' packs"
                report.find(Finding("packing-without-maps", Severity.INFO, text))
    return found


def _maps_of(material: Material, images: tuple[Image, ...]) -> Iterator[tuple[Kind, F32]]:
    """A material's maps by kind, the channels that glTF packs taken apart, factors multiplied in."""
    for slot, texture in material.textures:
        values = as_rgba(read_pixels(images[texture.image].data, images[texture.image].name).values)
        if slot == "base_color":
            yield "color", values
            yield "opacity", values[..., 3:] * np.float32(material.base_color[3])
        elif slot == "metallic_roughness":
            yield "roughness", values[..., 1:2] * np.float32(material.roughness)
            yield "metallic", values[..., 2:3] * np.float32(material.metallic)
        elif slot == "occlusion":
            yield "occlusion", values[..., :1]
        elif slot == "normal":
            yield "normal", values
        else:
            yield "emissive", values


def _packed(
    material: Material,
    layout: Packing,
    maps: dict[Kind, F32],
    settings: TexturesSettings,
    container: Container,
    context: Context,
    report: Report,
) -> tuple[GpuFile, TextureFacts]:
    asked = context.destination.textures
    values = pack_channels(layout, maps)
    codec = settings.codecs.get("packed") or asked.codecs.get("packed")
    rules = TextureSettings(
        "packed", codec, settings.quality, False, settings.mips, sizes=asked.sizes,
        largest=min(settings.largest, asked.largest), sharpening=settings.sharpening, container=container,
        zstd=asked.zstd,
    )  # fmt: skip
    digest = hashlib.sha256(values.tobytes()).hexdigest()
    key = texture_key(digest, layout.model_dump_json(), rules)
    ready = ready_texture(key, context.textures, lambda: make_texture(values, rules, report.span(1.0, 1.0)))
    path = asked.path(clean_name(f"{material.name}_{layout.name}"), "packed", key, container)
    height, width, channels = values.shape
    known: dict[str, Any] = {
        "slots": [],
        "materials": [material.name],
        "alpha": "none",
        "trials": [],
        "faults": [],
        "ships_as": "",
    }
    row = TextureFacts(
        image=f"{material.name}_{layout.name}",
        digest=digest,
        kind="packed",
        by="choice",
        width=width,
        height=height,
        channels=channels,
        bits=8,
        bytes=0,
        gpu_bytes=sum(w * h * 4 for w, h in mip_sizes(width, height)),
        made=made_facts(path, ready),
        **known,
    )
    return GpuFile(None, path, container, ready.data), row
