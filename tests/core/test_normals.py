"""Normals: hard where edges fold more than the angle, weighted by the corner's angle, finite on anything."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.mesh.mesh import make_mesh, make_triangles
from plindro.core.mesh.normals import normals_by_angle
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.mesh.tangents import corner_tangents
from plindro.core.normals import NormalsSettings, run
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.triangulation import triangulate
from tests.shapes import areas, bumpy_sphere, wavy_sheet

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
    from dataclasses import replace

    mesh = bumpy_sphere(6, seed, height=0.5)
    counts = [
        count_engine_vertices(replace(mesh, normals=normals_by_angle(mesh, a))) for a in (threshold, threshold + 25)
    ]
    assert counts[0] >= counts[1] >= mesh.n_vertices


def test_imported_normals_are_kept_and_missing_ones_computed() -> None:
    from dataclasses import replace

    cube = _cube()
    given_normals = np.tile(np.array([0.0, 0.6, 0.8], np.float32), (cube.n_corners, 1))
    given_normals[4] = 0
    prop = run(Prop("cube", replace(cube, normals=given_normals), (), ()), NormalsSettings(), Report())
    kept = np.delete(prop.mesh.normals, 4, axis=0)
    np.testing.assert_array_equal(kept, np.delete(given_normals, 4, axis=0))
    assert np.linalg.norm(prop.mesh.normals[4]) == pytest.approx(1.0, abs=1e-6)


def test_tangents_follow_growing_u_with_the_sign_of_the_uvs() -> None:
    from dataclasses import replace

    sheet = triangulate(wavy_sheet(6)).mesh
    flat = replace(sheet, positions=sheet.positions * (1, 0, 1))
    shaded = replace(flat, normals=normals_by_angle(flat, 180.0))
    tangents = corner_tangents(shaded)
    np.testing.assert_allclose(tangents[:, :3], np.tile([1.0, 0.0, 0.0], (len(tangents), 1)), atol=1e-6)
    # glTF: bitangent = cross(normal, tangent) × w points to where V falls, since its V grows downwards.
    bitangent = np.cross(shaded.normals, tangents[:, :3]) * tangents[:, 3:]
    np.testing.assert_allclose(bitangent, np.tile([0.0, 0.0, -1.0], (len(tangents), 1)), atol=1e-6)
    mirrored = replace(shaded, uvs=(shaded.uvs[0] * np.array([-1, 1], np.float32),))
    assert (corner_tangents(mirrored)[:, 3] == -tangents[:, 3]).all()


def test_edges_marked_hard_stay_hard_at_any_angle() -> None:
    from dataclasses import replace

    cube = _cube()
    marked = replace(cube, hard_edges=np.array([[0, 1], [1, 3], [3, 2], [2, 0]], np.int32))
    normals = normals_by_angle(marked, 180.0).reshape(-1, 3, 3)
    side = np.isin(cube.triangles(), [0, 1, 2, 3]).all(axis=1)
    np.testing.assert_allclose(normals[side], np.tile([-1.0, 0.0, 0.0], (2, 3, 1)), atol=1e-6)
    assert np.abs(normals[~side]).max() < 0.9
