"""Triangulation: any simple polygon in any plane is cut inside its outline, without overlap or flip."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from plindro.core.files import read_scene
from plindro.core.findings import Severity
from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import Mesh, make_mesh
from plindro.core.numeric.single import lost_height
from plindro.core.polygons import compare_with_fan, triangulate, with_whole_polygons
from plindro.core.polygons.engine import DIFFERS, FLIPS, LEAVES
from plindro.core.polygons.triangulate import POLYGON_RULES, QUAD_RULES
from plindro.core.prop import Prop, prop_from_scene
from plindro.core.report import Report
from plindro.core.stations.cleanup import CleanupSettings
from plindro.core.stations.cleanup import run as clean
from plindro.core.stations.placement import PlacementSettings
from plindro.core.stations.placement import run as place
from plindro.core.stations.triangulation import (
    TriangulationFacts,
    TriangulationSettings,
    compare_engine,
    report_engine,
    run,
)
from tests.shapes import (
    areas,
    comb_polygon,
    cube,
    edge_counts,
    grid_polygon,
    keyhole_polygon,
    random_rotation,
    star_polygon,
    turn,
    wavy_sheet,
)


def _in_space(outline: np.ndarray, seed: int, noise: float = 0.0) -> Mesh:
    points = np.concatenate([outline, np.zeros((len(outline), 1))], axis=1)
    rng = np.random.default_rng(seed)
    points[:, 2] += noise * rng.normal(size=len(outline))
    return make_mesh(
        points @ random_rotation(seed).T * 3.0 + rng.normal(size=3), [0, len(outline)], np.arange(len(outline))
    )


def _assert_cut_inside(mesh: Mesh, *, tolerance: float = 1e-9, ngons: str = "ears") -> None:
    """Area is kept, no triangle faces away, and the cut has the edges of a polygon and its inner diagonals."""
    result = triangulate(mesh, ngons=ngons)
    whole = face_vectors(mesh)[0]
    size = np.linalg.norm(whole)
    along = areas(result.mesh) @ whole / size
    sides = mesh.n_corners
    assert result.mesh.n_faces == sides - 2
    assert along.min() >= -tolerance * size, "a triangle is flipped"
    assert abs(along).sum() == pytest.approx(size, rel=1e-6), "triangles overlap or leave the outline"
    edges = edge_counts(result.mesh.triangles())
    outline = {(min(i, (i + 1) % sides), max(i, (i + 1) % sides)) for i in range(sides)}
    assert {edge for edge, n in edges.items() if n == 1} == outline
    assert all(n == 2 for edge, n in edges.items() if edge not in outline)


@given(sides=st.integers(5, 150), seed=st.integers(0, 10_000), ngons=st.sampled_from(POLYGON_RULES))
def test_notched_polygon_in_any_plane(sides: int, seed: int, ngons: str) -> None:
    _assert_cut_inside(_in_space(star_polygon(sides, seed), seed), ngons=ngons)


@given(
    sides=st.integers(5, 14),
    extent=st.integers(4, 8),
    seed=st.integers(0, 100_000),
    ngons=st.sampled_from(POLYGON_RULES),
)
def test_polygon_with_straight_corners_is_cut_exactly_and_without_empty_triangles(
    sides: int, extent: int, seed: int, ngons: str
) -> None:
    """On whole numbers every area is exact: all triangles have some, and together they have the polygon's."""
    points = grid_polygon(sides, extent, seed)
    assume(points is not None)
    assert points is not None
    flat = np.array([(x, y, 0) for x, y in points], float)
    cut = triangulate(make_mesh(flat, [0, sides], np.arange(sides)), ngons=ngons).mesh
    found = [turn(*(points[c] for c in triangle)) for triangle in cut.triangles().tolist()]
    assert min(found) > 0
    assert sum(found) == sum(turn((0, 0), points[i - 1], points[i]) for i in range(sides))


@pytest.mark.parametrize("ngons", POLYGON_RULES)
@pytest.mark.parametrize(("columns", "rows"), [(1, 1), (3, 2), (12, 9)])
def test_holes_joined_by_keyholes(columns: int, rows: int, ngons: str) -> None:
    points = keyhole_polygon(columns, rows)
    flat = np.array([(x, y, 0) for x, y in points], float)
    cut = triangulate(make_mesh(flat, [0, len(points)], np.arange(len(points))), ngons=ngons).mesh
    found = [turn(*(points[c] for c in triangle)) for triangle in cut.triangles().tolist()]
    assert min(found) > 0
    assert sum(found) == 2 * columns * rows * (100 - 8)


@given(sides=st.integers(5, 40), seed=st.integers(0, 10_000))
def test_best_shaped_triangles_leave_no_diagonal_worth_turning(sides: int, seed: int) -> None:
    """Across every inner diagonal of a constrained Delaunay cut the two angles sum to at most half a circle, or the
    four corners are not convex; so its smallest angle is at least that of any other cut."""
    points = star_polygon(sides, seed)
    mesh = make_mesh(np.c_[points, np.zeros(sides)], [0, sides], np.arange(sides))
    triangles = triangulate(mesh, ngons="shapely").mesh.triangles().tolist()
    tip = {(t[i], t[(i + 1) % 3]): t[(i + 2) % 3] for t in triangles for i in range(3)}

    def angle(at: int, a: int, b: int) -> float:
        u, v = points[a] - points[at], points[b] - points[at]
        return float(np.arctan2(abs(u[0] * v[1] - u[1] * v[0]), u @ v))

    for (a, b), c in tip.items():
        if (b, a) in tip:
            d = tip[b, a]
            is_convex = turn(points[c], points[a], points[d]) > 0 and turn(points[d], points[b], points[c]) > 0
            assert not is_convex or angle(c, a, b) + angle(d, a, b) <= np.pi + 1e-6
    ears = _smallest_angle(triangulate(mesh).mesh)
    assert _smallest_angle(triangulate(mesh, ngons="shapely").mesh) >= ears - 1e-9


def _smallest_angle(mesh: Mesh) -> float:
    p = mesh.positions[mesh.triangles()]
    u, v = np.roll(p, -1, axis=1) - p, np.roll(p, 1, axis=1) - p
    cross = np.linalg.norm(np.cross(u, v), axis=2)
    return float(np.arctan2(cross, (u * v).sum(axis=2)).min())


@given(sides=st.integers(5, 40), seed=st.integers(0, 10_000))
def test_polygon_that_is_not_quite_flat(sides: int, seed: int) -> None:
    _assert_cut_inside(_in_space(star_polygon(sides, seed), seed, noise=0.004), tolerance=1e-6)


@pytest.mark.parametrize("teeth", [2, 7, 40])
def test_comb_with_collinear_back_gives_no_triangle_without_area(teeth: int) -> None:
    mesh = _in_space(comb_polygon(teeth), seed=teeth)
    _assert_cut_inside(mesh)
    assert np.linalg.norm(areas(triangulate(mesh).mesh), axis=1).min() > 1e-6


@given(
    inner=st.integers(1, 9),
    first=st.integers(0, 11),
    noise=st.floats(1e-13, 1e-7),
    seed=st.integers(0, 1_000),
    rule=st.sampled_from(QUAD_RULES),
)
def test_vertices_along_a_side_of_a_slim_triangle_make_no_line_of_it(
    inner: int, first: int, noise: float, seed: int, rule: str
) -> None:
    rng = np.random.default_rng(seed)
    along = np.sort(rng.permutation(np.linspace(0.1, 0.9, 12))[:inner])
    side = np.stack([along, noise * rng.normal(size=inner)], axis=1)
    outline = np.concatenate([[[0.0, 0.0]], side, [[1.0, 0.0], [0.4, 0.01]]])
    mesh = _in_space(np.roll(outline, first, axis=0), seed)
    cut = triangulate(mesh, quads=rule).mesh
    assert np.linalg.norm(areas(cut), axis=1).min() > 1e-4


@given(
    inner=st.integers(1, 5),
    first=st.integers(0, 7),
    away=st.floats(0.1, 30.0),
    seed=st.integers(0, 1_000),
    rule=st.sampled_from(QUAD_RULES),
)
def test_what_writing_could_turn_over_is_not_cut_off(inner: int, first: int, away: float, seed: int, rule: str) -> None:
    """Corners along a side that leave it by no more than places in single precision do, far from the origin."""
    rng = np.random.default_rng(seed)
    along = np.sort(rng.permutation(np.linspace(0.1, 0.9, 9))[:inner])
    side = np.stack([along, rng.uniform(-1e-4, 1e-4, inner)], axis=1)
    outline = np.concatenate([[[0.0, 0.0]], side, [[1.0, 0.0], [0.4, 3.0]]])
    mesh = _in_space(np.roll(outline, first, axis=0), seed)
    size = 1_000 * lost_height(np.array([[away, 0.0, 0.0]]))
    placed = replace(mesh, positions=size * (mesh.positions - mesh.positions[0]) + (away, 0.0, 0.0))
    cut = triangulate(placed, quads=rule).mesh
    sides = np.roll(cut.positions[cut.triangles()], 1, axis=1) - cut.positions[cut.triangles()]
    height = 2.0 * np.linalg.norm(areas(cut), axis=1) / np.linalg.norm(sides, axis=2).max(axis=1)
    assert height.min() > lost_height(placed.positions)


@given(seed=st.integers(0, 10_000), rule=st.sampled_from(QUAD_RULES), corner=st.integers(0, 3))
def test_concave_quad_is_cut_inside_whatever_the_rule(seed: int, rule: str, corner: int) -> None:
    dart = np.array([[0.0, 0.0], [1.0, -0.4], [0.25, 0.1], [0.2, 1.0]])
    mesh = _in_space(np.roll(dart, corner, axis=0), seed)
    result = triangulate(mesh, quads=rule)
    whole = face_vectors(mesh)[0]
    assert (areas(result.mesh) @ whole > 0).all()
    # The notch, at one end of the only diagonal that lies inside, is a corner of both triangles.
    notch = (2 + corner) % 4
    assert (result.mesh.triangles() == notch).any(axis=1).all()
    assert result.n_overruled == (rule == ("second" if notch in (0, 2) else "first")) or rule in ("shortest", "shapely")


def test_rules_choose_the_diagonal_they_name() -> None:
    kite = make_mesh([[0, 0, 0], [2, -0.5, 0], [3, 0, 0], [2, 0.5, 0]], [0, 4], [0, 1, 2, 3])
    diagonals = {}
    for rule in QUAD_RULES:
        edges = edge_counts(triangulate(kite, quads=rule).mesh.triangles())
        diagonals[rule] = next(edge for edge, n in edges.items() if n == 2)
    assert diagonals == {"shortest": (1, 3), "shapely": (1, 3), "first": (0, 2), "second": (1, 3)}


def test_polygon_that_crosses_itself_is_still_cut() -> None:
    bow = make_mesh([[0, 0, 0], [3, 0, 0], [3, 2, 0], [1, -1, 0], [2, -1, 0], [0, 2, 0]], [0, 6], np.arange(6))
    result = triangulate(bow)
    assert result.mesh.n_faces == 4


def test_attributes_follow_their_corners_and_polygons() -> None:
    uv = np.random.default_rng(1).random((9, 2))
    mesh = make_mesh(
        np.random.default_rng(0).random((9, 3)),
        [0, 4, 9],
        np.arange(9),
        face_material=[3, 5],
        face_smoothing=[1, 2],
        uvs=(uv,),
    )
    cut = triangulate(mesh).mesh
    assert cut.face_polygon.tolist() == [0, 0, 1, 1, 1]
    assert cut.face_material.tolist() == [3, 3, 5, 5, 5]
    np.testing.assert_array_equal(cut.uvs[0], uv.astype(np.float32)[cut.corner_vertex])


def test_folded_quad_is_cut_along_its_fold_by_shape() -> None:
    """Bent along the diagonal 1-3 by a right angle: cut there it is two flat halves, cut across it is a ridge."""
    bent = make_mesh([[0, 0, 0], [1, 0, 0], [1, 0.9, 0.9], [0, 1, 0]], [0, 4], [0, 1, 2, 3])
    flat = make_mesh([[0, 0, 0], [1, 0, 0], [1.05, 1.05, 0], [0, 1, 0]], [0, 4], [0, 1, 2, 3])
    for mesh in (bent, flat):
        shape = triangulate(mesh, quads="shapely").mesh
        best = max(
            (triangulate(mesh, quads=rule).mesh for rule in ("first", "second")),
            key=lambda cut: _smallest_angle(cut) * (1 + np.cos(_fold(cut))) / 2,
        )
        assert _fold(shape) == pytest.approx(_fold(best))


def _fold(cut: Mesh) -> float:
    a, b = areas(cut)
    return float(np.arctan2(np.linalg.norm(np.cross(a, b)), a @ b))


def _fan_truth(points: np.ndarray) -> tuple[bool, bool]:
    """Whether a fan from the first corner has a triangle that faces away, and whether a diagonal leaves the outline,
    asked of the polygon's inside by counting crossings."""
    n = len(points)
    flips = any(turn(points[0], points[k], points[k + 1]) < 0 for k in range(1, n - 1))

    def inside(p: np.ndarray) -> bool:
        count = 0
        for i in range(n):
            a, b = points[i], points[(i + 1) % n]
            if (a[1] > p[1]) != (b[1] > p[1]) and p[0] < a[0] + (p[1] - a[1]) / (b[1] - a[1]) * (b[0] - a[0]):
                count += 1
        return count % 2 == 1

    leaves = any(
        not inside(points[0] + s * (points[k] - points[0]))
        for k in range(2, n - 1)
        for s in np.linspace(0.004, 0.996, 250)
    )
    return flips, leaves


@given(sides=st.integers(5, 14), seed=st.integers(0, 10_000))
def test_what_an_engines_fan_would_break(sides: int, seed: int) -> None:
    points = star_polygon(sides, seed)
    mesh = make_mesh(np.c_[points, np.zeros(sides)], [0, sides], np.arange(sides))
    result = triangulate(mesh)
    cuts = compare_with_fan(mesh, result.corners, result.mesh.face_polygon)
    flips, leaves = _fan_truth(points)
    assert bool(cuts.flags[0] & FLIPS) == flips
    if leaves:
        assert cuts.flags[0] & LEAVES
    is_fan = all(0 in triangle for triangle in result.mesh.triangles().tolist())
    assert bool(cuts.flags[0] & DIFFERS) != is_fan


def test_degrees_of_a_quad_with_another_diagonal() -> None:
    """A corner of a unit quad lifted by h: the four possible triangles are known, and so are the angles between."""
    h = 0.5
    normals = [[0, 0, 1], [0.6, 0, 0.8], [0, 0, 1], [-0.6, 0, 0.8]]
    quad = make_mesh([[0, 0, 0], [1, 0, 0], [1, 1, h], [0, 1, 0]], [0, 4], [0, 1, 2, 3], normals=normals)
    result = triangulate(quad, quads="second")
    cuts = compare_with_fan(quad, result.corners, result.mesh.face_polygon)

    def normal(*corners: int) -> np.ndarray:
        a, b, c = quad.positions[list(corners)]
        n = np.cross(b - a, c - a)
        return n / np.linalg.norm(n)

    fan = [normal(0, 1, 2), normal(0, 2, 3)]
    cut = [normal(0, 1, 3), normal(1, 2, 3)]
    worst = max(np.degrees(np.arccos(min(1.0, f @ c))) for f in fan for c in cut)
    assert cuts.surface[0] == pytest.approx(worst, abs=1e-6)
    # Both pairs of normals mean (0, 0, 1) at the crossing in the middle.
    assert cuts.shading[0] == pytest.approx(0.0, abs=1e-4)
    assert not compare_with_fan(quad, np.array([0, 1, 2, 0, 2, 3], np.int32), np.array([0, 0], np.int32)).flags.any()


def _sheet_prop() -> Prop:
    text = b"o sheet\nv 0 0 0\nv 1 0 0\nv 2 0 0\nv 0 1 0\nv 1 1 0\nv 2 1 0\nf 1 2 5 4\nf 2 3 6 5\n"
    scene = read_scene(text, "sheet.obj")
    return Prop("sheet", scene.mesh, scene.parts, scene.materials)


def _diagonals(mesh: Mesh) -> set[tuple[tuple[float, ...], ...]]:
    edges = edge_counts(mesh.triangles())
    found = set()
    for (a, b), n in edges.items():
        if n == 2:
            ends = sorted(tuple(np.round(mesh.positions[v], 6).tolist()) for v in (a, b))
            if ends[0][0] != ends[1][0] and ends[0][1] != ends[1][1]:
                found.add(tuple(ends))
    return found


def test_diagonal_set_by_hand_holds_when_the_source_changes_and_is_said_where_it_cannot() -> None:
    """Its ends are places of the source: another scale and pivot of the prop do not move them off the mesh."""
    mark = ((0.0, 0.0, 0.0), (1.0, 1.0, 0.0))
    settings = TriangulationSettings(quads="second", flipped_diagonals=(mark,))
    for scale in (1.0, 0.01):
        placed = place(_sheet_prop(), PlacementSettings(scale=scale, pivot="bounds", anchor=(-1, -1, -1)), Report())
        report = Report()
        cut = run(placed, settings, report).mesh
        assert report.stated(TriangulationFacts).turned == 1
        wanted = tuple(sorted(tuple(round(x * scale, 6) for x in end) for end in mark))
        assert wanted in _diagonals(cut)
        assert np.linalg.norm(areas(cut), axis=1).sum() == pytest.approx(2.0 * scale**2, rel=1e-6)
    report = Report()
    run(_sheet_prop(), TriangulationSettings(flipped_diagonals=(((0.0, 5.0, 0.0), (1.0, 6.0, 0.0)),)), report)
    assert [(f.code, f.severity) for f in report.findings] == [("mark-lost", Severity.WARNING)]


@given(sides=st.integers(5, 24), seed=st.integers(0, 2_000), pick=st.integers(0, 10_000))
def test_any_inner_diagonal_can_be_brought_into_a_convex_polygon(sides: int, seed: int, pick: int) -> None:
    rng = np.random.default_rng(seed)
    angle = np.sort(rng.uniform(0, 2 * np.pi, sides))
    assume(np.diff(angle).min() > 0.02)
    points = np.c_[np.cos(angle), np.sin(angle), np.zeros(sides)]
    a = pick % sides
    b = (a + 2 + (pick // sides) % (sides - 3)) % sides
    mark = (tuple(points[a].tolist()), tuple(points[b].tolist()))
    prop = Prop("disc", make_mesh(points, [0, sides], np.arange(sides)), (), ())
    report = Report()
    cut = run(prop, TriangulationSettings(flipped_diagonals=(mark,)), report).mesh
    assert edge_counts(cut.triangles())[min(a, b), max(a, b)] == 2
    assert (areas(cut)[:, 2] > 0).all()
    assert areas(cut)[:, 2].sum() == pytest.approx(face_vectors(prop.mesh)[0, 2], rel=1e-9)


def test_smaller_polygons_come_back_whole_with_their_normals() -> None:
    sheet = wavy_sheet(4, materials=2)
    octagon = star_polygon(8, 3)
    mesh = make_mesh(
        np.concatenate([sheet.positions, np.c_[octagon + 5, np.zeros(8)]]),
        np.append(sheet.face_start, sheet.face_start[-1] + 8),
        np.append(sheet.corner_vertex, sheet.n_vertices + np.arange(8)),
        face_material=np.append(sheet.face_material, 1),
    )
    prop = run(Prop("mixed", mesh, (), ()), TriangulationSettings(min_sides=5), Report())
    normals = np.random.default_rng(0).normal(size=(mesh.n_corners, 3)).astype(np.float32)
    assert prop.polygons is not None
    shaded = replace(prop.mesh, normals=normals[prop.polygons.corners])
    whole = with_whole_polygons(shaded, prop.polygons)
    assert whole.face_sides.tolist() == [4] * 16 + [3] * 6
    np.testing.assert_array_equal(whole.corner_vertex[:64], mesh.corner_vertex[:64])
    np.testing.assert_array_equal(whole.normals[:64], normals[:64])
    assert whole.face_material.tolist() == [*sheet.face_material.tolist(), *[1] * 6]


def test_report_says_what_the_fan_would_break_and_nothing_where_all_are_triangles() -> None:
    points = star_polygon(12, 1)
    star = make_mesh(np.c_[points, np.zeros(12)], [0, 12], np.arange(12))
    prop = run(Prop("star", star, (), ()), TriangulationSettings(), Report())
    report = Report()
    engine = report_engine(prop, report)
    assert engine is not None
    assert engine.flips == 1
    assert "engine-cut-breaks" in {f.code for f in report.findings}
    box = run(Prop("box", triangulate(cube()).mesh, (), ()), TriangulationSettings(), Report())
    assert compare_engine(box) is None


def test_a_triangle_that_got_a_vertex_into_an_edge_is_no_polygon_of_the_source() -> None:
    lines = ["v 0 0 0", "v 2 0 0", "v 2 2 0", "v 0 2 0", "v 1 1 0", "f 1 2 3", "f 1 5 4", "f 5 3 4"]
    prop = prop_from_scene(read_scene("\n".join(lines).encode(), "split.obj"))
    report = Report()
    cleaned = clean(prop, CleanupSettings(), report)
    assert cleaned.mesh.face_sides.max() == 4, "the vertex in the middle went into the long triangle"
    cut = run(cleaned, TriangulationSettings(), report)
    assert cut.mesh.n_faces == 4
    assert compare_engine(cut) is None
    assert not {"engine-cut-breaks", "concave-quads"} & {f.code for f in report.findings}
