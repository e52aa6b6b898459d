"""Props as the parts of one, which share a sheet."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from plindro.core.mesh.mesh import F32, I32, I64, Mesh
from plindro.core.prop import Level, Prop
from plindro.core.scene import Image, Material, Part, Texture
from plindro.core.sheets.placing import Placement
from plindro.core.uvs.single import to_single


@dataclass(frozen=True, slots=True)
class KeptOut:
    """A material of a prop that stays as it is."""

    prop: int
    material: int


def join_props(
    name: str, props: Sequence[Prop], placement: Placement, of: Sequence[int], sheet_materials: list[Material],
    sheet_images: tuple[Image, ...], kept: Sequence[KeptOut],
) -> Prop:  # fmt: skip
    """All props as parts of one, each where it stood; materials that are kept come after the sheet's."""
    materials, images = list(sheet_materials), list(sheet_images)
    number_of: dict[tuple[int, int], int] = {}
    for which in kept:
        own = props[which.prop]
        first = len(images)
        images += own.images
        material = own.materials[which.material].with_textures(partial(_moved, by=first))
        number_of[which.prop, which.material] = len(materials)
        materials.append(material)
    uvs = [np.array(prop.mesh.uvs[0], np.float32).reshape(-1, 3, 2) for prop in props]
    face_material: list[I32] = [
        np.array([number_of.get((p, m), 0) for m in range(len(prop.materials))], np.int32)[prop.mesh.face_material]
        for p, prop in enumerate(props)
    ]
    for placed, group in zip(placement.placed, of, strict=True):
        uvs[placed.piece.prop][placed.piece.faces] = to_single(placed.uv)
        face_material[placed.piece.prop][placed.piece.faces] = group
    meshes = [prop.mesh for prop in props]
    mesh = _joined(meshes, [uv.reshape(-1, 2) for uv in uvs], face_material)
    parts = tuple(Part(prop.name, prop.name, object=prop.name) for prop in props)
    joined = Prop(name, mesh, parts, tuple(materials), tuple(images), keeps_parts=True)
    return replace(joined, levels=(Level(0, mesh, name),))


def _moved(texture: Texture, by: int) -> Texture:
    return replace(texture, image=texture.image + by)


def _joined(meshes: Sequence[Mesh], uvs: list[F32], face_material: list[I32]) -> Mesh:
    """Triangle meshes as one, a part each."""
    first: I64 = np.cumsum([0] + [mesh.n_vertices for mesh in meshes])[:-1]
    polygons = np.cumsum([0] + [int(mesh.face_polygon.max(initial=-1)) + 1 for mesh in meshes])[:-1]
    has_normals = all(mesh.normals is not None for mesh in meshes)
    has_colors = any(mesh.colors is not None for mesh in meshes)
    n_faces = sum(mesh.n_faces for mesh in meshes)
    return Mesh(
        positions=np.concatenate([mesh.positions for mesh in meshes]),
        face_start=3 * np.arange(n_faces + 1, dtype=np.int64),
        corner_vertex=np.concatenate(
            [mesh.corner_vertex + np.int32(at) for mesh, at in zip(meshes, first, strict=True)]
        ).astype(np.int32),
        face_material=np.concatenate(face_material),
        face_part=np.repeat(np.arange(len(meshes), dtype=np.int32), [mesh.n_faces for mesh in meshes]),
        face_smoothing=np.concatenate([mesh.face_smoothing for mesh in meshes]),
        face_polygon=np.concatenate(
            [mesh.face_polygon + np.int32(at) for mesh, at in zip(meshes, polygons, strict=True)]
        ).astype(np.int32),
        normals=np.concatenate([mesh.normals for mesh in meshes]) if has_normals else None,
        uvs=(np.concatenate(uvs),),
        colors=np.concatenate([_colors(mesh) for mesh in meshes]) if has_colors else None,
    )


def _colors(mesh: Mesh) -> F32:
    return np.ones((mesh.n_corners, 4), np.float32) if mesh.colors is None else mesh.colors
