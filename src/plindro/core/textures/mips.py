"""A map's mip levels: colours averaged as light, normals kept at length one, cut-outs kept as dense as they were."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

import numpy as np

from plindro.core.mesh.mesh import F32
from plindro.core.numeric.srgb import to_linear, to_srgb
from plindro.core.textures.kinds import IN_LIGHT
from plindro.core.textures.resampling import halved, nobody, resampled
from plindro.core.textures.rules import Border, Filter, Kind

_STEPS = 24
"""Of the bisection for a cut-out's alpha: finer than 8 bits."""


@dataclass(frozen=True, slots=True)
class MipRules:
    """How mips are made.

    cutoff : the alpha from which a cut-out's pixel is there, whose share of the picture is then kept
    sharpening : how much of what the next blur would take is added back
    """

    filter: Filter = "lanczos"
    border: tuple[Border, Border] = ("wrap", "wrap")
    cutoff: float | None = None
    sharpening: float = 0.0


def mip_sizes(width: int, height: int) -> list[tuple[int, int]]:
    """The sizes of all levels, the whole first, one pixel last."""
    sizes = [(width, height)]
    while sizes[-1] != (1, 1):
        sizes.append(halved(*sizes[-1]))
    return sizes


def resized(values: F32, kind: Kind, width: int, height: int, rules: MipRules) -> F32:
    """(height, width, C) of a map's (H, W, C) values from 0 to 1."""
    space = partial(_to_space, kind=kind)
    return _from_space(resampled(values, width, height, rules.filter, rules.border, space), kind)


def mip_levels(values: F32, kind: Kind, rules: MipRules, pulse: Callable[[], None] = nobody) -> Iterator[F32]:
    """The (H, W, C) levels of a map below the whole, each made from the one before as it was before rounding.

    ``pulse`` is called every so often, and may raise.
    """
    wanted = _coverage(values, rules.cutoff) if rules.cutoff is not None and values.shape[2] == 4 else None
    space = values
    into: Callable[[F32], F32] = partial(_to_space, kind=kind)
    for width, height in mip_sizes(values.shape[1], values.shape[0])[1:]:
        space = resampled(space, width, height, rules.filter, rules.border, into, pulse)
        into = np.asarray
        level = _from_space(_sharpened(space, rules), kind)
        if wanted is not None and rules.cutoff is not None:
            level = _as_dense(level, rules.cutoff, wanted)
        yield level


def _to_space(values: F32, kind: Kind) -> F32:
    """What may be averaged: light weighed by how much of it is there, vectors, or the numbers themselves."""
    result = values.astype(np.float32, copy=True)
    if kind in IN_LIGHT:
        colors = min(values.shape[2], 3) if values.shape[2] != 2 else 1
        result[..., :colors] = to_linear(result[..., :colors])
        if values.shape[2] in (2, 4):
            # What lies under full transparency keeps a trace, or it would be lost for what shows beside it.
            result[..., :colors] *= np.maximum(result[..., -1:], 1.0 / 4096.0)
    elif kind == "normal":
        result[..., :3] = result[..., :3] * 2.0 - 1.0
    return result


def _from_space(space: F32, kind: Kind) -> F32:
    result = space.copy()
    if kind in IN_LIGHT:
        colors = min(space.shape[2], 3) if space.shape[2] != 2 else 1
        if space.shape[2] in (2, 4):
            result[..., :colors] /= np.maximum(result[..., -1:], 1.0 / 4096.0)
        result[..., :colors] = to_srgb(result[..., :colors])
    elif kind == "normal":
        vectors = result[..., :3]
        length = np.linalg.norm(vectors, axis=-1, keepdims=True)
        out = np.array([0.0, 0.0, 1.0], np.float32)
        result[..., :3] = np.where(length > 1e-6, vectors / np.maximum(length, 1e-6), out) * 0.5 + 0.5
    return np.clip(result, 0.0, 1.0).astype(np.float32)


def _sharpened(space: F32, rules: MipRules) -> F32:
    height, width, _ = space.shape
    if rules.sharpening <= 0.0 or min(width, height) < 4:
        return space
    blurred = resampled(
        resampled(space, *halved(width, height), "box", rules.border), width, height, "mitchell", rules.border
    )
    return (space + np.float32(rules.sharpening) * (space - blurred)).astype(np.float32)


def _coverage(values: F32, cutoff: float) -> float:
    return float((values[..., -1] >= cutoff).mean())


def _as_dense(level: F32, cutoff: float, wanted: float) -> F32:
    """The level with its alpha multiplied so that as much of it is there as of the whole (Castaño 2010)."""
    low, high = 0.0, 16.0
    for _ in range(_STEPS):
        middle = (low + high) / 2
        if float((level[..., -1] * middle >= cutoff).mean()) < wanted:
            low = middle
        else:
            high = middle
    result = level.copy()
    result[..., -1] = np.clip(level[..., -1] * high, 0.0, 1.0)
    return result


def shortening(values: F32, rules: MipRules, pulse: Callable[[], None] = nobody) -> Iterator[F32]:
    """(H, W) the mean length of the normals that each level's pixels stand for: the shorter, the rougher it looks."""
    space = values
    into: Callable[[F32], F32] = _unit_vectors
    for width, height in mip_sizes(values.shape[1], values.shape[0])[1:]:
        space = resampled(space, width, height, "box", rules.border, into, pulse)
        into = np.asarray
        yield np.clip(np.linalg.norm(space, axis=-1), 1e-3, 1.0).astype(np.float32)


def _unit_vectors(rows: F32) -> F32:
    vectors = rows[..., :3] * 2.0 - 1.0
    result: F32 = (vectors / np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-6)).astype(np.float32)
    return result


def roughened(roughness: F32, length: F32) -> F32:
    """Roughness (H, W) with the variance of normals that averaging lost (Toksvig 2005, for a GGX lobe).

    A mean vector's length r belongs to a lobe of variance (1 - r) / r, which adds to the square of alpha.
    """
    alpha = roughness**2
    wider = np.sqrt(np.clip(alpha**2 + 2.0 * (1.0 - length) / length, 0.0, 1.0))
    return np.sqrt(wider).astype(np.float32)
