"""Smaller textures for far levels: halved so often, averaged in light where they are colours, unit where normals."""

from dataclasses import replace
from pathlib import PurePosixPath

import numpy as np
from PIL import Image as Pillow

from plindro.core.files.images import encode_png, open_image
from plindro.core.mesh.mesh import F64
from plindro.core.prop import Prop
from plindro.core.scene import Image, Material, Texture
from plindro.core.stations.levels.settings import LevelsSettings

_COLORS = ("base_color", "emissive")


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
    texels = np.asarray(open_image(image, "RGBA"), np.float64) / 255.0
    has_alpha = bool((texels[..., 3] < 1.0).any())
    if kind == "color":
        texels[..., :3] = _to_linear(texels[..., :3]) * texels[..., 3:]
    width, height = max(image.width >> step, 1), max(image.height >> step, 1)
    # Whole blocks of pixels where they fit; what an odd size leaves over is averaged too.
    bands = [
        np.asarray(Pillow.fromarray(texels[..., k].astype(np.float32)).resize((width, height), Pillow.Resampling.BOX))
        for k in range(4)
    ]
    small = np.stack(bands, axis=-1).astype(np.float64)
    if kind == "color":
        small[..., :3] = _to_srgb(small[..., :3] / np.maximum(small[..., 3:], 1e-6))
    elif kind == "normal":
        vectors = 2.0 * small[..., :3] - 1.0
        length = np.linalg.norm(vectors, axis=-1, keepdims=True)
        small[..., :3] = 0.5 + 0.5 * vectors / np.maximum(length, 1e-6)
    rounded = (np.clip(small, 0.0, 1.0) * 255.0 + 0.5).astype(np.uint8)
    picture = Pillow.fromarray(rounded if has_alpha else np.ascontiguousarray(rounded[..., :3]))
    name = f"{PurePosixPath(image.name).stem}_T{step}.png"
    return Image(name, encode_png(picture), "image/png", width, height, smaller_of=image.name)


def _to_linear(values: F64) -> F64:
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4)


def _to_srgb(values: F64) -> F64:
    return np.where(values <= 0.0031308, values * 12.92, 1.055 * np.maximum(values, 1e-9) ** (1 / 2.4) - 0.055)
