"""Normals that point to the back of their triangles, told from those that lie along them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.numeric.facing import points_back


def _turn(seed: int) -> np.ndarray:
    """(3, 3) any rotation."""
    q, _ = np.linalg.qr(np.random.default_rng(seed).normal(size=(3, 3)))
    return q * np.sign(np.linalg.det(q))


@given(st.integers(0, 999), st.floats(-180, 180), st.floats(1e-9, 1e4))
def test_normals_point_back_by_their_tilt_and_not_by_size_or_rounding(seed: int, tilt: float, area: float) -> None:
    turn = _turn(seed)
    angle = np.radians(tilt)
    leaning = np.array([np.cos(angle), 0.0, np.sin(angle)])
    normals = (np.tile(leaning, (1, 3, 1)) @ turn.T).astype(np.float32)
    vector = area * turn[:, 2][None]
    if abs(np.sin(angle)) > 2e-3:
        assert points_back(normals, vector)[0] == (np.sin(angle) < 0)
    elif abs(np.sin(angle)) < 5e-4:
        assert not points_back(normals, vector)[0]


@pytest.mark.parametrize("around", [1e-7, -1e-7, 3e-6, -3e-6])
def test_what_lies_in_its_triangle_is_not_turned_over_by_rounding(around: float) -> None:
    normals = np.tile([1.0, 0.0, around], (1, 3, 1)).astype(np.float32)
    assert not points_back(normals, np.array([[0.0, 0.0, 2e-7]]))[0]


def test_one_corner_that_points_back_does_not_turn_the_triangle() -> None:
    normals = np.array([[[0.0, 0.0, -1.0], [0.0, 0.6, 0.8], [0.8, 0.0, 0.6]], [[0, 0, -1], [0, 0, -1], [0, 0, 1]]])
    assert points_back(normals, np.array([[0.0, 0.0, 1.0], [0.0, 0.0, 1.0]])).tolist() == [False, True]


def test_a_triangle_without_area_or_with_no_place_points_nowhere() -> None:
    normals = np.tile([0.0, 0.0, -1.0], (2, 3, 1))
    assert not points_back(normals, np.array([[0.0, 0.0, 0.0], [np.nan, 0.0, 1.0]])).any()
