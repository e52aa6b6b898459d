"""Levels: falling counts, what is left out and why, faceted things that stay faceted."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from plindro.core.measure.deviation import DeviationFrom
from plindro.core.mesh.mesh import Mesh, make_mesh, make_triangles
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.polygons import triangulate
from plindro.core.prop import Level, Prop
from plindro.core.reduction import Limits, Plane, collapse, mirrored_sequence, take_level
from plindro.core.report import Report
from plindro.core.scene import Part
from plindro.core.shading import transfer
from plindro.core.shading.normals import normals_by_angle
from plindro.core.stations.levels import LevelsSettings, LevelTarget, level_normals, run
from plindro.core.stations.levels.level_normals import LevelShader
from plindro.core.stations.levels.station import finish
from tests.shapes import areas, bumpy_sphere, cube, join, moved, wavy_sheet


def _targets(ratios: tuple[float, ...]) -> tuple[LevelTarget, ...]:
    return tuple(LevelTarget(ratio=ratio) for ratio in ratios)


def _chain(mesh: Mesh, ratios: tuple[float, ...], angle: float = 38.0) -> tuple[Prop, Report]:
    mesh = triangulate(mesh).mesh
    report = Report()
    prop = Prop("thing", replace(mesh, normals=normals_by_angle(mesh, angle)), (), ())
    return run(prop, LevelsSettings(levels=_targets(ratios)), report), report


@settings(max_examples=15)
@given(
    ratios=st.lists(st.floats(0.01, 0.99), min_size=1, max_size=5, unique=True),
    n=st.integers(6, 20),
    islands=st.integers(1, 3),
)
def test_counts_fall_and_figures_rise_along_any_chain(ratios: list[float], n: int, islands: int) -> None:
    prop, report = _chain(wavy_sheet(n, islands=islands), tuple(sorted(ratios, reverse=True)))
    counts = [level.mesh.n_faces for level in prop.levels]
    assert counts == sorted(set(counts), reverse=True)
    assert [level.index for level in prop.levels] == list(range(len(counts)))
    deviations = [level.deviation for level in prop.levels]
    # Each is measured, so that neighbours of nearly one count may swap by a little.
    assert all(below >= 0.9 * above for above, below in pairwise(deviations))
    sizes = [level.screen_size for level in prop.levels]
    assert sizes == sorted(sizes, reverse=True)
    left_out = sum(finding.code == "level-skipped" for finding in report.findings)
    assert len(prop.levels) - 1 + left_out == len(ratios), "every level is there, or it is said why not"


def test_box_is_not_reduced_to_another_shape_and_that_is_said() -> None:
    corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], float)
    faces = [[0, 1, 3, 2], [4, 6, 7, 5], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]]
    box = make_mesh(corners, np.arange(0, 25, 4), np.concatenate(faces))
    prop, report = _chain(box, (0.5, 0.25))
    assert [level.mesh.n_faces for level in prop.levels] == [12]
    # A prop that needs no levels is told so once, and not warned.
    assert [(f.code, f.severity, f.count) for f in report.findings] == [("level-skipped", "info", 2)]


def _mean_angle_by_hand(level: Mesh, ball: np.ndarray) -> float:
    """Mean angle between a level's shading and that of a perfect ball, at the triangles' corners and middles."""
    normals = level.normals.reshape(-1, 3, 3).astype(float)
    points = level.positions[level.triangles()]
    places = np.concatenate([points[:, 0], points.mean(axis=1)]) - ball
    shading = np.concatenate([normals[:, 0], normals.mean(axis=1)])
    cosine = (places * shading).sum(axis=1) / np.linalg.norm(places, axis=1) / np.linalg.norm(shading, axis=1)
    return float(np.degrees(np.arccos(np.clip(cosine, -1, 1))).mean())


def test_normals_of_a_level_are_those_that_look_closest_to_lod0() -> None:
    """A ball whose LOD0 has the normals of a true ball: the stated angle is right, and no other choice is closer."""
    sphere = triangulate(bumpy_sphere(24, height=0.0)).mesh
    true = (sphere.positions / np.linalg.norm(sphere.positions, axis=1, keepdims=True))[sphere.corner_vertex]
    prop = Prop("ball", replace(sphere, normals=true.astype(np.float32)), (), ())
    angles = {}
    for choice in ("closest", "keep", "recompute", "transfer"):
        level = run(prop, LevelsSettings(levels=_targets((0.15,)), normals=choice), Report()).levels[1]
        angles[choice] = level.normal_angle
        assert level.normal_angle == pytest.approx(_mean_angle_by_hand(level.mesh, np.zeros(3)), abs=1.5)
        assert level.normals in ("keep", "recompute", "transfer")
        np.testing.assert_allclose(np.linalg.norm(level.mesh.normals, axis=1), 1.0, atol=1e-5)
    assert angles["closest"] == min(angles.values())


def test_normals_of_many_triangles_are_those_that_would_come_of_shading_all(monkeypatch: pytest.MonkeyPatch) -> None:
    """Of a level of more triangles than places that are looked at, the ways that lose are shaded there alone."""
    monkeypatch.setattr(transfer, "_SAMPLES", 60)
    rough = bumpy_sphere(24, height=0.3)
    smooth = (rough.positions / np.linalg.norm(rough.positions, axis=1, keepdims=True))[rough.corner_vertex]
    normals = smooth.astype(np.float32)
    shader = LevelShader(Prop("ball", replace(rough, normals=normals), (), ()), "closest")
    for many in (0.0, np.inf):
        monkeypatch.setattr(level_normals, "MANY", many)
        shaded = shader.shade(replace(rough, normals=np.roll(normals, 1, axis=1)))
        assert shaded.choice == "transfer", "no other way knows the normals that LOD0 was given"
        assert shaded.angle < 1.0
        np.testing.assert_allclose(shaded.mesh.normals, normals, atol=0.1)


@pytest.mark.parametrize("choice", ["recompute", "transfer"])
def test_made_normals_of_a_level_never_point_to_the_back(choice: str) -> None:
    mesh = triangulate(wavy_sheet(20, islands=2)).mesh
    bent = replace(mesh, positions=mesh.positions * (1, 12, 1))
    prop = Prop("waves", replace(bent, normals=normals_by_angle(bent, 180.0)), (), ())
    for level in run(prop, LevelsSettings(levels=_targets((0.3, 0.08)), normals=choice), Report()).levels[1:]:
        facing = np.einsum("ij,ij->i", np.repeat(areas(level.mesh), 3, axis=0), level.mesh.normals)
        assert facing.min() >= 0


def test_a_normal_that_points_inward_in_lod0_stays_and_a_new_one_does_not() -> None:
    mesh = bumpy_sphere(10)
    normals = normals_by_angle(mesh, 180.0)
    normals[5] *= -1
    source = replace(mesh, normals=normals)
    shader = LevelShader(Prop("ball", source, (), ()), "keep", moves=True)
    np.testing.assert_array_equal(shader.shade(source).mesh.normals, normals)
    turned = normals.copy()
    turned[9] *= -1
    shaded = shader.shade(replace(source, normals=turned)).mesh.normals
    np.testing.assert_array_equal(np.delete(shaded, 9, axis=0), np.delete(normals, 9, axis=0))
    facing = areas(mesh)[3] / np.linalg.norm(areas(mesh)[3])
    np.testing.assert_allclose(shaded[9], facing, atol=1e-6)
    # A new triangle between LOD0's corners that faces away from what they all carry there.
    corners = np.arange(len(normals))
    corners[[9, 10]] = corners[[10, 9]]
    other = replace(source, corner_vertex=source.corner_vertex[corners], normals=normals[corners])
    np.testing.assert_allclose(shader.shade(other).mesh.normals[9:12], np.tile(-facing, (3, 1)), atol=1e-6)


def test_a_triangle_is_not_seen_from_its_back_where_none_of_lod0_is() -> None:
    mesh = bumpy_sphere(10)
    corner, triangle = mesh.corner_vertex, mesh.triangles()[3]
    normals = normals_by_angle(mesh, 180.0)
    # At each of its vertices one triangle beside it has a normal that points inward, and two that do not.
    beside = [int(np.flatnonzero((corner == v) & ~np.isin(mesh.corner_face(), [3]))[i]) for i, v in enumerate(triangle)]
    assert len({c // 3 for c in beside}) == 3
    normals[beside] *= -1
    source = replace(mesh, normals=normals)
    level = normals.copy()
    level[9:12] = normals[beside]
    shaded = LevelShader(Prop("ball", source, (), ()), "keep", moves=True).shade(replace(source, normals=level)).mesh
    facing = areas(mesh)[3] / np.linalg.norm(areas(mesh)[3])
    np.testing.assert_allclose(shaded.normals[9:12], np.tile(facing, (3, 1)), atol=1e-6)
    np.testing.assert_array_equal(shaded.normals[beside], normals[beside])


def test_faceted_thing_stays_faceted() -> None:
    prop, report = _chain(bumpy_sphere(14, height=0.3), (0.4, 0.15), angle=0.0)
    assert len(prop.levels) == 3
    for level in prop.levels:
        flat = areas(level.mesh) / np.linalg.norm(areas(level.mesh), axis=1, keepdims=True)
        np.testing.assert_allclose(level.mesh.normals, np.repeat(flat, 3, axis=0), atol=1e-5)
    assert "hard-edges-released" not in {finding.code for finding in report.findings}


def _column(sides: int) -> Mesh:
    """A column of radius and height 1 with flat ends."""
    angle = 2 * np.pi * np.arange(sides) / sides
    ring = np.column_stack([np.cos(angle), np.zeros(sides), np.sin(angle)])
    points = np.concatenate([ring, ring + (0, 1, 0), [[0, 0, 0], [0, 1, 0]]])
    a, b = np.arange(sides), (np.arange(sides) + 1) % sides
    low, high = np.full(sides, 2 * sides), np.full(sides, 2 * sides + 1)
    sets = [(a, a + sides, b), (b, a + sides, b + sides), (low, a, b), (high, b + sides, a + sides)]
    return make_triangles(points, np.concatenate([np.stack(t, axis=1) for t in sets]).astype(np.int32))


@pytest.mark.parametrize("sides", [24, 800])
def test_something_round_stays_smooth_however_finely_it_is_divided_and_whatever_stands_beside_it(sides: int) -> None:
    """Hard at its two rims alone, and all hard boxes beside it: no level takes it for faceted."""
    boxes = [moved(triangulate(cube()).mesh, (4.0 * i, 0.0, 0.0)) for i in range(1, 12)]
    prop, _ = _chain(join(_column(sides), *boxes), (0.85, 0.7))
    assert len(prop.levels) > 1
    for level in prop.levels:
        at = level.mesh.positions[level.mesh.corner_vertex]
        flat = areas(level.mesh) / np.linalg.norm(areas(level.mesh), axis=1, keepdims=True)
        side = (np.repeat(abs(flat[:, 1]), 3) < 0.5) & (abs(at[:, 0]) < 1.5)
        assert side.any()
        n_places = len(np.unique(at[side].round(5), axis=0))
        shaded = np.column_stack([at[side], level.mesh.normals[side]])
        assert len(np.unique(shaded.round(5), axis=0)) == n_places, "each place of its side has one normal"


def test_a_bent_tube_of_eight_sides_is_hard_along_its_length_only() -> None:
    turn, along = np.arange(8) * np.pi / 4, np.linspace(0.0, 1.0, 13)[:, None]
    width = 0.1 * np.cos(turn) + 2.0
    points = np.stack([width * np.cos(along), width * np.sin(along), np.tile(0.1 * np.sin(turn), (13, 1))], axis=2)
    a = (8 * np.arange(12)[:, None] + np.arange(8)).reshape(-1)
    b = a - a % 8 + (a + 1) % 8
    triangles = np.concatenate([np.stack([a, b, b + 8], axis=1), np.stack([a, b + 8, a + 8], axis=1)])
    prop, _ = _chain(make_triangles(points.reshape(-1, 3), triangles.astype(np.int32)), (0.5, 0.25))
    # Two for each of its points, and no triangle for itself further down.
    first, *others = (count_engine_vertices(level.mesh) for level in prop.levels)
    assert first == 2 * 8 * 13
    assert len(others) == 2
    assert max(others) < 0.6 * first


def test_a_sheet_with_a_front_and_a_back_in_one_place_stays_smooth_on_both_sides() -> None:
    front = triangulate(wavy_sheet(20)).mesh
    front = make_triangles(front.positions * (1.0, 3.0, 1.0), front.triangles())
    back = make_triangles(front.positions, front.triangles()[:, ::-1])
    prop, report = _chain(join(front, back), (0.5, 0.2))
    assert len(prop.levels) == 3
    for level in prop.levels:
        assert count_engine_vertices(level.mesh) < 1.1 * level.mesh.n_vertices
    assert not {"vertices-not-decreasing", "hard-edges-released"} & {finding.code for finding in report.findings}


def test_hard_edge_between_two_halves_stays_hard_in_every_level() -> None:
    """Two sheets that meet at a fold: no corner takes the other side's normal."""
    sheet = wavy_sheet(16)
    folded = np.where(
        sheet.positions[:, :1] > 0.5,
        sheet.positions @ np.array([[0.5, 0.8, 0], [0, 1, 0], [0, 0, 1.0]]),
        sheet.positions,
    )
    ridge = np.isclose(sheet.positions[:, 0], 0.5)
    folded[ridge] = sheet.positions[ridge]
    right = sheet.positions[:, 0] > 0.5
    folded[right, 0] += 0.25
    folded[right, 1] -= 0.4
    prop, _ = _chain(replace(sheet, positions=folded), (0.5, 0.2), angle=20.0)
    for level in prop.levels:
        unit = areas(level.mesh) / np.linalg.norm(areas(level.mesh), axis=1, keepdims=True)
        agreement = np.einsum("ij,ij->i", level.mesh.normals, np.repeat(unit, 3, axis=0))
        assert np.quantile(agreement, 0.02) > 0.8


def test_prop_without_levels_and_mesh_of_one_triangle() -> None:
    prop, report = _chain(bumpy_sphere(6), ())
    assert len(prop.levels) == 1
    assert not report.findings
    single = make_triangles([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]])
    prop, _ = _chain(single, (0.5,))
    assert [level.mesh.n_faces for level in prop.levels] == [1]


@pytest.mark.parametrize("ratios", [(0.5, 0.5), (0.2, 0.4), (1.0,), (0.0,), (0.9,) * 8])
def test_impossible_ratios_are_refused(ratios: tuple[float, ...]) -> None:
    with pytest.raises(ValidationError):
        LevelsSettings(levels=_targets(ratios))


@pytest.mark.parametrize("mirror", ["x", "y", "z", "found"])
@pytest.mark.parametrize("side", ["positive", "negative"])
def test_mirrored_chain_is_symmetric_or_says_why_not(mirror: str, side: str) -> None:
    mesh = triangulate(wavy_sheet(12)).mesh
    prop = Prop("sheet", replace(mesh, normals=normals_by_angle(mesh, 60.0)), (), ())
    settings = LevelsSettings(levels=_targets((0.5, 0.2)), mirror=mirror, mirror_from=side)
    report = Report()
    chain = run(prop, settings, report)
    said = [finding.code for finding in report.findings if finding.code == "mirror-not-found"]
    # The sheet lies on the positive sides of x and z, and waves to both sides of y; no plane leaves it as it is.
    assert bool(said) == (mirror == "found" or (mirror in "xz" and side == "negative"))
    if not said:
        axis = "xyz".index(mirror)
        for level in chain.levels[1:]:
            places = {tuple(place) for place in np.round(level.mesh.positions, 9).tolist()}
            flipped = level.mesh.positions * np.where(np.arange(3) == axis, -1, 1)
            assert {tuple(place) for place in np.round(flipped, 9).tolist()} == places


def test_limits_that_allow_nothing_and_a_mirror_along_a_flat_thing_are_said() -> None:
    apart = [[1, 1, 0], [-1, 1, 0], [0, -1, 0], [3, 3, 0], [2, 3, 0], [0, 2, 0]]
    flat = make_triangles(apart, [[0, 1, 2], [3, 4, 5]])
    report = Report()
    # From so near the eye may be at it; so little is no deviation at all.
    targets = (LevelTarget(pixels=1.0, distance=0.1), LevelTarget(tolerance_mm=1e-300))
    run(Prop("flat", flat, (), ()), LevelsSettings(levels=targets, mirror="found"), report)
    said = [finding.code for finding in report.findings]
    assert sorted(said) == ["level-skipped", "mirror-not-found"]


def test_engine_vertices_that_rise_from_one_level_to_the_next_are_said() -> None:
    """A smooth level above a flat-shaded one with fewer triangles."""
    smooth = triangulate(bumpy_sphere(10)).mesh
    fewer = triangulate(bumpy_sphere(9)).mesh
    levels = (
        Level(0, replace(smooth, normals=normals_by_angle(smooth, 180.0))),
        Level(1, replace(fewer, normals=normals_by_angle(fewer, -1.0)), target=0),
    )
    report = Report(station="levels")
    finish(Prop("ball", smooth, (), (), levels=levels), LevelsSettings(levels=_targets((0.5,))), report)
    (found,) = [f for f in report.findings if f.code == "vertices-not-decreasing"]
    assert (found.level, found.station) == (1, "levels")


def test_the_first_limit_that_is_met_reaches_the_target_and_a_ratio_is_one_of_lod0() -> None:
    ball = triangulate(bumpy_sphere(16)).mesh
    sequence = collapse(ball)
    ruler = DeviationFrom(ball)
    both = take_level(sequence, Limits(vertices=100, ratio=0.01), ruler, 2.0)
    assert both.reached
    assert both.mesh.n_faces > 0.01 * ball.n_faces
    mirrored = mirrored_sequence(ball, Plane(np.array([1.0, 0.0, 0.0]), 0.3), {})
    assert int(mirrored.triangles_at[0]) != ball.n_faces
    half = take_level(mirrored, Limits(ratio=0.5).of_whole(ball.n_faces), ruler, 2.0)
    assert half.mesh.n_faces == pytest.approx(0.5 * ball.n_faces, abs=2)


def test_protected_parts_and_patches_stay_whole_in_every_level() -> None:
    """Two balls, one of them a protected part; on the other a patch is clicked."""
    one, other = triangulate(bumpy_sphere(14, 1)).mesh, moved(triangulate(bumpy_sphere(14, 2)).mesh, (4.0, 0.0, 0.0))
    mesh = join(one, other)
    part = np.repeat(np.array([0, 1], np.int32), [one.n_faces, other.n_faces])
    mesh = replace(mesh, face_part=part, normals=normals_by_angle(mesh, 180.0))
    parts = (Part("fixed", "fixed"), Part("free", "free"))
    clicked = other.positions[other.triangles()[40]]
    normal = np.cross(clicked[1] - clicked[0], clicked[2] - clicked[0])
    spot = {"point": clicked.mean(axis=0).tolist(), "facing": (normal / np.linalg.norm(normal)).tolist(), "angle": 5.0}
    gone = {"point": (50.0, 0.0, 0.0), "facing": (0.0, 1.0, 0.0)}
    settings = LevelsSettings(levels=_targets((0.6,)), protected=(spot, gone), protected_parts=("fixed", "lost"))
    report = Report()
    (_, level) = run(Prop("pair", mesh, parts, ()), settings, report).levels
    left = {tuple(place) for place in level.mesh.positions.tolist()}
    assert {tuple(place) for place in one.positions.tolist()} <= left
    assert {tuple(place) for place in clicked.tolist()} <= left
    assert level.mesh.n_faces == pytest.approx(0.6 * mesh.n_faces, abs=2)
    assert {"mark-lost", "part-unknown"} <= {finding.code for finding in report.findings}
