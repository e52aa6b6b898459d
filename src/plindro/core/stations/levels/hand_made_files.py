"""Reading the meshes that someone modelled for single levels, into the place and the numbering of their prop."""

import hashlib
from dataclasses import replace

import numpy as np

from plindro.core.errors import UnreadableFile
from plindro.core.files import SideFiles, read_scene
from plindro.core.mesh.geometry import unit
from plindro.core.mesh.mesh import F32, Mesh
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.scene import Y_UP, Scene
from plindro.core.shading.normals import normals_by_angle
from plindro.core.stations.levels.hand_made import HandMade
from plindro.core.stations.levels.settings import LevelsSettings


def hand_made_digest(settings: LevelsSettings, side_files: SideFiles | None) -> str:
    """A digest of the files that the levels name; empty where they name none."""
    names = sorted({level.hand_made for level in settings.levels if level.hand_made is not None})
    digest = hashlib.sha256()
    for name in names:
        data = None if side_files is None else side_files.get(name)
        digest.update(name.encode() + b"|" + (data or b""))
    return digest.hexdigest() if names else ""


def read_hand_made(
    settings: LevelsSettings, prop: Prop, source: Scene, side_files: SideFiles | None
) -> dict[str, HandMade]:
    """The meshes that the levels name, each where LOD0 is: by the matrix that took the source there, in its own unit
    and axes; or why one is of no use."""
    made: dict[str, HandMade] = {}
    for level in settings.levels:
        name = level.hand_made
        if name is None or name in made:
            continue
        data = None if side_files is None else side_files.get(name)
        if data is None or side_files is None:
            made[name] = HandMade(name, problem=f"'{name}' is not beside the source; put it there")
            continue
        try:
            made[name] = _fitted(name, read_scene(data, name, side_files), prop, source)
        except UnreadableFile as error:
            made[name] = HandMade(name, problem=str(error))
    return made


def _fitted(name: str, scene: Scene, prop: Prop, source: Scene) -> HandMade:
    mesh = triangulate(scene.mesh).mesh
    if not mesh.n_faces or not np.isfinite(mesh.positions).all():
        return HandMade(name, problem=f"'{name}' holds no mesh that can be used")
    to_prop = np.array(prop.from_source).reshape(4, 4)
    own, theirs = scene.unit * Y_UP[scene.up], source.unit * Y_UP[source.up]
    onto = to_prop[:3, :3] @ np.linalg.inv(theirs) @ own
    places = mesh.positions @ onto.T + to_prop[:3, 3]
    # By the names that the materials ship under, or by those of the source.
    known = {**dict(prop.material_slots), **{material.name: i for i, material in enumerate(prop.materials)}}
    used = np.unique(mesh.face_material)
    unknown = [scene.materials[m].name for m in used if scene.materials[m].name not in known]
    of_material = np.array([known.get(material.name, 0) for material in scene.materials] or [0], np.int32)
    of_part = {part.name: i for i, part in reversed(list(enumerate(prop.parts)))}
    part = np.array([of_part.get(own_part.name, 0) for own_part in scene.parts] or [0], np.int32)
    n_channels = len(prop.mesh.uvs)
    fitted = replace(
        mesh,
        positions=places,
        face_material=of_material[mesh.face_material],
        face_part=part[mesh.face_part],
        uvs=tuple(mesh.uvs[k] if k < len(mesh.uvs) else _no_uvs(mesh) for k in range(n_channels)),
        normals=None if mesh.normals is None else unit(mesh.normals @ onto.T).astype(np.float32),
        colors=None if prop.mesh.colors is None else mesh.colors,
        tangents=None,
    )
    if fitted.normals is None and prop.mesh.normals is not None:
        angle = prop.shading.angle if prop.shading is not None and prop.shading.angle is not None else 60.0
        fitted = replace(fitted, normals=normals_by_angle(fitted, angle))
    return HandMade(
        name,
        fitted,
        unknown_materials=tuple(sorted(set(unknown))),
        n_channels=len(mesh.uvs),
        has_parts=any(own_part.name in of_part for own_part in scene.parts),
    )


def _no_uvs(mesh: Mesh) -> F32:
    return np.zeros((mesh.n_corners, 2), np.float32)
