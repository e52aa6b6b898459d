"""PLY, binary: a file a level, polygons as they are, with normals, the first UV channel and colours of vertices."""

from typing import Any

import numpy as np

from plindro.core.files.form import PLAIN_FORM, FileForm
from plindro.core.mesh.mesh import Mesh, make_triangles
from plindro.core.mesh.streams import vertex_stream
from plindro.core.numeric.srgb import to_srgb
from plindro.core.prop import Prop


def write_ply(prop: Prop, form: FileForm = PLAIN_FORM) -> dict[str, bytes]:
    """Files of a prop with levels, by name: a PLY a level and a PLY a collision proxy. The format has no materials.

    Raises ``ValueError`` where there are no levels.
    """
    if not prop.levels:
        raise ValueError(f"prop '{prop.name}' has no levels to write")
    meshes = [(level.name, level.mesh) for level in prop.levels]
    meshes += [(proxy.name, make_triangles(proxy.mesh.points, proxy.mesh.triangles)) for proxy in prop.proxies]
    return {f"{form.stem(name)}.ply": _file(mesh) for name, mesh in meshes}


def _file(mesh: Mesh) -> bytes:
    stream = vertex_stream(mesh, corners=np.arange(mesh.n_corners))
    vertices = _vertices(mesh, stream.corners)
    wide = "uint" if mesh.face_sides.max(initial=0) > 255 else "uchar"
    lines = ["ply", "format binary_little_endian 1.0", f"element vertex {len(vertices)}"]
    words = {"<f4": "float", "|u1": "uchar"}
    lines += [f"property {words[kind]} {name}" for name, kind in vertices.dtype.descr]
    lines += [f"element face {mesh.n_faces}", f"property list {wide} uint vertex_indices", "end_header"]
    faces = _faces(mesh.face_sides, stream.corner_index, 4 if wide == "uint" else 1)
    return ("\n".join(lines) + "\n").encode() + vertices.tobytes() + faces


def _vertices(mesh: Mesh, corners: Any) -> Any:
    """The engine vertices as rows of named numbers."""
    columns: dict[str, Any] = dict(zip("xyz", mesh.positions[mesh.corner_vertex[corners]].T, strict=True))
    if mesh.normals is not None:
        columns |= dict(zip(("nx", "ny", "nz"), mesh.normals[corners].T, strict=True))
    if mesh.uvs:
        # Up the picture, as the format's other writers have it.
        columns |= {"s": mesh.uvs[0][corners, 0], "t": 1.0 - mesh.uvs[0][corners, 1]}
    kinds = [(name, "<f4") for name in columns]
    if mesh.colors is not None:
        rgba = np.clip(mesh.colors[corners], 0, 1)
        bytes_of = np.rint(np.concatenate([to_srgb(rgba[:, :3]), rgba[:, 3:]], axis=1) * 255).astype(np.uint8)
        colors = dict(zip(("red", "green", "blue", "alpha"), bytes_of.T, strict=True))
        columns |= colors
        kinds += [(name, "|u1") for name in colors]
    rows = np.empty(len(corners), kinds)
    for name, values in columns.items():
        rows[name] = values
    return rows


def _faces(sides: Any, corner_index: Any, count_bytes: int) -> bytes:
    """Each face: its number of sides, and its vertices."""
    sides = sides.astype(np.int64)
    ends = np.cumsum(count_bytes + 4 * sides)
    starts = ends - (count_bytes + 4 * sides)
    data = np.zeros(int(ends[-1]) if len(ends) else 0, np.uint8)
    counts = sides.astype(f"<u{count_bytes}").view(np.uint8).reshape(-1, count_bytes)
    data[starts[:, None] + np.arange(count_bytes)] = counts
    first = np.cumsum(sides) - sides
    places = np.repeat(starts + count_bytes - 4 * first, sides) + 4 * np.arange(len(corner_index))
    data[places[:, None] + np.arange(4)] = corner_index.astype("<u4").view(np.uint8).reshape(-1, 4)
    return data.tobytes()
