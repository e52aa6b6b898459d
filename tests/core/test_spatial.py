"""Searches through the tree of boxes against asking everything: nearest places, rays, samples."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from plindro.core.mesh.mesh import Mesh, make_triangles
from plindro.core.shading.normals import normals_by_angle
from plindro.core.shading.transfer import ShadingSampler
from plindro.core.spatial.boxes import along_curve, build_box_tree, triangle_boxes
from plindro.core.spatial.nearest import NearestPlace, triangles_at
from plindro.core.spatial.neighbours import nearest_others
from plindro.core.spatial.rays import find_inside, ray_targets, sky_shares
from plindro.core.spatial.samples import even_samples
from tests.shapes import areas, bumpy_sphere, cube, flat_grid, join, moved, random_rotation

Floats = NDArray[np.float64]


def _soup(seed: int, count: int = 24) -> tuple[Floats, NDArray[np.int32]]:
    """Triangles of all sizes, some of them flat or of no size at all."""
    rng = np.random.default_rng(seed)
    points = rng.uniform(-1, 1, (3 * count, 3)) * 10.0 ** rng.uniform(-2, 0, (3 * count, 1))
    points[3] = points[4]
    points[6:9] = points[6]
    return points, np.arange(3 * count, dtype=np.int32).reshape(-1, 3)


def _squared(place: Floats, a: Floats, b: Floats, c: Floats) -> float:
    """Squared distance to a triangle by trying its plane and its three sides."""

    def to_side(p: Floats, q: Floats) -> float:
        along = q - p
        size = along @ along
        share = np.clip((place - p) @ along / size, 0, 1) if size > 0 else 0.0
        return float(((place - p - share * along) ** 2).sum())

    least = min(to_side(a, b), to_side(b, c), to_side(c, a))
    normal = np.cross(b - a, c - a)
    size = normal @ normal
    if size > 1e-24:
        foot = place - normal * ((place - a) @ normal / size)
        sides = [np.cross(q - p, foot - p) @ normal for p, q in ((a, b), (b, c), (c, a))]
        if min(sides) >= 0:
            least = min(least, float(((place - foot) ** 2).sum()))
    return least


@settings(max_examples=25)
@given(seed=st.integers(0, 10_000))
def test_distances_are_those_of_asking_every_triangle(seed: int) -> None:
    points, triangles = _soup(seed)
    places = np.random.default_rng(seed + 1).uniform(-1.5, 1.5, (40, 3))
    found = NearestPlace(points, triangles).distances(places)
    wanted = [np.sqrt(min(_squared(p, *points[t]) for t in triangles)) for p in places]
    np.testing.assert_allclose(found, wanted, rtol=1e-9, atol=1e-12)


def test_distances_do_not_depend_on_the_order_of_places_and_there_are_none_to_nothing() -> None:
    points, triangles = _soup(3)
    places = np.random.default_rng(0).uniform(-1, 1, (20_000, 3))
    shared = []
    forth = NearestPlace(points, triangles).distances(places, lambda: shared.append(1))
    assert len(shared) > 1, "nobody could have stopped it"
    back = NearestPlace(points, triangles).distances(places[::-1])
    np.testing.assert_allclose(forth, back[::-1], rtol=1e-12)
    nothing = NearestPlace(points, np.zeros((0, 3), np.int32))
    assert np.isinf(nothing.distances(places[:3])).all()


@settings(max_examples=25)
@given(seed=st.integers(0, 10_000), cone=st.sampled_from([-2.0, 0.0, 0.5, 0.9]))
def test_only_triangles_that_face_into_the_cone_are_near(seed: int, cone: float) -> None:
    points, triangles = _soup(seed)
    rng = np.random.default_rng(seed + 2)
    places, directions = rng.uniform(-1, 1, (30, 3)), rng.normal(size=(30, 3))
    directions /= np.linalg.norm(directions, axis=1, keepdims=True)
    vectors = np.cross(*(points[triangles][:, k] - points[triangles][:, 0] for k in (1, 2)))
    sizes = np.linalg.norm(vectors, axis=1, keepdims=True)
    facing = np.divide(vectors, sizes, out=np.zeros_like(vectors), where=sizes > 0) @ directions.T >= cone
    found = triangles_at(points, triangles, places, directions, cone)
    for i, place in enumerate(places):
        own = np.flatnonzero(facing[:, i])
        if not len(own):
            assert found[i] == -1
            continue
        least = min(_squared(place, *points[triangles[t]]) for t in own)
        assert found[i] in own
        assert _squared(place, *points[triangles[found[i]]]) == pytest.approx(least, rel=1e-9, abs=1e-15)


@given(seed=st.integers(0, 10_000), block=st.sampled_from([1, 3, 8]))
def test_every_node_of_the_tree_holds_what_is_below_it(seed: int, block: int) -> None:
    points, triangles = _soup(seed, 3 + seed % 40)
    low, high = triangle_boxes(points, triangles)
    tree = build_box_tree(low, high, block)
    assert sorted(tree.order.tolist()) == list(range(len(triangles)))
    for place, thing in enumerate(tree.order.tolist()):
        node = tree.first_leaf + place // block
        while True:
            assert (tree.low[node] <= low[thing]).all()
            assert (tree.high[node] >= high[thing]).all()
            if not node:
                break
            node = (node - 1) // 2


def test_neighbours_along_the_curve_are_near() -> None:
    axis = np.arange(16.0)
    grid = np.stack(np.meshgrid(axis, axis, axis), axis=-1).reshape(-1, 3)
    mixed = np.random.default_rng(1).permutation(grid)
    order = along_curve(mixed, mixed)
    assert sorted(order.tolist()) == list(range(len(grid)))
    steps = np.abs(np.diff(mixed[order], axis=0)).sum(axis=1)
    assert steps.mean() < 2.5, "a step of one along a third of the axes, now and then a jump"
    assert len(along_curve(np.zeros((0, 3)), np.zeros((0, 3)))) == 0
    np.testing.assert_array_equal(along_curve(np.ones((5, 3)), np.ones((5, 3))), np.arange(5))


def _half_sphere(count: int = 64) -> Floats:
    """Directions about +Z, cosine weighted."""
    k = np.arange(count) + 0.5
    radius, turn = np.sqrt(k / count), k * 2.399963
    return np.stack([radius * np.cos(turn), radius * np.sin(turn), np.sqrt(1 - radius**2)], axis=1)


def _sky(mesh: Mesh, *, most: int = 10**9) -> Floats:
    triangles = mesh.triangles()
    middles = mesh.positions[triangles].mean(axis=1)
    normals = areas(mesh) / np.linalg.norm(areas(mesh), axis=1, keepdims=True)
    face = np.arange(len(triangles), dtype=np.int32)
    targets = ray_targets(mesh.positions, triangles, face)
    return sky_shares(middles, normals, face, _half_sphere(), 1e-9, targets, most)


def _triangulated(mesh: Mesh) -> Mesh:
    from plindro.core.polygons import triangulate

    return triangulate(mesh).mesh


def test_a_box_sees_the_sky_from_outside_and_nothing_from_within() -> None:
    box = _triangulated(cube())
    np.testing.assert_array_equal(_sky(box), np.tile([1.0, 0.0], (box.n_faces, 1)))
    inside_out = make_triangles(box.positions, box.triangles()[:, ::-1])
    np.testing.assert_array_equal(_sky(inside_out), np.tile([0.0, 1.0], (box.n_faces, 1)))


def test_little_is_seen_between_a_floor_and_a_low_roof() -> None:
    floor = _triangulated(flat_grid(2))
    assert (_sky(floor) == 1.0).all(), "a sheet alone sees it all, on both sides"
    normal = areas(floor)[0] / np.linalg.norm(areas(floor)[0])
    size = float(np.ptp(floor.positions, axis=0).max())
    roof = moved(floor, tuple((0.02 * size * normal).tolist()))
    both = _triangulated(join(floor, roof))
    front, back = _sky(both).T
    half = floor.n_faces
    assert front[:half].max() < 0.3 > back[half:].max()
    assert (back[:half] == 1.0).all()
    assert (front[half:] == 1.0).all()
    assert (_sky(both, most=1)[-1] == 1.0).all(), "what was not asked decides nothing"


@settings(max_examples=20)
@given(seed=st.integers(0, 10_000))
def test_places_lie_in_the_shells_around_them(seed: int) -> None:
    turn = random_rotation(seed)
    ball, rng = bumpy_sphere(10, height=0.0), np.random.default_rng(seed)
    inner = moved(ball, (0.0, 0.0, 0.0), scale=0.4)
    aside = moved(ball, (5.0, 0.0, 0.0))
    shells = [replace(one, positions=one.positions @ turn.T) for one in (ball, inner, aside)]
    whole = join(*shells)
    triangles = whole.triangles()
    owner = np.repeat(np.arange(3, dtype=np.int32), [one.n_faces for one in shells])
    targets = ray_targets(whole.positions, triangles, owner)
    rays = rng.normal(size=(5, 3))
    places = np.array([[0.0, 0, 0], [0.7, 0, 0], [5.0, 0, 0], [2.5, 0, 0], [9, 9, 9]]) @ turn.T
    inside = find_inside(places, rays, 1e-9, targets, owner, 3)
    np.testing.assert_array_equal(inside, [[1, 1, 0], [1, 0, 0], [0, 0, 1], [0, 0, 0], [0, 0, 0]])
    passed = find_inside(places, rays, 1e-9, targets, np.where(owner == 0, -1, owner).astype(np.int32), 3)
    np.testing.assert_array_equal(passed[:, 0], False)


@given(seed=st.integers(0, 10_000), count=st.sampled_from([1, 7, 400]))
def test_samples_are_spread_by_area_and_lie_in_their_triangles(seed: int, count: int) -> None:
    points, triangles = _soup(seed)
    mesh = make_triangles(points, triangles)
    face, weights = even_samples(mesh, count)
    assert len(face) == len(weights) == count
    assert weights.min() >= 0
    np.testing.assert_allclose(weights.sum(axis=1), 1.0)
    share = np.linalg.norm(areas(mesh), axis=1)
    share /= share.sum()
    assert (np.abs(np.bincount(face, minlength=len(share)) - count * share) < 2.0).all(), (
        "even steps miss by one at most"
    )


def test_shading_is_carried_from_the_side_that_is_asked_for() -> None:
    """A thin wall: whoever asks on its left gets the left side's normals, also where the right side is nearer."""
    wall = _triangulated(replace(cube(), positions=cube().positions * (0.001, 1.0, 1.0)))
    shaded = replace(wall, normals=normals_by_angle(wall, 30.0))
    sampler = ShadingSampler(shaded)
    rng = np.random.default_rng(4)
    middle = wall.positions.mean(axis=0)
    places = np.column_stack([np.full(500, middle[0]), *rng.uniform(0.05, 0.95, (2, 500))])
    for side in (-1.0, 1.0):
        facing = np.tile([side, 0.0, 0.0], (500, 1))
        np.testing.assert_allclose(sampler.at(places + (-0.4 * side * 0.001, 0, 0), facing), facing, atol=1e-6)


def test_a_mesh_has_its_own_shading_whatever_the_order_of_places() -> None:
    ball = bumpy_sphere(16)
    shaded = replace(ball, normals=normals_by_angle(ball, 180.0))
    sampler = ShadingSampler(shaded)
    beside = sampler.beside(shaded)
    assert beside.mean_angle(shaded.normals) < 0.05
    assert beside.mean_angle(np.roll(shaded.normals, 1, axis=1)) > 20
    assert beside.mean_angle(-shaded.normals) > 170
    places = shaded.positions[shaded.corner_vertex]
    directions = shaded.normals.astype(np.float64)
    mixed = np.random.default_rng(2).permutation(len(places))
    forth, back = sampler.at(places, directions), sampler.at(places[mixed], directions[mixed])
    np.testing.assert_allclose(forth[mixed], back, atol=2e-3)
    with pytest.raises(ValueError, match="expected normals"):
        ShadingSampler(ball)


@given(seed=st.integers(0, 10_000), n=st.integers(0, 60), reach=st.floats(0.01, 3.0))
def test_the_nearest_other_point_is_that_of_asking_all(seed: int, n: int, reach: float) -> None:
    rng = np.random.default_rng(seed)
    # Some lie in one place.
    points = rng.normal(size=(n, 3))[rng.integers(0, n, n)] if n else np.zeros((0, 3))
    found = nearest_others(points, reach)
    apart = np.linalg.norm(points[:, None] - points[None], axis=2)
    np.fill_diagonal(apart, np.inf)
    least = apart.min(axis=1, initial=np.inf)
    np.testing.assert_array_equal(found >= 0, least < reach)
    near = np.flatnonzero(found >= 0)
    np.testing.assert_allclose(apart[near, found[near]], least[near], atol=1e-12)
