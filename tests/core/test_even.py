"""Even remeshing: even triangles, the source's own corners, features where they were, closed where it was closed."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plindro.core.measure.deviation import DeviationFrom
from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import Mesh, meshes_equal
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.reduction import collapse, diagonal
from plindro.core.remesh import even_mesh
from plindro.core.remesh.denser import denser_mesh
from plindro.core.report import Report
from plindro.core.scene import Part
from plindro.core.shading.normals import normals_by_angle
from plindro.core.spatial.nearest import NearestPlace
from plindro.core.stations.levels import LevelsSettings, LevelTarget, run
from tests.core.test_reduction import _seam_points
from tests.shapes import areas, bumpy_sphere, edge_counts, flat_grid, random_rotation, volume, wavy_sheet


def _shaded(mesh: Mesh, angle: float = 180.0) -> Mesh:
    mesh = triangulate(mesh).mesh
    return replace(mesh, normals=normals_by_angle(mesh, angle))


def _least_angles(mesh: Mesh) -> np.ndarray:
    """The smallest angle of every triangle in degrees."""
    points = mesh.positions[mesh.triangles()]
    sides = np.roll(points, -1, axis=1) - points
    sides /= np.linalg.norm(sides, axis=2, keepdims=True)
    cosine = -(sides * np.roll(sides, 1, axis=1)).sum(axis=2)
    return np.degrees(np.arccos(np.clip(cosine, -1, 1))).min(axis=1)


@settings(max_examples=12)
@given(seed=st.integers(0, 10_000), share=st.floats(0.02, 0.7), height=st.floats(0.0, 0.4))
def test_a_soft_closed_thing_becomes_even_and_stays_closed(seed: int, share: float, height: float) -> None:
    mesh = _shaded(bumpy_sphere(36, seed, height=height))
    wanted = round(share * mesh.n_faces)
    even = even_mesh(mesh, wanted)
    assert 0.94 * wanted - 4 <= even.n_faces <= wanted
    assert set(edge_counts(even.triangles()).values()) == {2}
    assert volume(even) == pytest.approx(volume(mesh), rel=0.1)
    collapsed = collapse(mesh)
    other = collapsed.level(collapsed.step_of_triangles(even.n_faces))
    angles = _least_angles(even)
    # A ball is even by collapse too; what bends as it likes is not.
    assert angles.mean() > 38.0
    assert np.quantile(angles, 0.02) > 20.0
    if height > 0.2:
        assert angles.mean() > 1.1 * _least_angles(other).mean()
    ruler = DeviationFrom(mesh)
    assert ruler.measure(even).mean < 1.5 * ruler.measure(other).mean + 1e-3 * diagonal(mesh)


@given(seed=st.integers(0, 10_000))
def test_it_does_not_depend_on_the_order_of_faces(seed: int) -> None:
    mesh = _shaded(bumpy_sphere(24, 3))
    order = np.random.default_rng(seed).permutation(mesh.n_faces)

    def places(made: Mesh) -> set[tuple[float, ...]]:
        return {tuple(p) for p in made.positions.tolist()}

    one, other = even_mesh(mesh, 200), even_mesh(mesh.with_faces(order), 200)
    assert places(one) == places(other)
    assert one.n_faces == other.n_faces
    assert meshes_equal(one, even_mesh(mesh, 200))


def test_borders_corners_seams_and_hard_edges_hold() -> None:
    sheet = _shaded(wavy_sheet(48, islands=2), 40.0)
    even = even_mesh(sheet, 500)
    seam = _seam_points(sheet)
    assert len(_seam_points(even)) >= 5
    assert {point[0] for point in _seam_points(even)} == {point[0] for point in seam}, "a vertex left the seam"
    # No triangle reaches over the seam: its UVs turn the way that all do.
    uv = even.uvs[0].reshape(-1, 3, 2).astype(float)
    one, two = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    turns = one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]
    assert (turns > 0).mean() > 0.995 or (turns < 0).mean() > 0.995
    flat = _shaded(flat_grid(40))
    even = even_mesh(flat, 300)
    # A square stays that square, corners and all.
    assert np.linalg.norm(areas(even), axis=1).sum() == pytest.approx(1.0, abs=1e-9)
    np.testing.assert_allclose(even.bounds(), flat.bounds())
    corners = {tuple(p) for p in even.positions[:, :2].tolist()}
    assert {(0.0, 0.0), (0.0, 1.0), (1.0, 0.0), (1.0, 1.0)} <= corners


@given(
    seed=st.integers(0, 10_000),
    islands=st.integers(1, 3),
    longest=st.floats(0.03, 0.6),
    turn=st.integers(0, 10_000),
    angle=st.floats(0.0, 60.0),
)
def test_a_denser_mesh_is_the_same_surface(seed: int, islands: int, longest: float, turn: int, angle: float) -> None:
    sheet = _shaded(wavy_sheet(9, islands=islands, seed=seed), angle)
    sheet = replace(sheet, positions=sheet.positions @ random_rotation(turn))
    denser = denser_mesh(sheet, longest, 10**6)
    sides = denser.positions[denser.triangles()]
    lengths = np.linalg.norm(np.roll(sides, -1, axis=1) - sides, axis=2)
    assert lengths.max() <= longest
    # Areas in space and in the texture are those of before, per material too, and so is what is open.
    np.testing.assert_allclose(face_vectors(denser).sum(axis=0), face_vectors(sheet).sum(axis=0), atol=1e-9)
    for made, own in ((areas(denser), areas(sheet)), (_uv_areas(denser), _uv_areas(sheet))):
        assert np.linalg.norm(made, axis=-1).sum() == pytest.approx(np.linalg.norm(own, axis=-1).sum(), rel=1e-4)
    assert _border_length(denser) == pytest.approx(_border_length(sheet))
    assert NearestPlace(sheet.positions, sheet.triangles()).distances(denser.positions).max() < 1e-6
    np.testing.assert_allclose(np.linalg.norm(denser.normals, axis=1), 1.0, atol=1e-5)
    assert denser_mesh(sheet, longest, sheet.n_faces) is sheet


def _uv_areas(mesh: Mesh) -> np.ndarray:
    uv = mesh.uvs[0].reshape(-1, 3, 2).astype(float)
    one, two = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    return (one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0])[:, None]


def _border_length(mesh: Mesh) -> float:
    edges = np.array([edge for edge, times in edge_counts(mesh.triangles()).items() if times == 1])
    return float(np.linalg.norm(mesh.positions[edges[:, 0]] - mesh.positions[edges[:, 1]], axis=1).sum())


def test_a_source_of_nothing_but_hard_edges_is_refused_and_the_level_left_out() -> None:
    mesh = triangulate(bumpy_sphere(12)).mesh
    mesh = replace(mesh, normals=normals_by_angle(mesh, 0.0))
    with pytest.raises(ValueError, match="let it be collapsed instead"):
        even_mesh(mesh, mesh.n_faces // 3)
    with pytest.raises(ValueError, match="a remesh needs"):
        LevelTarget(remesh=True)
    report = Report()
    seamed = _shaded(wavy_sheet(12, islands=12))
    settings = LevelsSettings(levels=(LevelTarget(ratio=0.1, remesh=True),))
    prop = run(Prop("sheet", seamed, (), ()), settings, report)
    assert len(prop.levels) == 1
    (said,) = [f.message for f in report.findings if f.code == "level-skipped"]
    assert "remesh, 10%" in said


def test_borders_and_protected_parts_stay_where_they_are_locked() -> None:
    sheet = _shaded(wavy_sheet(20), 40.0)
    part = (sheet.positions[sheet.triangles()].mean(axis=1)[:, 0] > 0.7).astype(np.int32)
    prop = Prop("sheet", replace(sheet, face_part=part), (Part("rest", "rest"), Part("held", "held")), ())
    own = LevelTarget(ratio=0.6, remesh=True)
    settings = LevelsSettings(levels=(own,), lock_borders=True, protected_parts=("held",), mirror="x")
    report = Report()
    (_, level) = run(prop, settings, report).levels

    def border(mesh: Mesh) -> set[tuple[float, ...]]:
        edges = [edge for edge, times in edge_counts(mesh.triangles()).items() if times == 1]
        return {tuple(place) for place in mesh.positions[np.unique(edges)].tolist()}

    def held(mesh: Mesh, which: np.ndarray) -> set[frozenset[tuple[float, ...]]]:
        return {frozenset(map(tuple, corners)) for corners in mesh.positions[mesh.triangles()[which]].tolist()}

    assert border(level.mesh) == border(sheet)
    assert held(sheet, part == 1) <= held(level.mesh, np.ones(level.mesh.n_faces, bool))
    assert level.mesh.n_faces < sheet.n_faces
    assert "remesh-not-mirrored" in {finding.code for finding in report.findings}


def test_lod0_and_levels_may_be_even_by_count_or_by_the_length_of_their_edges() -> None:
    mesh = _shaded(bumpy_sphere(60, height=0.1))
    length = 0.12
    targets = (LevelTarget(ratio=0.3), LevelTarget(edge_length_mm=1000 * 3 * length, remesh=True))
    settings = LevelsSettings(lod0=LevelTarget(edge_length_mm=1000 * length, remesh=True), levels=targets)
    prop = run(Prop("ball", mesh, (), ()), settings, Report())
    first = prop.levels[0].mesh
    points = first.positions[first.triangles()]
    assert np.linalg.norm(np.roll(points, -1, axis=1) - points, axis=2).mean() == pytest.approx(length, rel=0.15)
    assert prop.mesh is first
    assert len(prop.levels) >= 2
    assert all(set(edge_counts(level.mesh.triangles()).values()) == {2} for level in prop.levels)
    np.testing.assert_allclose(np.linalg.norm(first.normals, axis=1), 1.0, atol=1e-5)
