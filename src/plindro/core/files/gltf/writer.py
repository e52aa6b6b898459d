"""Writing a chain as GLB: one root node with the prop's name, below it one mesh node a level, materials shared, then
its collision proxies.

The same prop gives the same bytes: no clock, no random names, a fixed order of keys.
"""

import json
from dataclasses import dataclass, field, replace
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import quote, unquote

import numpy as np
from numpy.typing import NDArray

from plindro.core.collision.proxy import Proxy
from plindro.core.files.form import PLAIN_FORM, FileForm
from plindro.core.files.gltf.container import BIN_CHUNK, CHUNK_HEADER, HEADER, JSON_CHUNK, MAGIC
from plindro.core.files.images import image_file
from plindro.core.files.level_meshes import level_meshes
from plindro.core.mesh.mesh import I64, Mesh
from plindro.core.mesh.streams import vertex_stream
from plindro.core.prop import GpuFile, ImageFile, Level, Prop
from plindro.core.scene import Material, Texture

ARRAY_BUFFER, ELEMENT_ARRAY_BUFFER = 34962, 34963
FLOAT, UINT16, UINT32 = 5126, 5123, 5125
RESTART_16 = 65_535
"""The largest 16-bit index restarts a primitive in some engines and is never used."""


@dataclass(slots=True)
class _Writer:
    """The document and its one buffer as they grow."""

    document: dict[str, Any]
    form: FileForm
    blob: bytearray = field(default_factory=bytearray)

    def view(self, data: bytes, target: int | None = None) -> int:
        """Append bytes at the next multiple of four; returns the buffer view's index."""
        self.blob += b"\0" * (-len(self.blob) % 4)
        view = {"buffer": 0, "byteOffset": len(self.blob), "byteLength": len(data)}
        if target is not None:
            view["target"] = target
        self.blob += data
        self.document["bufferViews"].append(view)
        return len(self.document["bufferViews"]) - 1

    def accessor(self, values: NDArray[Any], kind: str, component: int, target: int, *, bounds: bool = False) -> int:
        """Append an array; returns the accessor's index."""
        row: dict[str, Any] = {
            "bufferView": self.view(np.ascontiguousarray(values).tobytes(), target),
            "componentType": component,
            "count": len(values),
            "type": kind,
        }
        if bounds:
            row["min"] = values.min(axis=0).tolist()
            row["max"] = values.max(axis=0).tolist()
        self.document["accessors"].append(row)
        return len(self.document["accessors"]) - 1


def write_glb(prop: Prop, form: FileForm = PLAIN_FORM) -> bytes:
    """GLB bytes of a prop with levels.

    Tangents are written for materials with a normal map, where the meshes have them. Raises ``ValueError`` where there
    are no levels.
    """
    return _pack(_written(prop, form))


def write_gltf(prop: Prop, form: FileForm = PLAIN_FORM) -> dict[str, bytes]:
    """As ``write_glb``, as files by name: the glTF, its buffer and the images that do not lie elsewhere already."""
    lying = {file.image for file in prop.image_files}
    own = {index: image_file(prop.name, image) for index, image in enumerate(prop.images) if index not in lying}
    outside = tuple(ImageFile(index, path, data) for index, (path, data) in own.items())
    writer = _written(replace(prop, image_files=(*prop.image_files, *outside)), form)
    stem = form.stem(prop.name)
    buffer = {"uri": quote(f"{stem}.bin"), "byteLength": len(writer.blob)}
    text = json.dumps({**writer.document, "buffers": [buffer]}, indent=1, ensure_ascii=False, allow_nan=False)
    used = {unquote(image["uri"]) for image in writer.document.get("images", ()) if "uri" in image}
    images = {path: data for path, data in own.values() if path in used}
    return {f"{stem}.gltf": f"{text}\n".encode(), f"{stem}.bin": bytes(writer.blob), **images}


def _written(prop: Prop, form: FileForm) -> _Writer:
    """The document and the buffer of a prop."""
    if not prop.levels:
        raise ValueError(f"prop '{prop.name}' has no levels to write")
    writer = _Writer(
        {
            "asset": {"version": "2.0", "generator": "Plindro"},
            "scene": 0,
            "scenes": [{"name": prop.name, "nodes": [0]}],
            "nodes": [] if form.nested else [_root(prop)],
            "meshes": [],
            "accessors": [],
            "bufferViews": [],
        },
        form,
    )
    used = sorted({int(m) for level in prop.levels for m in np.unique(level.mesh.face_material)})
    used.sort(key=lambda m: (prop.materials[m].name, m))
    n_channels = len(prop.levels[0].mesh.uvs)
    materials = [_within(prop.materials[m], n_channels) for m in used]
    for level in prop.levels:
        _write_level(writer, prop, level, used, materials)
    for proxy in prop.proxies:
        _append(writer, _proxy_node(writer, proxy))
    _write_materials(writer, prop, materials)
    return writer


def _append(writer: _Writer, node: dict[str, Any], parent: int = 0) -> None:
    """Append a node, below its parent unless it is the first."""
    nodes = writer.document["nodes"]
    nodes.append(node)
    if len(nodes) > 1:
        nodes[parent].setdefault("children", []).append(len(nodes) - 1)


def face_order(prop: Prop, mesh: Mesh) -> I64:
    """(F,) the faces of a level in the order in which ``write_glb`` writes them: by part where parts are kept, by the
    material's name, then as they are."""
    used = sorted(np.unique(mesh.face_material).tolist(), key=lambda m: (prop.materials[m].name, m))
    rank = np.zeros(max(len(prop.materials), 1), np.int64)
    rank[used] = np.arange(len(used))
    keeps_parts = prop.keeps_parts and len(prop.parts) > 1
    part = mesh.face_part if keeps_parts else np.zeros(mesh.n_faces, np.int32)
    return np.lexsort((np.arange(mesh.n_faces), rank[mesh.face_material], part))


def _root(prop: Prop) -> dict[str, Any]:
    """The root node; moved only where the prop keeps its place in a scene."""
    root: dict[str, Any] = {"name": prop.name, "children": []}
    if any(prop.place):
        root["translation"] = list(prop.place)
    return root


def _mesh_node(writer: _Writer, name: str, mesh: Mesh, used: list[int], materials: list[Material]) -> dict[str, Any]:
    """A node with its mesh, a primitive a material."""
    primitives = [
        _write_primitive(writer, mesh, material, slot, materials[slot])
        for slot, material in enumerate(used)
        if (mesh.face_material == material).any()
    ]
    writer.document["meshes"].append({"name": name, "primitives": primitives})
    return {"name": name, "mesh": len(writer.document["meshes"]) - 1}


def _proxy_node(writer: _Writer, proxy: Proxy) -> dict[str, Any]:
    """A node with a collision proxy: places alone, and in its extras what it is in itself."""
    corners = proxy.mesh.points.astype(np.float32)
    primitive = {
        "attributes": {"POSITION": writer.accessor(corners, "VEC3", FLOAT, ARRAY_BUFFER, bounds=True)},
        "indices": writer.accessor(
            proxy.mesh.triangles.reshape(-1).astype(np.uint16), "SCALAR", UINT16, ELEMENT_ARRAY_BUFFER
        ),
        "mode": 4,
    }
    writer.document["meshes"].append({"name": proxy.name, "primitives": [primitive]})
    extras = {"collision": {"shape": proxy.shape, "numbers": [round(number, 6) for number in proxy.numbers]}}
    return {"name": proxy.name, "mesh": len(writer.document["meshes"]) - 1, "extras": extras}


def _write_level(writer: _Writer, prop: Prop, level: Level, used: list[int], materials: list[Material]) -> None:
    """A level: a mesh node, or a node whose children are its meshes."""
    meshes = level_meshes(prop, level, writer.form)
    is_whole = [name for name, _ in meshes] == [level.name]
    node: dict[str, Any] = {"name": level.name}
    if is_whole:
        node = _mesh_node(writer, level.name, meshes[0][1], used, materials)
    if not writer.document["nodes"] and any(prop.place):
        node["translation"] = list(prop.place)
    _append(writer, node)
    holder = len(writer.document["nodes"]) - 1
    for name, mesh in () if is_whole else meshes:
        _append(writer, _mesh_node(writer, name, mesh, used, materials), holder)


def _within(material: Material, n_channels: int) -> Material:
    """The material without textures for which there is no UV channel."""
    return material.with_textures(lambda texture: texture if texture.channel < n_channels else None)


def _write_primitive(writer: _Writer, mesh: Mesh, material: int, index: int, written: Material) -> dict[str, Any]:
    mesh = mesh.with_faces(mesh.face_material == material)
    if written.texture("normal") is None:
        mesh = replace(mesh, tangents=None)
    stream = vertex_stream(mesh, corners=np.arange(mesh.n_corners))
    corners = stream.corners
    attributes = {}
    positions = mesh.positions[mesh.corner_vertex[corners]].astype(np.float32)
    attributes["POSITION"] = writer.accessor(positions, "VEC3", FLOAT, ARRAY_BUFFER, bounds=True)
    if mesh.normals is not None:
        attributes["NORMAL"] = writer.accessor(mesh.normals[corners], "VEC3", FLOAT, ARRAY_BUFFER)
    if mesh.tangents is not None:
        attributes["TANGENT"] = writer.accessor(mesh.tangents[corners], "VEC4", FLOAT, ARRAY_BUFFER)
    for channel, uv in enumerate(mesh.uvs):
        attributes[f"TEXCOORD_{channel}"] = writer.accessor(uv[corners], "VEC2", FLOAT, ARRAY_BUFFER)
    if mesh.colors is not None:
        attributes["COLOR_0"] = writer.accessor(np.clip(mesh.colors[corners], 0, 1), "VEC4", FLOAT, ARRAY_BUFFER)
    short = len(corners) <= RESTART_16 and not writer.form.wide
    indices = stream.corner_index.astype(np.uint16 if short else np.uint32)
    return {
        "attributes": attributes,
        "indices": writer.accessor(indices, "SCALAR", UINT16 if short else UINT32, ELEMENT_ARRAY_BUFFER),
        "material": index,
        "mode": 4,
    }


def _write_materials(writer: _Writer, prop: Prop, materials: list[Material]) -> None:
    """Materials with the textures, samplers and images they use, each image once."""
    document = writer.document
    textures: list[dict[str, Any]] = []
    samplers: list[dict[str, Any]] = []
    images: list[dict[str, Any]] = []
    image_slot: dict[str, int] = {}
    extensions: set[str] = set()
    required: set[str] = set()
    beside = {file.image: file for file in prop.image_files}
    dds = {file.image: file for file in prop.gpu_files if file.container == "dds" and file.image is not None}

    def once(rows: list[dict[str, Any]], row: dict[str, Any]) -> int:
        if row not in rows:
            rows.append(row)
        return rows.index(row)

    def reference(texture: Texture, strength_key: str | None = None) -> dict[str, Any]:
        image = prop.images[texture.image]
        if image.digest not in image_slot:
            image_slot[image.digest] = len(images)
            named = {"name": image.name, "mimeType": image.media_type}
            lies = beside.get(texture.image)
            images.append(
                named | ({"uri": writer.form.way_to(lies.path)} if lies else {"bufferView": writer.view(image.data)})
            )
        sampler = {"wrapS": texture.wrap[0], "wrapT": texture.wrap[1]}
        for key, value in zip(("magFilter", "minFilter"), texture.filters, strict=True):
            if value is not None:
                sampler[key] = value
        row: dict[str, Any] = {"sampler": once(samplers, sampler)}
        if image.media_type == "image/webp":
            required.add("EXT_texture_webp")
            row["extensions"] = {"EXT_texture_webp": {"source": image_slot[image.digest]}}
        else:
            row["source"] = image_slot[image.digest]
        if texture.image in dds:
            extensions.add("MSFT_texture_dds")
            own = {"MSFT_texture_dds": {"source": once(images, _dds_image(dds[texture.image], writer.form))}}
            row["extensions"] = row.get("extensions", {}) | own
        info: dict[str, Any] = {"index": once(textures, row)}
        if texture.channel:
            info["texCoord"] = texture.channel
        if strength_key and texture.strength != 1.0:
            info[strength_key] = texture.strength
        if texture.transform:
            extensions.add("KHR_texture_transform")
            info["extensions"] = {"KHR_texture_transform": dict(texture.transform)}
        return info

    rows = []
    for material in materials:
        pbr: dict[str, Any] = {
            "baseColorFactor": list(material.base_color),
            "metallicFactor": material.metallic,
            "roughnessFactor": material.roughness,
        }
        row: dict[str, Any] = {"name": material.name, "pbrMetallicRoughness": pbr}
        used = dict(material.textures)
        if "base_color" in used:
            pbr["baseColorTexture"] = reference(used["base_color"])
        if "metallic_roughness" in used:
            pbr["metallicRoughnessTexture"] = reference(used["metallic_roughness"])
        if "normal" in used:
            row["normalTexture"] = reference(used["normal"], "scale")
        if "occlusion" in used:
            row["occlusionTexture"] = reference(used["occlusion"], "strength")
        if "emissive" in used:
            row["emissiveTexture"] = reference(used["emissive"])
        if any(material.emissive):
            row["emissiveFactor"] = list(material.emissive)
        if material.alpha_mode != "OPAQUE":
            row["alphaMode"] = material.alpha_mode
        if material.alpha_mode == "MASK":
            row["alphaCutoff"] = material.alpha_cutoff
        if material.double_sided:
            row["doubleSided"] = True
        for extension in material.extensions:
            extensions.add(extension.name)
            content = json.loads(extension.values)
            for key, texture in extension.textures:
                content[key] = reference(texture, "scale" if "Normal" in key else None)
            row.setdefault("extensions", {})[extension.name] = content
        rows.append(row)
    document["materials"] = rows
    for key, found in (("textures", textures), ("samplers", samplers), ("images", images)):
        if found:
            document[key] = found
    if extensions | required:
        document["extensionsUsed"] = sorted(extensions | required)
    if required:
        document["extensionsRequired"] = sorted(required)


def _dds_image(file: GpuFile, form: FileForm) -> dict[str, Any]:
    """An image that lies beside the GLB; viewers that do not know DDS take the plain one."""
    return {"name": PurePosixPath(file.path).name, "mimeType": "image/vnd-ms.dds", "uri": form.way_to(file.path)}


def _pack(writer: _Writer) -> bytes:
    blob = bytes(writer.blob) + b"\0" * (-len(writer.blob) % 4)
    document = {**writer.document, "buffers": [{"byteLength": len(blob)}]}
    text = json.dumps(document, separators=(",", ":"), ensure_ascii=False, allow_nan=False).encode()
    text += b" " * (-len(text) % 4)
    total = HEADER.size + 2 * CHUNK_HEADER.size + len(text) + len(blob)
    return b"".join(
        [
            HEADER.pack(MAGIC, 2, total),
            CHUNK_HEADER.pack(len(text), JSON_CHUNK),
            text,
            CHUNK_HEADER.pack(len(blob), BIN_CHUNK),
            blob,
        ]
    )
