"""Numbering, topology, fans, shells and streams against slow and obvious references, on clean and dirty meshes."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.mesh.mesh import Mesh, make_mesh
from plindro.core.mesh.numbering import number_pairs, number_rows, weld_positions
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.mesh.topology import Topology, build_topology, corner_fans
from tests.shapes import wavy_sheet


def _soup(seed: int, *, polygons: bool = True) -> Mesh:
    """Random polygons over few vertices: non-manifold edges, repeats, faces of both windings."""
    rng = np.random.default_rng(seed)
    sides = rng.integers(3, 6 if polygons else 4, 25)
    corners = np.concatenate([rng.choice(10, n, replace=False) for n in sides])
    return make_mesh(rng.random((10, 3)), np.concatenate([[0], np.cumsum(sides)]), corners)


def _half_edges(mesh: Mesh) -> list[tuple[int, int]]:
    result = []
    for f in range(mesh.n_faces):
        corners = mesh.corner_vertex[mesh.face_start[f] : mesh.face_start[f + 1]].tolist()
        result += list(zip(corners, corners[1:] + corners[:1], strict=True))
    return result


@given(rows=st.lists(st.tuples(*[st.integers(0, 3)] * 3), max_size=60))
def test_rows_are_numbered_by_first_appearance(rows: list[tuple[int, int, int]]) -> None:
    ids, firsts = number_rows(np.array(rows, np.uint32).reshape(-1, 3))
    order = list(dict.fromkeys(rows))
    assert ids.tolist() == [order.index(row) for row in rows]
    assert [rows[i] for i in firsts] == order
    pairs = np.array(rows, np.int32).reshape(-1, 3)[:, :2]
    ids, firsts = number_pairs(pairs[:, 0], pairs[:, 1])
    order_of_pairs = list(dict.fromkeys(map(tuple, pairs.tolist())))
    assert ids.tolist() == [order_of_pairs.index(tuple(pair)) for pair in pairs.tolist()]


def test_weld_takes_both_zeros_for_one_and_keeps_neighbours_apart() -> None:
    points = np.array([[0.0, 0, 0], [-0.0, 0, 0], [1e-30, 0, 0], [1, 0, 0], [np.nextafter(np.float32(1), 2), 0, 0]])
    assert weld_positions(points)[0].tolist() == [0, 0, 1, 2, 3]


@given(seed=st.integers(0, 10_000))
def test_edges_uses_and_twins_of_a_soup(seed: int) -> None:
    mesh = _soup(seed)
    topology = build_topology(mesh)
    half = _half_edges(mesh)
    uses: dict[tuple[int, int], list[int]] = {}
    for c, (a, b) in enumerate(half):
        uses.setdefault((min(a, b), max(a, b)), []).append(c)
    assert list(map(tuple, topology.edges.tolist())) == list(uses)
    assert topology.edge_uses.tolist() == [len(corners) for corners in uses.values()]
    for edge, corners in enumerate(uses.values()):
        assert (topology.edge[corners] == edge).all()
        expected = corners[::-1] if len(corners) == 2 else [-1] * len(corners)
        assert topology.twin[corners].tolist() == expected
        same_way = len(corners) == 2 and half[corners[0]] == half[corners[1]]
        assert topology.turned[edge] == same_way


def _slow_fans(mesh: Mesh, topology: Topology, crosses: np.ndarray) -> list[set[int]]:
    """Corners of one vertex joined across allowed edges, by walking until nothing changes."""
    group = {c: {c} for c in range(mesh.n_corners)}
    ahead = topology.next_corner
    for c in range(mesh.n_corners):
        d = topology.twin[c]
        if d >= 0 and crosses[c] and not topology.turned[topology.edge[c]]:
            for a, b in ((c, int(ahead[d])), (int(ahead[c]), int(d))):
                joined = group[a] | group[b]
                for member in joined:
                    group[member] = joined
    return [group[c] for c in range(mesh.n_corners)]


@given(seed=st.integers(0, 10_000))
def test_fans_join_what_can_be_reached_across_allowed_edges(seed: int) -> None:
    mesh = _soup(seed)
    topology = build_topology(mesh)
    allowed_edge = np.random.default_rng(seed).random(len(topology.edges)) < 0.7
    crosses = allowed_edge[topology.edge]
    group, count = corner_fans(topology, crosses)
    expected = _slow_fans(mesh, topology, crosses)
    assert count == len({frozenset(members) for members in expected})
    for c, members in enumerate(expected):
        assert set(np.flatnonzero(group == group[c]).tolist()) == members
    assert all(len({int(mesh.corner_vertex[c]) for c in members}) == 1 for members in expected)


@given(n=st.integers(2, 8), islands=st.integers(1, 2), materials=st.integers(1, 2))
def test_engine_vertices_are_the_different_corners(n: int, islands: int, materials: int) -> None:
    mesh = wavy_sheet(n, islands=islands, materials=materials)
    rng = np.random.default_rng(n)
    mesh = replace(mesh, colors=rng.integers(0, 2, (mesh.n_corners, 4)).astype(np.float32))
    face = mesh.corner_face()
    different = {
        (int(v), int(mesh.face_material[f]), *uv, *color)
        for v, f, uv, color in zip(mesh.corner_vertex, face, mesh.uvs[0].tolist(), mesh.colors.tolist(), strict=True)
    }
    assert count_engine_vertices(mesh) == len(different)


def test_mesh_refuses_arrays_that_do_not_fit() -> None:
    for start, corners, message in (
        ([0, 3], [0, 1, 9], "corner_vertex: expected 0..2, got 0..9"),
        ([0, 2], [0, 1, 2], "face_start: expected to rise from 0 to 3"),
        ([0, 4, 3], [0, 1, 2], "face_start"),
    ):
        with pytest.raises(ValueError, match=message):
            make_mesh(np.zeros((3, 3)), start, corners)
