"""Encoded images to numbers and back; 16 bits and floats are kept until the last step."""

import io
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Any

import imagecodecs
import numpy as np
import OpenEXR
from numpy.typing import NDArray
from PIL import Image as Pillow
from PIL import UnidentifiedImageError

from plindro.core.errors import UnreadableFile
from plindro.core.files.limits import check_image
from plindro.core.mesh.mesh import F32

_EXR = b"\x76\x2f\x31\x01"
_RADIANCE = (b"#?RADIANCE", b"#?RGBE")
_TIFF = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
_PNG = b"\x89PNG\r\n\x1a\n"
_DEEP_PNG = 16
_PLAIN = ("L", "LA", "RGB", "RGBA")


@dataclass(frozen=True, slots=True)
class Pixels:
    """An image's (H, W, C) values from 0 to 1, of 1 to 4 channels, and the bits a channel that it came with."""

    values: F32
    bits: int

    @property
    def width(self) -> int:
        return int(self.values.shape[1])

    @property
    def height(self) -> int:
        return int(self.values.shape[0])

    @property
    def channels(self) -> int:
        return int(self.values.shape[2])


def may_be_deep(data: bytes) -> bool:
    """Whether bytes are of a format, not PNG, that often has more than 8 bits a channel."""
    return data.startswith((_EXR, *_RADIANCE, *_TIFF))


def read_pixels(data: bytes, name: str) -> Pixels:
    """The pixels of a PNG, JPEG, TGA, TIFF, WebP, BMP, EXR or Radiance file.

    Light of more than 1 stays as it is. Raises ``UnreadableFile`` where the bytes are no such image, or a damaged one.
    """
    try:
        if data.startswith(_EXR):
            return _of_numbers(_read_exr(data), name)
        if data.startswith(_RADIANCE):
            return _of_numbers(imagecodecs.rgbe_decode(data), name)
        if data.startswith(_TIFF):
            # Few files are of this format, and every start would take twice as long to load it as all images.
            from tifffile import imread

            return _of_numbers(imread(io.BytesIO(data)), name)
        if data.startswith(_PNG) and len(data) > 24 and data[24] == _DEEP_PNG:
            return _of_numbers(imagecodecs.png_decode(data), name)
        return _read_plain(data, name)
    except UnreadableFile:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, RuntimeError, KeyError, IndexError) as error:
        raise UnreadableFile(f"{name}: is no image that can be read; save it again as PNG") from error


def _read_plain(data: bytes, name: str) -> Pixels:
    with Pillow.open(io.BytesIO(data)) as picture:
        check_image(name, picture.size, ())
        if picture.mode in ("I;16", "I;16B", "I"):
            return _of_numbers(np.asarray(picture).astype(np.uint16), name)
        if picture.mode not in _PLAIN:
            has_alpha = "A" in picture.getbands() or "transparency" in picture.info
            return _of_numbers(np.asarray(picture.convert("RGBA" if has_alpha else "RGB")), name)
        return _of_numbers(np.asarray(picture), name)


def _read_exr(data: bytes) -> NDArray[Any]:
    """The channels of an EXR that are colours, in their order, else all."""
    with OpenEXR.File(io.BytesIO(data), separate_channels=True) as file:
        channels = {name: channel.pixels for name, channel in file.parts[0].channels.items()}
    known = [channels[name] for name in "RGBA" if name in channels] or list(channels.values())
    return np.stack(known[:4], axis=-1)


def _of_numbers(values: NDArray[Any], name: str) -> Pixels:
    """Values from 0 to 1 of an array of whole numbers or floats, channels last."""
    if values.ndim == 2:
        values = values[:, :, None]
    if values.ndim != 3 or not 1 <= values.shape[2] <= 4 or not values.size:
        raise UnreadableFile(f"{name}: is no plain image of one to four channels; save it again as PNG")
    check_image(name, (values.shape[1], values.shape[0]), ())
    if values.dtype == np.uint8:
        return Pixels(values.astype(np.float32) / np.float32(255.0), 8)
    if values.dtype.kind == "u" and values.dtype.itemsize == 2:
        return Pixels(values.astype(np.float32) / np.float32(65535.0), 16)
    if values.dtype.kind == "f":
        return Pixels(np.nan_to_num(values.astype(np.float32), posinf=65504.0, neginf=0.0), 32)
    raise UnreadableFile(
        f"{name}: has pixels of an unusual kind ({values.dtype}); save it again as PNG of 8 or 16 bits"
    )


def encode_deep(values: F32, name: str) -> tuple[str, bytes]:
    """Name and bytes of a PNG of 16 bits a channel."""
    deep = (np.clip(values, 0.0, 1.0) * 65535.0 + 0.5).astype(np.uint16)
    return f"{PurePosixPath(name).stem}.png", bytes(
        imagecodecs.png_encode(deep[:, :, 0] if deep.shape[2] == 1 else deep)
    )
