"""OBJ with its material library and images: polygons as they are, normals and UVs a corner, smoothing groups, and
colours of vertices after their places."""

from collections.abc import Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.collision.proxy import Proxy
from plindro.core.files.form import PLAIN_FORM, FileForm
from plindro.core.files.images import image_file
from plindro.core.files.level_meshes import level_meshes
from plindro.core.mesh.mesh import F64, Mesh
from plindro.core.mesh.numbering import float_bits, number_rows
from plindro.core.names import clean_name, unique_names
from plindro.core.numeric.srgb import to_srgb
from plindro.core.prop import Prop
from plindro.core.shading.smoothing import smoothing_groups


def write_obj(prop: Prop, form: FileForm = PLAIN_FORM) -> dict[str, bytes]:
    """Files of a prop with levels, by name: the OBJ, its MTL and the images; an object a level, or a level and part,
    and an object a collision proxy.

    Raises ``ValueError`` where there are no levels.
    """
    if not prop.levels:
        raise ValueError(f"prop '{prop.name}' has no levels to write")
    used = sorted({int(m) for level in prop.levels for m in np.unique(level.mesh.face_material)})
    names = dict(zip(used, unique_names(clean_name(prop.materials[m].name) for m in used), strict=True))
    stem = form.stem(prop.name)
    lines = [f"mtllib {stem}.mtl"]
    offsets = [1, 1, 1]
    for level in prop.levels:
        for title, mesh in level_meshes(prop, level, form):
            _write_object(lines, title, mesh, names, offsets)
    for proxy in prop.proxies:
        _write_proxy(lines, proxy, offsets)
    return {f"{stem}.obj": ("\n".join(lines) + "\n").encode(), **_library(prop, names, stem)}


def _write_object(lines: list[str], title: str, mesh: Mesh, materials: dict[int, str], offsets: list[int]) -> None:
    """Append an object's lines; ``offsets`` are the next numbers of position, UV and normal."""
    ids, places = _places(mesh)
    lines.append(f"o {title}")
    lines += _rows("v", places, 9)
    columns = [ids + offsets[0]]
    offsets[0] += len(places)
    if mesh.uvs:
        ids, firsts = number_rows(float_bits(mesh.uvs[0]))
        lines += _rows("vt", mesh.uvs[0][firsts].astype(np.float64) * (1, -1) + (0, 1), 9)
        columns.append(ids + offsets[1])
        offsets[1] += len(firsts)
    if mesh.normals is not None:
        ids, firsts = number_rows(float_bits(mesh.normals))
        lines += _rows("vn", mesh.normals[firsts].astype(np.float64), 7)
        columns.append(ids + offsets[2])
        offsets[2] += len(firsts)
    pattern = "%d" + ("/%d" if mesh.uvs else "/" if mesh.normals is not None else "")
    pattern += "/%d" if mesh.normals is not None else ""
    corners = [pattern % row for row in zip(*(column.tolist() for column in columns), strict=True)]
    groups = smoothing_groups(mesh).tolist()
    material, group = -1, -1
    order = np.argsort(mesh.face_material, kind="stable").tolist()
    starts = mesh.face_start.tolist()
    of_face = mesh.face_material.tolist()
    for face in order:
        if of_face[face] != material:
            material = of_face[face]
            lines.append(f"usemtl {materials[material]}")
        if groups[face] != group:
            group = groups[face]
            lines.append(f"s {group or 'off'}")
        lines.append("f " + " ".join(corners[starts[face] : starts[face + 1]]))


def _places(mesh: Mesh) -> tuple[NDArray[Any], F64]:
    """Which place each corner has, and the places (P, 3), or (P, 6) with their colours: apart where colours differ."""
    if mesh.colors is None:
        used = np.zeros(mesh.n_vertices, bool)
        used[mesh.corner_vertex] = True
        return (np.cumsum(used) - 1)[mesh.corner_vertex], mesh.positions[used]
    rgb = mesh.colors[:, :3]
    ids, firsts = number_rows(np.concatenate([mesh.corner_vertex[:, None].astype(np.int64), float_bits(rgb)], axis=1))
    colors = to_srgb(np.clip(rgb[firsts], 0.0, 1.0))
    return ids, np.concatenate([mesh.positions[mesh.corner_vertex[firsts]], colors], axis=1)


def _write_proxy(lines: list[str], proxy: Proxy, offsets: list[int]) -> None:
    """Append the lines of a collision proxy: places alone."""
    lines += [f"o {proxy.name}", "s off", *_rows("v", proxy.mesh.points, 9)]
    lines += [f"f {a} {b} {c}" for a, b, c in (proxy.mesh.triangles + offsets[0]).tolist()]
    offsets[0] += len(proxy.mesh.points)


def _rows(key: str, values: NDArray[Any], digits: int) -> Iterable[str]:
    pattern = key + f" %.{digits}g" * values.shape[1]
    return (pattern % tuple(row) for row in (values + 0.0).tolist())


def _library(prop: Prop, names: dict[int, str], stem: str) -> dict[str, bytes]:
    """The material library and the images it names."""
    files: dict[str, bytes] = {}
    lines: list[str] = []
    for index, name in names.items():
        material = prop.materials[index]
        r, g, b, a = material.base_color
        lines += [f"newmtl {name}", f"Kd {r:.6g} {g:.6g} {b:.6g}", f"d {a:.6g}"]
        lines += [f"Pr {material.roughness:.6g}", f"Pm {material.metallic:.6g}"]
        if any(material.emissive):
            lines.append("Ke {:.6g} {:.6g} {:.6g}".format(*material.emissive))
        for slot, keys in (
            ("base_color", ("map_Kd",)),
            ("normal", ("norm",)),
            ("metallic_roughness", ("map_Pr -imfchan g", "map_Pm -imfchan b")),
            ("occlusion", ("map_ao -imfchan r",)),
            ("emissive", ("map_Ke",)),
        ):
            texture = material.texture(slot)  # type: ignore[arg-type]
            if texture is not None:
                path, data = image_file(prop.name, prop.images[texture.image])
                files[path] = data
                lines += [f"{key} {path}" for key in keys]
    return {f"{stem}.mtl": ("\n".join(lines) + "\n").encode(), **files}
