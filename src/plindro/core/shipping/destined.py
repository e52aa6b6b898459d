"""A prop in the form that a destination asks for: its axes, unit and winding, its names, what it leaves out."""

from dataclasses import replace

import numpy as np

from plindro.core.collision.proxy import Proxy
from plindro.core.destinations import METRES, Destination
from plindro.core.files.form import FileForm
from plindro.core.mesh.mesh import F64, Mesh
from plindro.core.prop import Prop
from plindro.core.scene import Texture
from plindro.core.stations.naming import material_names


def form_of(destination: Destination) -> FileForm:
    """What the writers have to know of a destination."""
    return FileForm(
        destination.file_stem,
        destination.part_name,
        nested=destination.hierarchy == "nested",
        wide=destination.indices == "32",
        up=destination.up,
        metres=METRES[destination.unit],
        clockwise=destination.winding == "clockwise",
        to_shared="../" if destination.folders == "prop" else "",
    )


def axes_of(destination: Destination) -> F64:
    """(3, 3) the matrix of 0, 1 and -1 that takes axes of ours, Y up and right-handed, to the destination's."""
    matrix = np.eye(3)
    if destination.up == "z":
        matrix = np.array([[1.0, 0.0, 0.0], [0.0, 0.0, -1.0], [0.0, 1.0, 0.0]])
    if destination.hand == "left":
        # The axis that points to the viewer turns away.
        matrix[1 if destination.up == "z" else 2] *= -1.0
    return matrix


def length_of(destination: Destination) -> float:
    """The destination's units in a metre of ours."""
    return destination.scale / METRES[destination.unit]


def destined(prop: Prop, destination: Destination) -> Prop:
    """The prop as it is written for the destination. A prop is the same object where nothing is other."""
    prop = _with_light_map(prop, destination.light_map_channel)
    names = material_names(prop, destination)
    if names != [material.name for material in prop.materials]:
        materials = tuple(replace(m, name=name) for m, name in zip(prop.materials, names, strict=True))
        prop = replace(prop, materials=materials)
    matrix, factor = axes_of(destination), length_of(destination)
    is_clockwise = destination.winding == "clockwise"
    is_moved = factor != 1.0 or not np.array_equal(matrix, np.eye(3))
    if destination.normals and not is_moved and not is_clockwise:
        return prop

    def turned(mesh: Mesh) -> Mesh:
        return _turned(mesh, matrix, factor, is_clockwise=is_clockwise, normals=destination.normals)

    levels = tuple(replace(level, mesh=turned(level.mesh)) for level in prop.levels)
    proxies = tuple(_turned_proxy(proxy, matrix, factor, is_clockwise) for proxy in prop.proxies)
    place = (matrix @ np.array(prop.place)) * factor
    return replace(prop, levels=levels, proxies=proxies, place=(float(place[0]), float(place[1]), float(place[2])))


def _with_light_map(prop: Prop, channel: int) -> Prop:
    """The prop with its UV channel 1 as another: those after it move down, places between are copies of channel 0."""
    n = min((len(level.mesh.uvs) for level in prop.levels), default=0)
    if channel == 1 or n < _WITH_LIGHT_MAP:
        return prop
    first, light, *others = range(n)
    order = [first, *others, *[first] * (channel - 1 - len(others))]
    order.insert(channel, light)

    def moved(texture: Texture) -> Texture:
        # Channel 0 stays where it is, though copies of it may follow.
        return replace(texture, channel=order.index(texture.channel)) if texture.channel < n else texture

    levels = tuple(
        replace(level, mesh=replace(level.mesh, uvs=tuple(level.mesh.uvs[k] for k in order))) for level in prop.levels
    )
    return replace(prop, levels=levels, materials=tuple(m.with_textures(moved) for m in prop.materials))


_WITH_LIGHT_MAP = 2
"""UV channels of a mesh that has a light map."""


def _turned(mesh: Mesh, matrix: F64, factor: float, *, is_clockwise: bool, normals: bool) -> Mesh:
    kept = mesh.normals if normals else None
    if kept is not None:
        kept = np.ascontiguousarray(kept @ matrix.T.astype(np.float32))
    tangents = mesh.tangents if normals else None
    if tangents is not None:
        # The third axis of a mirrored frame is the other way round.
        sign = np.float32(np.linalg.det(matrix))
        tangents = np.concatenate([tangents[:, :3] @ matrix.T.astype(np.float32), tangents[:, 3:] * sign], axis=1)
    moved = replace(mesh, positions=(mesh.positions @ matrix.T) * factor, normals=kept, tangents=tangents)
    return _wound_back(moved) if is_clockwise else moved


def _wound_back(mesh: Mesh) -> Mesh:
    """Every face from the same first corner the other way round."""
    sides, face = mesh.face_sides, mesh.corner_face()
    within = np.arange(mesh.n_corners) - mesh.face_start[:-1][face]
    corners = mesh.face_start[:-1][face] + (-within) % sides[face]
    return mesh.with_corners(corners, mesh.face_start, np.arange(mesh.n_faces))


def _turned_proxy(proxy: Proxy, matrix: F64, factor: float, is_clockwise: bool) -> Proxy:
    triangles = proxy.mesh.triangles[:, [0, 2, 1]] if is_clockwise else proxy.mesh.triangles
    mesh = replace(proxy.mesh, points=(proxy.mesh.points @ matrix.T) * factor, triangles=triangles)
    # The numbers are told in glTF alone, whose axes are ours: of a box the first six are lengths, then come its axes.
    lengths = 6 if "box" in proxy.shape else len(proxy.numbers)
    scaled = tuple(number * factor for number in proxy.numbers[:lengths])
    return replace(proxy, mesh=mesh, numbers=(*scaled, *proxy.numbers[lengths:]))
