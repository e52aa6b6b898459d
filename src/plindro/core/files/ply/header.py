"""The header of a PLY file: elements in their order, each with its properties."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from plindro.core.errors import UnreadableFile

# Names of the original format and the sized ones that later programs write.
SCALARS = {
    **{"char": "i1", "uchar": "u1", "short": "i2", "ushort": "u2", "int": "i4", "uint": "u4"},
    **{"int8": "i1", "uint8": "u1", "int16": "i2", "uint16": "u2", "int32": "i4", "uint32": "u4"},
    **{"float": "f4", "double": "f8", "float32": "f4", "float64": "f8"},
}
Encoding = Literal["ascii", "binary_little_endian", "binary_big_endian"]


@dataclass(frozen=True, slots=True)
class Property:
    """A property: NumPy type code of its values, and of its length where it is a list."""

    name: str
    kind: str
    count_kind: str | None = None


@dataclass(slots=True)
class Element:
    """An element such as ``vertex`` or ``face``: how many, and what each holds."""

    name: str
    count: int
    properties: list[Property] = field(default_factory=list)

    def index(self, *names: str) -> int:
        """Position of the first property of these names; -1 where none is."""
        known = [p.name for p in self.properties]
        return next((known.index(name) for name in names if name in known), -1)


@dataclass(slots=True)
class Header:
    """Encoding, elements, where the data begins, and the textures that comments name."""

    encoding: Encoding
    elements: list[Element]
    size: int
    textures: list[str]

    @property
    def byte_order(self) -> str:
        return ">" if self.encoding == "binary_big_endian" else "<"


def read_header(data: bytes, name: str) -> Header:
    """Read the header; raises ``UnreadableFile``."""

    def damaged(what: str) -> UnreadableFile:
        return UnreadableFile(f"{name}: {what}; export it again")

    if data[:3].lower() != b"ply":
        raise damaged("is no PLY file (it does not begin with 'ply')")
    mark = data.find(b"end_header", 0, 1 << 20)
    if mark < 0:
        raise damaged("its header does not end")
    stop = data.find(b"\n", mark)
    carriage = data.find(b"\r", mark, mark + 11)
    size = stop + 1 if stop >= 0 and (carriage < 0 or stop == carriage + 1) else carriage + 1
    encoding: Encoding | None = None
    elements: list[Element] = []
    textures: list[str] = []
    for line in data[:mark].decode("latin-1").splitlines()[1:]:
        words = line.split()
        if len(words) > 2 and words[:2] == ["comment", "TextureFile"]:
            textures.append(line.split("TextureFile", 1)[1].strip())
        if not words or words[0] in ("comment", "obj_info"):
            continue
        if (
            words[0] == "format"
            and len(words) > 1
            and words[1] in ("ascii", "binary_little_endian", "binary_big_endian")
        ):
            encoding = words[1]  # type: ignore[assignment]
        elif words[0] == "element" and len(words) == 3 and words[2].isdigit():
            elements.append(Element(words[1], int(words[2])))
        elif words[0] == "property" and elements:
            elements[-1].properties.append(_property(words, damaged))
        else:
            raise damaged(f"its header line '{line.strip()[:60]}' is not understood")
    if encoding is None:
        raise damaged("its header names no format")
    return Header(encoding, elements, size, textures)


def _property(words: list[str], damaged):  # type: ignore[no-untyped-def]
    if len(words) == 5 and words[1] == "list" and words[2] in SCALARS and words[3] in SCALARS:
        return Property(words[4], SCALARS[words[3]], SCALARS[words[2]])
    if len(words) == 3 and words[1] in SCALARS:
        return Property(words[2], SCALARS[words[1]])
    raise damaged(f"its property '{' '.join(words[1:])[:60]}' is of no known type")


def item_size(kind: str) -> int:
    """Bytes of a value."""
    return np.dtype(kind).itemsize
