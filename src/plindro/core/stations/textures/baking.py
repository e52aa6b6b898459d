"""What a material says beside its maps, baked into them: factors, strengths, and one transform of its UVs."""

from dataclasses import replace
from pathlib import PurePosixPath

import numpy as np

from plindro.core.files.pixels import read_pixels
from plindro.core.mesh.mesh import F32, F64, Mesh
from plindro.core.numeric.srgb import to_linear, to_srgb
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.scene import Image, Material, Texture, TextureSlot
from plindro.core.sheets.materials import uv_matrix
from plindro.core.stations.textures.vertex_colors import with_vertex_colors_baked
from plindro.core.textures.images import encode
from plindro.core.textures.pixels import to_bytes

_ONES = (1.0, 1.0, 1.0, 1.0)


def with_all_baked(prop: Prop, report: Report) -> Prop:
    """The prop whose maps alone say how it looks: factors are 1, UVs are where textures are taken from.

    Materials without a map keep their factors, which every engine knows.
    """
    report.step(0.0, "baking factors into maps")
    shop = _Shop(prop)
    materials = tuple(shop.baked(material) for material in prop.materials)
    prop = replace(prop, materials=materials, images=tuple(shop.images))
    return with_vertex_colors_baked(_with_transforms(prop), report)


class _Shop:
    """Makes each changed image once."""

    def __init__(self, prop: Prop) -> None:
        self.images: list[Image] = list(prop.images)
        self._made: dict[tuple[int, TextureSlot, tuple[float, ...]], int] = {}

    def baked(self, material: Material) -> Material:
        changes: dict[TextureSlot, Texture] = {}
        for slot, texture in material.textures:
            factors = _factors(material, slot, texture)
            if any(factor != 1.0 for factor in factors):
                changes[slot] = replace(texture, image=self._image(texture.image, slot, factors), strength=1.0)
        if not changes:
            return material
        textures = tuple((slot, changes.get(slot, texture)) for slot, texture in material.textures)
        material = replace(material, textures=textures)
        if "base_color" in changes:
            material = replace(material, base_color=_ONES)
        if "metallic_roughness" in changes:
            material = replace(material, metallic=1.0, roughness=1.0)
        if "emissive" in changes:
            material = replace(material, emissive=(1.0, 1.0, 1.0))
        return material

    def _image(self, index: int, slot: TextureSlot, factors: tuple[float, ...]) -> int:
        key = (index, slot, factors)
        if key not in self._made:
            image = self.images[index]
            values = _multiplied(read_pixels(image.data, image.name).values, slot, factors)
            name = f"{PurePosixPath(image.name).stem}_baked{len(self._made) or ''}.png"
            self.images.append(encode(name, to_bytes(values)))
            self._made[key] = len(self.images) - 1
        return self._made[key]


def _factors(material: Material, slot: TextureSlot, texture: Texture) -> tuple[float, ...]:
    """What a slot's map is multiplied by; of normals and occlusion their strength."""
    if slot == "base_color":
        return material.base_color
    if slot == "metallic_roughness":
        return (1.0, material.roughness, material.metallic)
    return material.emissive if slot == "emissive" else (texture.strength,)


def _multiplied(values: F32, slot: TextureSlot, factors: tuple[float, ...]) -> F32:
    """The map with its factors in it, as a shader would multiply them."""
    if values.shape[2] < 3:
        color = np.repeat(values[..., :1], 3, axis=-1)
        values = np.concatenate([color, values[..., 1:]], axis=-1)
    result = values.astype(np.float32, copy=True)
    if slot in ("base_color", "emissive"):
        result[..., :3] = to_srgb(to_linear(result[..., :3]) * np.array(factors[:3], np.float32))
        if len(factors) > 3 and factors[3] != 1.0:
            alpha = result[..., 3:] if result.shape[2] > 3 else np.ones_like(result[..., :1])
            result = np.concatenate([result[..., :3], alpha * np.float32(factors[3])], axis=-1)
    elif slot == "metallic_roughness":
        result[..., :3] *= np.array(factors, np.float32)
    elif slot == "occlusion":
        result[..., 0] = 1.0 + np.float32(factors[0]) * (result[..., 0] - 1.0)
    else:
        vectors = result[..., :3] * 2.0 - 1.0
        vectors[..., :2] *= np.float32(factors[0])
        length = np.linalg.norm(vectors, axis=-1, keepdims=True)
        result[..., :3] = vectors / np.maximum(length, 1e-6) * 0.5 + 0.5
    return np.clip(result, 0.0, 1.0)


def _with_transforms(prop: Prop) -> Prop:
    """The prop with transforms of textures moved into its UVs, where all textures of a material have the same one."""
    moves: dict[int, F64] = {}
    materials = list(prop.materials)
    for number, material in enumerate(prop.materials):
        found = {(texture.channel, texture.transform) for texture in material.all_textures()}
        if len(found) != 1:
            continue
        channel, transform = found.pop()
        if not transform or channel != 0 or any(key == "texCoord" for key, _ in transform):
            continue
        moves[number] = uv_matrix(Texture(0, transform=transform))
        materials[number] = material.with_textures(lambda texture: replace(texture, transform=()))
    if not moves:
        return prop
    levels = tuple(replace(level, mesh=_moved(level.mesh, moves)) for level in prop.levels)
    return replace(prop, materials=tuple(materials), mesh=_moved(prop.mesh, moves), levels=levels)


def _moved(mesh: Mesh, moves: dict[int, F64]) -> Mesh:
    """The mesh with channel 0 of some materials' faces moved as KHR_texture_transform says."""
    if not mesh.uvs:
        return mesh
    uv = mesh.uvs[0].astype(np.float64)
    of_corner = np.repeat(mesh.face_material, np.diff(mesh.face_start))
    for material, move in moves.items():
        rows = of_corner == material
        uv[rows] = uv[rows] @ move[:, :2].T + move[:, 2]
    return replace(mesh, uvs=(uv.astype(np.float32), *mesh.uvs[1:]))
