"""Images of a prop's own file as a destination asks for them: in another format, or beside the file, each once."""

import hashlib
import io
from dataclasses import replace
from pathlib import PurePosixPath

from PIL import Image as Pillow

from plindro.core.destinations import ImageFormat, TextureRules
from plindro.core.errors import UnreadableFile
from plindro.core.files.images import encode_png
from plindro.core.names import clean_name
from plindro.core.prop import ImageFile, Prop
from plindro.core.scene import Image
from plindro.core.station import Context
from plindro.core.stations.textures.uses import uses_of
from plindro.core.textures.kept import TextureCache
from plindro.core.textures.kinds import kind_of_slots

_MEDIA_TYPES: dict[ImageFormat, str] = {"png": "image/png", "jpeg": "image/jpeg", "webp": "image/webp"}
_SUFFIXES = {"image/png": "png", "image/jpeg": "jpg", "image/webp": "webp"}
_EIGHT_BITS = ("L", "LA", "RGB", "RGBA")


def with_images_asked(prop: Prop, context: Context) -> Prop:
    """The prop with its images in the destination's format and place; those that it cannot hold stay PNG."""
    rules = context.destination.textures
    if rules.images == "keep" and not rules.beside:
        return prop
    images, files = list(prop.images), list[ImageFile]()
    for use in uses_of(prop):
        image, kind = images[use.image], kind_of_slots(use.slots)
        is_color = kind in ("color", "emissive")
        try:
            images[use.image] = image = _encoded(image, rules, is_color=is_color, cache=context.textures)
        except (UnreadableFile, OSError):
            # It was told when the image was looked at.
            continue
        if rules.beside:
            path = rules.path(
                clean_name(PurePosixPath(image.name).stem), kind or "mask", image.digest, _SUFFIXES[image.media_type]
            )
            files.append(ImageFile(use.image, path, image.data))
    return replace(prop, images=tuple(images), image_files=tuple(files))


def _encoded(image: Image, rules: TextureRules, *, is_color: bool, cache: TextureCache | None) -> Image:
    """An image in the format that is asked for. Lossy formats are for colours: numbers keep every bit."""
    wanted = rules.images
    if wanted == "keep" or image.media_type == _MEDIA_TYPES[wanted] or (wanted == "jpeg" and not is_color):
        return image
    key = hashlib.sha256(f"{image.digest}|{wanted}|{rules.image_quality}|{is_color}".encode()).hexdigest()
    data = cache.get(key) if cache else None
    if data is None:
        data = _written(image.data, wanted, rules.image_quality, is_color=is_color)
        if cache:
            cache.put(key, data)
    if not data:
        return image
    media_type = _MEDIA_TYPES[wanted]
    name = f"{PurePosixPath(image.name).stem}.{_SUFFIXES[media_type]}"
    return replace(image, name=name, data=data, media_type=media_type)


def _written(data: bytes, wanted: ImageFormat, quality: int, *, is_color: bool) -> bytes:
    """The picture's bytes in a format; none where the format would lose alpha or bits."""
    buffer = io.BytesIO()
    with Pillow.open(io.BytesIO(data)) as picture:
        if wanted == "png":
            return encode_png(picture)
        if picture.mode not in _EIGHT_BITS or (wanted == "jpeg" and "A" in picture.getbands()):
            return b""
        if wanted == "jpeg":
            picture.save(buffer, "JPEG", quality=quality, subsampling=0, optimize=True)
        else:
            own = picture.convert("RGBA" if "A" in picture.getbands() else "RGB")
            own.save(buffer, "WEBP", lossless=not is_color, quality=quality, method=4, exact=True)
    return buffer.getvalue()
