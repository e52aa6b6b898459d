"""Scenes of formats that know no materials: one part, plain."""

from plindro.core.files.obj.mtl import plain_material
from plindro.core.mesh.mesh import Mesh
from plindro.core.scene import Part, Scene, with_own_paths


def plain_scene(name: str, file_format: str, mesh: Mesh) -> Scene:
    """A scene of one mesh as one part in one plain material."""
    return Scene(
        name=name,
        format=file_format,
        mesh=mesh,
        parts=with_own_paths([Part(name, name)]),
        materials=(plain_material("default", is_colored=mesh.colors is not None),),
    )
