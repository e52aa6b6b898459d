"""OBJ and USD as they are written: read back, they are the prop that was written."""

import io
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image as Pillow

from plindro.core.destinations import Destination
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.files.images import read_image
from plindro.core.files.obj.writer import write_obj
from plindro.core.files.usd.writer import write_usd
from plindro.core.mesh.mesh import Mesh
from plindro.core.polygons import triangulate
from plindro.core.prop import Level, Prop
from plindro.core.rehearsal import rehearse
from plindro.core.report import Report
from plindro.core.scene import Material, Scene, Texture
from plindro.core.shading.normals import normals_by_angle
from plindro.core.shading.smoothing import smoothing_groups
from plindro.core.shipping.shape import shape_of
from plindro.core.shipping.writing import write_prop
from plindro.core.stations.normals import NormalsSettings, run
from plindro.core.stations.triangulation import TriangulationSettings
from plindro.core.stations.triangulation import run as cut
from tests.shapes import cube, wavy_sheet


def _picture(color: tuple[int, int, int], name: str):
    buffer = io.BytesIO()
    Pillow.new("RGB", (8, 8), color).save(buffer, "PNG")
    return read_image(buffer.getvalue(), name)


def _prop() -> Prop:
    images = (_picture((200, 80, 20), "rust color.png"), _picture((128, 128, 255), "rust_normal.png"))
    materials = (
        Material("rust", base_color=(1.0, 1.0, 1.0, 1.0), metallic=0.25, roughness=0.5,
                 textures=(("base_color", Texture(0)), ("normal", Texture(1)))),
        Material("paint", base_color=(0.2, 0.4, 0.6, 1.0), metallic=0.0, roughness=0.75, emissive=(0.1, 0.0, 0.0)),
    )  # fmt: skip
    prop = cut(
        Prop("sheet", wavy_sheet(6, islands=2, materials=2), (), materials, images),
        TriangulationSettings(min_sides=5),
        Report(),
    )
    prop = run(prop, NormalsSettings(source="angle", angle=12), Report())
    return replace(prop, levels=(Level(0, prop.mesh, "sheet_LOD0"), Level(1, prop.mesh, "sheet_LOD1")))


def _corners(mesh: Mesh, materials: tuple[Material, ...]) -> set[tuple[object, ...]]:
    """Every corner of every face as plain values, whatever the order."""
    face = mesh.corner_face()
    names = [materials[m].name for m in mesh.face_material]
    assert mesh.normals is not None
    rows = np.concatenate([mesh.positions[mesh.corner_vertex], mesh.uvs[0], mesh.normals], axis=1)
    return {(names[f], *row) for f, row in zip(face.tolist(), np.round(rows, 4).tolist(), strict=True)}


def _read(files: dict[str, bytes]) -> Scene:
    name, data = next(iter(files.items()))
    return read_scene(data, name, MemoryFiles(dict(list(files.items())[1:])))


@pytest.mark.parametrize("kind", ["obj", "usda", "usdc"])
def test_what_is_written_reads_back_as_it_was(kind: str) -> None:
    prop = _prop()
    files = write_obj(prop) if kind == "obj" else write_usd(prop, f".{kind}")
    scene = _read(files)
    assert not scene.findings
    assert len(scene.parts) == 2
    first = scene.mesh.with_faces(scene.mesh.face_part == 0)
    assert _corners(first, scene.materials) == _corners(prop.mesh, prop.materials)
    by_name = {material.name: material for material in scene.materials}
    for material in prop.materials:
        found = by_name[material.name]
        assert found.base_color == pytest.approx(material.base_color, abs=1e-5)
        assert (found.metallic, found.roughness) == pytest.approx((material.metallic, material.roughness), abs=1e-5)
        assert {slot for slot, _ in found.textures} == {slot for slot, _ in material.textures}
        for slot, texture in material.textures:
            own = found.texture(slot)
            assert own is not None
            assert scene.images[own.image].digest == prop.images[texture.image].digest


@pytest.mark.parametrize("kind", ["obj", "usd"])
def test_whole_polygons_are_written_for_lod0_alone(kind: str) -> None:
    prop = _prop()
    destination = Destination(name="a", title="A", format=kind)  # type: ignore[arg-type]
    files = write_prop(prop, destination)
    whole = {file.path: file.data for file in files}
    scene = _read(whole)
    sides = scene.mesh.face_sides
    part = scene.mesh.face_part
    assert set(sides[part == 0].tolist()) == {4}
    assert set(sides[part == 1].tolist()) == {3}
    seen = rehearse([files[0].path], whole, destination, shape_of(prop)).findings
    assert "triangles-differ" not in {f.code for f in seen}
    less = rehearse([files[0].path], whole, destination, shape_of(replace(prop, levels=prop.levels[:1]))).findings
    assert "triangles-differ" in {f.code for f in less}


def test_smoothing_groups_follow_the_normals() -> None:
    """A box by angle has none; rounded it has one; with one side marked off it has a group for each smooth area."""
    box = triangulate(cube()).mesh
    assert set(smoothing_groups(replace(box, normals=normals_by_angle(box, 91.0))).tolist()) == {1}
    flat = smoothing_groups(replace(box, normals=normals_by_angle(box, 30.0)))
    assert len({int(group) for group in flat}) == 6
    assert all(flat[box.face_polygon == polygon].std() == 0 for polygon in range(6))
    rounded = Level(0, replace(box, normals=normals_by_angle(box, 91.0)), "box")
    text = write_obj(Prop("box", box, (), (Material("a"),), levels=(rounded,)))["box.obj"].decode()
    assert text.count("\ns 1") == 1
