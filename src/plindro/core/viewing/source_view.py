"""The source to look at: every part as it came, triangulated and nothing else, in the source's units and axes."""

from dataclasses import replace

import numpy as np

from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import Mask, Mesh
from plindro.core.prop import Level, Prop
from plindro.core.scene import Scene


def view_of_source(scene: Scene, triangles: Mesh) -> Prop:
    """A prop whose levels are the parts of the scene, in their order, under the names ``part_0``, ``part_1`` ...

    ``triangles`` is the scene's mesh after cutting its polygons. Faces with a vertex that is not finite cannot be drawn
    and are left out; materials keep their values and lose their textures.
    """
    sound: Mask = np.asarray(np.isfinite(triangles.positions).all(axis=1))
    finite: Mask = np.asarray(sound[triangles.triangles()].all(axis=1))
    mesh = triangles if finite.all() else triangles.with_faces(finite)
    uvs = tuple(np.nan_to_num(uv, posinf=0.0, neginf=0.0) for uv in mesh.uvs[:1])
    normals = mesh.normals
    if normals is not None:
        length = np.linalg.norm(normals, axis=1)
        if not (np.abs(length - 1.0) < 1e-3).all():
            normals = None
    if normals is None:
        # Without normals an engine shows every face flat.
        normals = np.repeat(unit(face_vectors(mesh)), 3, axis=0).astype(np.float32)
    colors = None if mesh.colors is None else np.nan_to_num(mesh.colors, posinf=1.0, neginf=0.0)
    plain = replace(mesh, uvs=uvs, colors=colors, tangents=None, normals=normals)
    levels = tuple(
        Level(i, plain.with_faces(faces), f"part_{i}")
        for i, faces in enumerate(mesh.faces_by_part(len(scene.parts)))
        if len(faces)
    )
    materials = tuple(replace(m, textures=(), extensions=()) for m in scene.materials)
    return Prop(scene.name, mesh, scene.parts, materials, levels=levels)
