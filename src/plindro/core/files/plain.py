"""Scenes of formats that know no materials: one part, plain grey."""

from plindro.core.files.obj.mtl import plain_material
from plindro.core.findings import Finding
from plindro.core.mesh.mesh import Mesh, drop_unused_vertices
from plindro.core.scene import Part, Scene


def plain_scene(
    name: str, file_format: str, mesh: Mesh, *, unused: dict[str, int] | None = None, findings: tuple[Finding, ...] = ()
) -> Scene:
    """A scene of one mesh as one part in one plain material."""
    return Scene(
        name=name,
        format=file_format,
        mesh=drop_unused_vertices(mesh),
        parts=(Part(name, name),),
        materials=(plain_material("default"),),
        unused=tuple(sorted((unused or {}).items())),
        findings=findings,
    )
