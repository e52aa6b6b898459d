"""Images as arrays of numbers, and back."""

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image as Pillow

from plindro.core.files.images import encode_png
from plindro.core.scene import Image

_PLAIN = ("L", "LA", "RGB", "RGBA")


def decode(image: Image) -> NDArray[np.uint8] | NDArray[np.uint16]:
    """(H, W, C) values of an image: 16 bits where it has them in one channel, else 8."""
    with Pillow.open(io.BytesIO(image.data)) as picture:
        if picture.mode in ("I;16", "I;16B", "I"):
            return np.asarray(picture).astype(np.uint16)[:, :, None]
        if picture.mode not in _PLAIN:
            has_alpha = "A" in picture.getbands() or "transparency" in picture.info
            values = np.asarray(picture.convert("RGBA" if has_alpha else "RGB"))
        else:
            values = np.asarray(picture)
    return values[:, :, None] if values.ndim == 2 else values


def encode(name: str, values: NDArray[np.uint8] | NDArray[np.uint16]) -> Image:
    """A PNG of (H, W, C) values."""
    height, width, channels = values.shape
    flat = values[:, :, 0] if channels == 1 else values
    data = encode_png(Pillow.fromarray(np.ascontiguousarray(flat)))
    return Image(name, data, "image/png", width, height)
