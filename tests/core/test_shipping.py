"""Shipping: files whole or not at all, unchanged ones left alone; findings of a source with their counts."""

import os
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from plindro.core.checks import Budget, check_prop
from plindro.core.destinations import DESTINATIONS
from plindro.core.files import read_scene
from plindro.core.mesh.mesh import make_triangles
from plindro.core.numeric.single import single_step
from plindro.core.polygons import triangulate
from plindro.core.prop import Level, prop_from_scene
from plindro.core.scene import Part, Scene
from plindro.core.shipping import manifest_json, write_whole
from tests.shapes import wavy_sheet


def test_file_is_replaced_in_one_step_and_left_alone_where_nothing_changed(tmp_path: Path) -> None:
    path = tmp_path / "deep" / "prop.glb"
    assert write_whole(path, b"one")
    before = path.stat()
    assert not write_whole(path, b"one")
    assert path.stat().st_mtime_ns == before.st_mtime_ns
    assert write_whole(path, b"two")
    assert path.read_bytes() == b"two"
    assert [p.name for p in path.parent.iterdir()] == ["prop.glb"]
    assert path.stat().st_mode & 0o444 == 0o444, "others may read what was shipped"


def test_write_that_fails_keeps_the_old_file_and_leaves_nothing_behind(tmp_path: Path, monkeypatch) -> None:
    path = tmp_path / "prop.glb"
    write_whole(path, b"old")

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(OSError, match="No space left"):
        write_whole(path, b"new and longer")
    assert path.read_bytes() == b"old"
    assert [p.name for p in tmp_path.iterdir()] == ["prop.glb"]


def test_manifest_of_the_same_props_has_the_same_bytes_whatever_time_it_took() -> None:
    record = {"name": "a", "status": "shipped", "files": [{"path": "a.glb", "bytes": 3, "sha256": "x"}], "levels": [],
              "findings": []}  # fmt: skip
    assert manifest_json([{**record, "seconds": 1.5}], "plain") == manifest_json([{**record, "seconds": 9.0}], "plain")


def _scene(mesh) -> Scene:
    return Scene("thing", "OBJ", mesh, (Part("thing", "thing"),), ())


def test_counts_over_budget_and_limit_say_by_how_much(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("plindro.core.checks.count_engine_vertices", lambda mesh: 70_000)
    points = [[-1, 0, -1], [1, 0, -1], [0, 2, 0], [0, 0, 1]]
    mesh = make_triangles(points, [[0, 1, 3], [0, 2, 1], [1, 2, 3], [2, 0, 3]], face_material=[0, 1, 2, 3])
    prop = replace(prop_from_scene(_scene(mesh)), levels=(Level(0, mesh),))
    findings = {f.code: f.count for f in check_prop(prop, Budget(triangles=3, materials=2), DESTINATIONS[0])}
    assert findings == {"triangles-over-budget": 1, "materials-over-budget": 2, "engine-vertices-over-limit": 4_465}


@pytest.mark.parametrize(("steps", "told"), [(0.5, ["zero-area-triangles"]), (1.5, [])])
def test_a_triangle_counts_as_without_area_where_writing_leaves_none(steps: float, told: list[str]) -> None:
    points = np.array([[0, 0, 0], [1, 0, 0], [0, 0, 1], [0.5, 0.0, 0.0]])
    points[3, 2] = steps * single_step(points)
    mesh = make_triangles(points, [[0, 1, 2], [0, 1, 3]])
    prop = replace(prop_from_scene(_scene(mesh)), levels=(Level(0, mesh),))
    assert [f.code for f in check_prop(prop, Budget(), DESTINATIONS[0])] == told


def test_channels_that_a_destination_does_not_take_or_misses_are_told() -> None:
    mesh = wavy_sheet(3)
    uvs = mesh.uvs[0]
    prop = prop_from_scene(_scene(triangulate(replace(mesh, uvs=(uvs, uvs))).mesh))
    one = replace(prop, mesh=replace(prop.mesh, uvs=prop.mesh.uvs[:1]))
    asks = DESTINATIONS[0].model_copy(update={"light_map": True, "max_uv_channels": 1})
    told = [
        [(f.code, f.severity) for f in check_prop(replace(p, levels=(Level(0, p.mesh),)), Budget(), asks)]
        for p in (prop, one)
    ]
    assert told == [[("uv-channels-over-limit", "warning")], [("light-map-missing", "stop")]]


def test_names_of_files_and_content_must_agree() -> None:
    from plindro.core.errors import UnsupportedFile

    with pytest.raises(UnsupportedFile, match=r"files ending in '\.abc' are not read"):
        read_scene(b"data", "thing.abc")
