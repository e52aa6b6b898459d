"""Cutting and joining meshes: what lives on corners stays with them."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import Mesh, make_mesh
from plindro.core.mesh.surgery import (
    append_faces,
    drop_repeated_corners,
    insert_corners,
    merge_vertices,
    next_corners,
    split_vertices,
    turn_faces,
)
from plindro.core.shading.normals import normals_by_angle
from tests.shapes import wavy_sheet

SEEDS = st.integers(0, 10_000)


def _mixed(seed: int) -> Mesh:
    """Faces of three to six corners over shared vertices, each corner with UVs and colours of its own."""
    rng = np.random.default_rng(seed)
    sides = rng.integers(3, 7, 8)
    corners = np.concatenate([rng.choice(12, n, replace=False) for n in sides])
    mesh = make_mesh(rng.uniform(-1, 1, (12, 3)), np.concatenate([[0], np.cumsum(sides)]), corners)
    n = mesh.n_corners
    uv, colors = rng.random((n, 2), np.float32), rng.random((n, 4), np.float32)
    normals = rng.normal(size=(n, 3))
    unit = (normals / np.linalg.norm(normals, axis=1, keepdims=True)).astype(np.float32)
    materials = rng.integers(0, 3, 8).astype(np.int32)
    return replace(mesh, uvs=(uv,), colors=colors, normals=unit, face_material=materials)


def _loops(mesh: Mesh) -> list[list[tuple[object, ...]]]:
    """Each face as its corners: vertex and UVs, from the smallest on."""
    found = []
    for first, last in zip(mesh.face_start[:-1], mesh.face_start[1:], strict=True):
        rows = [(int(mesh.corner_vertex[c]), *mesh.uvs[0][c].tolist()) for c in range(first, last)]
        at = rows.index(min(rows))
        found.append(rows[at:] + rows[:at])
    return found


@given(SEEDS)
def test_the_next_corner_goes_around_each_face_once(seed: int) -> None:
    mesh = _mixed(seed)
    following = next_corners(mesh)
    face = mesh.corner_face()
    assert (face[following] == face).all()
    for first, sides in zip(mesh.face_start[:-1], mesh.face_sides, strict=True):
        at, met = int(first), []
        for _ in range(sides):
            met.append(at)
            at = int(following[at])
        assert at == first
        assert len(set(met)) == sides


@given(SEEDS)
def test_merged_vertices_leave_no_corner_twice_and_no_face_of_two(seed: int) -> None:
    mesh = _mixed(seed)
    target = np.random.default_rng(seed + 1).integers(0, 6, 12).astype(np.int32)
    merged = merge_vertices(mesh, target)
    assert merged.n_vertices == mesh.n_vertices, "vertices stay where they are"
    if merged.n_faces:
        assert merged.face_sides.min() >= 3
        assert (merged.corner_vertex != merged.corner_vertex[next_corners(merged)]).all()
    wanted = []
    for loop, material in zip(
        _loops(replace(mesh, corner_vertex=target[mesh.corner_vertex])), mesh.face_material, strict=True
    ):
        kept = [row for row, after in zip(loop, loop[1:] + loop[:1], strict=True) if row[0] != after[0]]
        if len(kept) >= 3:
            wanted.append((sorted(kept), int(material)))
    assert [(sorted(loop), int(m)) for loop, m in zip(_loops(merged), merged.face_material, strict=True)] == wanted


@given(SEEDS)
def test_nothing_to_drop_gives_the_same_mesh(seed: int) -> None:
    mesh = _mixed(seed)
    assert drop_repeated_corners(mesh) is mesh
    identity = np.arange(mesh.n_vertices, dtype=np.int32)
    assert _loops(merge_vertices(mesh, identity)) == _loops(mesh)


@given(SEEDS)
def test_inserted_corners_lie_between_their_neighbours_in_all_that_they_carry(seed: int) -> None:
    mesh, rng = _mixed(seed), np.random.default_rng(seed + 2)
    after = rng.integers(0, mesh.n_corners, 6)
    shares = rng.permutation(6) / 7.0 + 0.1
    vertices = np.arange(100, 106, dtype=np.int32)
    grown = insert_corners(replace(mesh, positions=np.zeros((106, 3))), after, vertices, shares)
    assert grown.n_corners == mesh.n_corners + 6
    is_new = grown.corner_vertex >= 100
    np.testing.assert_array_equal(grown.corner_vertex[~is_new], mesh.corner_vertex)
    np.testing.assert_array_equal(grown.uvs[0][~is_new], mesh.uvs[0])
    beyond = next_corners(mesh)
    for c in np.flatnonzero(is_new):
        k = int(grown.corner_vertex[c]) - 100
        a, b, share = after[k], beyond[after[k]], shares[k]
        np.testing.assert_allclose(grown.uvs[0][c], (1 - share) * mesh.uvs[0][a] + share * mesh.uvs[0][b], atol=1e-6)
        assert grown.colors is not None
        assert mesh.colors is not None
        np.testing.assert_allclose(grown.colors[c], (1 - share) * mesh.colors[a] + share * mesh.colors[b], atol=1e-6)
        assert grown.corner_face()[c] == mesh.corner_face()[a]
    assert grown.normals is not None
    np.testing.assert_allclose(np.linalg.norm(grown.normals, axis=1), 1.0, atol=1e-5)
    for first, last in zip(grown.face_start[:-1], grown.face_start[1:], strict=True):
        names = grown.corner_vertex[first:last]
        own = [int(v) - 100 for v in names if v >= 100]
        for a, b in pairwise(own):
            assert after[a] != after[b] or shares[a] < shares[b], "several on one edge go in by share"


@given(SEEDS)
def test_each_further_group_gets_a_vertex_in_the_same_place(seed: int) -> None:
    mesh = _mixed(seed)
    kind = np.random.default_rng(seed + 3).integers(0, 2, mesh.n_corners)
    group = np.unique(2 * mesh.corner_vertex + kind, return_inverse=True)[1].astype(np.int32)
    split = split_vertices(mesh, group)
    np.testing.assert_array_equal(split.positions[split.corner_vertex], mesh.positions[mesh.corner_vertex])
    of_group = {int(g): int(v) for g, v in zip(group, split.corner_vertex, strict=True)}
    assert len(set(of_group.values())) == len(of_group), "two groups share a vertex"
    assert all(of_group[int(g)] == v for g, v in zip(group, split.corner_vertex, strict=True))
    used = set(mesh.corner_vertex.tolist())
    assert used <= set(split.corner_vertex.tolist()), "the first group keeps the vertex"
    assert split.n_vertices == mesh.n_vertices + len(of_group) - len(used)
    own = np.unique(mesh.corner_vertex, return_inverse=True)[1].astype(np.int32)
    assert split_vertices(mesh, own) is mesh


def test_turned_faces_turn_their_normals_and_turned_twice_are_as_before() -> None:
    sheet = wavy_sheet(5)
    shaded = replace(sheet, normals=normals_by_angle(sheet, 180.0)) if sheet.is_triangles else sheet
    some = np.arange(shaded.n_faces) % 3 == 0
    turned = turn_faces(shaded, some)
    np.testing.assert_allclose(face_vectors(turned)[some], -face_vectors(shaded)[some], atol=1e-12)
    np.testing.assert_array_equal(face_vectors(turned)[~some], face_vectors(shaded)[~some])
    np.testing.assert_array_equal(
        turned.corner_vertex[turned.face_start[:-1]], shaded.corner_vertex[shaded.face_start[:-1]]
    )
    again = turn_faces(turned, some)
    np.testing.assert_array_equal(again.corner_vertex, shaded.corner_vertex)
    for one, other in zip(again.uvs, shaded.uvs, strict=True):
        np.testing.assert_array_equal(one, other)


@given(SEEDS)
def test_a_normal_that_points_to_the_back_is_turned_with_its_face_and_no_other(seed: int) -> None:
    mesh = _mixed(seed)
    vectors = face_vectors(mesh)[mesh.corner_face()]
    assert mesh.normals is not None
    facing = np.einsum("ij,ij->i", mesh.normals, vectors)
    front = replace(mesh, normals=mesh.normals * np.where(facing < 0, -1, 1)[:, None].astype(np.float32))
    turned = turn_faces(front, np.ones(mesh.n_faces, bool))
    assert turned.normals is not None
    now = np.einsum("ij,ij->i", turned.normals, face_vectors(turned)[turned.corner_face()])
    assert now.min() >= -1e-6, "what faced the front faces the new front"
    back = replace(mesh, normals=-front.normals)  # type: ignore[operator]
    kept = turn_faces(back, np.ones(mesh.n_faces, bool))
    assert sorted(map(tuple, kept.normals.tolist())) == sorted(map(tuple, back.normals.tolist()))  # type: ignore[union-attr]


@given(SEEDS)
def test_appended_faces_copy_corners_and_inherit_from_faces(seed: int) -> None:
    mesh = _mixed(seed)
    rng = np.random.default_rng(seed + 4)
    sides = np.array([3, 4])
    corners, like = rng.integers(0, mesh.n_corners, 7), rng.integers(0, mesh.n_faces, 2)
    grown = append_faces(mesh, corners, sides, like, None)
    assert grown.n_faces == mesh.n_faces + 2
    assert _loops(grown)[: mesh.n_faces] == _loops(mesh)
    np.testing.assert_array_equal(grown.corner_vertex[mesh.n_corners :], mesh.corner_vertex[corners])
    np.testing.assert_array_equal(grown.uvs[0][mesh.n_corners :], mesh.uvs[0][corners])
    np.testing.assert_array_equal(grown.face_material[mesh.n_faces :], mesh.face_material[like])
    own = np.tile(np.array([0, 0, 1], np.float32), (7, 1))
    shaded = append_faces(mesh, corners, sides, like, own)
    assert shaded.normals is not None
    np.testing.assert_array_equal(shaded.normals[mesh.n_corners :], own)
