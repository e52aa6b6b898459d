"""The parts of a level as objects of their own, under names that no two of them share."""

from plindro.core.mesh.mesh import Mesh
from plindro.core.names import clean_name, unique_names
from plindro.core.prop import Level, Prop


def named_parts(prop: Prop, level: Level) -> list[tuple[str, Mesh]]:
    """The meshes of the parts that the level has, by name."""
    present = [(part, faces) for part, faces in enumerate(level.mesh.faces_by_part(len(prop.parts))) if len(faces)]
    names = unique_names(f"{level.name}_{clean_name(prop.parts[part].name)}" for part, _ in present)
    return [(name, level.mesh.with_faces(faces)) for name, (_, faces) in zip(names, present, strict=True)]
