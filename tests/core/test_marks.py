"""Marks find their vertices, edges and faces again in another version of the source, and patches grow from them."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plindro.core.marks.places import mark_tolerance, to_mesh, unfitting
from plindro.core.marks.search import face_middles, find_edges, find_faces, near_vertices, share_patch
from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import Mesh
from plindro.core.mesh.topology import Topology, build_topology
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.shading.normals import fold_angles
from tests.shapes import cube, join, moved, unwelded, wavy_sheet

SEEDS = st.integers(0, 10_000)


def _edges(mesh: Mesh) -> tuple[Topology, np.ndarray]:
    topology = build_topology(mesh)
    return topology, mesh.positions[topology.edges]


@settings(max_examples=20)
@given(seed=SEEDS, share=st.floats(0.0, 0.9))
def test_edges_are_found_again_a_little_off_and_from_either_end(seed: int, share: float) -> None:
    mesh = wavy_sheet(8, seed=seed % 7)
    topology, ends = _edges(mesh)
    rng = np.random.default_rng(seed)
    picked = rng.choice(len(ends), 6, replace=False)
    length = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1).min()
    tolerance = min(mark_tolerance(mesh), 0.25 * length)
    turn = rng.normal(size=(6, 2, 3))
    off = turn / np.linalg.norm(turn, axis=2, keepdims=True) * tolerance * share
    marks = np.where(rng.random(6)[:, None, None] < 0.5, ends[picked], ends[picked][:, ::-1]) + off
    marked, found = find_edges(mesh, topology, marks)
    assert found.all()
    assert set(np.flatnonzero(marked).tolist()) == set(picked.tolist())


@given(seed=SEEDS)
def test_edges_that_are_gone_are_told_one_by_one(seed: int) -> None:
    mesh = wavy_sheet(6)
    topology, ends = _edges(mesh)
    rng = np.random.default_rng(seed)
    is_there = rng.random(5) < 0.5
    marks = np.where(is_there[:, None, None], ends[rng.choice(len(ends), 5, replace=False)], ends[:5] + (0.0, 3.0, 0.0))
    marked, found = find_edges(mesh, topology, marks)
    np.testing.assert_array_equal(found, is_there)
    assert marked.sum() == is_there.sum()
    assert not find_edges(mesh, topology, np.zeros((0, 2, 3)))[0].any()


def test_on_a_seam_of_doubled_vertices_both_edges_are_marked() -> None:
    sheet = wavy_sheet(4)
    apart = unwelded(sheet, np.arange(sheet.n_faces) % 2 == 0)
    topology, ends = _edges(apart)
    keys = {tuple(sorted(map(tuple, pair.round(9).tolist()))) for pair in ends}
    for key in list(keys)[:10]:
        same = [i for i, pair in enumerate(ends) if tuple(sorted(map(tuple, pair.round(9).tolist()))) == key]
        marked, found = find_edges(apart, topology, np.array([key]))
        assert found.all()
        assert np.flatnonzero(marked).tolist() == same


def test_vertices_that_no_face_uses_and_those_without_a_place_are_never_near() -> None:
    mesh = cube()
    lonely = replace(mesh, positions=np.concatenate([mesh.positions, [[0.5, 0.5, 0.5], [np.nan] * 3]]))
    index, distance = near_vertices(lonely, np.array([[0.5, 0.5, 0.5]]), np.array([0.1]))
    assert (index == -1).all()
    assert np.isinf(distance).all()
    index, distance = near_vertices(lonely, mesh.positions[:1] + 0.01, np.array([0.1]))
    assert (index[0, 0], bool((index[0, 1:] == -1).all())) == (0, True)
    assert distance[0, 0] == pytest.approx(0.01 * np.sqrt(3))


def test_a_face_is_found_by_its_middle_and_the_side_it_faced() -> None:
    mesh = triangulate(cube()).mesh
    middles, normals = face_middles(mesh), unit(face_vectors(mesh))
    np.testing.assert_allclose(np.linalg.norm(middles - 0.5, axis=1), 0.5, atol=1e-12)
    found = find_faces(mesh, middles, normals)
    assert (mesh.face_polygon[found] == mesh.face_polygon).all(), "a quad is one face, however it is cut"
    assert (find_faces(mesh, middles, -normals) == -1).all(), "the other side is another face"
    assert (find_faces(mesh, middles + normals, normals) == -1).all()
    both = triangulate(join(cube(), moved(cube(), (0.0, 0.0, 0.0), scale=1.0))).mesh
    assert (find_faces(both, middles, normals) < mesh.n_faces).all(), "of two in one place always the first"


def test_a_patch_grows_over_folds_materials_parts_and_shells() -> None:
    boxes = join(cube(), moved(cube(), (3.0, 0.0, 0.0)))
    mesh = triangulate(boxes).mesh
    of_polygon = mesh.face_polygon
    mesh = replace(
        mesh,
        face_material=(of_polygon % 2).astype(np.int32),
        face_part=(of_polygon // 6).astype(np.int32),
    )
    topology = build_topology(mesh)
    angles = fold_angles(mesh, topology)

    def groups(by: str, angle: float = 0.0) -> int:
        labels = share_patch(mesh, topology, angles, by, angle)  # type: ignore[arg-type]
        pairs = {(int(a), int(b)) for a, b in zip(labels, of_polygon, strict=True)}
        assert len({b for _, b in pairs}) == len(pairs), "a polygon is in one patch"
        return len(set(labels.tolist()))

    assert groups("angle", 30.0) == 12
    assert groups("angle", 90.0) == 2
    assert groups("shell") == 2
    assert groups("part") == 2
    assert 2 <= groups("material") <= 12
    labels = share_patch(mesh, topology, angles, "material", 0.0)
    for label in set(labels.tolist()):
        assert len(set(mesh.face_material[labels == label].tolist())) == 1


@given(seed=SEEDS)
def test_places_follow_the_source_into_the_mesh(seed: int) -> None:
    rng = np.random.default_rng(seed)
    matrix = np.eye(4)
    matrix[:3] = rng.uniform(-2, 2, (3, 4))
    prop = Prop("p", cube(), (), (), from_source=tuple(matrix.reshape(-1).tolist()))
    places = rng.uniform(-5, 5, (4, 2, 3))
    wanted = np.concatenate([places, np.ones((4, 2, 1))], axis=2) @ matrix.T
    np.testing.assert_allclose(to_mesh(prop, places), wanted[..., :3], atol=1e-12)
    ways = to_mesh(prop, places, directions=True)
    np.testing.assert_allclose(np.linalg.norm(ways, axis=2), 1.0)
    np.testing.assert_allclose(
        ways * np.linalg.norm(places @ matrix[:3, :3].T, axis=2, keepdims=True), places @ matrix[:3, :3].T, atol=1e-9
    )
    assert (to_mesh(prop, np.zeros((1, 3)), directions=True) == 0.0).all(), "no direction stays none"


@pytest.mark.parametrize(("number", "verb", "them"), [(1, "does not fit", "clear it"), (3, "do not fit", "clear them")])
def test_marks_without_a_place_are_said_in_their_number(number: int, verb: str, them: str) -> None:
    finding = unfitting("hard edge", np.zeros((number, 2, 3)))
    assert finding.message.startswith(f"{number} hard edge{'s' if number > 1 else ''} set by hand {verb}")
    assert finding.message.endswith(them)
    assert finding.count == number
    assert finding.places is not None
    assert finding.places.kind == "edges"
    assert unfitting("patch", np.zeros((number, 3))).places.kind == "vertices"  # type: ignore[union-attr]
