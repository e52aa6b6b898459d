"""What was decided about an image, done to its pixels."""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F32
from plindro.core.stations.textures.settings import HeightRules, MapChoice
from plindro.core.textures.heights import normals_from_height
from plindro.core.textures.pixels import as_rgba
from plindro.core.textures.rules import Border

_NO_DIRECTION = 1 / 64
"""Length of a normal below which 8 bits say nothing about where it points."""


@dataclass(frozen=True, slots=True)
class Edited:
    """Pixels, (H, W, C) from 0 to 1, and whether they are other than they came."""

    values: F32
    is_changed: bool


def edited(values: F32, choice: MapChoice | None, height: HeightRules | None, border: tuple[Border, Border]) -> Edited:
    """The pixels as they were decided, normals made of them where ``height`` says how."""
    result, changed = values, False
    if height is not None:
        across: Border = "wrap" if "wrap" in border else "clamp"
        result = normals_from_height(as_rgba(result)[..., 0], height.strength, height.shares, border=across)
        changed = True
    if choice is None:
        return Edited(result, changed)
    if choice.flip_green and result.shape[2] >= 3:
        result = with_green_over(result)
        changed = True
    if choice.unit and result.shape[2] >= 3:
        result, changed = with_unit_normals(result), True
    if choice.drop_alpha and result.shape[2] in (2, 4):
        result, changed = np.ascontiguousarray(result[..., :-1]), True
    if choice.one_channel and result.shape[2] >= 3:
        result, changed = np.ascontiguousarray(result[..., [0, 3] if result.shape[2] == 4 else [0]]), True
    return Edited(result, changed)


def with_green_over(values: F32) -> F32:
    """A normal map whose green points the other way."""
    result = values.copy()
    result[..., 1] = 1.0 - result[..., 1]
    return result


def with_unit_normals(values: F32) -> F32:
    """A normal map whose normals are as long as 1; those without a direction point straight up."""
    result = values.copy()
    vectors = values[..., :3] * 2.0 - 1.0
    lengths = np.linalg.norm(vectors, axis=-1, keepdims=True)
    straight = np.array([0.0, 0.0, 1.0], dtype=np.float32)
    unit = np.where(lengths > _NO_DIRECTION, vectors / np.maximum(lengths, _NO_DIRECTION), straight)
    result[..., :3] = unit / 2 + 0.5
    return result
