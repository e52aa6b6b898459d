"""Smaller textures for far levels: halved so often, averaged in light where they are colours, unit where normals."""

from dataclasses import replace
from pathlib import PurePosixPath

import numpy as np

from plindro.core.files.pixels import encode_deep, read_pixels
from plindro.core.prop import Prop
from plindro.core.scene import Image, Material, Texture
from plindro.core.stations.levels.settings import LevelsSettings
from plindro.core.textures.images import encode
from plindro.core.textures.mips import MipRules, resized
from plindro.core.textures.pixels import to_bytes
from plindro.core.textures.rules import Kind

_COLORS = ("base_color", "emissive")
_KINDS: dict[str, Kind] = {"color": "color", "normal": "normal", "other": "packed"}


def with_texture_steps(prop: Prop, settings: LevelsSettings) -> Prop:
    """The prop whose levels have materials of their own where their textures are a step smaller.

    Those are named after the material and the step, ``brass_T2``; levels of one step share them.
    """
    if not any(settings.levels[level.target].texture_step for level in prop.levels[1:]):
        return prop
    shop = _Shop(prop)
    levels = [prop.levels[0]]
    for level in prop.levels[1:]:
        step = settings.levels[level.target].texture_step
        mesh = level.mesh
        if step:
            number = np.arange(len(prop.materials), dtype=np.int32)
            for material in np.unique(mesh.face_material).tolist():
                number[material] = shop.material(material, step)
            mesh = replace(mesh, face_material=number[mesh.face_material])
        levels.append(replace(level, mesh=mesh))
    return replace(prop, levels=tuple(levels), materials=tuple(shop.materials), images=tuple(shop.images))


class _Shop:
    """Makes each smaller image and material once."""

    def __init__(self, prop: Prop) -> None:
        self.materials: list[Material] = list(prop.materials)
        self.images: list[Image] = list(prop.images)
        self._made: dict[tuple[int, int], int] = {}
        self._smaller: dict[tuple[int, int, str], int] = {}

    def material(self, index: int, step: int) -> int:
        """The number of a material with textures ``step`` steps smaller; the same where it has none."""
        material = self.materials[index]
        if not material.all_textures():
            return index
        if (index, step) not in self._made:
            kinds = {texture: slot for slot, texture in material.textures}

            def smaller(texture: Texture) -> Texture:
                slot = kinds.get(texture, "other")
                kind = "color" if slot in _COLORS else "normal" if slot == "normal" else "other"
                return replace(texture, image=self._image(texture.image, step, kind))

            self.materials.append(replace(material.with_textures(smaller), name=f"{material.name}_T{step}"))
            self._made[index, step] = len(self.materials) - 1
        return self._made[index, step]

    def _image(self, index: int, step: int, kind: str) -> int:
        key = (index, step, kind)
        if key not in self._smaller:
            self.images.append(smaller_image(self.images[index], step, kind))
            self._smaller[key] = len(self.images) - 1
        return self._smaller[key]


def smaller_image(image: Image, step: int, kind: str) -> Image:
    """The image halved ``step`` times by averaging, never below one pixel; ``kind``: color, normal or other."""
    pixels = read_pixels(image.data, image.name)
    width, height = max(image.width >> step, 1), max(image.height >> step, 1)
    small = resized(pixels.values, _KINDS[kind], width, height, MipRules("box"))
    name = f"{PurePosixPath(image.name).stem}_T{step}.png"
    if pixels.bits > 8:
        return Image(name, encode_deep(small, name)[1], "image/png", width, height, smaller_of=image.name)
    return replace(encode(name, to_bytes(small)), smaller_of=image.name)
