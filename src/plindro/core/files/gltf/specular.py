"""Specular and glossiness, as older glTF files have their materials, turned into metal and roughness.

The way that the description of KHR_materials_pbrSpecularGlossiness (Khronos, 2017) gives: of each place that metal is
found under which a colour and a reflection of 0.04 for all that is no metal come nearest to both of its colours.
"""

from typing import NamedTuple

import numpy as np
from PIL import Image as Pillow

from plindro.core.files.images import open_image
from plindro.core.mesh.mesh import F32
from plindro.core.numeric.srgb import to_linear, to_srgb
from plindro.core.scene import Image
from plindro.core.textures.images import encode
from plindro.core.textures.pixels import to_bytes

EXTENSION = "KHR_materials_pbrSpecularGlossiness"
_REFLECTED, _SURELY = 0.04, 0.0404
"""Share of light that what is no metal reflects; and up to which what is black, and may be both, is taken for none."""
_LEAST = 1e-6


class Values(NamedTuple):
    """What a material says: ``diffuse`` RGBA and ``specular`` RGB in linear light, ``glossiness``."""

    diffuse: tuple[float, ...]
    specular: tuple[float, ...]
    glossiness: float


class Pictures(NamedTuple):
    """Base colour, and roughness in green with metal in blue, of the same size."""

    color: Image
    surface: Image


def is_plain(specular: tuple[float, ...]) -> bool:
    """Whether nothing that reflects so little is a metal."""
    return max(specular) <= _REFLECTED


def to_metal(diffuse: F32, specular: F32) -> tuple[F32, F32]:
    """Base colours (..., 3) and how far they are metals (...) of diffuse and specular ones, all linear, 0 to 1."""
    left = 1.0 - specular.max(axis=-1)
    metal = _metal(_brightness(diffuse), _brightness(specular), left)
    share = metal[..., None]
    matte = diffuse * (left / (1.0 - _REFLECTED) / np.maximum(1.0 - metal, _LEAST))[..., None]
    shiny = (specular - _REFLECTED * (1.0 - share)) / np.maximum(share, _LEAST)
    base = matte + (shiny - matte) * share**2
    return np.clip(base, 0.0, 1.0).astype(np.float32), metal.astype(np.float32)


def _brightness(color: F32) -> F32:
    brightness: F32 = np.sqrt(color**2 @ np.array([0.299, 0.587, 0.114], np.float32))
    return brightness


def _metal(diffuse: F32, specular: F32, left: F32) -> F32:
    b = diffuse * left / (1.0 - _REFLECTED) + specular - 2.0 * _REFLECTED
    c = _REFLECTED - specular
    root = np.sqrt(np.maximum(b * b - 4.0 * _REFLECTED * c, 0.0))
    metal: F32 = np.where(specular <= _SURELY, 0.0, np.clip((root - b) / (2.0 * _REFLECTED), 0.0, 1.0))
    return metal


def bake(name: str, values: Values, diffuse: Image | None, specular: Image | None, *, has_alpha: bool) -> Pictures:
    """Pictures of a material of which one at least has a picture: diffuse colours, or specular ones with glossiness as
    alpha; the smaller is brought to the size of the larger."""
    sizes = [(image.width, image.height) for image in (diffuse, specular) if image is not None]
    size = max(sizes, key=lambda size: size[0] * size[1])
    matte, shiny = _pixels(diffuse, size), _pixels(specular, size)
    base, metal = to_metal(
        to_linear(matte[..., :3]) * np.array(values.diffuse[:3], np.float32),
        to_linear(shiny[..., :3]) * np.array(values.specular, np.float32),
    )
    color = to_srgb(base)
    if has_alpha:
        color = np.concatenate([color, matte[..., 3:] * np.float32(values.diffuse[3])], axis=2)
    rough = 1.0 - shiny[..., 3] * np.float32(values.glossiness)
    surface = np.stack([np.ones_like(rough), rough, metal], axis=2)
    return Pictures(
        encode(f"{name}_color.png", to_bytes(color)), encode(f"{name}_roughness_metallic.png", to_bytes(surface))
    )


def _pixels(image: Image | None, size: tuple[int, int]) -> F32:
    """(H, W, 4) from 0 to 1; white where there is no picture."""
    if image is None:
        return np.ones((size[1], size[0], 4), np.float32)
    picture = open_image(image, "RGBA")
    if picture.size != size:
        picture = picture.resize(size, Pillow.Resampling.BICUBIC)
    return np.asarray(picture, np.float32) / np.float32(255.0)
