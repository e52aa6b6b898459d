"""Charts as they lie: turned upright, whether they lie on themselves, and what grouping and bounding rest on."""

from itertools import combinations

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from plindro.core.mesh.mesh import F64, I32
from plindro.core.numeric.bounds import corner_bounds, group_bounds
from plindro.core.numeric.groups import connected
from plindro.core.numeric.single import single_step, without_area
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.laid import lies_on_itself
from plindro.core.unwrap.orienting import orient
from plindro.core.unwrap.rectangles import smallest_rectangle

SEEDS = st.integers(0, 9_999)


def _spun(points: F64, angle: float) -> F64:
    cosine, sine = np.cos(angle), np.sin(angle)
    return points @ np.array([[cosine, sine], [-sine, cosine]])


def _grid(across: int, along: int, height: float) -> tuple[F64, np.ndarray]:
    """(T, 3, 2) triangles of a rectangle of unit squares ``height`` high, and (3 T,) which sides lie within."""
    triangles = []
    for x in range(across):
        for y in range(along):
            a, b, c, d = (x, y), (x + 1, y), (x + 1, y + 1), (x, y + 1)
            triangles += [(a, b, c), (a, c, d)]
    corners = np.array(triangles, float)
    sides = [tuple(sorted((tuple(t[k]), tuple(t[(k + 1) % 3])))) for t in corners.tolist() for k in range(3)]
    glued = np.array([sides.count(side) == 2 for side in sides])
    return corners * (1.0, height), glued


def _one_chart(corners: F64, glued: np.ndarray) -> Charts:
    return Charts(np.zeros(len(corners), np.int32), 1, corners, glued)


@given(st.integers(1, 5), st.integers(1, 4), st.floats(0.2, 3.0), st.floats(-7.0, 7.0))
def test_a_rectangle_comes_upright_however_it_lay(across: int, along: int, height: float, angle: float) -> None:
    corners, glued = _grid(across, along, height)
    upright = orient(_one_chart(_spun(corners, angle), glued))
    size = np.ptp(upright.reshape(-1, 2), axis=0)
    assert sorted(size) == pytest.approx(sorted((across, along * height)), rel=1e-9)
    # It was turned, and nothing else.
    for k in range(3):
        j = (k + 1) % 3
        np.testing.assert_allclose(
            np.linalg.norm(upright[:, j] - upright[:, k], axis=1), np.linalg.norm(corners[:, j] - corners[:, k], axis=1)
        )


@given(st.integers(30, 90), st.floats(1.0, 3.0), st.floats(-7.0, 7.0))
def test_what_has_no_straight_sides_lies_as_its_smallest_rectangle(n: int, long: float, turned: float) -> None:
    angle = 2 * np.pi * np.arange(n) / n
    rim = np.column_stack([long * np.cos(angle), np.sin(angle)])
    corners = np.stack([np.zeros((n, 2)), rim, np.roll(rim, -1, axis=0)], axis=1)
    upright = orient(_one_chart(_spun(corners, turned), np.tile([True, False, True], n)))
    assert np.ptp(upright.reshape(-1, 2), axis=0).prod() == pytest.approx(smallest_rectangle(rim).area, rel=1e-6)


@given(st.integers(1, 4), SEEDS)
def test_charts_are_turned_each_for_itself(count: int, seed: int) -> None:
    random = np.random.default_rng(seed)
    corners, glued = _grid(3, 1, 1.0)
    lying = np.concatenate([_spun(corners, a) + random.normal(size=2) for a in random.uniform(-4, 4, count)])
    chart = np.repeat(np.arange(count, dtype=np.int32), len(corners))
    upright = orient(Charts(chart, count, lying, np.tile(glued, count)))
    for i in range(count):
        assert sorted(np.ptp(upright[chart == i].reshape(-1, 2), axis=0)) == pytest.approx([1, 3])


def _meet(one: F64, two: F64) -> bool:
    """Whether the insides of two triangles meet, by an axis that parts them."""
    for triangle in (one, two):
        for k in range(3):
            x, y = triangle[(k + 1) % 3] - triangle[k]
            normal = np.array([y, -x])
            if max(one @ normal) <= min(two @ normal) or max(two @ normal) <= min(one @ normal):
                return False
    return True


@settings(max_examples=200)
@given(SEEDS, st.integers(1, 9), st.floats(0.5, 12.0))
def test_overlaps_are_found_as_by_each_pair(seed: int, n: int, spread: float) -> None:
    random = np.random.default_rng(seed)
    corners = random.normal(size=(n, 3, 2)) + spread * random.normal(size=(n, 1, 2))
    (ax, ay), (bx, by) = (corners[:, 1] - corners[:, 0]).T, (corners[:, 2] - corners[:, 0]).T
    area = ax * by - ay * bx
    corners[area < 0] = corners[area < 0][:, ::-1]
    assume((abs(area) > 1e-3).all())
    assert lies_on_itself(corners) == any(_meet(one, two) for one, two in combinations(corners, 2))


@given(st.integers(1, 6), st.integers(1, 6), st.floats(-7.0, 7.0), SEEDS)
def test_what_shares_sides_and_corners_does_not_lie_on_itself(across: int, along: int, angle: float, seed: int) -> None:
    corners, _ = _grid(across, along, 0.7)
    shuffled = np.random.default_rng(seed).permutation(len(corners))
    # Corners that are one point are one number too, as in a chart.
    points, which = np.unique(corners.reshape(-1, 2), axis=0, return_inverse=True)
    lying = _spun(points, angle)[which.reshape(-1, 3)]
    assert not lies_on_itself(lying[shuffled])
    twice = np.concatenate([lying, lying[:1] + 1e-3])
    assert lies_on_itself(twice)


def test_nothing_and_one_triangle_do_not_lie_on_themselves() -> None:
    assert not lies_on_itself(np.zeros((0, 3, 2)))
    assert not lies_on_itself(np.array([[[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]]))


@given(SEEDS, st.integers(0, 40), st.integers(0, 60))
def test_groups_are_what_hangs_together_in_the_order_in_which_they_come(seed: int, count: int, links: int) -> None:
    random = np.random.default_rng(seed)
    first, second = random.integers(0, max(count, 1), (2, links if count else 0))
    group, number = connected(count, first, second)
    known, label = connected_components(coo_array((np.ones(len(first)), (first, second)), (count, count)), False)
    assert number == known
    assert len(set(zip(group.tolist(), label.tolist(), strict=True))) == number
    _, appears = np.unique(group, return_index=True)
    assert (np.diff(appears) > 0).all()


@given(SEEDS, st.integers(1, 20), st.integers(1, 5), st.sampled_from([2, 3]))
def test_bounds_of_groups_hold_what_they_hold_and_no_more(seed: int, n: int, count: int, axes: int) -> None:
    random = np.random.default_rng(seed)
    corners = random.normal(size=(n, 3, axes))
    low, high = corner_bounds(corners)
    np.testing.assert_array_equal(low, corners.min(axis=1))
    np.testing.assert_array_equal(high, corners.max(axis=1))
    group = random.integers(0, count, n)
    least, largest = group_bounds(low, high, group, count)
    for g in range(count):
        mine = corners[group == g].reshape(-1, axes)
        if len(mine):
            np.testing.assert_array_equal(least[g], mine.min(axis=0))
            np.testing.assert_array_equal(largest[g], mine.max(axis=0))
        else:
            assert (least[g] > largest[g]).all()


TRIANGLE: I32 = np.array([[0, 1, 2]], np.int32)


@given(st.floats(0.5, 4000.0), st.floats(1e-3, 1.0), st.floats(-7.0, 7.0))
def test_what_is_lower_than_a_step_of_single_precision_has_no_area(place: float, long: float, angle: float) -> None:
    step = single_step(np.array([[place, 0.0, 0.0]]))
    assert step == np.nextafter(np.float32(place), np.float32(np.inf), dtype=np.float32) - np.float32(place)
    for height, has_area in ((0.4 * step, False), (4.0 * step, True)):
        points = np.zeros((4, 3))
        points[:3, :2] = _spun(np.array([[0.0, 0.0], [long, 0.0], [0.6 * long, height]]), angle)
        # The furthest point decides how fine places are written.
        points[3, 2] = place
        cross = np.cross(points[1] - points[0], points[2] - points[0])[None]
        assume(long > 8 * height)
        assert without_area(points, TRIANGLE, cross)[0] != has_area


def test_a_corner_that_is_no_place_leaves_no_area() -> None:
    points = np.array([[0.0, 0.0, 0.0], [1.0, 0.0, 0.0], [np.nan, 1.0, 0.0]])
    cross = np.cross(points[1] - points[0], points[2] - points[0])[None]
    assert without_area(points, TRIANGLE, cross)[0]
