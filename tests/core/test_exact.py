"""The exact orientation against rational arithmetic."""

from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from plindro.core.numeric.exact import orient_sign

_COORDINATE = st.floats(-1e6, 1e6) | st.integers(-8, 8).map(float)


def _truth(points: list[tuple[float, float]]) -> int:
    (ax, ay), (bx, by), (cx, cy) = ((Fraction(x), Fraction(y)) for x, y in points)
    value = (ax - cx) * (by - cy) - (ay - cy) * (bx - cx)
    return (value > 0) - (value < 0)


@given(st.lists(st.tuples(_COORDINATE, _COORDINATE), min_size=3, max_size=3))
def test_orientation_of_any_three_points(points: list[tuple[float, float]]) -> None:
    assert orient_sign(*points[0], *points[1], *points[2]) == _truth(points)


@given(
    st.tuples(_COORDINATE, _COORDINATE),
    st.tuples(_COORDINATE, _COORDINATE),
    st.floats(0, 1),
    st.integers(-2, 2),
)
def test_orientation_of_points_that_nearly_lie_on_a_line(
    a: tuple[float, float], b: tuple[float, float], share: float, ulps: int
) -> None:
    x = a[0] + share * (b[0] - a[0])
    y = a[1] + share * (b[1] - a[1])
    points = [a, b, (x, y + ulps * abs(y) * 2.3e-16)]
    assert orient_sign(*points[0], *points[1], *points[2]) == _truth(points)
