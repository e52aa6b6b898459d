"""Tangents against the reference implementation of MikkTSpace, and on anything."""

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.mesh.mesh import Mesh, make_triangles
from plindro.core.polygons import triangulate
from plindro.core.shading.normals import normals_by_angle
from plindro.core.shading.tangents import corner_tangents
from tests.shapes import wavy_sheet

VECTORS = json.loads((Path(__file__).parents[1] / "data" / "tangents.json").read_text())


@pytest.mark.parametrize("case", VECTORS, ids=lambda case: case["name"])
def test_every_corner_is_as_the_reference_has_it(case: dict) -> None:
    positions, normals, uvs = (np.array(case[key], np.float32) for key in ("positions", "normals", "uvs"))
    n = len(positions) // 3
    mesh = make_triangles(positions, np.arange(n), normals=normals, uvs=(uvs,))
    found = corner_tangents(mesh)
    wanted = np.array(case["tangents"]).reshape(-1, 4)
    # The reference leaves a sum that vanishes at zero; here it is a direction across the normal.
    told = np.linalg.norm(wanted[:, :3], axis=1) > 0.5
    cross = np.linalg.norm(np.cross(found[told, :3], wanted[told, :3]), axis=1)
    angle = np.degrees(np.arctan2(cross, (found[told, :3] * wanted[told, :3]).sum(axis=1)))
    assert angle.max() < 0.01
    # glTF's V grows downwards: its handedness is the other one.
    np.testing.assert_array_equal(found[told, 3], -wanted[told, 3])
    assert told.mean() > 0.95


def test_tangents_follow_growing_u_with_the_sign_of_the_uvs() -> None:
    sheet = triangulate(wavy_sheet(6)).mesh
    flat = replace(sheet, positions=sheet.positions * (1, 0, 1))
    shaded = replace(flat, normals=normals_by_angle(flat, 180.0))
    tangents = corner_tangents(shaded)
    np.testing.assert_allclose(tangents[:, :3], np.tile([1.0, 0.0, 0.0], (len(tangents), 1)), atol=1e-6)
    # glTF: bitangent = cross(normal, tangent) × w points to where V falls, since its V grows downwards.
    assert shaded.normals is not None
    bitangent = np.cross(shaded.normals, tangents[:, :3]) * tangents[:, 3:]
    np.testing.assert_allclose(bitangent, np.tile([0.0, 0.0, -1.0], (len(tangents), 1)), atol=1e-6)
    mirrored = replace(shaded, uvs=(shaded.uvs[0] * np.array([-1, 1], np.float32),))
    assert (corner_tangents(mirrored)[:, 3] == -tangents[:, 3]).all()


def _soup(seed: int) -> Mesh:
    rng = np.random.default_rng(seed)
    triangles = rng.integers(0, 14, (40, 3))
    uv = rng.integers(0, 3, (14, 2)).astype(np.float32)[triangles.reshape(-1)]
    soup = make_triangles(rng.integers(0, 4, (14, 3)).astype(float), triangles, uvs=(uv, uv[::-1]))
    return replace(soup, normals=normals_by_angle(soup, float(rng.uniform(0, 180))))


@given(seed=st.integers(0, 10_000), channel=st.integers(0, 1))
def test_unit_and_signed_on_dirty_triangles(seed: int, channel: int) -> None:
    tangents = corner_tangents(_soup(seed), channel)
    np.testing.assert_allclose(np.linalg.norm(tangents[:, :3], axis=1), 1.0, atol=1e-5)
    assert set(np.unique(tangents[:, 3])) <= {-1.0, 1.0}


def test_a_channel_that_is_not_there_is_refused() -> None:
    with pytest.raises(ValueError, match="UV channel 2"):
        corner_tangents(_soup(0), 2)
