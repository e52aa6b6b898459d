"""A small GLB reader that knows only what an engine needs of a shipped prop, written against the specification.

It shares no code with the writer or the source readers, so that a mistake there cannot hide itself here.
"""

import json
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray

from plindro.core.errors import UnreadableFile

_FORMATS = {5120: "<i1", 5121: "<u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
_WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}


@dataclass(slots=True)
class ShippedLevel:
    """One level: arrays over all its primitives; None where any primitive lacks the attribute."""

    name: str
    is_placed: bool
    triangles: NDArray[np.int64]
    positions: NDArray[np.float64]
    normals: NDArray[np.float64] | None
    tangents: NDArray[np.float64] | None
    uvs: list[NDArray[np.float64]]
    materials: list[int | None]
    material_names: tuple[str, ...]
    index_beyond: bool
    lacks_tangents: bool
    largest_mesh: int


@dataclass(slots=True)
class ShippedProp:
    """The root node and the mesh nodes below it in their order."""

    name: str
    n_roots: int
    levels: list[ShippedLevel] = field(default_factory=list)


def read_shipped(
    data: bytes,
    name: str,
    beside: Mapping[str, bytes] | None = None,
    *,
    is_nested: bool = False,
    is_other: Callable[[str, str], bool] = lambda root, node: False,
) -> ShippedProp:
    """Read GLB bytes, or those of a glTF whose buffer lies ``beside``.

    With ``is_nested`` the root is the first level, and the others lie below it; ``is_other`` tells from the root's name
    and that of a node whether that is a collision proxy or another level. Raises ``UnreadableFile`` where the
    bytes do not hold together.
    """
    try:
        document, binary = _chunks(data, name) if data[:4] == b"glTF" else _files(data, name, beside or {})
        return _read(document, binary, is_nested, is_other)
    except (KeyError, IndexError, TypeError, ValueError, AttributeError, RecursionError) as error:
        raise UnreadableFile(
            f"{name}: its content does not hold together ({_describe(error)}); ship it again"
        ) from error


def _describe(error: Exception) -> str:
    return f"{error} is missing" if isinstance(error, KeyError) else (str(error).splitlines() or ["damaged"])[0]


def _files(data: bytes, name: str, beside: Mapping[str, bytes]) -> tuple[dict[str, Any], bytes]:
    """The document and the buffer of a glTF."""
    try:
        document = json.loads(data)
        path = unquote(document["buffers"][0]["uri"])
    except (ValueError, KeyError, IndexError, TypeError) as error:
        raise UnreadableFile(f"{name}: is neither GLB nor glTF; give the file that was shipped") from error
    if path not in beside:
        raise UnreadableFile(f"{name}: its buffer {path} does not lie beside it; ship it again")
    return document, beside[path]


def _chunks(data: bytes, name: str) -> tuple[dict[str, Any], bytes]:
    """The document and the buffer of a GLB."""
    if len(data) < 20:
        raise UnreadableFile(f"{name}: is not a whole GLB file; give the GLB that was shipped")
    length = int.from_bytes(data[8:12], "little")
    if length != len(data):
        raise UnreadableFile(f"{name}: its header says {length} bytes and there are {len(data)}; ship it again")
    text, binary, at = b"", b"", 12
    while at < length:
        size, kind = int.from_bytes(data[at : at + 4], "little"), data[at + 4 : at + 8]
        if at + 8 + size > length:
            raise UnreadableFile(f"{name}: a chunk reaches past the end of the file; ship it again")
        if kind == b"JSON":
            text = data[at + 8 : at + 8 + size]
        elif kind == b"BIN\0":
            binary = data[at + 8 : at + 8 + size]
        at += 8 + size
    return json.loads(text), binary


def _read(
    document: dict[str, Any], binary: bytes, is_nested: bool, is_other: Callable[[str, str], bool]
) -> ShippedProp:
    roots = document["scenes"][document.get("scene", 0)]["nodes"]
    nodes = document["nodes"]
    root = nodes[roots[0]]
    prop = ShippedProp(root.get("name", ""), len(roots))
    below = [nodes[child] for child in root.get("children", [])]
    if is_nested and "mesh" not in root:
        # The first level's own meshes lie below the root, beside the proxies and the other levels.
        own = [node for node in below if "mesh" in node and not is_other(prop.name, node.get("name", ""))]
        prop.levels.append(_read_level(document, binary, root, own))
        below = [node for node in below if node not in own]
    elif is_nested or "mesh" in root:
        below = [root, *(below if is_nested else ())]
    for node in below:
        # A level is a mesh node, or a node whose children are its parts.
        pieces = (
            [node] if "mesh" in node else [nodes[part] for part in node.get("children", []) if "mesh" in nodes[part]]
        )
        if pieces:
            prop.levels.append(_read_level(document, binary, node, pieces))
    return prop


def _read_level(
    document: dict[str, Any], binary: bytes, node: dict[str, Any], pieces: list[dict[str, Any]]
) -> ShippedLevel:
    keys = ("POSITION", "NORMAL", "TANGENT", "TEXCOORD_0", "TEXCOORD_1", "TEXCOORD_2", "TEXCOORD_3")
    collected: dict[str, list[NDArray[np.float64]]] = {key: [] for key in keys}
    triangles, materials = [], []
    offset = 0
    beyond = False
    meshes = [document["meshes"][piece["mesh"]]["primitives"] for piece in pieces]
    primitives = [primitive for mesh in meshes for primitive in mesh]
    for primitive in primitives:
        if primitive.get("mode", 4) != 4:
            raise ValueError("a primitive is not a triangle list")
        attributes = primitive["attributes"]
        for key in keys:
            if key in attributes:
                collected[key].append(_floats(document, binary, attributes[key]))
        count = len(collected["POSITION"][-1])
        if "indices" in primitive:
            indices = _values(document, binary, primitive["indices"]).reshape(-1).astype(np.int64)
        else:
            indices = np.arange(count)
        if len(indices) % 3:
            raise ValueError(f"a primitive has {len(indices)} indices, no multiple of three")
        if len(indices) and indices.max() >= count:
            beyond = True
            indices = np.minimum(indices, max(count - 1, 0))
        triangles.append(indices.reshape(-1, 3) + offset)
        materials.append(primitive.get("material"))
        offset += count

    def whole(key: str) -> NDArray[np.float64] | None:
        return np.concatenate(collected[key]) if primitives and len(collected[key]) == len(primitives) else None

    positions = whole("POSITION")
    # Tangents are there only where a normal map asks for them, so they are checked for as far as they go.
    tangents = np.concatenate(collected["TANGENT"]) if collected["TANGENT"] else None
    return ShippedLevel(
        name=node.get("name", ""),
        is_placed=any(
            key in piece for piece in (node, *pieces) for key in ("matrix", "translation", "rotation", "scale")
        ),
        triangles=np.concatenate(triangles) if triangles else np.zeros((0, 3), np.int64),
        positions=np.zeros((0, 3)) if positions is None else positions,
        normals=whole("NORMAL"),
        tangents=tangents,
        uvs=[uv for key in keys[3:] if (uv := whole(key)) is not None],
        materials=materials,
        material_names=tuple(_material_name(document, m) for m in materials if m is not None),
        index_beyond=beyond,
        lacks_tangents=any(_has_normal_map(document, p) and "TANGENT" not in p["attributes"] for p in primitives),
        largest_mesh=max(
            sum(int(document["accessors"][p["attributes"]["POSITION"]]["count"]) for p in mesh) for mesh in meshes
        ),
    )


def _has_normal_map(document: dict[str, Any], primitive: dict[str, Any]) -> bool:
    material = primitive.get("material")
    return material is not None and "normalTexture" in document["materials"][material]


def _values(document: dict[str, Any], binary: bytes, index: int) -> NDArray[Any]:
    accessor = document["accessors"][index]
    view = document["bufferViews"][accessor["bufferView"]]
    kind = np.dtype(_FORMATS[accessor["componentType"]])
    width, count = _WIDTHS[accessor["type"]], accessor["count"]
    stride = view.get("byteStride", kind.itemsize * width)
    start = view.get("byteOffset", 0) + accessor.get("byteOffset", 0)
    need = (count - 1) * stride + kind.itemsize * width if count else 0
    if start + need > len(binary):
        raise ValueError(f"accessor {index} reaches past the data")
    return np.ndarray((count, width), kind, binary, start, (stride, kind.itemsize))


def _floats(document: dict[str, Any], binary: bytes, index: int) -> NDArray[np.float64]:
    values = _values(document, binary, index)
    result = values.astype(np.float64)
    if document["accessors"][index].get("normalized") and values.dtype.kind in "iu":
        result = np.maximum(result / math.pow(2, 8 * values.dtype.itemsize - (values.dtype.kind == "i")), -1.0)
    return result


def _material_name(document: dict[str, Any], material: int) -> str:
    rows = document.get("materials", [])
    return str(rows[material].get("name", f"material {material}")) if material < len(rows) else f"material {material}"
