"""KTX2 (version 2 of the Khronos texture format): one header description for writing and reading.

Levels lie smallest first, each at a multiple of its blocks; supercompressed by Zstandard where that is asked for. The
data format descriptor says once more what the blocks hold.
"""

import struct
from math import lcm

import zstandard

from plindro.core.blocks.codecs import CODECS, Codec
from plindro.core.errors import UnreadableFile, UnsupportedFile
from plindro.core.files.gpu.texture import GpuTexture

IDENTIFIER = b"\xabKTX 20\xbb\r\n\x1a\n"
_HEADER = struct.Struct("<9I")
"""vkFormat typeSize width height depth layers faces levels supercompression"""
_INDEX = struct.Struct("<4I2Q")
"""Offset and length of: data format descriptor, key/value data; supercompression global data"""
_LEVEL = struct.Struct("<3Q")
"""offset, length, length before supercompression"""
_NONE, _ZSTD = 0, 2
_ZSTD_EFFORT = 18
_FORMATS: dict[Codec, tuple[int, int]] = {
    "bc1": (131, 132), "bc3": (137, 138), "bc4": (139, 139), "bc5": (141, 141), "bc7": (145, 146), "rgba8": (37, 43)
}  # fmt: skip
"""VkFormat numbers: linear, sRGB."""
_BC1_WITH_ALPHA = (133, 134)
_MODELS: dict[Codec, int] = {"rgba8": 1, "bc1": 128, "bc3": 130, "bc4": 131, "bc5": 132, "bc7": 134}
_BT709, _LINEAR_TRANSFER, _SRGB_TRANSFER, _VERSION = 1, 1, 2, 2
_ALPHA, _LINEAR_SAMPLE, _FULL = 15, 0x10, 0xFFFFFFFF
_ENTRIES = (("KTXorientation", b"rd"), ("KTXwriter", b"Plindro"))


def write_ktx2(texture: GpuTexture, *, zstd: bool = False) -> bytes:
    """The bytes of a KTX2 file."""
    number = _BC1_WITH_ALPHA if texture.codec == "bc1" and texture.has_alpha else _FORMATS[texture.codec]
    head = len(IDENTIFIER) + _HEADER.size + _INDEX.size + _LEVEL.size * len(texture.levels)
    descriptor, entries = _descriptor(texture), _entries()
    packed = [zstandard.ZstdCompressor(_ZSTD_EFFORT).compress(x) if zstd else x for x in texture.levels]
    align = 1 if zstd else lcm(CODECS[texture.codec].block_bytes, 4)
    body = bytearray(descriptor + entries)
    places: list[tuple[int, int, int]] = [(0, 0, 0)] * len(packed)
    for k in reversed(range(len(packed))):
        body += b"\0" * (-(head + len(body)) % align)
        places[k] = (head + len(body), len(packed[k]), len(texture.levels[k]))
        body += packed[k]
    scheme = _ZSTD if zstd else _NONE
    header = _HEADER.pack(
        number[texture.is_srgb], 1, texture.width, texture.height, 0, 0, 1, len(texture.levels), scheme
    )
    index = _INDEX.pack(head, len(descriptor), head + len(descriptor), len(entries), 0, 0)
    return b"".join([IDENTIFIER, header, index, *(_LEVEL.pack(*place) for place in places), body])


def _descriptor(texture: GpuTexture) -> bytes:
    """The data format descriptor: one basic block."""
    samples = _samples(texture)
    spec = CODECS[texture.codec]
    size = 24 + 16 * len(samples)
    transfer = _SRGB_TRANSFER if texture.is_srgb else _LINEAR_TRANSFER
    side = spec.side - 1
    block = struct.pack(
        "<IHH4B4B8B", 0, _VERSION, size, _MODELS[texture.codec], _BT709, transfer, 0, side, side, 0, 0,
        spec.block_bytes, *[0] * 7,
    )  # fmt: skip
    rows = [
        struct.pack("<HBB4BII", at, length - 1, channel, 0, 0, 0, 0, 0, top) for at, length, channel, top in samples
    ]
    return struct.pack("<I", 4 + size) + block + b"".join(rows)


def _samples(texture: GpuTexture) -> list[tuple[int, int, int, int]]:
    """(bit offset, bits, channel, upper) of each thing that a block says."""
    if texture.codec == "rgba8":
        alpha = _ALPHA | (_LINEAR_SAMPLE if texture.is_srgb else 0)
        return [(8 * k, 8, channel, 255) for k, channel in enumerate((0, 1, 2, alpha))]
    if texture.codec == "bc3":
        alpha = _ALPHA | (_LINEAR_SAMPLE if texture.is_srgb else 0)
        return [(0, 64, alpha, _FULL), (64, 64, 0, _FULL)]
    if texture.codec == "bc5":
        return [(0, 64, 0, _FULL), (64, 64, 1, _FULL)]
    bits = CODECS[texture.codec].block_bytes * 8
    return [(0, bits, 1 if texture.codec == "bc1" and texture.has_alpha else 0, _FULL)]


def _entries() -> bytes:
    """Key/value data, each entry at a multiple of four."""
    data = b""
    for key, value in _ENTRIES:
        entry = key.encode() + b"\0" + value + b"\0"
        data += struct.pack("<I", len(entry)) + entry + b"\0" * (-len(entry) % 4)
    return data


def read_ktx2(data: bytes, name: str) -> GpuTexture:
    """A two-dimensional KTX2; raises ``UnreadableFile`` where it is damaged and ``UnsupportedFile`` for other kinds."""
    start = len(IDENTIFIER)
    if len(data) < start + _HEADER.size + _INDEX.size or data[:start] != IDENTIFIER:
        raise UnreadableFile(f"{name}: is no KTX2 file, or its header is cut off")
    number, _, width, height, depth, layers, faces, levels, scheme = _HEADER.unpack_from(data, start)
    known = {n: (codec, n != linear) for codec, (linear, srgb) in _FORMATS.items() for n in (linear, srgb)}
    known |= {n: ("bc1", n != _BC1_WITH_ALPHA[0]) for n in _BC1_WITH_ALPHA}
    if number not in known or depth > 1 or layers > 1 or faces != 1 or scheme not in (_NONE, _ZSTD) or levels > 17:
        raise UnsupportedFile(f"{name}: holds Vulkan format {number}, or more than one picture, which is not read")
    codec, is_srgb = known[number]
    if not 0 < width <= 65_536 or not 0 < height <= 65_536:
        raise UnreadableFile(f"{name}: says that it is {width} × {height}")
    at = start + _HEADER.size + _INDEX.size
    read = []
    for k in range(max(levels, 1)):
        if at + _LEVEL.size * (k + 1) > len(data):
            raise UnreadableFile(f"{name}: its list of levels is cut off")
        offset, length, whole = _LEVEL.unpack_from(data, at + _LEVEL.size * k)
        size = CODECS[codec].size_of(max(width >> k, 1), max(height >> k, 1))
        if whole != size or offset + length > len(data):
            raise UnreadableFile(f"{name}: mip {k} is cut off or of another size than it says; copy it again")
        level = data[offset : offset + length]
        read.append(_unpacked(level, size, name) if scheme == _ZSTD else level)
    return GpuTexture(codec, width, height, tuple(read), is_srgb, number in _BC1_WITH_ALPHA)


def _unpacked(level: bytes, size: int, name: str) -> bytes:
    try:
        result = zstandard.ZstdDecompressor().decompress(level, max_output_size=size)
    except zstandard.ZstdError as error:
        raise UnreadableFile(f"{name}: a level cannot be decompressed; copy it again") from error
    if len(result) != size:
        raise UnreadableFile(f"{name}: a level is of another size than it says; copy it again")
    return result
