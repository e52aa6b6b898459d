"""Maps made of heights: normals where a height map stands for them, occlusion where there is none."""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import PurePosixPath

from plindro.core.errors import UnreadableFile
from plindro.core.files.pixels import read_pixels
from plindro.core.findings import Finding, Severity
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.scene import Image, Material
from plindro.core.stations.textures.settings import HeightRules, TexturesSettings
from plindro.core.textures.heights import normals_from_height, occlusion_from_height
from plindro.core.textures.images import encode
from plindro.core.textures.kinds import is_grey
from plindro.core.textures.pixels import as_rgba, to_bytes

_DEPTH = HeightRules().strength


def with_occlusion(prop: Prop, settings: TexturesSettings) -> Prop:
    """The prop whose materials have occlusion from the heights of their normals, where that is decided and none is
    there."""
    images, materials = list(prop.images), list(prop.materials)
    made: dict[int, int] = {}
    for number, material in enumerate(materials):
        normal = material.texture("normal")
        if normal is None or material.texture("occlusion") is not None:
            continue
        choice = settings.choice(prop.images[normal.image].name)
        if choice is None or choice.height is None or not choice.height.occlusion:
            continue
        if normal.image not in made:
            image = _occlusion(prop.images[normal.image], choice.height.strength)
            if image is None:
                continue
            made[normal.image] = len(images)
            images.append(image)
        own = replace(normal, image=made[normal.image], strength=1.0)
        materials[number] = replace(material, textures=(*material.textures, ("occlusion", own)))
    return replace(prop, images=tuple(images), materials=tuple(materials)) if made else prop


def with_heights_as_normals(prop: Prop, report: Report) -> Prop:
    """The prop without height maps in the place of normal maps: normals are made of them as the settings begin with."""
    images, rules = list(prop.images), HeightRules()
    for number in sorted({t.image for m in prop.materials if (t := m.texture("normal")) is not None}):
        image = prop.images[number]
        try:
            values = read_pixels(image.data, image.name).values
        except UnreadableFile:
            continue
        if is_grey(values[::4, ::4]):
            normals = normals_from_height(as_rgba(values)[..., 0], rules.strength, rules.shares)
            images[number] = encode(f"{PurePosixPath(image.name).stem}.png", to_bytes(normals))
            report.find(height_made_normal(image.name))
    return replace(prop, images=tuple(images))


def height_made_normal(name: str) -> Finding:
    """What is said of a height map of which normals were made unasked."""
    text = f"{name}: is a height map in a normal map's place; normals were made of it, {_DEPTH:.0f} px deep"
    return Finding("height-made-normal", Severity.WARNING, text)


def _occlusion(height: Image, strength: float) -> Image | None:
    try:
        values = as_rgba(read_pixels(height.data, height.name).values)[..., 0]
    except UnreadableFile:
        return None
    open_ = to_bytes(occlusion_from_height(values, strength))
    return encode(f"{PurePosixPath(height.name).stem}_occlusion.png", open_[:, :, None])


def normals_beside(prop: Prop, image: int) -> Iterator[Image]:
    """The normal maps of materials whose roughness an image holds, in the same UVs."""
    for material in prop.materials:
        rough, normal = material.texture("metallic_roughness"), material.texture("normal")
        if rough is not None and normal is not None and rough.image == image and _alike(material):
            yield prop.images[normal.image]


def _alike(material: Material) -> bool:
    rough, normal = material.texture("metallic_roughness"), material.texture("normal")
    return (
        rough is not None
        and normal is not None
        and (rough.channel, rough.transform) == (normal.channel, normal.transform)
    )
