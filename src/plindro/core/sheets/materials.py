"""A material as a sheet takes it over: one transform for all its maps, one size in pixels, and what it says where it
has no map."""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F64
from plindro.core.scene import Image, Material, Texture

_UNTEXTURED = 64
"""Pixels along a side that a material without a texture counts as."""
_CLAMP = 33071


@dataclass(frozen=True, slots=True)
class Painted:
    """``width``, ``height`` of its largest map; ``transform`` (2, 3) what its UVs go through; ``repeats`` whether its
    maps go on beyond their borders."""

    width: int
    height: int
    transform: F64
    repeats: bool


def uv_matrix(texture: Texture) -> F64:
    """(2, 3) the transform of a texture: scaled, turned and moved, as KHR_texture_transform says."""
    values = dict(texture.transform)
    (ox, oy), (sx, sy) = values.get("offset", (0.0, 0.0)), values.get("scale", (1.0, 1.0))
    angle = float(values.get("rotation", 0.0))
    cosine, sine = np.cos(angle), np.sin(angle)
    return np.array([[cosine * sx, sine * sy, ox], [-sine * sx, cosine * sy, oy]])


def read_painted(material: Material, images: tuple[Image, ...]) -> Painted | str:
    """How a material is painted; a sentence where a sheet cannot take it over."""
    textures = [texture for _, texture in material.textures]
    if any(texture.channel != 0 for texture in textures):
        return f"{material.name} reads another channel than 0"
    if not textures:
        return Painted(_UNTEXTURED, _UNTEXTURED, np.eye(2, 3), True)
    transforms = [uv_matrix(texture) for texture in textures]
    if any(not np.allclose(transforms[0], other) for other in transforms[1:]):
        return f"{material.name} moves its maps each its own way"
    largest = max((images[texture.image] for texture in textures), key=lambda image: image.width * image.height)
    repeats = all(code != _CLAMP for texture in textures for code in texture.wrap)
    return Painted(largest.width, largest.height, transforms[0], repeats)
