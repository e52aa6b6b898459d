"""A GPU texture as a picture that any browser shows."""

from PIL import Image as Pillow

from plindro.core.blocks.decode import decode
from plindro.core.files.gpu.dds import read_dds
from plindro.core.files.images import encode_png


def decoded_png(data: bytes, name: str) -> bytes:
    """PNG bytes of the first level of a DDS; raises ``UnreadableFile``."""
    texture = read_dds(data, name)
    return encode_png(Pillow.fromarray(decode(texture.levels[0], texture.codec, texture.width, texture.height)))
