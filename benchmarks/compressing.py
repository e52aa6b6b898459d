"""Block compression beside libraries in C++: the same images, read back by an independent decoder."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import bc7enc
import etcpak
import ispc_texcomp
import numpy as np
import quicktex
import texture2ddecoder
from numpy.typing import NDArray
from PIL import Image as Pillow
from PIL import ImageDraw
from quicktex.s3tc.bc1 import BC1Encoder
from quicktex.s3tc.bc3 import BC3Encoder
from quicktex.s3tc.bc4 import BC4Encoder
from quicktex.s3tc.bc5 import BC5Encoder

from benchmarks.timing import timed
from plindro.core.blocks.codecs import Codec
from plindro.core.blocks.effort import Quality
from plindro.core.blocks.encode import Encoding, encode
from plindro.core.files.pixels import read_pixels
from plindro.core.textures.pixels import as_rgba, to_bytes
from plindro.demo import paint

U8 = NDArray[np.uint8]
Encoder = Callable[[U8], bytes]
_LARGEST = 512
_SMALLER = 256
"""Pixels along a side where a library, or our best, takes seconds otherwise."""
_CHANNELS: dict[Codec, tuple[int, ...]] = {
    "bc1": (0, 1, 2), "bc3": (0, 1, 2, 3), "bc4": (0,), "bc5": (0, 1), "bc7": (0, 1, 2, 3)
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Rival:
    """Ours at a quality, beside a library's encoder."""

    codec: Codec
    quality: Quality
    name: str
    encoder: Encoder
    side: int = _LARGEST


def _made() -> Iterator[tuple[str, U8]]:
    """Images by code: painted maps, packed channels, normals, a gradient, line art, a cut-out, glass."""

    def rgba(color: NDArray[np.float64], alpha: NDArray[np.float64] | None = None) -> U8:
        opaque = np.ones(color.shape[:2]) if alpha is None else alpha
        return np.round(np.clip(np.dstack([color, opaque]), 0, 1) * 255).astype(np.uint8)

    iron, wood, brass = paint.iron(3, (0.6, 0.2, 0.1)), paint.wood(3), paint.brass(5)
    assert wood.height is not None
    assert wood.roughness is not None
    yield "iron", rgba(iron.color)
    yield "wood", rgba(wood.color)
    yield "brass", rgba(brass.color)
    cavity = 1 - 0.5 * wood.height / wood.height.max()
    yield "packed", rgba(np.dstack([cavity, wood.roughness, (paint.noise(5, 7) > 0.5).astype(float)]))
    yield "normals", rgba(paint.normal_map(wood.height, 2.6) / 255)
    rope = paint.rope(2)
    assert rope.height is not None
    yield "steep normals", rgba(paint.normal_map(rope.height, 5.0) / 255)
    y, x = np.mgrid[0:512, 0:512] / 511
    yield "gradient", rgba(np.dstack([x, 0.24 + 0.35 * y + 0.12 * x, 0.78 - 0.63 * x * y]))
    yield "lines", _lines()
    net = paint.netting()
    assert net.holes is not None
    yield "net", rgba(net.color, net.holes)
    glass = paint.glass(3)
    yield "glass", rgba(glass.color, 0.3 + 0.5 * paint.noise(4, 9))
    yield "noise", rgba(np.dstack([paint.noise(60, seed, octaves=3) for seed in (1, 2, 3)]))


def _lines() -> U8:
    picture = Pillow.new("RGBA", (1024, 1024), (250, 248, 240, 255))
    draw, rng = ImageDraw.Draw(picture), np.random.default_rng(1)
    for _ in range(60):
        ends, ink = rng.integers(0, 1024, 4).tolist(), (*rng.integers(0, 255, 3).tolist(), 255)
        draw.line(ends, fill=ink, width=int(rng.integers(1, 8)))
    for _ in range(30):
        draw.text(rng.integers(0, 1000, 2).tolist(), "Skerry Light", fill=(20, 30, 70, 255), font=paint.lettering(40))
    return np.asarray(picture.resize((512, 512), Pillow.Resampling.LANCZOS))


def _of_files(paths: tuple[str, ...]) -> Iterator[tuple[str, U8]]:
    """The middle of one's own images."""
    for path in paths:
        pixels = to_bytes(as_rgba(read_pixels(Path(path).read_bytes(), path).values))
        yield Path(path).stem, _middle(pixels, _LARGEST)


def _middle(pixels: U8, side: int) -> U8:
    height, width = (min(side, n // 4 * 4) for n in pixels.shape[:2])
    top, left = (pixels.shape[0] - height) // 2, (pixels.shape[1] - width) // 2
    return np.ascontiguousarray(pixels[top : top + height, left : left + width])


def _etcpak_bc7(uber: int, partitions: int) -> Encoder:
    options = etcpak.BC7CompressBlockParams()
    options.m_uber_level, options.m_max_partitions, options.m_perceptual = uber, partitions, False
    options.init_linear_weights()
    return lambda image: etcpak.compress_bc7(image.tobytes(), image.shape[1], image.shape[0], options)


def _quicktex(encoder: object) -> Encoder:
    def run(image: U8) -> bytes:
        texture = quicktex.RawTexture.frombytes(image.tobytes(), image.shape[1], image.shape[0])
        return encoder.encode(texture).tobytes()  # type: ignore[attr-defined,no-any-return]

    return run


def _rgbcx(form: str) -> Encoder:
    return lambda image: bc7enc.pack_dds(image.tobytes(), image.shape[1], image.shape[0], form, level=10)


def _ispc(image: U8) -> bytes:
    surface = ispc_texcomp.RGBASurface(image.tobytes(), image.shape[1], image.shape[0], image.shape[1] * 4)
    return ispc_texcomp.compress_blocks_bc7(surface, ispc_texcomp.BC7EncSettings.from_profile("alpha_basic"))


def _rivals() -> list[_Rival]:

    def plain(name: str) -> Encoder:
        return lambda image: getattr(etcpak, name)(image.tobytes(), image.shape[1], image.shape[0])

    return [
        _Rival("bc1", "fast", "etcpak", plain("compress_bc1")),
        _Rival("bc1", "good", "quicktex 5", _quicktex(BC1Encoder(5))),
        _Rival("bc1", "best", "rgbcx 10", _rgbcx("DXT1"), _SMALLER),
        _Rival("bc3", "fast", "etcpak", plain("compress_bc3")),
        _Rival("bc3", "good", "quicktex 5", _quicktex(BC3Encoder(5))),
        _Rival("bc3", "best", "rgbcx 10", _rgbcx("DXT5"), _SMALLER),
        _Rival("bc4", "good", "quicktex", _quicktex(BC4Encoder(0))),
        _Rival("bc5", "fast", "quicktex", _quicktex(BC5Encoder())),
        _Rival("bc5", "good", "quicktex", _quicktex(BC5Encoder())),
        _Rival("bc7", "fast", "etcpak fastest", _etcpak_bc7(0, 0)),
        _Rival("bc7", "good", "etcpak best", _etcpak_bc7(4, 64), _SMALLER),
        _Rival("bc7", "best", "ispc basic", _ispc, _SMALLER),
    ]


def _read(codec: Codec, data: bytes, image: U8) -> U8:
    height, width = image.shape[:2]
    read = getattr(texture2ddecoder, f"decode_{codec}")(data, width, height)
    return np.frombuffer(read, np.uint8).reshape(height, width, 4)[..., [2, 1, 0, 3]]


def _exact(codec: Codec, data: bytes, image: U8) -> NDArray[np.float64]:
    """BC4 and BC5 as the format asks: with fractions."""
    height, width = image.shape[:2]
    blocks = np.frombuffer(data, np.uint8).reshape(height // 4, width // 4, -1, 8).astype(np.int64)
    result = np.zeros((height, width, 4))
    for c in range(blocks.shape[2]):
        a, b = blocks[..., c, 0], blocks[..., c, 1]
        bits = sum(blocks[..., c, 2 + k] << (8 * k) for k in range(6))
        for i in range(16):
            code = (bits >> (3 * i)) & 7
            eight = ((8 - code) * a + (code - 1) * b) / 7
            six = np.where(code == 6, 0, np.where(code == 7, 255, ((6 - code) * a + (code - 1) * b) / 5))
            value = np.where(code == 0, a, np.where(code == 1, b, np.where(a > b, eight, six)))
            result[i // 4 :: 4, i % 4 :: 4, c] = value
    return result


def _psnr(image: U8, shown: NDArray[np.uint8] | NDArray[np.float64], channels: tuple[int, ...]) -> float:
    mean = float(((image[..., channels].astype(float) - shown[..., channels]) ** 2).mean())
    return float(10 * np.log10(255.0**2 / max(mean, 1e-2)))


def _degrees(image: U8, shown: NDArray[np.float64]) -> float:
    def normals(pixels: NDArray[np.float64]) -> NDArray[np.float64]:
        flat = pixels[..., :2] / 127.5 - 1
        up = np.sqrt(np.clip(1 - (flat**2).sum(axis=-1, keepdims=True), 0, None))
        vectors = np.concatenate([flat, up], axis=-1)
        return vectors / np.linalg.norm(vectors, axis=-1, keepdims=True)

    cosine = (normals(image.astype(float)) * normals(shown)).sum(axis=-1)
    return float(np.degrees(np.arccos(np.clip(cosine, -1, 1))).mean())


def compression(*paths: str) -> None:
    """Mean dB and megapixels a CPU second of one thread, ours and theirs, over all images; the least difference too."""
    images = dict(_of_files(paths)) if paths else dict(_made())
    print(f"{len(images)} images: {', '.join(images)}")
    for codec in _CHANNELS:
        encode(next(iter(images.values()))[:16, :16], Encoding(codec, "best"))
    for rival in _rivals():
        _compare(rival, {name: _middle(image, rival.side) for name, image in images.items()})
    if not paths:
        for name in ("normals", "steep normals"):
            ours = encode(images[name], Encoding("bc5", "good", by_angle=True), threads=1)
            theirs = _quicktex(BC5Encoder())(images[name])
            angles = [_degrees(images[name], _exact("bc5", data, images[name])) for data in (ours, theirs)]
            print(f"  BC5 {name}: {angles[0]:.3f}° beside {angles[1]:.3f}° of quicktex on the average")


def _compare(rival: _Rival, images: dict[str, U8]) -> None:
    channels = _CHANNELS[rival.codec]
    encoding = Encoding(rival.codec, rival.quality)
    found = []
    for name, image in images.items():
        ours, seconds = timed(lambda image=image: encode(image, encoding, threads=1))  # type: ignore[misc]
        theirs, others = timed(lambda image=image: rival.encoder(image))  # type: ignore[misc]
        quality = [_psnr(image, _read(rival.codec, data, image), channels) for data in (ours, theirs)]
        if rival.codec in ("bc4", "bc5"):
            quality += [_psnr(image, _exact(rival.codec, data, image), channels) for data in (ours, theirs)]
        found.append((quality, seconds, others, image.shape[0] * image.shape[1] / 1e6, name))
    quality = np.array([row[0] for row in found])
    pixels = sum(row[3] for row in found)
    speeds = [pixels / max(sum(row[k] for row in found), 1e-9) for k in (1, 2)]
    apart = quality[:, 0] - quality[:, 1]
    least = int(apart.argmin())
    exact = f", exact {np.mean(quality[:, 2] - quality[:, 3]):+.2f}" if quality.shape[1] > 2 else ""
    mean = quality.mean(axis=0)
    print(
        f"  {rival.codec.upper()} {rival.quality:4}  {mean[0]:6.2f} dB at {speeds[0]:5.2f} MP/s   "
        f"{rival.name:14} {mean[1]:6.2f} dB at {speeds[1]:6.2f} MP/s   {mean[0] - mean[1]:+.2f} dB{exact}, "
        f"least {apart[least]:+.2f} ({found[least][4]}), {(apart > -0.01).sum()} of {len(found)} no worse"
    )
