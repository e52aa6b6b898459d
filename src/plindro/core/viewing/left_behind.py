"""The files that a build leaves behind to be looked at, by kind and name."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from typing import Literal

from plindro.core.files.gltf.writer import write_glb
from plindro.core.files.gpu.dds import write_dds
from plindro.core.files.gpu.ktx2 import read_ktx2
from plindro.core.polygons import triangulate
from plindro.core.scene import Scene
from plindro.core.shipping import PrepareResult
from plindro.core.stations.triangulation import compare_engine
from plindro.core.viewing.descent import write_descent
from plindro.core.viewing.picture import render_picture
from plindro.core.viewing.sheet import write_sheet
from plindro.core.viewing.source_view import view_of_source

PICTURE_SIZE = 256
Kind = Literal["shipped", "model", "picture", "sheet", "descent", "state", "texture"]


@dataclass(frozen=True, slots=True)
class LeftBehind:
    """A file of a build: what it is for, its name where there are several of the kind, and its bytes."""

    kind: Kind
    name: str
    data: bytes = field(repr=False)


def left_behind(result: PrepareResult, on_share: Callable[[], None] | None = None) -> Iterator[LeftBehind]:
    """Everything that a build leaves: what ships, and what is looked at, also of a prop that is held.

    ``on_share`` is called now and then and may raise to stop.
    """
    for shipped in result.files:
        yield LeftBehind("shipped", shipped.path, shipped.data)
    prop = result.built.prop
    yield LeftBehind("picture", "", render_picture(prop, PICTURE_SIZE))
    model = _model(result)
    if model is not None:
        yield LeftBehind("model", "", model)
    cuts = compare_engine(prop)
    sheet = write_sheet(prop, None if cuts is None else cuts.flags)
    if sheet is not None:
        yield LeftBehind("sheet", "", sheet)
    descent = write_descent(prop, on_share)
    if descent is not None:
        yield LeftBehind("descent", "", descent)
    for file in prop.gpu_files:
        # The view reads DDS; the blocks are the very same.
        data = file.data if file.container == "dds" else write_dds(read_ktx2(file.data, file.path))
        yield LeftBehind("texture", file.path, data)
    for state in result.states:
        yield LeftBehind("state", state.state.name, write_glb(state.prop))


def last_level(result: PrepareResult) -> Iterator[LeftBehind]:
    """The shape of the last level below LOD0, to be drawn in LOD0's materials: without textures, under their names."""
    prop = result.built.prop
    if len(prop.levels) > 1:
        plain = tuple(material.with_textures(lambda _: None) for material in prop.materials)
        yield LeftBehind("model", "", write_glb(replace(prop, levels=prop.levels[-1:], materials=plain, images=())))


def _model(result: PrepareResult) -> bytes | None:
    """The shipped bytes themselves; what is held is written for looking at only."""
    if result.files and result.is_as_seen:
        return result.files[0].data
    return write_glb(result.built.prop) if result.built.prop.levels else None


def source_model(scene: Scene) -> bytes | None:
    """The source as it came, part by part, as GLB; None where nothing of it can be drawn."""
    view = view_of_source(scene, triangulate(scene.mesh).mesh)
    return write_glb(view) if view.levels else None
