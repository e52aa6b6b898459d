"""The meshes of a level as objects of their own, under names that no two of them share."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from plindro.core.files.form import FileForm
from plindro.core.mesh.mesh import Mesh
from plindro.core.names import clean_name, unique_names
from plindro.core.prop import Level, Prop


def level_meshes(prop: Prop, level: Level, form: FileForm) -> list[tuple[str, Mesh]]:
    """The meshes that a level is written as, by name: the whole under its own name, or its parts where they are kept
    apart, each in pieces where the level was split."""
    found = list(_pieces(prop, level, form))
    names = unique_names(name for name, _ in found)
    return [(name, mesh) for name, (_, mesh) in zip(names, found, strict=True)]


def _pieces(prop: Prop, level: Level, form: FileForm) -> Iterator[tuple[str, Mesh]]:
    for name, part in _parts(prop, level, form):
        if part.pieces is None:
            yield name, part.mesh
            continue
        for piece in np.unique(part.pieces).tolist():
            mesh = part.mesh.with_faces(part.pieces == piece)
            yield form.part_name(name, str(piece)) if level.is_split else name, mesh


def _parts(prop: Prop, level: Level, form: FileForm) -> Iterator[tuple[str, Level]]:
    """The level itself under its name, or one for each of its parts."""
    if not prop.keeps_parts or len(prop.parts) < 2:
        yield level.name, level
        return
    for part, faces in enumerate(level.mesh.faces_by_part(len(prop.parts))):
        if len(faces):
            own = None if level.pieces is None else level.pieces[faces]
            name = form.part_name(level.name, clean_name(prop.parts[part].name))
            yield name, replace(level, mesh=level.mesh.with_faces(faces), pieces=own)
