"""One map to a GPU texture: resized, its mips made, each level in blocks; with what that cost."""

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np

from plindro.core.blocks.codecs import CODECS
from plindro.core.blocks.decode import decode
from plindro.core.blocks.encode import Encoding, encode
from plindro.core.files.gpu.dds import write_dds
from plindro.core.files.gpu.ktx2 import write_ktx2
from plindro.core.files.gpu.texture import GpuTexture
from plindro.core.mesh.mesh import F32
from plindro.core.report import Report
from plindro.core.textures.codec_choice import CHANNELS, alpha_of, codec_for
from plindro.core.textures.kinds import IN_LIGHT
from plindro.core.textures.mips import MipRules, mip_levels, mip_sizes, resized, roughened, shortening
from plindro.core.textures.pixels import rgba_bytes
from plindro.core.textures.quality import Quality as Figures
from plindro.core.textures.quality import compare
from plindro.core.textures.resampling import power_of_two
from plindro.core.textures.rules import Filter, Kind, Sizes, TextureSettings

_ROUGHNESS: dict[Kind, int] = {"packed": 1, "roughness": 0}
"""The channel that holds roughness."""
_COMPRESSING = 0.9
"""The share of the work that is done before the result is compared."""
TEXTURE_VERSION = 2
"""Raised whenever the same map and settings give other bytes."""


@dataclass(frozen=True, slots=True)
class MadeTexture:
    """A texture as it ships, and how its first level compares with what went in."""

    texture: GpuTexture
    data: bytes
    figures: Figures
    seconds: float


def make_texture(
    values: F32, settings: TextureSettings, report: Report | None = None, normals: F32 | None = None
) -> MadeTexture:
    """Make (H, W, C) values from 0 to 1 a GPU texture.

    ``normals`` are those of a normal map that lies over a map with roughness: what its mips lose in length, these gain
    in roughness. Raises ``Cancelled``.
    """
    report, started = report or Report(), time.perf_counter()
    alpha = alpha_of(values)
    codec = settings.codec or codec_for(settings.kind, alpha)
    has_holes = alpha in ("cutout", "smooth")
    cutoff = settings.cutoff if has_holes else None
    filter_of: Filter = "lanczos" if settings.mips == "none" else settings.mips
    rules = MipRules(filter_of, settings.border, cutoff, settings.sharpening)
    values = _fitted(values, settings, rules)
    if codec == "bc4" and settings.kind == "opacity" and has_holes:
        values = np.ascontiguousarray(values[..., -1:])
    encoding = Encoding(
        codec,
        settings.quality,
        perceptual=settings.perceptual and settings.kind in IN_LIGHT,
        by_angle=settings.kind == "normal",
        has_holes=codec == "bc1" and has_holes,
    )
    height, width = values.shape[:2]
    sizes = [(width, height)] if settings.mips == "none" else mip_sizes(width, height)
    whole, first = sum(w * h for w, h in sizes), rgba_bytes(values)
    share = _COMPRESSING * width * height / whole
    blocks = [encode(first, encoding, report.span(0.0, share))]
    if len(sizes) > 1:

        def pulse() -> None:
            report.step(share, "making mips")

        for level in _levels(values, settings.kind, rules, normals, pulse):
            share_of = _COMPRESSING * level.shape[0] * level.shape[1] / whole
            blocks.append(encode(rgba_bytes(level), encoding, report.span(share, share + share_of)))
            share += share_of
    is_srgb = settings.kind in IN_LIGHT and codec in ("bc1", "bc3", "bc7", "rgba8")
    texture = GpuTexture(codec, width, height, tuple(blocks), is_srgb, encoding.has_holes)
    data = write_dds(texture) if settings.container == "dds" else write_ktx2(texture, zstd=settings.zstd)
    shown = decode(blocks[0], codec, width, height)
    figures = compare(
        first, shown, settings.kind, CHANNELS[codec], cutoff if 3 in CHANNELS[codec] else None,
        lambda: report.step(_COMPRESSING, "comparing"),
    )  # fmt: skip
    report.step(1.0, f"compressed to {CODECS[codec].title}")
    return MadeTexture(texture, data, figures, time.perf_counter() - started)


def _levels(values: F32, kind: Kind, rules: MipRules, normals: F32 | None, pulse: Callable[[], None]) -> Iterator[F32]:
    """The mips; roughened by those of the normals, level by level of one size."""
    lengths = {}
    if normals is not None and kind in _ROUGHNESS:
        lengths = {length.shape: length for length in shortening(normals, rules, pulse)}
    for level in mip_levels(values, kind, rules, pulse):
        if level.shape[:2] in lengths:
            at = min(_ROUGHNESS[kind], level.shape[2] - 1)
            level[..., at] = roughened(level[..., at], lengths[level.shape[:2]])
        yield level


def _fitted(values: F32, settings: TextureSettings, rules: MipRules) -> F32:
    """The values at the size that they should have."""
    height, width = values.shape[:2]
    size = fitted_size(width, height, settings.sizes, settings.largest)
    return values if size == (width, height) else resized(values, settings.kind, *size, replace(rules, cutoff=None))


def fitted_size(width: int, height: int, sizes: Sizes, largest: int) -> tuple[int, int]:
    """The size that a map of so many pixels gets: the next power of two or its own, no side above ``largest``."""
    if sizes == "power-of-two":
        return power_of_two(width, largest), power_of_two(height, largest)
    while max(width, height) > largest:
        width, height = max(width // 2, 1), max(height // 2, 1)
    return width, height
