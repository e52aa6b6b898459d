"""Reading the meshes that someone modelled for single levels, into the place and the numbering of their prop."""

import hashlib
from dataclasses import replace

import numpy as np

from plindro.core.errors import UnreadableFile
from plindro.core.files import SideFiles, read_scene
from plindro.core.levels import HandMade, LevelsSettings
from plindro.core.mesh.geometry import unit
from plindro.core.mesh.mesh import F32, Mesh
from plindro.core.mesh.normals import normals_by_angle
from plindro.core.prop import Prop
from plindro.core.scene import Y_UP, Scene
from plindro.core.triangulation import triangulate


def read_hand_made(settings: LevelsSettings, side_files: SideFiles | None) -> tuple[dict[str, Scene | str], str]:
    """The scenes that the levels name, or why one is of no use, by name; and a digest of all of them."""
    scenes: dict[str, Scene | str] = {}
    digest = hashlib.sha256()
    for level in settings.levels:
        name = level.hand_made
        if name is None or name in scenes:
            continue
        data = None if side_files is None else side_files.get(name)
        digest.update(name.encode() + b"|" + (data or b""))
        if data is None or side_files is None:
            scenes[name] = f"'{name}' is not beside the source; put it there"
            continue
        try:
            scenes[name] = read_scene(data, name, side_files)
        except UnreadableFile as error:
            scenes[name] = str(error)
    return scenes, digest.hexdigest() if scenes else ""


def fit_hand_made(scenes: dict[str, Scene | str], prop: Prop, source: Scene) -> dict[str, HandMade]:
    """Each scene's mesh where LOD0 is: by the matrix that took the source there, in its own unit and axes."""
    return {
        name: HandMade(name, problem=scene) if isinstance(scene, str) else _fitted(name, scene, prop, source)
        for name, scene in scenes.items()
    }


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
