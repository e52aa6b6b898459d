"""Normals: hard where edges fold more than the angle, weighted by the corner's angle, finite on anything."""

from dataclasses import replace
from typing import Literal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import Mesh, make_mesh, make_triangles
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.mesh.topology import build_topology
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.scene import Part
from plindro.core.shading import ShadingSampler
from plindro.core.shading.normals import Weights, normals_by_angle
from plindro.core.stations.normals import NormalsFacts, NormalsSettings, run
from plindro.core.stations.placement import PlacementSettings
from plindro.core.stations.placement import run as place
from tests.shapes import areas, bumpy_sphere, flat_grid, join, moved, wavy_sheet

CUBE = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], float)
CUBE_FACES = [[0, 1, 3, 2], [4, 6, 7, 5], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]]


def _cube(quads: str = "shortest"):
    return triangulate(make_mesh(CUBE, np.arange(0, 25, 4), np.concatenate(CUBE_FACES)), quads=quads).mesh


def test_cube_is_flat_below_ninety_degrees_and_round_above() -> None:
    cube = _cube()
    flat = normals_by_angle(cube, 89.0)
    unit = areas(cube) / np.linalg.norm(areas(cube), axis=1, keepdims=True)
    np.testing.assert_allclose(flat.reshape(-1, 3, 3), np.repeat(unit[:, None], 3, axis=1), atol=1e-6)
    rounded = normals_by_angle(cube, 91.0)
    np.testing.assert_allclose(rounded, (CUBE[cube.corner_vertex] * 2 - 1) / np.sqrt(3), atol=1e-6)


@pytest.mark.parametrize("rule", ["first", "second"])
def test_weighting_does_not_depend_on_how_quads_are_cut(rule: str) -> None:
    """By corner angle, three faces of a cube count alike at its corner, whichever diagonals touch it."""
    cube = _cube(rule)
    np.testing.assert_allclose(
        normals_by_angle(cube, 180.0), (CUBE[cube.corner_vertex] * 2 - 1) / np.sqrt(3), atol=1e-6
    )


def _slow_reference(mesh, threshold: float) -> np.ndarray:
    """Per corner: walk over all faces at the vertex that are reached across smooth edges; sum angle × normal."""
    vectors = areas(mesh)
    unit = vectors / np.linalg.norm(vectors, axis=1, keepdims=True)
    triangles = mesh.triangles()
    around: dict[int, list[int]] = {}
    for t, triangle in enumerate(triangles.tolist()):
        for v in triangle:
            around.setdefault(v, []).append(t)
    result = np.zeros((len(triangles), 3, 3))
    for t, triangle in enumerate(triangles.tolist()):
        for k, v in enumerate(triangle):
            group, front = {t}, [t]
            while front:
                here = front.pop()
                for other in around[v]:
                    shared = set(triangles[here]) & set(triangles[other])
                    fold = np.degrees(np.arccos(np.clip(unit[here] @ unit[other], -1, 1)))
                    if other not in group and len(shared) == 2 and fold <= threshold:
                        group.add(other)
                        front.append(other)
            for g in group:
                i = triangles[g].tolist().index(v)
                p = mesh.positions[np.roll(triangles[g], -i)]
                a, b = p[1] - p[0], p[2] - p[0]
                result[t, k] += np.arccos(np.clip(a @ b / np.linalg.norm(a) / np.linalg.norm(b), -1, 1)) * unit[g]
    result /= np.linalg.norm(result, axis=2, keepdims=True)
    return result.reshape(-1, 3)


@pytest.mark.parametrize(("seed", "threshold"), [(0, 12.0), (1, 20.0), (2, 180.0)])
def test_against_a_slow_and_obvious_reference(seed: int, threshold: float) -> None:
    mesh = bumpy_sphere(7, seed, height=0.6)
    np.testing.assert_allclose(normals_by_angle(mesh, threshold), _slow_reference(mesh, threshold), atol=2e-6)


@given(seed=st.integers(0, 10_000), threshold=st.floats(0, 180))
def test_unit_and_finite_on_dirty_triangles(seed: int, threshold: float) -> None:
    """Random soup with repeated vertices, doubled faces and triangles without area."""
    rng = np.random.default_rng(seed)
    points = rng.integers(0, 4, (12, 3)).astype(float)
    mesh = make_triangles(points, rng.integers(0, 12, (30, 3)))
    normals = normals_by_angle(mesh, threshold)
    np.testing.assert_allclose(np.linalg.norm(normals, axis=1), 1.0, atol=1e-5)


@given(seed=st.integers(0, 1_000), threshold=st.floats(0, 60))
def test_more_hard_edges_never_cost_fewer_engine_vertices(seed: int, threshold: float) -> None:
    mesh = bumpy_sphere(6, seed, height=0.5)
    counts = [
        count_engine_vertices(replace(mesh, normals=normals_by_angle(mesh, a))) for a in (threshold, threshold + 25)
    ]
    assert counts[0] >= counts[1] >= mesh.n_vertices


def _tilted(mesh: Mesh) -> np.ndarray:
    """(C, 3) normals that no rule would make: each face's own, turned a little."""
    normals = np.repeat(unit(face_vectors(mesh)), 3, axis=0) + np.array([0.2, 0.3, 0.1])
    return unit(normals).astype(np.float32)


def test_normals_that_point_inward_over_right_winding_are_said_and_recomputed() -> None:
    cube = _cube()
    inward = replace(cube, normals=-_tilted(cube))
    report = Report()
    prop = run(Prop("cube", inward, (), ()), NormalsSettings(), report)
    (said,) = [f for f in report.findings if f.code == "normals-inward"]
    assert said.count == cube.n_faces
    mean = prop.mesh.normals.reshape(-1, 3, 3).sum(axis=1)
    assert (np.einsum("ij,ij->i", mean, face_vectors(cube)) > 0).all()
    quiet = Report()
    run(Prop("cube", inward, (), ()), NormalsSettings(source="angle"), quiet)
    assert not [f for f in quiet.findings if f.code == "normals-inward"]


@pytest.mark.parametrize("source", ["imported", "smooth"])
def test_a_sliver_in_a_fold_is_not_turned_away_by_its_neighbours(source: Literal["imported", "smooth"]) -> None:
    flat = triangulate(flat_grid(4)).mesh
    up = face_vectors(flat)[0] / np.linalg.norm(face_vectors(flat)[0])
    vertex = int(np.argmin(np.linalg.norm(flat.positions - flat.positions.mean(axis=0), axis=1)))
    # One vertex goes a little past the edge across from it, beside the edge's end: of its triangles one is turned over.
    over = int(np.flatnonzero((flat.triangles() == vertex).any(axis=1))[0])
    a, b = (int(v) for v in flat.triangles()[over] if v != vertex)
    along = flat.positions[b] - flat.positions[a]
    past = np.cross(along, up)
    past *= -np.sign(past @ (flat.positions[vertex] - flat.positions[a]))
    points = flat.positions.copy()
    points[vertex] = points[a] + 0.05 * along + 0.001 * past
    folded = replace(flat, positions=points, face_smoothing=np.ones(flat.n_faces, np.int32))
    assert (face_vectors(folded)[over] @ up) < 0 < np.delete(face_vectors(folded) @ up, over).min()
    inward = replace(folded, normals=np.tile(up.astype(np.float32), (flat.n_corners, 1)))
    report = Report()
    normals = run(Prop("fold", inward, (), ()), NormalsSettings(source=source), report).mesh.normals
    assert [f.count for f in report.findings if f.code == "normals-inward"] == [1] * (source == "imported")
    mean = normals.reshape(-1, 3, 3).sum(axis=1)
    assert (np.einsum("ij,ij->i", mean, face_vectors(folded)) > 0).all()


def test_imported_normals_are_kept_and_missing_ones_computed() -> None:
    cube = _cube()
    given_normals = _tilted(cube)
    given_normals[4] = 0
    prop = run(Prop("cube", replace(cube, normals=given_normals), (), ()), NormalsSettings(), Report())
    kept = np.delete(prop.mesh.normals, 4, axis=0)
    np.testing.assert_array_equal(kept, np.delete(given_normals, 4, axis=0))
    assert np.linalg.norm(prop.mesh.normals[4]) == pytest.approx(1.0, abs=1e-6)


def test_edges_marked_hard_stay_hard_at_any_angle() -> None:
    cube = _cube()
    marked = replace(cube, hard_edges=np.array([[0, 1], [1, 3], [3, 2], [2, 0]], np.int32))
    normals = normals_by_angle(marked, 180.0).reshape(-1, 3, 3)
    side = np.isin(cube.triangles(), [0, 1, 2, 3]).all(axis=1)
    np.testing.assert_allclose(normals[side], np.tile([-1.0, 0.0, 0.0], (2, 3, 1)), atol=1e-6)
    assert np.abs(normals[~side]).max() < 0.9


BEVEL = 0.1


def _bevelled_edge() -> Mesh:
    """Two big squares at a right angle, joined by a narrow strip: as triangles that remember no polygon."""
    b = BEVEL
    points = [[0, 0, -1], [1, 0, -1], [1 + b, -b, -1], [1 + b, -1 - b, -1]]
    points = np.array([*points, *((x, y, 1) for x, y, _ in points)], float)
    quads = [[0, 4, 5, 1], [1, 5, 6, 2], [2, 6, 7, 3]]
    triangles = [[q[i] for i in corners] for q in quads for corners in ((0, 1, 2), (0, 2, 3))]
    return make_triangles(points, np.array(triangles))


def test_largest_faces_first_keeps_big_flats_flat_beside_a_bevel() -> None:
    mesh = _bevelled_edge()
    plain = normals_by_angle(mesh, 60.0)
    large = normals_by_angle(mesh, 60.0, weights=Weights("large"))
    top, side = np.array([0, 1, 0]), np.array([1, 0, 0])
    np.testing.assert_allclose(large.reshape(-1, 3, 3)[:2], np.broadcast_to(top, (2, 3, 3)), atol=1e-6)
    np.testing.assert_allclose(large.reshape(-1, 3, 3)[4:], np.broadcast_to(side, (2, 3, 3)), atol=1e-6)
    assert np.abs(plain.reshape(-1, 3, 3)[:2] - top).max() > 0.2
    half = normals_by_angle(mesh, 60.0, weights=Weights("large", strength=0.5))
    slant = [np.degrees(np.arccos(n.reshape(-1, 3, 3)[1, 1] @ top)) for n in (plain, half, large)]
    assert slant[0] > slant[1] + 1 > slant[2] + 2
    # Faces of at least the share count with the largest: with none asked for, all do.
    all_count = normals_by_angle(mesh, 60.0, weights=Weights("large", share=1e-9))
    np.testing.assert_allclose(all_count, plain, atol=1e-6)


@pytest.mark.parametrize("kind", ["area", "area-angle"])
def test_weights_by_area_against_what_they_are_by_hand(kind: str) -> None:
    mesh = _bevelled_edge()
    found = normals_by_angle(mesh, 60.0, weights=Weights(kind)).reshape(-1, 3, 3)  # type: ignore[arg-type]
    top, strip = np.array([0, 1, 0]), np.array([1, 1, 0]) / np.sqrt(2)
    # At the end of the edge both flats have a right angle: by area, by both, it is their areas that count.
    wanted = 2.0 * top + 2.0 * BEVEL * np.sqrt(2) * strip
    np.testing.assert_allclose(found[1, 2], wanted / np.linalg.norm(wanted), atol=1e-6)


@pytest.mark.parametrize("kind", ["angle", "area", "area-angle", "large"])
def test_no_weight_depends_on_how_flats_are_cut(kind: str) -> None:
    box = make_mesh(CUBE * (1, 2, 3), np.arange(0, 25, 4), np.concatenate(CUBE_FACES))
    by_corner = []
    for rule in ("first", "second"):
        cut = triangulate(box, quads=rule).mesh
        loose = make_triangles(cut.positions, cut.triangles())
        normals = normals_by_angle(loose, 180.0, weights=Weights(kind))  # type: ignore[arg-type]
        by_corner.append({v: normals[c] for c, v in enumerate(loose.corner_vertex.tolist())})
    for v in range(8):
        np.testing.assert_allclose(by_corner[0][v], by_corner[1][v], atol=1e-6)


def _ball() -> Prop:
    return Prop("ball", bumpy_sphere(10, 3, height=0.4), (), ())


def _shaded(prop: Prop, **settings: object) -> tuple[Prop, Report]:
    report = Report()
    return run(prop, NormalsSettings(**settings), report), report


def _edge_mark(prop: Prop, half_edge: int) -> tuple[tuple[float, ...], tuple[float, ...]]:
    topology = build_topology(prop.mesh)
    ends = prop.mesh.positions[topology.edges[topology.edge[half_edge]]]
    return tuple(ends[0].tolist()), tuple(ends[1].tolist())


def _breaks(mesh: Mesh) -> set[int]:
    """Edges across which the normal differs at either end."""
    topology = build_topology(mesh)
    normals, found = mesh.normals, set()
    for c, d in enumerate(topology.twin.tolist()):
        if d > c:
            ahead = topology.next_corner
            gaps = [np.abs(normals[c] - normals[ahead[d]]).max(), np.abs(normals[ahead[c]] - normals[d]).max()]
            if max(gaps) > 1e-4:
                found.add(int(topology.edge[c]))
    return found


def test_a_line_of_edges_marked_hard_breaks_there_alone_and_soft_ones_never_break() -> None:
    ball = _ball()
    topology = build_topology(ball.mesh)
    ring = list(range(40, 60))
    pairs = [(a, 40 + (a - 39) % 20) for a in ring]
    marks = [tuple(tuple(ball.mesh.positions[v].tolist()) for v in pair) for pair in pairs]
    shaded, report = _shaded(ball, source="smooth", hard=marks)
    wanted = {
        e for e, (a, b) in enumerate(topology.edges.tolist()) if a in ring and b in ring and abs(a - b) in (1, 19)
    }
    assert _breaks(shaded.mesh) == wanted
    assert report.stated(NormalsFacts).marks.hard == 20
    assert report.stated(NormalsFacts).hard_cost == 20
    soft, _ = _shaded(ball, source="angle", angle=0.0, soft=marks)
    assert not _breaks(soft.mesh) & wanted


def test_marks_hold_when_the_source_comes_in_other_units_and_moved_a_little_and_are_said_where_they_do_not() -> None:
    ball = _ball()
    mark = _edge_mark(ball, 200)
    rng = np.random.default_rng(0)
    shaken = replace(ball.mesh, positions=ball.mesh.positions + rng.normal(size=ball.mesh.positions.shape) * 1e-3)
    again = place(replace(ball, mesh=shaken), PlacementSettings(scale=0.01, up="z", yaw=30), Report())
    _, report = _shaded(again, source="smooth", hard=[mark])
    assert report.stated(NormalsFacts).marks.hard == 1
    assert report.stated(NormalsFacts).hard_edges >= 0
    far = tuple(tuple(x + 3 for x in end) for end in mark)
    _, report = _shaded(ball, hard=[mark, far])
    assert report.stated(NormalsFacts).marks.hard == 1
    assert [(f.code, f.count) for f in report.findings] == [("mark-lost", 1)]


def test_patch_is_smooth_or_flat_as_a_whole_and_only_the_patch() -> None:
    box = replace(_cube(), face_part=np.repeat([0, 1], 6).astype(np.int32))
    two = join(box, moved(box, (3.0, 0, 0)))
    prop = Prop("boxes", two, (), ())
    middle = two.positions[two.triangles()[0]].mean(axis=0)
    spot = {"point": tuple(middle.tolist()), "facing": (-1.0, 0.0, 0.0)}
    smooth, report = _shaded(prop, source="angle", angle=38.0, patches=[{**spot, "by": "shell", "inside": "soft"}])
    assert report.stated(NormalsFacts).marks.patches == 1
    rounded = (CUBE[box.corner_vertex] * 2 - 1) / np.sqrt(3)
    np.testing.assert_allclose(smooth.mesh.normals[:36], rounded, atol=1e-6)
    np.testing.assert_allclose(np.abs(smooth.mesh.normals[36:]).max(axis=1), 1.0, atol=1e-6)
    flat, _ = _shaded(prop, source="smooth", patches=[{**spot, "by": "shell", "inside": "hard"}])
    np.testing.assert_allclose(np.abs(flat.mesh.normals[:36]).max(axis=1), 1.0, atol=1e-6)
    np.testing.assert_allclose(flat.mesh.normals[36:], rounded, atol=1e-6)


def test_mark_on_imported_normals_changes_them_at_its_ends_only() -> None:
    ball = _ball()
    smooth, _ = _shaded(ball, source="smooth")
    bent = smooth.mesh.normals + np.float32(0.05)
    bent /= np.linalg.norm(bent, axis=1, keepdims=True)
    prop = replace(ball, mesh=replace(ball.mesh, normals=bent.astype(np.float32)))
    ring = range(40, 60)
    marks = [
        (tuple(ball.mesh.positions[a].tolist()), tuple(ball.mesh.positions[40 + (a - 39) % 20].tolist())) for a in ring
    ]
    shaded, report = _shaded(prop, hard=marks)
    at_marks = np.isin(ball.mesh.corner_vertex, list(ring))
    np.testing.assert_array_equal(shaded.mesh.normals[~at_marks], prop.mesh.normals[~at_marks])
    assert len(_breaks(shaded.mesh)) == 20
    assert report.stated(NormalsFacts).rule == "imported"


def test_parts_can_give_their_own_normals_up() -> None:
    two = join(_cube(), moved(_cube(), (3.0, 0, 0)))
    given_normals = _tilted(two)
    parts = (Part("a", "a"), Part("b", "b"))
    mesh = replace(two, normals=given_normals, face_part=np.repeat([0, 1], 12).astype(np.int32))
    prop = Prop("boxes", mesh, parts, ())
    shaded, report = _shaded(prop, recomputed_parts=["b"])
    np.testing.assert_array_equal(shaded.mesh.normals[:36], given_normals[:36])
    np.testing.assert_allclose(np.abs(shaded.mesh.normals[36:]).max(axis=1), 1.0, atol=1e-6)
    assert [part.model_dump() for part in report.stated(NormalsFacts).parts] == [
        {"path": "a", "kept": 36, "computed": 0},
        {"path": "b", "kept": 0, "computed": 36},
    ]


def test_cost_curve_tells_the_engine_vertices_of_each_angle() -> None:
    sheet = triangulate(wavy_sheet(12, islands=3, materials=2)).mesh
    bumped = replace(sheet, positions=sheet.positions * (1, 6, 1))
    _, report = _shaded(Prop("sheet", bumped, (), ()), source="angle", angle=20.0)
    for angle, cost in ((sample.angle, sample.vertices) for sample in report.stated(NormalsFacts).cost):
        shaded = replace(bumped, normals=normals_by_angle(bumped, float(angle)))
        assert cost == count_engine_vertices(shaded)


def test_nearest_place_of_a_thin_wall_is_taken_on_its_own_side() -> None:
    """Two sheets back to back, closer than a query off the one: each is answered by the side that faces its way."""
    corners = np.array([[0, 0, 0], [1, 0, 0], [1, 0, 1], [0, 0, 1]], float)
    points = np.concatenate([corners, corners + (0, 0.01, 0)])
    triangles = [[0, 1, 2], [0, 2, 3], [6, 5, 4], [7, 6, 4]]
    wall = make_triangles(points, np.array(triangles))
    tilted = np.repeat([[0.6, -0.8, 0], [0.6, 0.8, 0]], 6, axis=0).astype(np.float32)
    sampler = ShadingSampler(replace(wall, normals=tilted))
    asked = np.array([[0.4, 0.02, 0.4], [0.4, 0.02, 0.4]])
    found = sampler.at(asked, np.array([[0.0, -1, 0], [0, 1, 0]]))
    np.testing.assert_allclose(found, [[0.6, -0.8, 0], [0.6, 0.8, 0]], atol=1e-6)
    beside = sampler.beside(wall)
    assert beside.mean_angle(tilted) == pytest.approx(0.0, abs=1e-3)
    own = np.repeat([[0, -1, 0], [0, 1, 0]], 6, axis=0).astype(np.float32)
    assert beside.mean_angle(own) == pytest.approx(np.degrees(np.arccos(0.8)), abs=1e-3)
