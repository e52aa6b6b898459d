"""Tangents for the levels that ship, where the destination wants them."""

from dataclasses import replace

import numpy as np

from plindro.core.prop import Level, Prop
from plindro.core.report import Report
from plindro.core.scene import Material
from plindro.core.shading.tangents import corner_tangents
from plindro.core.station import Context
from plindro.core.stations.normals.settings import NormalsSettings


def add_tangents(prop: Prop, settings: NormalsSettings, report: Report, context: Context) -> Prop:
    """The prop with tangents on its levels, if the destination takes them."""
    if not context.destination.tangents:
        return prop
    return replace(prop, levels=tuple(_with_tangents(level, prop.materials) for level in prop.levels))


def _with_tangents(level: Level, materials: tuple[Material, ...]) -> Level:
    """The level with tangents on the faces whose material has a normal map; zero on the others."""
    mesh = level.mesh
    tangents = np.zeros((mesh.n_corners, 4), np.float32)
    for index in np.unique(mesh.face_material):
        normal_map = materials[index].texture("normal")
        if normal_map is not None and normal_map.channel < len(mesh.uvs):
            faces = mesh.face_material == index
            part = corner_tangents(mesh.with_faces(faces), normal_map.channel)
            tangents[np.repeat(faces, mesh.face_sides)] = part
    return replace(level, mesh=replace(mesh, tangents=tangents)) if tangents.any() else level
