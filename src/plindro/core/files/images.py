"""Images of a source: what they are, how large; other formats brought to PNG, which glTF can hold."""

import hashlib
import io
from collections.abc import Sequence
from pathlib import PurePosixPath

from PIL import Image as Pillow
from PIL import UnidentifiedImageError

from plindro.core.errors import UnreadableFile
from plindro.core.files.limits import check_image
from plindro.core.files.pixels import encode_deep, may_be_deep, read_pixels
from plindro.core.names import clean_name
from plindro.core.scene import Image

KEPT = {"PNG": "image/png", "JPEG": "image/jpeg"}
# Sizes are compared with limits of our own, in words of our own.
Pillow.MAX_IMAGE_PIXELS = None
_sound: set[bytes] = set()
"""Digests of the images that this process has decoded: a source is read again whenever something is decided."""


def read_image(data: bytes, name: str, beside: Sequence[Image] = ()) -> Image:
    """An image from encoded bytes of any common format; PNG and JPEG keep their bytes, others become PNG: of 16 bits a
    channel where they have more than 8.

    ``beside`` are the images that its source has already. Raises ``UnreadableFile`` where the bytes are no image, or
    one that is damaged somewhere, or larger than images may be.
    """
    if may_be_deep(data):
        pixels = read_pixels(data, name)
        if pixels.bits > 8:
            check_image(name, (pixels.width, pixels.height), beside)
            own, data = encode_deep(pixels.values, name)
            return Image(PurePosixPath(own).name, data, "image/png", pixels.width, pixels.height)
    try:
        with Pillow.open(io.BytesIO(data)) as picture:
            width, height = picture.size
            check_image(name, picture.size, beside)
            kept = KEPT.get(picture.format or "")
            _decode_once(picture, data)
            if kept is None:
                data, kept = encode_png(picture), "image/png"
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        raise UnreadableFile(f"{name}: is no image that can be read; save it again as PNG or JPEG") from error
    return Image(PurePosixPath(name).name, data, kept, width, height)


def _decode_once(picture: Pillow.Image, data: bytes) -> None:
    """Decode the whole picture where these bytes were not decoded before: half a picture is none."""
    digest = hashlib.sha256(data).digest()
    if digest not in _sound:
        picture.load()
        _sound.add(digest)


_EFFORT = 4
"""Of 1 to 9: against 6, two fifths of the time and a twentieth more bytes."""


def encode_png(picture: Pillow.Image) -> bytes:
    """PNG bytes of a picture, in the nearest mode that PNG has."""
    if picture.mode not in ("L", "LA", "RGB", "RGBA", "I;16"):
        picture = picture.convert("RGBA" if "A" in picture.getbands() or picture.mode == "P" else "RGB")
    buffer = io.BytesIO()
    picture.save(buffer, "PNG", compress_level=_EFFORT)
    return buffer.getvalue()


def open_image(image: Image, mode: str) -> Pillow.Image:
    """The picture of an image, decoded to a Pillow mode such as ``RGBA``."""
    with Pillow.open(io.BytesIO(image.data)) as picture:
        return picture.convert(mode)


def image_file(prop: str, image: Image) -> tuple[str, bytes]:
    """Name and bytes of an image that is written beside a prop's file."""
    suffix = {"image/png": ".png", "image/jpeg": ".jpg", "image/webp": ".webp"}.get(image.media_type, ".img")
    return f"{prop}_{clean_name(image.name)}_{image.digest[:6]}{suffix}", image.data
