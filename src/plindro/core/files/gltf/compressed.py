"""Compressed glTF data: buffer views of EXT_meshopt_compression and primitives of KHR_draco_mesh_compression."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.errors import UnsupportedFile

if TYPE_CHECKING:
    from plindro.core.files.gltf.container import Document

_LARGEST = 1 << 31


@dataclass(frozen=True, slots=True)
class DracoPrimitive:
    """Decoded primitive: (n,) indices and the attributes by their glTF name."""

    indices: NDArray[np.int64]
    attributes: dict[str, NDArray[Any]]


def decode_view(document: "Document", row: dict[str, Any]) -> bytes:
    """Bytes of a view that EXT_meshopt_compression packs; raises ``UnreadableFile`` or ``UnsupportedFile``."""
    try:
        import meshoptimizer
    except ImportError as error:
        raise UnsupportedFile(
            f"{document.name}: is compressed by EXT_meshopt_compression, whose decoder is not installed here "
            "(it is built from source and needs a C++ compiler); export it uncompressed"
        ) from error
    data = document.buffer(row.get("buffer"))
    offset, length = document.integer(row, "byteOffset", 0), document.integer(row, "byteLength")
    count, stride = document.integer(row, "count"), document.integer(row, "byteStride")
    if offset + length > len(data):
        raise document.fail(f"compressed data reaches to byte {offset + length} of {len(data)}")
    if count * stride > _LARGEST or stride == 0:
        raise document.fail(f"compressed data asks for {count} items of {stride} bytes")
    packed = bytes(data[offset : offset + length])
    mode, name = row.get("mode"), row.get("filter", "NONE")
    try:
        if mode == "ATTRIBUTES":
            items = meshoptimizer.decode_vertex_buffer(count, stride, packed, dtype=np.dtype(f"V{stride}"))
            filters = {
                "OCTAHEDRAL": meshoptimizer.decode_filter_oct,
                "QUATERNION": meshoptimizer.decode_filter_quat,
                "EXPONENTIAL": meshoptimizer.decode_filter_exp,
            }
            unpacked = items if name == "NONE" else filters[name](items, count, stride)
            return bytes(unpacked.tobytes())
        # The decoders write 32-bit items; 16-bit ones are narrowed here.
        decode = meshoptimizer.decode_index_buffer if mode == "TRIANGLES" else meshoptimizer.decode_index_sequence
        indices = decode(count, 4, packed)
        return bytes(indices.astype("<u2" if stride == 2 else "<u4").tobytes())
    except (RuntimeError, ValueError, KeyError) as error:
        raise document.fail(f"its compressed data cannot be decoded ({error})") from error


def decode_draco(document: "Document", row: dict[str, Any], accessors: dict[str, Any]) -> DracoPrimitive:
    """A primitive packed by KHR_draco_mesh_compression; ``accessors`` are those that the primitive names."""
    import DracoPy

    data = bytes(document.view(row.get("bufferView"))[0])
    try:
        mesh = DracoPy.decode(data)
    except Exception as error:  # the decoder raises plain exceptions of several kinds
        raise document.fail(f"its Draco data cannot be decoded ({error})") from error
    by_id = {attribute["unique_id"]: attribute["data"] for attribute in mesh.attributes}
    wanted = row.get("attributes")
    if not isinstance(wanted, dict):
        raise document.fail("a Draco primitive names no attributes")
    attributes: dict[str, NDArray[Any]] = {}
    for name, number in wanted.items():
        values = by_id.get(number)
        if values is None:
            raise document.fail(f"its Draco data lacks the attribute {name}")
        values = np.asarray(values).reshape(len(mesh.points), -1)
        accessor = document.row("accessors", accessors.get(name))
        if accessor.get("normalized") is True and values.dtype.kind in "iu":
            limit = np.float32(np.iinfo(values.dtype).max)
            values = np.maximum(values.astype(np.float32) / limit, np.float32(-1))
        attributes[str(name)] = values
    faces = getattr(mesh, "faces", None)
    indices = np.arange(len(mesh.points)) if faces is None else np.asarray(faces).reshape(-1)
    return DracoPrimitive(indices.astype(np.int64), attributes)
