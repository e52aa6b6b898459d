"""GLB and glTF as an engine reads them."""

import base64
import json
import math
from collections.abc import Mapping
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray

from plindro.core.errors import UnreadableFile
from plindro.core.rehearsal.axes import Axes
from plindro.core.rehearsal.found import Found, FoundImage, FoundMap, FoundMaterial, FoundNode, Primitive
from plindro.core.rehearsal.images import look_at
from plindro.core.rehearsal.readers.beside import find_beside

_FORMATS = {5120: "<i1", 5121: "<u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
_WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}
_MOVES = ("matrix", "translation", "rotation", "scale")
_OTHER_SOURCES = ("MSFT_texture_dds", "EXT_texture_webp", "KHR_texture_basisu")
"""Extensions that name an image of another format; the first that there is, is drawn."""
_CHANNELS = 8
_HEADER, _CHUNK = 12, 8


def read_gltf(path: str, files: Mapping[str, bytes], axes: Axes) -> Found:
    """A glTF's first scene; its axes and unit are always the same, but for the scale that a destination asks for."""
    data = files[path]
    document, binary = _chunks(data, path) if data[:4] == b"glTF" else _with_buffer(data, path, files)
    return _Reader(document, binary, path, files, Axes(scale=axes.scale)).read()


def _with_buffer(data: bytes, path: str, files: Mapping[str, bytes]) -> tuple[dict[str, Any], bytes]:
    """The document and the buffer of a glTF."""
    try:
        document = json.loads(data)
        uri = document["buffers"][0]["uri"]
    except (ValueError, KeyError, IndexError, TypeError) as error:
        raise UnreadableFile(f"{path}: is neither GLB nor glTF; give the file that was shipped") from error
    if uri.startswith("data:"):
        return document, base64.b64decode(uri.partition(",")[2])
    lies = find_beside(path, unquote(uri), files)
    if lies is None:
        raise UnreadableFile(f"{path}: its buffer {unquote(uri)} does not lie beside it; ship it again")
    return document, lies


def _chunks(data: bytes, path: str) -> tuple[dict[str, Any], bytes]:
    """The document and the buffer of a GLB."""
    if len(data) < _HEADER + _CHUNK:
        raise UnreadableFile(f"{path}: is not a whole GLB file; give the GLB that was shipped")
    length = int.from_bytes(data[8:12], "little")
    if length != len(data):
        raise UnreadableFile(f"{path}: its header says {length} bytes and there are {len(data)}; ship it again")
    text, binary, at = b"", b"", _HEADER
    while at < length:
        size, kind = int.from_bytes(data[at : at + 4], "little"), data[at + 4 : at + 8]
        if at + _CHUNK + size > length:
            raise UnreadableFile(f"{path}: a chunk reaches past the end of the file; ship it again")
        if kind == b"JSON":
            text = data[at + _CHUNK : at + _CHUNK + size]
        elif kind == b"BIN\0":
            binary = data[at + _CHUNK : at + _CHUNK + size]
        at += _CHUNK + size
    return json.loads(text), binary


class _Reader:
    """One document with its buffer."""

    def __init__(
        self, document: dict[str, Any], binary: bytes, path: str, files: Mapping[str, bytes], axes: Axes
    ) -> None:
        self._document, self._binary = document, binary
        self._path, self._files, self._axes = path, files, axes

    def read(self) -> Found:
        roots = self._document["scenes"][self._document.get("scene", 0)]["nodes"]
        place = self._document["nodes"][roots[0]].get("translation", (0.0, 0.0, 0.0)) if roots else (0.0, 0.0, 0.0)
        return Found(
            [self._node(index, frozenset()) for index in roots],
            [self._material(row, index) for index, row in enumerate(self._document.get("materials", []))],
            place=(float(place[0]), float(place[1]), float(place[2])),
        )

    def _node(self, index: int, above: frozenset[int]) -> FoundNode:
        if index in above:
            raise ValueError(f"node {index} lies below itself")
        row = self._document["nodes"][index]
        primitives = self._document["meshes"][row["mesh"]]["primitives"] if "mesh" in row else []
        return FoundNode(
            str(row.get("name", "")),
            any(key in row for key in _MOVES),
            [self._primitive(primitive) for primitive in primitives],
            [self._node(child, above | {index}) for child in row.get("children", [])],
        )

    def _primitive(self, row: dict[str, Any]) -> Primitive:
        if row.get("mode", 4) != 4:
            raise ValueError("a primitive is not a triangle list")
        attributes = row["attributes"]
        read = {key: self._floats(index) for key, index in attributes.items() if not key.startswith("_")}
        count = len(read["POSITION"])
        indices, wide, restarts = np.arange(count), None, False
        if "indices" in row:
            values = self._values(row["indices"])
            wide, restarts = values.dtype.itemsize == 4, bool((values == np.iinfo(values.dtype).max).any())
            indices = values.reshape(-1).astype(np.int64)
        if len(indices) % 3:
            raise ValueError(f"a primitive has {len(indices)} indices, no multiple of three")
        beyond = bool(len(indices)) and int(indices.max()) >= count
        return Primitive(
            positions=self._axes.points(read["POSITION"]),
            triangles=np.minimum(indices, max(count - 1, 0)).reshape(-1, 3),
            normals=read.get("NORMAL"),
            tangents=read.get("TANGENT"),
            uvs={k: read[f"TEXCOORD_{k}"] for k in range(_CHANNELS) if f"TEXCOORD_{k}" in read},
            material=row.get("material"),
            wide=wide,
            restarts=restarts,
            beyond=beyond,
        )

    def _values(self, index: int) -> NDArray[Any]:
        accessor = self._document["accessors"][index]
        view = self._document["bufferViews"][accessor["bufferView"]]
        kind = np.dtype(_FORMATS[accessor["componentType"]])
        width, count = _WIDTHS[accessor["type"]], accessor["count"]
        stride = view.get("byteStride", kind.itemsize * width)
        start = view.get("byteOffset", 0) + accessor.get("byteOffset", 0)
        need = (count - 1) * stride + kind.itemsize * width if count else 0
        if start + need > len(self._binary):
            raise ValueError(f"accessor {index} reaches past the data")
        return np.ndarray((count, width), kind, self._binary, start, (stride, kind.itemsize))

    def _floats(self, index: int) -> NDArray[np.float64]:
        values = self._values(index)
        result = values.astype(np.float64)
        if self._document["accessors"][index].get("normalized") and values.dtype.kind in "iu":
            result = np.maximum(
                result / (math.pow(2, 8 * values.dtype.itemsize - (values.dtype.kind == "i")) - 1), -1.0
            )
        return result

    def _material(self, row: dict[str, Any], index: int) -> FoundMaterial:
        pbr = row.get("pbrMetallicRoughness", {})
        slots = {
            "base_color": pbr.get("baseColorTexture"),
            "metallic_roughness": pbr.get("metallicRoughnessTexture"),
            "normal": row.get("normalTexture"),
            "occlusion": row.get("occlusionTexture"),
            "emissive": row.get("emissiveTexture"),
        }
        maps = [FoundMap(slot, info.get("texCoord", 0), self._images(info)) for slot, info in slots.items() if info]
        return FoundMaterial(str(row.get("name", f"material {index}")), tuple(maps))

    def _images(self, info: dict[str, Any]) -> tuple[FoundImage, ...]:
        textures = self._document.get("textures", [])
        if info["index"] >= len(textures):
            return (FoundImage(f"texture {info['index']}", "missing", fault="the file has no such texture"),)
        row = textures[info["index"]]
        others = [row.get("extensions", {}).get(name, {}).get("source") for name in _OTHER_SOURCES]
        sources = [source for source in (*others, row.get("source")) if source is not None]
        return tuple(self._image(source) for source in sources) or (
            FoundImage(f"texture {info['index']}", "missing", fault="the texture names no image"),
        )

    def _image(self, source: int) -> FoundImage:
        rows = self._document.get("images", [])
        if source >= len(rows):
            return FoundImage(f"image {source}", "missing", fault="the file has no such image")
        row = rows[source]
        if "uri" not in row:
            view = self._document["bufferViews"][row["bufferView"]]
            start = view.get("byteOffset", 0)
            inside = f"{PurePosixPath(self._path).name}#{row.get('name', source)}"
            return look_at(inside, bytes(self._binary[start : start + view["byteLength"]]))
        if row["uri"].startswith("data:"):
            return look_at(f"image {source}", base64.b64decode(row["uri"].partition(",")[2]))
        path = unquote(row["uri"])
        data = find_beside(self._path, path, self._files)
        return FoundImage(path, "missing", fault="it does not lie there") if data is None else look_at(path, data)
