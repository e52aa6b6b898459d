"""Collision proxies: whatever they are fitted to, they hold it, are closed, and convex to the last bit."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import ConvexHull
from scipy.spatial.transform import Rotation

from plindro.core.collision.balls import smallest_ball
from plindro.core.collision.convex import convex_hull, is_closed, is_convex, sides_of
from plindro.core.collision.fit import fit_of
from plindro.core.collision.pieces import convex_pieces
from plindro.core.collision.proxies import SHAPES, Points, own_volume
from plindro.core.errors import Cancelled
from plindro.core.mesh.mesh import F64, make_triangles
from tests.shapes import cube, drilled_block

KINDS = ("cloud", "box", "plane", "line", "place", "shell")


def _points(kind: str, seed: int) -> F64:
    rng = np.random.default_rng(seed)
    turned = Rotation.random(random_state=seed).as_matrix()
    scale = 10.0 ** rng.uniform(-2, 2)
    if kind == "shell":
        found = rng.normal(size=(300, 3))
        found /= np.linalg.norm(found, axis=1, keepdims=True)
        found *= (1.0, 0.5, 0.7)
    elif kind == "box":
        found = np.array([[x, y, z] for x in (0, 1) for y in (0, 0.3, 1) for z in (0, 1)]) * (3.0, 1.0, 0.2)
    else:
        spread = {"cloud": (1, 0.4, 0.2), "plane": (1, 0.5, 0), "line": (1, 0, 0), "place": (0, 0, 0)}[kind]
        found = rng.normal(size=(60, 3)) * spread
    return (found @ turned.T * scale + rng.normal(size=3) * scale).astype(np.float32).astype(np.float64)


@pytest.mark.parametrize("shape", SHAPES)
@given(kind=st.sampled_from(KINDS), seed=st.integers(0, 10_000), margin=st.sampled_from([0.0, 0.01]))
@settings(max_examples=10)
def test_every_shape_holds_its_points_and_is_closed_and_exactly_convex(
    shape: str, kind: str, seed: int, margin: float
) -> None:
    points = _points(kind, seed)
    proxy = Points(points).fitted(shape, margin, 24)  # type: ignore[arg-type]
    mesh = proxy.mesh
    assert is_closed(mesh.triangles)
    assert is_convex(mesh.points, mesh.triangles)
    assert mesh.volume > 0
    assert (mesh.points == mesh.points.astype(np.float32)).all(), "they ship as they were checked"
    if shape == "hull":
        assert len(mesh.points) <= 24
    planes = mesh.planes()
    size = float(np.ptp(mesh.points, axis=0).max())
    assert (points @ planes[:, :3].T + planes[:, 3]).max() <= 1e-6 * size - margin


def test_a_bent_quad_and_an_open_or_dented_surface_are_told() -> None:
    whole = convex_hull(cube().positions.astype(np.float64))
    assert len(whole.points) == 8
    assert not is_closed(whole.triangles[1:])
    dented = whole.points.copy()
    # The smallest step of a float32: a hair within the plane that its neighbours make.
    dented[0] = np.nextafter(dented[0].astype(np.float32), np.float32(0.5)).astype(np.float64)
    flat = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, 0], [0.5, 0.5, 1.0]])
    assert sides_of(flat, np.array([[0, 1, 2]], np.int32), flat[3])[0] == 0
    above = np.array([1.0, 1.0, 2.0**-60])
    assert sides_of(flat, np.array([[0, 1, 2]], np.int32), above)[0] == 1
    assert sides_of(flat, np.array([[0, 1, 2]], np.int32), above * (1, 1, -1))[0] == -1
    rebuilt = convex_hull(dented)
    assert is_convex(rebuilt.points, rebuilt.triangles)
    sunken = np.concatenate([whole.points, [whole.points.mean(axis=0)]])
    first, *rest = whole.triangles.tolist()
    a, b, c = first
    faces = np.array([*rest, (a, b, 8), (b, c, 8), (c, a, 8)], np.int32)
    assert is_closed(faces)
    assert not is_convex(sunken, faces)


@given(kind=st.sampled_from(KINDS), seed=st.integers(0, 10_000), dimensions=st.sampled_from([2, 3]))
def test_no_ball_that_two_to_four_points_span_is_smaller(kind: str, seed: int, dimensions: int) -> None:
    points = _points(kind, seed)[:, :dimensions]
    middle, radius = smallest_ball(points)
    away = np.linalg.norm(points - middle, axis=1)
    assert away.max() <= radius * (1 + 1e-9) + 1e-12
    # It is the least where its middle lies among the points that it touches.
    touched = points[away >= radius * (1 - 1e-6) - 1e-12]
    for direction in np.random.default_rng(seed).normal(size=(40, dimensions)):
        assert ((touched - middle) @ direction).max() >= -1e-6 * radius


def test_a_turned_box_is_found_and_a_simple_shape_is_the_least() -> None:
    turned = Rotation.from_euler("xyz", (0.3, 0.7, 0.2)).as_matrix()
    box = np.array([[x, y, z] for x in (0, 4) for y in (0, 1) for z in (0, 2)]) @ turned.T
    points = Points(box)
    assert points.fitted("turned-box", 0.0, 8).mesh.volume == pytest.approx(8.0, rel=1e-4)
    assert points.simple(0.0, 8).shape == "turned-box"
    assert (
        Points(np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 2)], float)).simple(0.0, 8).shape
        == "box"
    )
    rng = np.random.default_rng(0)
    around = rng.normal(size=(400, 3))
    around /= np.linalg.norm(around, axis=1, keepdims=True)
    assert Points(around).simple(0.0, 8).shape == "ball"
    long = around + np.sign(around[:, :1]) * (1.5, 0.0, 0.0)
    capsule = Points(long @ turned.T).simple(0.0, 8)
    assert capsule.shape == "capsule"
    assert own_volume(capsule) == pytest.approx(np.pi * (3.0 + 4 / 3), rel=0.05)
    volumes = [Points(around).fitted("hull", 0.0, most).mesh.volume for most in (8, 16, 32, 64)]
    assert all(more > less for more, less in pairwise(volumes))
    assert volumes[-1] < 1.3 * ConvexHull(around).volume


def _bent() -> F64:
    """Corners of cubes in the form of an L."""
    corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], float)
    return np.concatenate([corners * (4, 1, 1), corners * (1, 3, 1) + (0, 1, 0)])


def test_pieces_lie_closer_than_one_hull_and_leave_nothing_out() -> None:
    hulls = [ConvexHull(half) for half in np.split(_bent(), 2)]
    triangles = np.concatenate([hull.simplices + 8 * k for k, hull in enumerate(hulls)])
    mesh = make_triangles(_bent(), triangles)
    one = fit_of(mesh, [Points(_bent()).fitted("hull", 0.0, 32).mesh])
    pieces = [
        Points(points).fitted("hull", 0.0, 32).mesh for points in convex_pieces(mesh, 2, lambda share, doing: None)
    ]
    two = fit_of(mesh, pieces)
    assert len(pieces) == 2
    assert one.enclosed == pytest.approx(7.0, rel=0.06)
    assert one.added > 0.5
    assert two.added < 0.12
    assert two.missed < 0.01

    def stop(share: float, doing: str) -> None:
        raise Cancelled

    with pytest.raises(Cancelled):
        convex_pieces(drilled_block(3, 3), 8, stop)


@given(seed=st.integers(0, 1000), far=st.sampled_from([1.0, 100.0, 10_000.0]))
@settings(max_examples=5)
def test_what_is_small_and_far_away_has_a_proxy_all_the_same(seed: int, far: float) -> None:
    place = np.random.default_rng(seed).normal(size=3) * far
    for shape in SHAPES:
        mesh = Points(place[None].astype(np.float32).astype(np.float64)).fitted(shape, 0.0, 16).mesh
        assert is_closed(mesh.triangles)
        assert mesh.volume > 0
