"""Images as an engine's loader sees them: by their headers, and whether all of their data is there."""

import struct
from collections.abc import Callable

from plindro.core.rehearsal.found import FoundImage

_BLOCK = {71: 8, 72: 8, 77: 16, 78: 16, 80: 8, 81: 8, 83: 16, 84: 16, 98: 16, 99: 16}
"""Bytes of a block of 4 x 4 pixels by DXGI format: BC1, BC3, BC4, BC5 and BC7."""
_NAMES = {71: "BC1", 72: "BC1", 77: "BC3", 78: "BC3", 80: "BC4", 81: "BC4", 83: "BC5", 84: "BC5", 98: "BC7", 99: "BC7"}
_FOUR = {b"DXT1": 71, b"DXT5": 77, b"ATI1": 80, b"BC4U": 80, b"ATI2": 83, b"BC5U": 83}
_VULKAN = {131: "BC1", 132: "BC1", 133: "BC1", 134: "BC1", 137: "BC3", 138: "BC3", 139: "BC4", 141: "BC5", 145: "BC7",
           146: "BC7"}  # fmt: skip


def look_at(path: str, data: bytes) -> FoundImage:
    """What an image's header says; ``damaged`` with the fault where a loader would refuse it."""
    for magic, look in _LOOKS:
        if data.startswith(magic):
            try:
                return look(path, data)
            except (struct.error, IndexError, ValueError):
                return FoundImage(path, "damaged", fault="its header is cut off")
    return FoundImage(path, "damaged", fault="it is of no format that an engine reads")


def _png(path: str, data: bytes) -> FoundImage:
    """Whole when its chunks follow one another to the last; what lies behind that, as padding in a GLB, is not read."""
    width, height = struct.unpack_from(">II", data, 16)
    at, is_last = 8, False
    while at + 12 <= len(data) and not is_last:
        is_last = data[at + 4 : at + 8] == b"IEND"
        at += 12 + int.from_bytes(data[at : at + 4], "big")
    return _whole(path, "PNG", width, height, is_last and at <= len(data))


def _jpeg(path: str, data: bytes) -> FoundImage:
    """Whole when its scan has an end; what lies behind that is not read, and a thumbnail in its header has its own."""
    at, size = 2, None
    while data[at] == 0xFF:
        kind, length = data[at + 1], struct.unpack_from(">H", data, at + 2)[0]
        if kind in (0xC0, 0xC1, 0xC2):
            size = struct.unpack_from(">HH", data, at + 5)
        if kind == 0xDA and size is not None:
            return _whole(path, "JPEG", size[1], size[0], data.find(b"\xff\xd9", at) >= 0)
        at += 2 + length
    raise ValueError("no frame")


def _webp(path: str, data: bytes) -> FoundImage:
    whole = 8 + struct.unpack_from("<I", data, 4)[0] <= len(data)
    kind = data[12:16]
    if kind == b"VP8X":
        width, height = (1 + int.from_bytes(data[at : at + 3], "little") for at in (24, 27))
    elif kind == b"VP8L":
        bits = struct.unpack_from("<I", data, 21)[0]
        width, height = (bits & 0x3FFF) + 1, (bits >> 14 & 0x3FFF) + 1
    else:
        width, height = (side & 0x3FFF for side in struct.unpack_from("<HH", data, 26))
    return _whole(path, "WebP", width, height, whole)


def _whole(path: str, kind: str, width: int, height: int, is_whole: bool) -> FoundImage:
    if is_whole:
        return FoundImage(path, "found", kind, width, height)
    return FoundImage(path, "damaged", kind, width, height, fault="its end is missing")


def _dds(path: str, data: bytes) -> FoundImage:
    height, width = struct.unpack_from("<II", data, 12)
    levels = max(struct.unpack_from("<I", data, 28)[0], 1)
    four = data[84:88]
    start = 148 if four == b"DX10" else 128
    code = struct.unpack_from("<I", data, 128)[0] if four == b"DX10" else _FOUR.get(four, 0)
    if code not in _BLOCK:
        return FoundImage(path, "found", "DDS", width, height, levels)
    sides = [(max(width >> k, 1), max(height >> k, 1)) for k in range(levels)]
    need = start + sum(-(-w // 4) * -(-h // 4) * _BLOCK[code] for w, h in sides)
    kind = f"DDS {_NAMES[code]}"
    if len(data) < need:
        return FoundImage(path, "damaged", kind, width, height, levels, f"it has {len(data)} bytes of {need}")
    return FoundImage(path, "found", kind, width, height, levels)


def _ktx2(path: str, data: bytes) -> FoundImage:
    code, _, width, height = struct.unpack_from("<IIII", data, 12)
    levels = max(struct.unpack_from("<I", data, 40)[0], 1)
    ends = [sum(struct.unpack_from("<QQ", data, 80 + 24 * k)) for k in range(levels)]
    kind = f"KTX2 {_VULKAN.get(code, '')}".rstrip()
    if max(ends) > len(data):
        return FoundImage(path, "damaged", kind, width, height, levels, "its end is missing")
    return FoundImage(path, "found", kind, width, height, levels)


_LOOKS: tuple[tuple[bytes, Callable[[str, bytes], FoundImage]], ...] = (
    (b"\x89PNG", _png),
    (b"\xff\xd8", _jpeg),
    (b"RIFF", _webp),
    (b"DDS ", _dds),
    (b"\xabKTX 20", _ktx2),
)
