"""The textures that scanners name in comments of a PLY, as materials."""

from pathlib import PurePosixPath
from typing import NamedTuple

from plindro.core.files.obj.mtl import plain_material
from plindro.core.files.sidefiles import SideFiles
from plindro.core.files.source_images import SourceImages
from plindro.core.findings import Finding
from plindro.core.names import unique_names
from plindro.core.scene import Image, Material, Texture


class Textured(NamedTuple):
    """A material for each texture in their order, plain where it could not be read."""

    materials: tuple[Material, ...]
    images: tuple[Image, ...]
    findings: tuple[Finding, ...]


def read_textures(names: list[str], side_files: SideFiles) -> Textured:
    """The textures of these names beside a source; what is missing or no image is a finding."""
    materials: list[Material] = []
    images: list[Image] = []
    findings: list[Finding] = []
    source_images = SourceImages(images, findings)
    for title, name in zip(unique_names(PurePosixPath(name).stem for name in names), names, strict=True):
        number = source_images.number_of(name, title, side_files.get)
        if number is None:
            materials.append(plain_material(title))
        else:
            textured = (("base_color", Texture(number)),)
            materials.append(Material(title, metallic=0.0, roughness=0.8, textures=textured))  # type: ignore[arg-type]
    return Textured(tuple(materials), tuple(images), tuple(findings))
