"""Cleanup: planted faults are counted exactly, repaired without harm, and a clean mesh is left alone."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import Mesh, drop_unused_vertices, make_mesh, make_triangles, meshes_equal
from plindro.core.mesh.surgery import append_faces, turn_faces
from plindro.core.mesh.topology import build_topology, corner_fans
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.stations.cleanup import CleanupSettings, clean, run
from tests.shapes import bumpy_sphere, cube, flat_grid, join, moved, unwelded, wavy_sheet

ALL_ON = CleanupSettings(slivers=True, small_shells=True, holes=True)
FOUND_ONLY = CleanupSettings(
    non_finite=False, loose=False, unwelded=False, zero_area=False, duplicates=False, t_vertices=False,
    non_manifold_edges=False,     non_manifold_vertices=False, winding=False,
)  # fmt: skip


def counts(mesh: Mesh, settings: CleanupSettings = CleanupSettings()) -> dict[str, int]:  # noqa: B008
    """Faults by code, open borders and crooked polygons left out: those are told, not faulty."""
    _, met = clean(mesh, settings)
    return {
        fault.kind.code: fault.count
        for fault in met
        if fault.kind.code not in ("open-boundaries", "non-planar-polygons")
    }


def is_watertight(mesh: Mesh) -> bool:
    topology = build_topology(mesh)
    return bool((topology.edge_uses == 2).all() and not topology.turned.any())


def volume(mesh: Mesh) -> float:
    first = mesh.positions[mesh.corner_vertex[mesh.face_start[:-1]]]
    return float((first * face_vectors(mesh)).sum() / 3)


def area(mesh: Mesh) -> float:
    return float(np.linalg.norm(face_vectors(mesh), axis=1).sum())


def with_attributes(mesh: Mesh) -> Mesh:
    """The mesh with a UV, a normal and a colour on every corner that tell the corners apart."""
    points = mesh.positions[mesh.corner_vertex]
    normals = np.repeat(face_vectors(mesh), mesh.face_sides, axis=0)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    colors = np.concatenate([np.abs(points) % 1.0, np.ones((len(points), 1))], axis=1)
    return replace(
        mesh,
        uvs=(points[:, :2].astype(np.float32),),
        normals=normals.astype(np.float32),
        colors=colors.astype(np.float32),
    )


@pytest.mark.parametrize("mesh", [cube(), bumpy_sphere(12), flat_grid(6), join(cube(), moved(cube(), (3, 0, 0)))])
def test_clean_mesh_comes_back_as_the_very_same_object(mesh: Mesh) -> None:
    rich = with_attributes(mesh)
    assert clean(rich, ALL_ON.model_copy(update={"holes": False}))[0] is rich
    assert counts(rich) == {}


@given(seed=st.integers(0, 10_000), share=st.floats(0.01, 0.95))
def test_closed_mesh_with_random_faces_turned_comes_back_exactly(seed: int, share: float) -> None:
    mesh = with_attributes(bumpy_sphere(8))
    rng = np.random.default_rng(seed)
    turned = rng.random(mesh.n_faces) < share
    dirty = turn_faces(mesh, turned)
    result, met = clean(dirty, CleanupSettings())
    assert meshes_equal(result, mesh)
    assert [(fault.kind.code, fault.count) for fault in met] == (
        [("inconsistent-winding", int(turned.sum()))] if turned.any() else []
    )


@given(seed=st.integers(0, 10_000), share=st.floats(0.05, 1.0))
def test_split_vertices_are_counted_and_welded_with_their_seams_kept(seed: int, share: float) -> None:
    mesh = with_attributes(bumpy_sphere(8))
    rng = np.random.default_rng(seed)
    loose = unwelded(mesh, rng.random(mesh.n_faces) < share)
    result, met = clean(loose, CleanupSettings())
    extra = loose.n_vertices - mesh.n_vertices
    assert [(f.kind.code, f.count) for f in met] == ([("unwelded-vertices", extra)] if extra else [])
    assert is_watertight(result)
    assert result.n_vertices == mesh.n_vertices
    assert np.array_equal(result.uvs[0], mesh.uvs[0])
    assert np.array_equal(result.normals, mesh.normals)


def test_vertices_within_the_tolerance_are_welded_and_those_beyond_are_not() -> None:
    mesh = unwelded(bumpy_sphere(6), np.ones(bumpy_sphere(6).n_faces, bool))
    rng = np.random.default_rng(1)
    shaken = replace(mesh, positions=mesh.positions + rng.uniform(-1, 1, mesh.positions.shape) * 1e-6)
    assert is_watertight(clean(shaken, CleanupSettings())[0])
    assert clean(shaken, CleanupSettings(weld_mm=0))[0].n_vertices == shaken.n_vertices


def test_things_that_only_touch_are_not_welded() -> None:
    touching = join(cube(), moved(cube(), (1, 1, 1)))
    assert counts(touching) == {}
    assert clean(touching, ALL_ON)[0] is touching
    leaf = make_mesh([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]] * 2, [0, 4, 8], [0, 1, 2, 3, 7, 6, 5, 4])
    assert "unwelded-vertices" not in counts(leaf)
    assert clean(leaf, CleanupSettings())[0] is leaf


def test_repeated_faces_are_counted_the_same_way_and_back_to_back() -> None:
    mesh = with_attributes(bumpy_sphere(6))
    corners = np.arange(mesh.n_corners).reshape(-1, 3)
    twice = append_faces(mesh, corners[[3, 8, 8]].reshape(-1), np.full(3, 3), np.array([3, 8, 8]), None)
    assert counts(twice) == {"duplicate-faces": 3}
    assert meshes_equal(clean(twice, CleanupSettings())[0], mesh)
    backed = append_faces(mesh, corners[[5, 20]][:, ::-1].reshape(-1), np.full(2, 3), np.array([5, 20]), None)
    assert counts(backed) == {"back-to-back-faces": 2}
    assert meshes_equal(clean(backed, CleanupSettings())[0], mesh)


def test_where_bodies_touch_with_whole_faces_each_stays_closed() -> None:
    row = join(cube(), moved(cube(), (1, 0, 0)), moved(cube(), (2, 0, 0)))
    result, met = clean(row, CleanupSettings())
    assert is_watertight(result)
    assert result.n_faces == row.n_faces
    assert volume(result) == pytest.approx(3.0)
    assert {fault.kind.code: fault.count for fault in met}["back-to-back-overlaps"] == 2
    # A wall that only one body has is still a fault, beside the others.
    corners = np.arange(4)[::-1]
    faulty = append_faces(row, corners, np.full(1, 4), np.array([0]), None)
    assert counts(faulty)["back-to-back-faces"] == 1
    assert is_watertight(clean(faulty, CleanupSettings())[0])


def test_sheet_with_a_back_of_its_own_is_meant_and_left() -> None:
    front = flat_grid(3)
    back = replace(front, corner_vertex=front.corner_vertex.reshape(-1, 4)[:, ::-1].reshape(-1).copy())
    sheet = make_mesh(
        front.positions,
        np.concatenate([front.face_start, front.face_start[-1] + back.face_start[1:]]),
        np.concatenate([front.corner_vertex, back.corner_vertex]),
    )
    result, met = clean(sheet, CleanupSettings(non_manifold_edges=False, non_manifold_vertices=False))
    assert result is sheet
    assert "two-sided-sheets" in {fault.kind.code for fault in met}


@given(seed=st.integers(0, 10_000), number=st.integers(1, 12))
def test_faces_without_surface_go_and_the_surface_stays_closed(seed: int, number: int) -> None:
    """Splitting an edge on one side only, by a face without surface: the neighbour takes the point in its stead."""
    mesh = with_attributes(bumpy_sphere(8))
    rng = np.random.default_rng(seed)
    topology = build_topology(mesh)
    chosen: list[int] = []
    used = np.zeros(mesh.n_faces, bool)
    face = mesh.corner_face()
    for half in rng.permutation(mesh.n_corners):
        pair = [face[half], face[topology.twin[half]]]
        if not used[pair].any() and len(chosen) < number:
            used[pair] = True
            chosen.append(int(half))
    dirty = mesh
    triangles = mesh.triangles().tolist()
    positions = mesh.positions.tolist()
    for half in chosen:
        f, k = divmod(half, 3)
        a, b, c = (triangles[f][(k + i) % 3] for i in range(3))
        m = len(positions)
        positions.append((0.5 * (np.array(positions[a]) + np.array(positions[b]))).tolist())
        triangles[f] = [a, m, c]
        triangles.append([m, b, c])
        triangles.append([a, b, m])
    dirty = make_triangles(np.array(positions), np.array(triangles))
    assert is_watertight(dirty)
    result, met = clean(dirty, CleanupSettings())
    assert [(f.kind.code, f.count) for f in met] == [("zero-area-faces", len(chosen))]
    assert is_watertight(result)
    assert volume(result) == pytest.approx(volume(mesh), rel=1e-9)
    assert area(result) == pytest.approx(area(mesh), rel=1e-9)


@pytest.mark.parametrize("pieces", [2, 5])
def test_t_vertices_are_counted_and_taken_into_the_edge(pieces: int) -> None:
    """A strip of one long quad beside several short ones, with UVs that run straight across."""
    xs = np.linspace(0, 1, pieces + 1)
    top = [[x, 1, 0] for x in xs]
    points = np.array([[0, 0, 0], [1, 0, 0], [0, 0.5, 0], [1, 0.5, 0], *[[x, 0.5, 0] for x in xs[1:-1]], *top])
    inner = [2, *range(4, 3 + pieces), 3]
    upper = [[inner[i], inner[i + 1], 3 + pieces + i + 1, 3 + pieces + i] for i in range(pieces)]
    corners = np.array([[0, 1, 3, 2], *upper]).reshape(-1)
    mesh = make_mesh(points, np.arange(0, len(corners) + 1, 4), corners, uvs=(points[corners][:, :2],))
    assert counts(mesh) == {"t-vertices": pieces - 1}
    result, _ = clean(mesh, CleanupSettings())
    assert (build_topology(result).edge_uses == 2).sum() == 2 * pieces - 1
    assert result.uvs[0] == pytest.approx(result.positions[result.corner_vertex][:, :2])
    assert area(result) == pytest.approx(1.0)
    assert counts(result) == {}


def test_boxes_on_one_edge_come_apart_as_boxes_and_non_manifold_vertices_as_fans() -> None:
    boxes = join(cube(), moved(cube(), (1, 1, 0)))
    edge = clean_weld(boxes)
    assert counts(edge) == {"non-manifold-edges": 1}
    result, _ = clean(edge, CleanupSettings())
    assert is_watertight(result)
    assert counts(result) == {}
    assert volume(result) == pytest.approx(2.0)
    point = clean_weld(join(cube(), moved(cube(), (1, 1, 1))))
    assert counts(point) == {"non-manifold-vertices": 1}
    assert counts(clean(point, CleanupSettings())[0]) == {}


def clean_weld(mesh: Mesh) -> Mesh:
    """Every vertex in the same place made one, whatever comes of it."""
    _, first, inverse = np.unique(mesh.positions, axis=0, return_index=True, return_inverse=True)
    return replace(mesh, positions=mesh.positions[first], corner_vertex=inverse[mesh.corner_vertex].astype(np.int32))


def test_shells_are_turned_by_what_they_lie_in() -> None:
    outer, inner = bumpy_sphere(8), moved(bumpy_sphere(8), (0, 0, 0), scale=0.4)
    hollow = join(outer, turn_faces(inner, np.ones(inner.n_faces, bool)))
    body = join(outer, inner)
    for meant in (hollow, body):
        assert counts(meant) == {}
        assert clean(meant, CleanupSettings())[0] is meant
    inside_out = turn_faces(hollow, np.ones(hollow.n_faces, bool))
    result, met = clean(inside_out, CleanupSettings())
    assert [(f.kind.code, f.count) for f in met] == [("inside-out-shells", 2)]
    assert meshes_equal(result, hollow)
    outer_only = join(turn_faces(outer, np.ones(outer.n_faces, bool)), turn_faces(inner, np.ones(inner.n_faces, bool)))
    assert counts(outer_only) == {"inside-out-shells": 1}
    assert meshes_equal(clean(outer_only, CleanupSettings())[0], hollow)


@pytest.mark.parametrize("inside_out", [False, True])
def test_open_shells_are_turned_by_what_their_sides_see(inside_out: bool) -> None:
    box = cube()
    lidless = box.with_faces(np.arange(box.n_faces) != 5)
    half = bumpy_sphere(12)
    bowl = drop_unused_vertices(half.with_faces(half.positions[half.triangles()].mean(axis=1)[:, 1] > 0))
    for shell in (lidless, bowl):
        given_ = turn_faces(shell, np.full(shell.n_faces, inside_out))
        assert counts(given_) == ({"inside-out-shells": 1} if inside_out else {})
        assert meshes_equal(clean(given_, CleanupSettings())[0], shell)
    sheet = flat_grid(4)
    assert (
        clean(turn_faces(sheet, np.full(sheet.n_faces, inside_out)), CleanupSettings())[1][0].kind.code
        == "open-boundaries"
    )


def test_moebius_strip_is_said_and_left() -> None:
    n = 12
    t = np.arange(n) * 2 * np.pi / n
    points = np.concatenate([
        np.stack([(1 + s * np.cos(t / 2)) * np.cos(t), (1 + s * np.cos(t / 2)) * np.sin(t), s * np.sin(t / 2)], axis=1)
        for s in (-0.3, 0.3)
    ])  # fmt: skip
    quads = [[i, i + 1, n + i + 1, n + i] for i in range(n - 1)] + [[n - 1, n, 0, 2 * n - 1]]
    strip = make_mesh(points, np.arange(0, 4 * n + 1, 4), np.array(quads).reshape(-1))
    assert counts(strip) == {"non-orientable-shells": 1}
    assert clean(strip, CleanupSettings())[0] is strip


def test_holes_are_listed_with_their_length_and_small_flat_ones_filled_on_demand() -> None:
    box = with_attributes(cube())
    open_box = box.with_faces(np.arange(box.n_faces) != 2)
    fault = next(f for f in clean(open_box, CleanupSettings())[1] if f.kind.code == "open-boundaries")
    assert fault.count == 1
    assert "4.00 m" in fault.finding().message
    assert clean(open_box, CleanupSettings(holes=True))[0] is open_box, "100 mm is the longest hole that is filled"
    closed, _ = clean(open_box, CleanupSettings(holes=True, hole_mm=5000))
    assert is_watertight(closed)
    assert volume(closed) == pytest.approx(1.0)
    filled = np.linalg.norm(closed.normals[-4:] - face_vectors(closed)[-1], axis=1)
    assert (filled < 1e-6).all()


@pytest.mark.parametrize(("steps", "number"), [(0.0, 1), (1.5, 1), (20.0, 0)])
def test_a_face_so_low_that_rounding_may_turn_it_over_is_none(steps: float, number: int) -> None:
    ball = bumpy_sphere(12)
    step = float(np.spacing(np.float32(abs(ball.positions).max())))
    # Short beside the ball, so that its height is not little for its length.
    low = np.array([[0.0, 0.0, 0.0], [1e-4, 0.0, 0.0], [5e-5, steps * step, 0.0]])
    dirty = join(ball, make_triangles(low, np.array([[0, 1, 2]])))
    assert counts(dirty, FOUND_ONLY).get("zero-area-faces", 0) == number
    result, _ = clean(dirty, CleanupSettings())
    assert result.n_faces == dirty.n_faces - number


def test_loose_pieces_small_shells_slivers_and_polygons_are_counted() -> None:
    sphere = bumpy_sphere(6)
    loose = replace(
        sphere,
        positions=np.concatenate([sphere.positions, np.random.default_rng(0).normal(size=(7, 3))]),
        loose_edges=np.array([[sphere.n_vertices, sphere.n_vertices + 1]], np.int32),
    )
    assert counts(loose) == {"loose-edges": 1, "loose-vertices": 5}
    assert meshes_equal(clean(loose, CleanupSettings())[0], sphere)
    stray = join(sphere, moved(cube(), (2, 0, 0), scale=0.001))
    assert counts(stray) == {"small-shells": 1}
    assert clean(stray, ALL_ON)[0].n_faces == sphere.n_faces
    bow_tie = make_mesh([[0, 0, 0], [1, 1, 0], [1, 0, 0], [0, 1, 0]], [0, 4], [0, 1, 2, 3])
    assert counts(bow_tie)["self-intersecting-polygons"] == 1
    bent = make_mesh([[0, 0, 0], [1, 0, 0], [1, 1, 0.3], [0, 1, 0]], [0, 4], [0, 1, 2, 3])
    assert {f.kind.code for f in clean(bent, CleanupSettings())[1]} == {"open-boundaries", "non-planar-polygons"}
    needle = make_triangles([[0, 0, 0], [1, 0, 0], [0.5, 1e-4, 0], [0.5, 1, 0]], [[0, 1, 2], [1, 3, 2], [3, 0, 2]])
    assert counts(needle)["slivers"] == 1


def test_overlapping_faces_are_told_whichever_way_they_face() -> None:
    floor = flat_grid(4)
    patch = moved(flat_grid(1), (0.3, 0.3, 0), scale=0.4)
    assert counts(join(floor, patch)) == {"overlapping-faces": 1}
    assert counts(join(floor, turn_faces(patch, np.ones(1, bool)))) == {"back-to-back-overlaps": 1}
    assert counts(join(floor, moved(patch, (0, 0, 0.01)))) == {}


def test_values_that_are_not_finite_cost_only_their_faces() -> None:
    mesh = with_attributes(bumpy_sphere(6))
    positions = mesh.positions.copy()
    positions[10] = np.nan
    uvs, normals = mesh.uvs[0].copy(), mesh.normals.copy()
    uvs[[3, 4]], normals[7] = np.inf, np.nan
    around = int((mesh.triangles() == 10).any(axis=1).sum())
    result, met = clean(replace(mesh, positions=positions, uvs=(uvs,), normals=normals), CleanupSettings())
    assert [(f.kind.code, f.count) for f in met][:3] == [
        ("non-finite-positions", 1), ("non-finite-uvs", 2), ("invalid-normals", 1),
    ]  # fmt: skip
    assert result.n_faces == mesh.n_faces - around
    assert np.isfinite(result.positions).all()
    assert np.isfinite(result.uvs[0]).all()


def dirty_mesh(seed: int) -> Mesh:
    """A sphere and a box with a random helping of every fault."""
    rng = np.random.default_rng(seed)
    mesh = with_attributes(join(bumpy_sphere(6), moved(cube(), (3, 0, 0))))
    mesh = turn_faces(mesh, rng.random(mesh.n_faces) < rng.uniform(0, 0.4))
    repeated = rng.integers(0, mesh.n_faces, rng.integers(0, 6))
    picks = np.concatenate(
        [np.arange(mesh.face_start[f], mesh.face_start[f + 1]) for f in repeated] or [np.zeros(0, int)]
    )
    mesh = append_faces(mesh, picks.astype(np.int64), mesh.face_sides[repeated], repeated.astype(np.int64), None)
    mesh = unwelded(mesh, rng.random(mesh.n_faces) < rng.uniform(0, 1))
    mesh = mesh.with_faces(rng.random(mesh.n_faces) > rng.uniform(0, 0.2))
    merged = np.arange(mesh.n_vertices)
    for _ in range(rng.integers(0, 3)):
        a, b = rng.integers(0, mesh.n_vertices, 2)
        merged[a] = merged[b]
    return replace(mesh, corner_vertex=merged[mesh.corner_vertex].astype(np.int32))


@given(seed=st.integers(0, 100_000))
def test_repair_of_any_mess_is_settled_after_one_pass(seed: int) -> None:
    once, _ = clean(dirty_mesh(seed), ALL_ON)
    twice, met = clean(once, ALL_ON)
    assert not [fault for fault in met if fault.is_repaired]
    assert twice is once


@given(seed=st.integers(0, 100_000))
def test_finding_alone_changes_nothing(seed: int) -> None:
    mesh = dirty_mesh(seed)
    assert meshes_equal(clean(mesh, FOUND_ONLY)[0], mesh)


def test_bad_meshes_in_bulk_take_no_quadratic_path() -> None:
    """Ten thousand faces on one edge, a heap of equal faces, and more loose points than faces."""
    n = 10_000
    t = np.linspace(0, 2 * np.pi, n, endpoint=False)
    fan = make_triangles(
        np.concatenate([[[0, 0, 0], [0, 0, 1]], np.stack([np.cos(t), np.sin(t), np.zeros(n) + 0.5], axis=1)]),
        np.stack([np.zeros(n, int), np.ones(n, int), np.arange(2, n + 2)], axis=1),
    )
    assert counts(fan)["non-manifold-edges"] == 1
    heap = make_triangles(np.eye(3), np.tile([0, 1, 2], (200_000, 1)))
    assert counts(heap)["duplicate-faces"] == 199_999
    points = replace(cube(), positions=np.concatenate([cube().positions, np.zeros((300_000, 3))]))
    assert counts(points) == {"loose-vertices": 300_000}


def _turn(prop: Prop, face: int, **how: object) -> tuple[Mesh, Report]:
    """Clean a prop with one face marked to be turned by hand."""
    mesh = prop.mesh
    corners = mesh.positions[mesh.corner_vertex[mesh.face_start[face] : mesh.face_start[face + 1]]]
    facing = face_vectors(mesh)[face]
    mark = {"point": tuple(corners.mean(axis=0)), "facing": tuple(facing / np.linalg.norm(facing)), **how}
    report = Report()
    return run(prop, CleanupSettings(flipped=(mark,)), report).mesh, report


@pytest.mark.parametrize(("scope", "faces"), [("face", [2]), ("patch", [2]), ("shell", [0, 1, 2, 3, 4, 5])])
def test_faces_are_turned_by_hand_as_far_as_the_mark_reaches(scope: str, faces: list[int]) -> None:
    boxes = Prop("boxes", join(cube(), moved(cube(), (3.0, 0, 0))), (), ())
    turned, report = _turn(boxes, 2, scope=scope)
    same = np.einsum("ij,ij->i", face_vectors(turned), face_vectors(boxes.mesh)) > 0
    assert np.flatnonzero(~same).tolist() == faces
    assert ("faces-flipped-by-hand", len(faces)) in {(f.code, f.count) for f in report.findings}
    assert "mark-lost" not in {f.code for f in report.findings}


def test_turning_what_was_turned_brings_it_back_and_a_mark_without_its_face_is_said() -> None:
    box = Prop("box", cube(), (), ())
    once = {"point": (0.5, 0.5, 0.0), "facing": (0.0, 0.0, -1.0), "scope": "shell"}
    again = {"point": (0.5, 0.5, 1.0), "facing": (0.0, 0.0, -1.0), "scope": "shell"}
    twice = run(box, CleanupSettings(flipped=(once, again)), Report()).mesh
    np.testing.assert_allclose(face_vectors(twice), face_vectors(box.mesh))
    report = Report()
    run(box, CleanupSettings(flipped=({**once, "point": (0.5, 0.5, 9.0)},)), report)
    assert "mark-lost" in {f.code for f in report.findings}


def _doubled(sheet: Mesh) -> Mesh:
    """A sheet with its own back over the same vertices."""
    backs = turn_faces(sheet, np.ones(sheet.n_faces, bool))
    return make_mesh(
        sheet.positions,
        np.concatenate([sheet.face_start, sheet.face_start[-1] + backs.face_start[1:]]),
        np.concatenate([sheet.corner_vertex, backs.corner_vertex]),
    )


def test_a_sheet_doubled_back_to_back_keeps_both_sides_each_in_one_piece() -> None:
    sheet = wavy_sheet(8)
    doubled = _doubled(sheet)
    inner = int((build_topology(sheet).edge_uses == 2).sum())
    result, met = clean(doubled, CleanupSettings())
    assert result.n_faces == doubled.n_faces
    counted = {fault.kind.code: (fault.count, fault.is_repaired) for fault in met}
    assert counted["non-manifold-edges"] == (inner, True), "the first look counts, not the sum of all passes"
    assert "non-manifold-vertices" not in counted
    topology = build_topology(result)
    assert topology.edge_uses.max() == 2
    assert not topology.turned.any()
    # Front and back hang together each in itself and share no vertex: both may be smooth, and reduced.
    _, count = corner_fans(topology, topology.twin >= 0)
    assert count == result.n_vertices == 2 * sheet.n_vertices
    face = result.corner_face()
    front = face[topology.twin >= 0] < sheet.n_faces
    assert (front == (face[topology.twin[topology.twin >= 0]] < sheet.n_faces)).all()


def test_zero_length_normals_are_said_and_what_is_on_is_not_advised() -> None:
    box = cube()
    normals = np.tile(np.array([0.0, 0.0, 1.0], np.float32), (box.n_corners, 1))
    normals[:3] = 0.0
    _, met = clean(replace(box, normals=normals), CleanupSettings())
    assert [(f.kind.code, f.count, f.is_repaired) for f in met] == [("invalid-normals", 3, True)]
    # Three sheets on one edge hang together around both of its ends.
    blades = make_mesh(
        [[0, 0, 0], [0, 1, 0], [1, 0, 0], [-1, 0, 1], [-1, 0, -1]], [0, 3, 6, 9], [0, 1, 2, 0, 1, 3, 0, 1, 4]
    )
    for fault in clean(blades, CleanupSettings())[1]:
        assert "switch" not in fault.finding().message or not fault.is_repaired
