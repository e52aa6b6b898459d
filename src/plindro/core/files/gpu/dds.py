"""DDS: one header description for writing and reading.

The old header alone where it can say what the pixels are, which every reader knows; the DX10 one for BC7 and for sRGB.
"""

import struct
from dataclasses import dataclass

from plindro.core.blocks.codecs import CODECS, Codec
from plindro.core.errors import UnreadableFile, UnsupportedFile
from plindro.core.files.gpu.texture import GpuTexture

MAGIC = b"DDS "
_HEADER = struct.Struct("<7I44x8I4I4x")
"""size flags height width pitch depth mips | pixel format: size flags fourcc bits r g b a | caps caps2 caps3 caps4"""
_DX10 = struct.Struct("<5I")
"""format, dimension, flags, array size, flags about alpha"""
_FORMAT_SIZE, _2D = 32, 3
_CAPS, _HEIGHT, _WIDTH, _PITCH, _PIXELFORMAT, _MIPS, _LINEAR = 0x1, 0x2, 0x4, 0x8, 0x1000, 0x20000, 0x80000
_HAS_ALPHA, _FOURCC, _RGB = 0x1, 0x4, 0x40
_TEXTURE, _COMPLEX, _MIPMAP = 0x1000, 0x8, 0x400000
_FORMATS: dict[Codec, tuple[int, int]] = {
    "bc1": (71, 72), "bc3": (77, 78), "bc4": (80, 80), "bc5": (83, 83), "bc7": (98, 99), "rgba8": (28, 29)
}  # fmt: skip
"""DXGI_FORMAT numbers: linear, sRGB."""
_FOURCCS: dict[Codec, bytes] = {"bc1": b"DXT1", "bc3": b"DXT5", "bc4": b"ATI1", "bc5": b"ATI2"}
_OTHER_NAMES = {b"BC4U": b"ATI1", b"BC5U": b"ATI2"}
_MASKS = (0xFF, 0xFF00, 0xFF0000, 0xFF000000)


def write_dds(texture: GpuTexture) -> bytes:
    """The bytes of a DDS file."""
    spec, mips = CODECS[texture.codec], len(texture.levels)
    has_blocks = spec.number > 0
    flags = _CAPS | _HEIGHT | _WIDTH | _PIXELFORMAT | (_LINEAR if has_blocks else _PITCH) | (_MIPS if mips > 1 else 0)
    pitch = len(texture.levels[0]) if has_blocks else texture.width * spec.block_bytes
    needs_dx10 = texture.codec == "bc7" or texture.is_srgb
    alpha = _HAS_ALPHA if texture.codec == "bc1" and texture.has_alpha else 0
    if needs_dx10:
        form = (_FORMAT_SIZE, _FOURCC, *struct.unpack("<I", b"DX10"), 0, 0, 0, 0, 0)
    elif has_blocks:
        form = (_FORMAT_SIZE, _FOURCC | alpha, *struct.unpack("<I", _FOURCCS[texture.codec]), 0, 0, 0, 0, 0)
    else:
        form = (_FORMAT_SIZE, _RGB | _HAS_ALPHA, 0, 32, *_MASKS)
    caps = _TEXTURE | (_COMPLEX | _MIPMAP if mips > 1 else 0)
    size = _HEADER.size
    header = _HEADER.pack(size, flags, texture.height, texture.width, pitch, 0, mips, *form, caps, 0, 0, 0)
    more = _DX10.pack(_FORMATS[texture.codec][texture.is_srgb], _2D, 0, 1, 0) if needs_dx10 else b""
    return b"".join([MAGIC, header, more, *texture.levels])


@dataclass(frozen=True, slots=True)
class _Form:
    codec: Codec
    is_srgb: bool
    has_alpha: bool


def read_dds(data: bytes, name: str) -> GpuTexture:
    """A two-dimensional DDS; raises ``UnreadableFile`` where it is damaged and ``UnsupportedFile`` for other kinds."""
    start = len(MAGIC) + _HEADER.size
    if len(data) < start or data[: len(MAGIC)] != MAGIC:
        raise UnreadableFile(f"{name}: is no DDS file, or its header is cut off")
    fields = _HEADER.unpack_from(data, len(MAGIC))
    height, width, mips, form, caps2 = fields[2], fields[3], max(fields[6], 1), fields[7:15], fields[16]
    if not 0 < width <= 65_536 or not 0 < height <= 65_536 or mips > 17 or caps2:
        raise UnsupportedFile(f"{name}: is no plain two-dimensional DDS")
    found = _old_form(form)
    if form[1] & _FOURCC and struct.pack("<I", form[2]) == b"DX10":
        if len(data) < start + _DX10.size:
            raise UnreadableFile(f"{name}: its header is cut off")
        number, dimension, _, count, _ = _DX10.unpack_from(data, start)
        start += _DX10.size
        known = {n: (codec, n != linear) for codec, (linear, srgb) in _FORMATS.items() for n in (linear, srgb)}
        if number not in known or dimension != _2D or count != 1:
            raise UnsupportedFile(f"{name}: holds DXGI format {number}, which is not read")
        found = _Form(*known[number], False)
    if found is None:
        raise UnsupportedFile(f"{name}: holds pixels of a form that is not read")
    levels, at = [], start
    for k in range(mips):
        size = CODECS[found.codec].size_of(max(width >> k, 1), max(height >> k, 1))
        if at + size > len(data):
            raise UnreadableFile(f"{name}: ends in the middle of mip {k}; copy it again")
        levels.append(data[at : at + size])
        at += size
    return GpuTexture(found.codec, width, height, tuple(levels), found.is_srgb, found.has_alpha)


def _old_form(form: tuple[int, ...]) -> _Form | None:
    """What the old header says the pixels are; None where it does not."""
    if form[1] & _FOURCC:
        word = struct.pack("<I", form[2])
        word = _OTHER_NAMES.get(word, word)
        for codec, fourcc in _FOURCCS.items():
            if fourcc == word:
                return _Form(codec, False, bool(form[1] & _HAS_ALPHA))
    elif form[1] & _RGB and form[3] == 32 and tuple(form[4:]) == _MASKS:
        return _Form("rgba8", False, True)
    return None
