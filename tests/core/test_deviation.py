"""How far two surfaces are from each other: bounds that hold, on pairs whose distance is known and on any other."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plindro.core.measure.deviation import DeviationFrom, largest
from plindro.core.mesh.mesh import F64, Mesh, make_triangles
from plindro.core.polygons import triangulate
from plindro.core.reduction import Limits, collapse, diagonal, take_level
from tests.shapes import bumpy_sphere, flat_grid, join, moved, random_rotation, wavy_sheet


def _mesh(triangles: F64) -> Mesh:
    """(T, 3, 3) corners as a mesh."""
    corners = np.arange(3 * len(triangles), dtype=np.int32).reshape(-1, 3)
    return make_triangles(triangles.reshape(-1, 3), corners)


def _square(height: float = 0.0, size: float = 1.0) -> F64:
    a, b, c, d = (np.array((x * size, height, y * size)) for x, y in ((0, 0), (1, 0), (1, 1), (0, 1)))
    return np.array([[a, c, b], [a, d, c]])


def _to_segments(points: F64, start: F64, end: F64) -> F64:
    along = end - start
    t = np.clip(((points - start) @ along) / max(along @ along, 1e-30), 0.0, 1.0)
    return np.linalg.norm(points - start - t[:, None] * along, axis=1)


def _distances(points: F64, triangles: F64) -> F64:
    """Distance of each point to the nearest triangle, by planes and sides: another way than the one that is tested."""
    found = np.full(len(points), np.inf)
    for a, b, c in triangles:
        for start, end in ((a, b), (b, c), (c, a)):
            found = np.minimum(found, _to_segments(points, start, end))
        normal = np.cross(b - a, c - a)
        if normal @ normal > 1e-24:
            feet = points - ((points - a) @ normal / (normal @ normal))[:, None] * normal
            inside = [np.cross(e - s, feet - s) @ normal >= 0 for s, e in ((a, b), (b, c), (c, a))]
            height = np.abs((points - a) @ normal) / np.sqrt(normal @ normal)
            found = np.where(np.all(inside, axis=0), np.minimum(found, height), found)
    return found


def _samples(triangles: F64, steps: int) -> F64:
    ticks = np.linspace(0, 1, steps + 1)
    weights = np.array([(a, b, 1 - a - b) for a in ticks for b in ticks if a + b <= 1 + 1e-9])
    return np.einsum("wk,tkj->twj", weights, triangles).reshape(-1, 3)


def _roof(height: float) -> F64:
    """A square whose ridge is an edge in its middle: its furthest places are in the middle of nothing sampled."""
    a, b, c, d = _square()[0][0], _square()[0][2], _square()[0][1], _square()[1][1]
    left, right = (a + d) / 2 + (0.0, height, 0.0), (b + c) / 2 + (0.0, height, 0.0)
    return np.array([[a, left, b], [left, right, b], [left, d, right], [d, c, right]])


@pytest.mark.parametrize(
    ("one", "other", "distance"),
    [
        (_square(), _square(0.03), 0.03),
        (_square(), _square(size=1.1), 0.1 * np.sqrt(2.0)),
        (_square(), _roof(0.2), 0.2),
        (_square(), _square()[:1], np.sqrt(0.5)),
        # Both sides of a slab are as far from a sheet through its middle; a far triangle alone says how far.
        (np.concatenate([_square(-0.1), _square(0.1)]), _square(), 0.1),
        (_square(), np.concatenate([_square(), _square(5.0, 0.01)]), 5.0),
    ],
)
def test_known_distances_are_found_both_ways(one: F64, other: F64, distance: float) -> None:
    turn = random_rotation(3)
    for first, second in ((one, other), (other, one)):
        found = DeviationFrom(_mesh(first @ turn)).measure(_mesh(second @ turn))
        assert found.reached <= distance * (1 + 1e-9)
        assert distance * (1 - 1e-9) <= found.largest <= 1.002 * distance * (1 + 1e-9)


def test_equal_surfaces_cut_in_other_ways_are_one() -> None:
    """Two triangles against 20,000 on the same square: carving must not come apart into ever more pieces."""
    found = DeviationFrom(triangulate(flat_grid(100)).mesh).measure(triangulate(flat_grid(1)).mesh)
    assert (found.largest < 1e-7, found.mean < 1e-7, found.is_certain) == (True, True, True)


@settings(max_examples=40, deadline=None)
@given(
    seed=st.integers(0, 10_000),
    counts=st.tuples(st.integers(1, 9), st.integers(1, 9)),
    near=st.sampled_from([0.002, 0.05, 1.0]),
    thin=st.sampled_from([1.0, 0.02, 0.0]),
)
def test_the_bounds_hold_on_any_soup(seed: int, counts: tuple[int, int], near: float, thin: float) -> None:
    rng = np.random.default_rng(seed)
    one = rng.uniform(-1, 1, (counts[0], 3, 3))
    one[:, 2] = one[:, 0] + thin * (one[:, 2] - one[:, 0])
    # Near copies, and some triangles that have nothing of their own on the other side.
    other = np.concatenate([one + near * rng.normal(size=one.shape), rng.uniform(-1, 1, (counts[1], 3, 3))])
    found = DeviationFrom(_mesh(one)).measure(_mesh(other))
    dense = max(_distances(_samples(one, 30), other).max(), _distances(_samples(other, 30), one).max())
    size = float(np.linalg.norm(np.ptp(one.reshape(-1, 3), axis=0)))
    assert found.largest >= dense * (1 - 1e-9)
    # Between samples the distance can rise by half of their step at most.
    assert found.reached <= dense + 2.0 * size / 30
    assert found.largest <= 1.002 * found.reached + 2e-7 * size
    back = DeviationFrom(_mesh(other)).measure(_mesh(one))
    assert back.largest == pytest.approx(found.largest, rel=0.003, abs=1e-6)
    ruler = DeviationFrom(_mesh(one))
    assert ruler.is_within(_mesh(other), 1.01 * found.largest)
    assert not ruler.is_within(_mesh(other), 0.99 * found.reached - 1e-6)


@pytest.mark.parametrize(
    "mesh", [bumpy_sphere(14, height=0.3), triangulate(wavy_sheet(20)).mesh], ids=["ball", "sheet"]
)
def test_the_mean_is_that_of_many_more_samples(mesh: Mesh) -> None:
    sequence = collapse(mesh)
    for share in (0.5, 0.1):
        level = sequence.level(sequence.step_of_triangles(int(share * mesh.n_faces)))
        found = DeviationFrom(mesh).measure(level)
        sides = [m.positions[m.triangles()] for m in (mesh, level)]
        means = []
        for one, other in (sides, sides[::-1]):
            area = np.linalg.norm(np.cross(one[:, 1] - one[:, 0], one[:, 2] - one[:, 0]), axis=1)
            rng = np.random.default_rng(1)
            face = rng.choice(len(one), 2_500, p=area / area.sum())
            u, v = np.sqrt(rng.random(2_500)), rng.random(2_500)
            weights = np.stack([1 - u, u * (1 - v), u * v], axis=1)
            means.append(_distances(np.einsum("nk,nkj->nj", weights, one[face]), other).mean())
        assert found.mean == pytest.approx(max(means), rel=0.08)


def test_an_ended_search_leaves_bounds_that_hold_and_says_so(monkeypatch) -> None:
    mesh = bumpy_sphere(24, height=0.3)
    sequence = collapse(mesh)
    level = sequence.level(sequence.step_of_triangles(mesh.n_faces // 2))
    true = DeviationFrom(mesh).measure(level)
    monkeypatch.setattr(largest, "_BUDGET", 0)
    monkeypatch.setattr(largest, "_BUDGET_EACH", 0)
    ended = DeviationFrom(mesh).measure(level)
    assert ended.reached <= true.largest <= ended.largest
    assert (true.is_certain, ended.is_certain) == (True, False)
    assert not DeviationFrom(mesh).is_within(level, true.largest)


def test_the_search_goes_as_far_as_the_finer_surface_asks(monkeypatch) -> None:
    """A level's triangle lies over many of a dense source's: its pieces grow with the triangles of both."""
    mesh = bumpy_sphere(80)
    sequence = collapse(mesh, placement="optimal")
    monkeypatch.setattr(largest, "_BUDGET", 0)
    for share in (0.25, 0.1, 0.02):
        found = DeviationFrom(mesh).measure(sequence.level(sequence.step_of_triangles(int(share * mesh.n_faces))))
        assert found.is_certain
        assert found.largest <= 1.01 * found.reached


@pytest.mark.parametrize("percent", [0.05, 0.3, 1.0, 4.0])
@pytest.mark.parametrize("name", ["ball", "sheet", "parts"])
def test_a_tolerance_is_never_passed_and_nearly_used(name: str, percent: float) -> None:
    parts = join(*(moved(bumpy_sphere(9, k), (k * 1.3, 0, 0), scale=0.3 + 0.1 * k) for k in range(6)))
    mesh = {"ball": bumpy_sphere(24, height=0.3), "sheet": triangulate(wavy_sheet(40)).mesh, "parts": parts}[name]
    mesh = replace(mesh, normals=None)
    ruler, sequence, limit = DeviationFrom(mesh), collapse(mesh, placement="optimal"), percent / 100 * diagonal(mesh)
    level = take_level(sequence, Limits(tolerance=percent), ruler, diagonal(mesh))
    assert level.deviation.largest <= limit
    # A source vertex of its own is the simplest witness against it.
    assert ruler.measure(level.mesh).reached <= limit
    fewer = sequence.step_of_triangles(int(0.9 * level.mesh.n_faces))
    assert level.step == sequence.n_steps or ruler.measure(sequence.level(fewer)).largest > limit
