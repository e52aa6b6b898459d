"""Triangulation: any simple polygon in any plane is cut inside its outline, without overlap or flip."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import Mesh, make_mesh
from plindro.core.triangulation import triangulate
from plindro.core.triangulation.settings import QUAD_RULES
from tests.shapes import areas, comb_polygon, edge_counts, random_rotation, star_polygon


def _in_space(outline: np.ndarray, seed: int, noise: float = 0.0) -> Mesh:
    points = np.concatenate([outline, np.zeros((len(outline), 1))], axis=1)
    rng = np.random.default_rng(seed)
    points[:, 2] += noise * rng.normal(size=len(outline))
    return make_mesh(
        points @ random_rotation(seed).T * 3.0 + rng.normal(size=3), [0, len(outline)], np.arange(len(outline))
    )


def _assert_cut_inside(mesh: Mesh, *, tolerance: float = 1e-9) -> None:
    """Area is kept, no triangle faces away, and the cut has the edges of a polygon and its inner diagonals."""
    result = triangulate(mesh)
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


@given(sides=st.integers(5, 90), seed=st.integers(0, 10_000))
def test_notched_polygon_in_any_plane(sides: int, seed: int) -> None:
    _assert_cut_inside(_in_space(star_polygon(sides, seed), seed))


@given(sides=st.integers(5, 40), seed=st.integers(0, 10_000))
def test_polygon_that_is_not_quite_flat(sides: int, seed: int) -> None:
    _assert_cut_inside(_in_space(star_polygon(sides, seed), seed, noise=0.004), tolerance=1e-6)


@pytest.mark.parametrize("teeth", [2, 7, 40])
def test_comb_with_collinear_back_gives_no_triangle_without_area(teeth: int) -> None:
    mesh = _in_space(comb_polygon(teeth), seed=teeth)
    _assert_cut_inside(mesh)
    assert np.linalg.norm(areas(triangulate(mesh).mesh), axis=1).min() > 1e-6


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
