"""The containers of glTF: GLB chunks or plain JSON, and the buffers they name."""

import base64
import binascii
import json
import struct
from dataclasses import dataclass, field
from typing import Any

from plindro.core.errors import UnreadableFile, UnsupportedFile
from plindro.core.files.gltf.compressed import decode_view
from plindro.core.files.sidefiles import SideFiles

# glTF 2.0, section 4.4: a 12-byte header, then chunks of (length, type, data).
HEADER = struct.Struct("<4sII")
CHUNK_HEADER = struct.Struct("<I4s")
MAGIC = b"glTF"
JSON_CHUNK = b"JSON"
BIN_CHUNK = b"BIN\0"

READ_EXTENSIONS = frozenset(
    {
        "KHR_mesh_quantization",
        "KHR_texture_transform",
        "KHR_draco_mesh_compression",
        "EXT_meshopt_compression",
        "EXT_mesh_gpu_instancing",
        "EXT_texture_webp",
        "KHR_lights_punctual",
        "KHR_node_visibility",
    }
)
MATERIAL_EXTENSIONS = "KHR_materials_"


@dataclass(slots=True)
class Document:
    """The JSON of a glTF file with its buffers at hand; every access is checked and names the file."""

    name: str
    json: dict[str, Any]
    binary: bytes | None
    side_files: SideFiles
    _buffers: dict[int, bytes] = field(default_factory=dict)
    _unpacked: dict[int, bytes] = field(default_factory=dict)
    _rows: dict[str, list[dict[str, Any]]] = field(default_factory=dict)

    def fail(self, what: str) -> UnreadableFile:
        """The error for a file that does not hold together."""
        return UnreadableFile(f"{self.name}: {what}; export it again")

    def rows(self, key: str) -> list[dict[str, Any]]:
        """The top-level array ``key``, empty where there is none."""
        if key not in self._rows:
            rows = self.json.get(key, [])
            if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
                raise self.fail(f"'{key}' is not a list of objects")
            self._rows[key] = rows
        return self._rows[key]

    def row(self, key: str, index: Any) -> dict[str, Any]:
        """Entry ``index`` of the top-level array ``key``."""
        rows = self.rows(key)
        if not isinstance(index, int) or isinstance(index, bool) or not 0 <= index < len(rows):
            raise self.fail(f"it names {key}[{index}] and holds {len(rows)} of them")
        return rows[index]

    def integer(self, row: dict[str, Any], key: str, default: int | None = None) -> int:
        """A non-negative whole number of ``row``."""
        value = row.get(key, default)
        if not isinstance(value, int) or isinstance(value, bool) or value < 0:
            raise self.fail(f"'{key}' is {value!r} where a whole number belongs")
        return value

    def buffer(self, index: Any) -> bytes:
        """Bytes of a buffer, at least as many as it declares."""
        row = self.row("buffers", index)
        if index not in self._buffers:
            uri = row.get("uri")
            if uri is None:
                if index != 0 or self.binary is None:
                    raise self.fail(f"buffer {index} has no data")
                data = self.binary
            else:
                found = self.resource(uri)
                if found is None:
                    raise UnreadableFile(
                        f"{self.name}: its data file '{uri}' is missing; give it together with the file"
                    )
                data = found
            length = self.integer(row, "byteLength")
            if len(data) < length:
                raise self.fail(f"buffer {index} should have {length} bytes and has {len(data)}; it is cut off")
            self._buffers[index] = data
        return self._buffers[index]

    def resource(self, uri: Any) -> bytes | None:
        """Bytes of a data URI or of a side file; None where the file is not there."""
        if not isinstance(uri, str):
            raise self.fail("a 'uri' is not text")
        if uri.startswith("data:"):
            head, comma, body = uri.partition(",")
            try:
                return base64.b64decode(body, validate=False) if comma and head.endswith(";base64") else None
            except (binascii.Error, ValueError) as error:
                raise self.fail("embedded data is not valid base64") from error
        return self.side_files.get(uri)

    def view(self, index: Any) -> tuple[memoryview, int]:
        """Bytes of a buffer view and its stride (0 = tightly packed)."""
        row = self.row("bufferViews", index)
        extensions = row.get("extensions")
        packed = extensions.get("EXT_meshopt_compression") if isinstance(extensions, dict) else None
        if isinstance(packed, dict):
            if index not in self._unpacked:
                self._unpacked[index] = decode_view(self, packed)
            return memoryview(self._unpacked[index]), self.integer(row, "byteStride", 0)
        data = self.buffer(row.get("buffer"))
        offset, length = self.integer(row, "byteOffset", 0), self.integer(row, "byteLength")
        if offset + length > len(data):
            raise self.fail(f"bufferViews[{index}] reaches to byte {offset + length} of {len(data)}")
        return memoryview(data)[offset : offset + length], self.integer(row, "byteStride", 0)


def open_document(data: bytes, name: str, side_files: SideFiles) -> Document:
    """Split a GLB or glTF file; checks lengths, version and required extensions."""
    binary: bytes | None = None
    text = data
    if data[:4] == MAGIC:
        text, binary = _split_chunks(data, name)
    try:
        content = json.loads(text.decode("utf-8-sig"))
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        raise UnreadableFile(f"{name}: its glTF text is damaged ({_where(error)}); export it again") from error
    if not isinstance(content, dict) or not isinstance(content.get("asset"), dict):
        raise UnreadableFile(f"{name}: is not a glTF file (it has no 'asset'); export it again as glTF 2.0")
    version = str(content["asset"].get("version", ""))
    if not version.startswith("2."):
        raise UnsupportedFile(f"{name}: is glTF {version or 'of no version'}; export it as glTF 2.0")
    required = content.get("extensionsRequired", [])
    unread = [
        str(e) for e in required if e not in READ_EXTENSIONS and not str(e).startswith(MATERIAL_EXTENSIONS)
    ] if isinstance(required, list) else []  # fmt: skip
    if unread:
        raise UnsupportedFile(f"{name}: needs the extension {unread[0]}, which is not read; export it without it")
    return Document(name, content, binary, side_files)


def _where(error: Exception) -> str:
    return f"line {error.lineno}" if isinstance(error, json.JSONDecodeError) else "not UTF-8"


def _split_chunks(data: bytes, name: str) -> tuple[bytes, bytes | None]:
    def damaged(what: str) -> UnreadableFile:
        return UnreadableFile(f"{name}: {what}; export it again")

    if len(data) < HEADER.size + CHUNK_HEADER.size:
        raise damaged(f"is cut off after {len(data)} bytes")
    _, version, length = HEADER.unpack_from(data)
    if version != 2:
        raise UnsupportedFile(f"{name}: is GLB version {version}; export it as GLB 2")
    if length > len(data):
        raise damaged(f"its header says {length} bytes and there are {len(data)}; it is cut off")
    if length < HEADER.size + CHUNK_HEADER.size:
        raise damaged(f"its header says {length} bytes, which cannot be")
    chunks: list[tuple[bytes, bytes]] = []
    at = HEADER.size
    while at + CHUNK_HEADER.size <= length:
        size, kind = CHUNK_HEADER.unpack_from(data, at)
        at += CHUNK_HEADER.size
        if at + size > length:
            raise damaged(f"a chunk at byte {at} reaches past the end ({at + size} of {length})")
        chunks.append((kind, data[at : at + size]))
        at += size
    if not chunks or chunks[0][0] != JSON_CHUNK:
        raise damaged("its first chunk is not JSON")
    binary = next((body for kind, body in chunks[1:] if kind == BIN_CHUNK), None)
    return chunks[0][1], binary
