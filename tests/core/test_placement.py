"""Placement: metres, Y up, and a pivot where the engine's handle belongs."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.files import read_scene
from plindro.core.files.gltf.writer import write_glb
from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import Mesh
from plindro.core.prop import Level, Prop
from plindro.core.report import Report
from plindro.core.scene import Material, Part
from plindro.core.stations.placement import PlacementFacts, PlacementSettings, run
from tests.shapes import bumpy_sphere, cube, join, moved


def _prop(mesh: Mesh, **more) -> Prop:
    return Prop("thing", mesh, (Part("thing", "thing", origin=(2.0, 0.0, 0.0)),), (Material("grey"),), **more)


def _placed(mesh: Mesh, settings: PlacementSettings, **more) -> tuple[Prop, Report]:
    report = Report()
    return run(_prop(mesh, **more), settings, report), report


def test_prop_that_stands_right_is_the_very_same() -> None:
    mesh = moved(cube(), (-0.5, 0, -0.5))
    prop, report = _placed(mesh, PlacementSettings())
    assert prop.mesh is mesh
    assert not report.findings
    assert report.stated(PlacementFacts).guesses == []


@pytest.mark.parametrize(
    ("settings", "more", "expected"),
    [
        ({"unit": "cm"}, {}, (0.01, 0.02, 0.03)),
        ({}, {"unit": 0.01, "up": "z"}, (0.01, 0.03, 0.02)),
        ({"unit": "in", "scale": 2.0}, {"unit": 0.01}, (0.0508, 0.1016, 0.1524)),
        ({"up": "x"}, {}, (2, 1, 3)),
        ({"yaw": 90}, {}, (3, 2, 1)),
    ],
)
def test_units_axes_and_scale(settings: dict, more: dict, expected: tuple[float, ...]) -> None:
    mesh = replace(cube(), positions=cube().positions * (1, 2, 3))
    prop, report = _placed(mesh, PlacementSettings(pivot="source", **settings), **more)
    low, high = prop.mesh.bounds()
    assert high - low == pytest.approx(np.array(expected))
    assert report.stated(PlacementFacts).size == pytest.approx(tuple(expected))
    first = prop.mesh.positions[prop.mesh.corner_vertex[prop.mesh.face_start[:-1]]]
    assert (first * face_vectors(prop.mesh)).sum() / 3 == pytest.approx(np.prod(expected)), "nothing is mirrored"


@given(turn=st.floats(-360, 360), scale=st.floats(0.01, 100), up=st.sampled_from(["x", "y", "z"]))
def test_placing_keeps_the_shape_and_turns_the_normals_with_it(turn: float, scale: float, up: str) -> None:
    mesh = bumpy_sphere(5)
    flat = np.repeat(face_vectors(mesh), 3, axis=0)
    mesh = replace(mesh, normals=(flat / np.linalg.norm(flat, axis=1, keepdims=True)).astype(np.float32))
    prop, report = _placed(mesh, PlacementSettings(yaw=turn, scale=scale, up=up))
    now = face_vectors(prop.mesh)
    assert np.linalg.norm(now, axis=1).sum() == pytest.approx(
        np.linalg.norm(face_vectors(mesh), axis=1).sum() * scale**2
    )
    unit = now / np.linalg.norm(now, axis=1, keepdims=True)
    assert prop.mesh.normals == pytest.approx(np.repeat(unit, 3, axis=0), abs=1e-5)
    matrix = np.array(report.stated(PlacementFacts).matrix).reshape(4, 4)
    assert prop.mesh.positions == pytest.approx(mesh.positions @ matrix[:3, :3].T + matrix[:3, 3], abs=1e-9 * scale)


@pytest.mark.parametrize(
    ("settings", "low"),
    [
        ({"pivot": "stands"}, (-0.5, 0, -0.5)),
        ({"pivot": "hangs"}, (-0.5, -1, -0.5)),
        ({"pivot": "hinges"}, (0, 0, -0.5)),
        ({"pivot": "held"}, (-0.5, -0.5, -0.5)),
        ({"pivot": "grid"}, (0, 0, 0)),
        ({"pivot": "source"}, (3, 5, 1)),
        ({"pivot": "object"}, (1, 5, 1)),
        ({"pivot": "mass"}, (-0.5, -0.5, -0.5)),
        ({"pivot": "bounds", "anchor": (1, 0, -1)}, (-1, -0.5, 0)),
        ({"pivot": "point", "point": (3, 5, 1)}, (0, 0, 0)),
        ({"pivot": "point", "point": (3.01, 5.52, 1), "snap_to": "edge"}, (0, -0.5, 0)),
        ({"pivot": "point", "point": (3.5, 6.0, 1.51), "snap_to": "face"}, (-0.5, -1, -0.5)),
    ],
)
def test_pivots(settings: dict, low: tuple[float, ...]) -> None:
    prop, _ = _placed(moved(cube(), (3, 5, 1)), PlacementSettings(**settings))
    assert prop.mesh.bounds()[0] == pytest.approx(np.array(low), abs=1e-9)


@pytest.mark.parametrize(
    ("kind", "at"),
    [
        ("stands", (-0.2, 0, -0.7)),
        ("hangs", (-0.2, -1, -0.7)),
        ("hinges", (-1, -0.4, -0.5)),
        ("held", (-0.1, -0.9, -0.5)),
        ("grid", (-1, 0, -1)),
    ],
)
def test_pivot_that_fits_the_kind_of_prop_stays_where_the_modeller_put_it(kind: str, at: tuple[float, ...]) -> None:
    mesh = moved(cube(), at)
    prop, report = _placed(mesh, PlacementSettings(pivot=kind))
    assert prop.mesh is mesh
    assert not report.findings


def test_mark_whose_place_is_gone_is_said_and_keeps_its_coordinates() -> None:
    prop, report = _placed(cube(), PlacementSettings(pivot="point", point=(5, 0, 0), snap_to="vertex"))
    assert [f.code for f in report.findings] == ["mark-lost"]
    assert prop.mesh.bounds()[0] == pytest.approx([-5, 0, 0])


def test_place_in_the_scene_is_kept_by_the_root_node() -> None:
    prop, _ = _placed(moved(cube(), (3, 5, 1)), PlacementSettings(keep_position=True))
    assert prop.place == (3.5, 5, 1.5)
    from plindro.core.polygons import triangulate

    mesh = triangulate(prop.mesh).mesh
    normals = np.repeat(face_vectors(mesh), 3, axis=0).astype(np.float32) * 2
    shipped = write_glb(replace(prop, levels=(Level(0, replace(mesh, normals=normals), "thing_LOD0"),)))
    again = read_scene(shipped, "thing.glb")
    assert again.mesh.bounds()[0] == pytest.approx([3, 5, 1])


@pytest.mark.parametrize(("wrong", "factor"), [(100.0, 0.01), (39.37, 0.0254), (0.001, 1000.0)])
def test_wrong_size_is_told_with_the_factor_that_mends_it(wrong: float, factor: float) -> None:
    _, report = _placed(moved(cube(), (-0.5, 0, -0.5), scale=wrong), PlacementSettings(expected_size_m=(0.4, 4.0)))
    finding = next(f for f in report.findings if f.code == "unusual-size")
    assert f"a scale of {factor:g} " in finding.message
    assert report.stated(PlacementFacts).guesses[0].factor == pytest.approx(factor, rel=1e-3)


@pytest.mark.parametrize(("metres", "told"), [(0.3996, False), (4.004, False), (0.3994, True), (4.006, True)])
def test_a_size_that_reads_like_a_usual_one_is_usual(metres: float, told: bool) -> None:
    _, report = _placed(moved(cube(), (0, 0, 0), scale=metres), PlacementSettings(expected_size_m=(0.4, 4.0)))
    assert any(finding.code == "unusual-size" for finding in report.findings) == told


def test_centre_of_mass_weighs_volume_not_vertices() -> None:
    heavy = join(cube(), moved(cube(), (4, 0, 0), scale=0.5))
    prop, _ = _placed(heavy, PlacementSettings(pivot="mass"))
    expected = (np.array([0.5, 0.5, 0.5]) * 1 + np.array([4.25, 0.25, 0.25]) * 0.125) / 1.125
    assert prop.mesh.bounds()[0] == pytest.approx(-expected)
