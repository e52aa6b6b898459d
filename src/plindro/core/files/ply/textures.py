"""The textures that scanners name in comments of a PLY, as materials."""

from pathlib import PurePosixPath
from typing import NamedTuple

from plindro.core.errors import UnreadableFile
from plindro.core.files.images import read_image
from plindro.core.files.obj.mtl import plain_material
from plindro.core.files.sidefiles import SideFiles
from plindro.core.findings import Finding, Severity
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
    for title, name in zip(unique_names(PurePosixPath(name).stem for name in names), names, strict=True):
        materials.append(plain_material(title))
        data = side_files.get(name)
        if data is None:
            text = f"its texture '{name}' is missing; put it beside the file"
            findings.append(Finding("missing-texture", Severity.WARNING, text))
            continue
        try:
            images.append(read_image(data, name, images))
        except UnreadableFile as error:
            findings.append(Finding("unreadable-texture", Severity.WARNING, str(error)))
            continue
        texture = (("base_color", Texture(len(images) - 1)),)
        materials[-1] = Material(title, metallic=0.0, roughness=0.8, textures=texture)  # type: ignore[arg-type]
    return Textured(tuple(materials), tuple(images), tuple(findings))
