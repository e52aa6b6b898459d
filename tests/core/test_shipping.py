"""Shipping: files whole or not at all, unchanged ones left alone; findings of a source with their counts."""

import os
from pathlib import Path

import numpy as np
import pytest

from plindro.core.checks import Budget, check_prop, check_source
from plindro.core.files import read_scene
from plindro.core.mesh.mesh import make_triangles
from plindro.core.prop import prop_from_scene
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


def test_source_faults_are_counted() -> None:
    sheet = wavy_sheet(6)
    points = sheet.positions.copy()
    points[[3, 9]] = np.nan
    uv = sheet.uvs[0].copy()
    uv[:5] = np.inf
    from dataclasses import replace

    findings = {f.code: f for f in check_source(_scene(replace(sheet, positions=points, uvs=(uv,))))}
    assert findings["positions-not-finite"].count == 2
    assert findings["uvs-not-finite"].count == 5
    assert findings["positions-not-finite"].places is not None
    assert np.isfinite(findings["positions-not-finite"].places.points).all()
    assert not check_source(_scene(sheet))


@pytest.mark.parametrize(
    ("scale", "offset", "codes"),
    [
        (1.0, (0, 0, 0), set()),
        (1.0, (0, 0.4, 0), {"pivot-off"}),
        (1.0, (3, 0, 0), {"pivot-off"}),
        (500.0, (0, 0, 0), {"size-unlikely"}),
        (0.001, (0, 0, 0), {"size-unlikely"}),
    ],
)
def test_place_and_size_of_a_standing_thing(scale: float, offset: tuple[float, ...], codes: set[str]) -> None:
    points = np.array([[-1, 0, -1], [1, 0, -1], [1, 0, 1], [-1, 0, 1], [0, 2, 0]]) * scale + offset
    mesh = make_triangles(points, [[0, 2, 1], [0, 3, 2], [0, 1, 4], [1, 2, 4], [2, 3, 4], [3, 0, 4]])
    findings = check_prop(prop_from_scene(_scene(mesh)), 5, Budget(), 65_535)
    assert {finding.code for finding in findings} == codes


def test_counts_over_budget_and_limit_say_by_how_much() -> None:
    points = [[-1, 0, -1], [1, 0, -1], [0, 2, 0], [0, 0, 1]]
    mesh = make_triangles(points, [[0, 1, 3], [0, 2, 1], [1, 2, 3], [2, 0, 3]], face_material=[0, 1, 2, 3])
    prop = prop_from_scene(_scene(mesh))
    findings = {f.code: f.count for f in check_prop(prop, 70_000, Budget(triangles=3, materials=2), 65_535)}
    assert findings == {"triangles-over-budget": 1, "materials-over-budget": 2, "engine-vertices-over-limit": 4_465}


def test_names_of_files_and_content_must_agree() -> None:
    from plindro.core.errors import UnsupportedFile

    with pytest.raises(UnsupportedFile, match=r"files ending in '\.abc' are not read"):
        read_scene(b"data", "thing.abc")
