"""What a DDS or KTX2 file says that it holds, also where its pixels are of a form that is not read."""

import struct
from dataclasses import dataclass

from plindro.core.errors import UnreadableFile
from plindro.core.files.gpu.ktx2 import IDENTIFIER

_VULKAN = {
    37: "RGBA8", 43: "RGBA8 sRGB", 131: "BC1", 132: "BC1 sRGB", 133: "BC1 with holes", 134: "BC1 with holes, sRGB",
    135: "BC2", 136: "BC2 sRGB", 137: "BC3", 138: "BC3 sRGB", 139: "BC4", 140: "BC4 signed", 141: "BC5",
    142: "BC5 signed", 143: "BC6H", 144: "BC6H signed", 145: "BC7", 146: "BC7 sRGB", 147: "ETC2 RGB",
    148: "ETC2 RGB sRGB", 149: "ETC2 RGB with holes", 150: "ETC2 RGB with holes, sRGB", 151: "ETC2 RGBA",
    152: "ETC2 RGBA sRGB", 153: "EAC R", 154: "EAC R signed", 155: "EAC RG", 156: "EAC RG signed", 157: "ASTC 4 × 4",
    158: "ASTC 4 × 4 sRGB",
}  # fmt: skip
_DXGI = {
    28: "RGBA8", 29: "RGBA8 sRGB", 71: "BC1", 72: "BC1 sRGB", 74: "BC2", 75: "BC2 sRGB", 77: "BC3", 78: "BC3 sRGB",
    80: "BC4", 81: "BC4 signed", 83: "BC5", 84: "BC5 signed", 95: "BC6H", 96: "BC6H signed", 98: "BC7", 99: "BC7 sRGB",
}  # fmt: skip
_FOURCC = {
    b"DXT1": "BC1", b"DXT3": "BC2", b"DXT5": "BC3", b"ATI1": "BC4", b"BC4U": "BC4", b"ATI2": "BC5", b"BC5U": "BC5"
}  # fmt: skip
_SCHEMES = {0: "", 1: "BasisLZ", 2: "Zstandard", 3: "ZLIB"}


@dataclass(frozen=True, slots=True)
class GpuFileFacts:
    """What a header says; ``supercompression`` is empty where there is none."""

    container: str
    format: str
    width: int
    height: int
    levels: int
    supercompression: str = ""


def describe(data: bytes, name: str) -> GpuFileFacts:
    """The facts of a DDS or KTX2; raises ``UnreadableFile`` where it is neither."""
    if data.startswith(IDENTIFIER) and len(data) >= 80:
        number, _, width, height, _, _, _, levels, scheme = struct.unpack_from("<9I", data, len(IDENTIFIER))
        title = _VULKAN.get(number, f"Vulkan format {number}" if number else "Basis Universal")
        return GpuFileFacts("KTX2", title, width, height, max(levels, 1), _SCHEMES.get(scheme, f"scheme {scheme}"))
    if data.startswith(b"DDS ") and len(data) >= 128:
        height, width = struct.unpack_from("<2I", data, 12)
        mips, fourcc = struct.unpack_from("<I", data, 28)[0], data[84:88]
        title = _FOURCC.get(fourcc, "RGBA8" if fourcc == b"\0\0\0\0" else fourcc.decode("ascii", "replace"))
        if fourcc == b"DX10" and len(data) >= 148:
            number = struct.unpack_from("<I", data, 128)[0]
            title = _DXGI.get(number, f"DXGI format {number}")
        return GpuFileFacts("DDS", title, width, height, max(mips, 1))
    raise UnreadableFile(f"{name}: is no DDS or KTX2 file, or its header is cut off")
