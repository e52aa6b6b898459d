"""Reduction: what must hold after any collapse, whatever the mesh."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from plindro.core.mesh.mesh import Mesh, make_triangles, meshes_equal
from plindro.core.mesh.normals import normals_by_angle
from plindro.core.reduction import reduce_mesh
from plindro.core.triangulation import triangulate
from tests.shapes import areas, bumpy_sphere, edge_counts, volume, wavy_sheet


def _shaded(mesh: Mesh, angle: float = 60.0) -> Mesh:
    mesh = triangulate(mesh).mesh
    return replace(mesh, normals=normals_by_angle(mesh, angle))


def _seam_points(mesh: Mesh) -> set[tuple[float, ...]]:
    """Positions that occur with more than one UV."""
    seen: dict[tuple[float, ...], set[tuple[float, ...]]] = {}
    for position, uv in zip(mesh.positions[mesh.corner_vertex].tolist(), mesh.uvs[0].tolist(), strict=True):
        seen.setdefault(tuple(position), set()).add(tuple(uv))
    return {p for p, uvs in seen.items() if len(uvs) > 1}


@given(n=st.integers(6, 22), seed=st.integers(0, 10_000), ratio=st.floats(0.03, 0.9))
def test_closed_stays_closed_and_facing_outwards(n: int, seed: int, ratio: float) -> None:
    mesh = _shaded(bumpy_sphere(n, seed), 180.0)
    (result,) = reduce_mesh(mesh, [max(int(mesh.n_faces * ratio), 8)])
    triangles = result.mesh.triangles()
    assert set(edge_counts(triangles).values()) == {2}, "an edge is open or crowded"
    assert result.mesh.n_vertices - 3 * result.mesh.n_faces // 2 + result.mesh.n_faces == 2, "no sphere any more"
    assert volume(result.mesh) > 0.25 * volume(mesh)
    assert (np.einsum("ij,ij->i", areas(result.mesh), result.mesh.normals.reshape(-1, 3, 3).sum(axis=1)) > 0).all()
    assert result.mesh.n_faces <= mesh.n_faces


@given(
    n=st.integers(8, 24),
    islands=st.integers(1, 4),
    materials=st.integers(1, 3),
    seed=st.integers(0, 1_000),
    ratio=st.floats(0.05, 0.8),
)
def test_borders_seams_and_materials_keep_their_lines(
    n: int, islands: int, materials: int, seed: int, ratio: float
) -> None:
    mesh = _shaded(wavy_sheet(n, islands=islands, materials=materials, seed=seed), 180.0)
    (result,) = reduce_mesh(mesh, [max(int(mesh.n_faces * ratio), 4)])
    counts = edge_counts(result.mesh.triangles())
    assert max(counts.values()) <= 2
    border = {v for edge, uses in counts.items() if uses == 1 for v in edge}
    points = result.mesh.positions
    on_rim = np.isclose(points[:, [0, 2]], 0).any(axis=1) | np.isclose(points[:, [0, 2]], 1).any(axis=1)
    assert border == set(np.flatnonzero(on_rim).tolist()), "the border left its line or a hole was torn"
    corners = {(0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0)}
    assert corners <= {(x, z) for x, _, z in points.tolist()}
    assert _seam_points(result.mesh) <= _seam_points(mesh), "a seam left its line"
    assert len(np.unique(result.mesh.face_material)) == materials
    # Islands lie two apart in V: a triangle that spans two of them would be torn in the texture.
    island = np.floor((result.mesh.uvs[0][:, 1].reshape(-1, 3) + 0.5) / 2)
    v = result.mesh.uvs[0][:, 1].reshape(-1, 3)
    assert (v.max(axis=1) - v.min(axis=1) <= 1.0 + 1e-6).all(), f"a triangle spans islands {np.unique(island)}"
    # Seen from above the sheet is the unit square, before and after: nothing folded over, nothing lost.
    flat = areas(result.mesh)[:, 1]
    assert (flat > -1e-12).all(), "a triangle folded over"
    assert abs(flat.sum()) == pytest.approx(1.0, abs=1e-9)


def test_vertices_and_attributes_are_a_subset_of_the_source() -> None:
    mesh = _shaded(wavy_sheet(20, islands=3))
    source = {(*p, *uv, *n) for p, uv, n in _corners(mesh)}
    (result,) = reduce_mesh(mesh, [120])
    assert {(*p, *uv, *n) for p, uv, n in _corners(result.mesh)} <= source


def _corners(mesh: Mesh):
    return zip(mesh.positions[mesh.corner_vertex].tolist(), mesh.uvs[0].tolist(), mesh.normals.tolist(), strict=True)


def test_levels_of_one_run_reach_their_counts_and_deviate_more_and_more() -> None:
    mesh = _shaded(bumpy_sphere(40), 180.0)
    targets = [mesh.n_faces // 2, mesh.n_faces // 5, mesh.n_faces // 20]
    levels = reduce_mesh(mesh, targets)
    assert all(
        level.reached and target - 2 <= level.mesh.n_faces <= target
        for level, target in zip(levels, targets, strict=True)
    )
    assert levels[0].mean_deviation < levels[1].mean_deviation < levels[2].mean_deviation
    assert levels[2].max_deviation < 0.2


def test_stated_deviation_bounds_what_dense_sampling_finds() -> None:
    """An oracle of its own: distances from source vertices to a fine sampling of the reduced surface."""
    mesh = _shaded(bumpy_sphere(24, height=0.4), 180.0)
    (level,) = reduce_mesh(mesh, [mesh.n_faces // 12])
    triangles = level.mesh.positions[level.mesh.triangles()]
    steps = np.linspace(0, 1, 60)
    weights = np.array([(a, b, 1 - a - b) for a in steps for b in steps if a + b <= 1])
    samples = np.einsum("wk,tkj->twj", weights, triangles).reshape(-1, 3)
    distances = cKDTree(samples).query(mesh.positions)[0]
    assert level.max_deviation == pytest.approx(distances.max(), rel=0.05)
    assert level.mean_deviation == pytest.approx(distances.mean(), rel=0.05)


def test_same_input_same_result() -> None:
    mesh = _shaded(wavy_sheet(24, islands=2))
    first, second = (reduce_mesh(mesh, [300, 100]) for _ in range(2))
    assert all(meshes_equal(a.mesh, b.mesh) for a, b in zip(first, second, strict=True))


@given(seed=st.integers(0, 10_000))
def test_dirty_input_ends_and_loses_no_sound_corner(seed: int) -> None:
    """Soup with crowded edges, doubled and zero-area faces: nothing is torn off, indices stay in range."""
    rng = np.random.default_rng(seed)
    points = rng.integers(0, 5, (20, 3)).astype(float)
    mesh = make_triangles(points, rng.integers(0, 20, (60, 3)))
    (result,) = reduce_mesh(mesh, [5])
    assert 0 < result.mesh.n_faces <= 60
    assert result.mesh.corner_vertex.max() < result.mesh.n_vertices
    before, after = (edge_counts(_welded(m)) for m in (mesh, result.mesh))
    assert max(after.values()) <= max(*before.values(), 2)


def _welded(mesh: Mesh) -> np.ndarray:
    """Triangles by position: equal points are one vertex, as reduction sees them."""
    return np.unique(mesh.positions, axis=0, return_inverse=True)[1].reshape(-1)[mesh.triangles()]


def test_refuses_targets_that_do_not_fall() -> None:
    with pytest.raises(ValueError, match="falling"):
        reduce_mesh(_shaded(bumpy_sphere(6)), [10, 20])
