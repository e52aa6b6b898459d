"""Strict and loose offers take turns in one order of cost."""

from dataclasses import replace

import numpy as np
import pytest
from benchmarks.meshes import drilled_plate
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.measure.deviation import DeviationFrom
from plindro.core.mesh.mesh import Mesh, make_triangles
from plindro.core.polygons import triangulate
from plindro.core.reduction import collapse
from plindro.core.reduction.offers import PRICE, RISE, Offers
from plindro.core.shading.normals import normals_by_angle
from tests.shapes import bumpy_sphere, drilled_block, wavy_sheet


def _taken(offers: Offers, costs: list[float]) -> list[float]:
    """The costs of a pass that chose all of these."""
    values = np.array(costs, np.float32)
    order = np.arange(len(values), dtype=np.int32)
    return values[offers.within(order, values, float(values.max(initial=0.0)))].tolist()


def test_without_features_every_offer_is_loose_and_as_it_costs() -> None:
    offers = Offers(has_features=False)
    assert offers.is_loose
    assert _taken(offers, [1.0, 9.0, 100.0]) == [1.0, 9.0, 100.0]
    assert offers.cap == np.inf
    assert offers.in_order(3.0) == 3.0
    assert not offers.turn()


def test_the_first_pass_sets_the_level_and_a_loose_collapse_counts_more() -> None:
    offers = Offers(has_features=True)
    assert not offers.is_loose
    assert _taken(offers, [1.0, 2.0, 4.0]) == [1.0, 2.0, 4.0]
    assert offers.cap == 4.0
    assert offers.turn()
    assert offers.is_loose
    assert _taken(offers, [0.5, 4.0 / PRICE, 3.0]) == [0.5, 4.0 / PRICE]
    assert offers.in_order(2.0) == 2.0 * PRICE
    assert offers.turn()
    assert (offers.is_loose, offers.cap) == (False, 4.0 * RISE)


def test_rounds_in_which_nothing_could_go_are_passed_over() -> None:
    offers = Offers(has_features=True)
    _taken(offers, [1.0])
    assert _taken(offers, [5000.0]) == []
    offers.turn()
    assert _taken(offers, [3000.0]) == []
    offers.turn()
    assert offers.cap == 5000.0, "the cheapest of both, a loose one by its price"


def test_it_ends_when_neither_has_anything_left() -> None:
    offers = Offers(has_features=True)
    _taken(offers, [1.0])
    _taken(offers, [])
    assert offers.turn()
    assert _taken(offers, []) == []
    assert not offers.turn()


@given(seed=st.integers(0, 1000), placement=st.sampled_from(["optimal", "original"]))
def test_the_way_down_does_not_depend_on_how_often_it_is_gone(seed: int, placement: str) -> None:
    mesh = triangulate(wavy_sheet(10, islands=2, materials=2, seed=seed)).mesh
    one, two = (collapse(mesh, placement=placement, n_threads=n) for n in (1, 3))
    assert one.phase_steps == two.phase_steps
    assert one.held_until == two.held_until <= one.n_steps
    assert (one.died_at == two.died_at).all()
    assert (one.node_place == two.node_place).all()


def test_features_are_given_up_later_the_more_they_are_worth() -> None:
    """Hard edges between facets that hardly fold go early, those of a box late."""

    def held(fold: float) -> int:
        mesh = triangulate(bumpy_sphere(14, 2, height=fold)).mesh
        sequence = collapse(_faceted(mesh), placement="optimal")
        return int(sequence.triangles_at[sequence.held_until])

    flat, rough = held(0.01), held(0.6)
    assert flat != rough, "what a feature is worth decides"


def _faceted(mesh: Mesh) -> Mesh:
    return replace(mesh, normals=normals_by_angle(mesh, 20.0))


@pytest.mark.parametrize("placement", ["optimal", "original"])
def test_a_prefix_holds_all_features_and_says_how_far(placement: str) -> None:
    mesh = _faceted(triangulate(wavy_sheet(14, islands=2)).mesh)
    sequence = collapse(mesh, placement=placement)
    level = sequence.level(sequence.held_until)
    source = {tuple(n) for n in mesh.normals.round(3).tolist()}
    if placement == "original":
        assert {tuple(n) for n in level.normals.round(3).tolist()} <= source
    v = level.uvs[0][:, 1].reshape(-1, 3)
    assert (v.max(axis=1) - v.min(axis=1) <= 1.0 + 1e-4).all(), "no triangle spans two islands"


def _bottle(sides: int) -> Mesh:
    """Round, with a flat end around a pole at which each triangle has its own UV, as it has where a texture wraps."""
    height = np.linspace(0.0, 1.0, 12)
    radius = 0.3 + 0.12 * np.sin(5.0 * height)
    angle = 2.0 * np.pi * np.arange(sides) / sides
    ring = np.stack([np.cos(angle), np.zeros(sides), np.sin(angle)], axis=1)
    points = np.concatenate(
        [r * ring + (0.0, y, 0.0) for r, y in zip(radius, height, strict=True)] + [np.zeros((1, 3))]
    )
    i = np.arange(sides)
    u, v = np.stack([i, i + 1], axis=1) / sides, 0.3 + 0.7 * height
    triangles = [np.stack([np.full(sides, len(points) - 1), i, (i + 1) % sides], axis=1)]
    uvs = [np.stack([np.stack([u[:, 1], u[:, 0], u[:, 1]], axis=1), np.tile([0.0, v[0], v[0]], (sides, 1))], axis=2)]
    for k in range(len(height) - 1):
        a, b, c, d = (row * sides + (i + step) % sides for row, step in ((k, 0), (k + 1, 0), (k, 1), (k + 1, 1)))
        for corners, across, up in (((a, b, c), (0, 0, 1), (0, 1, 0)), ((c, b, d), (1, 0, 1), (0, 1, 1))):
            triangles.append(np.stack(corners, axis=1))
            uvs.append(np.stack([u[:, list(across)], np.tile(v[k + np.array(up)], (sides, 1))], axis=2))
    mesh = make_triangles(points, np.concatenate(triangles).astype(np.int32))
    return replace(mesh, uvs=(np.concatenate(uvs).reshape(-1, 2).astype(np.float32),))


@pytest.mark.parametrize("placement", ["optimal", "original"])
def test_a_pole_where_the_texture_hardly_jumps_holds_no_triangles_back(placement: str) -> None:
    bottle = _bottle(64)
    ruler = DeviationFrom(bottle)

    def mean(mesh: Mesh) -> float:
        sequence = collapse(mesh, placement=placement)
        return ruler.measure(sequence.level(sequence.step_of_triangles(mesh.n_faces // 10))).mean

    assert mean(bottle) < 2.0 * mean(replace(bottle, uvs=()))


def _in_six_directions(mesh: Mesh) -> Mesh:
    """With UVs as seen along the axis that each triangle faces most."""
    corners = mesh.positions[mesh.triangles()]
    vectors = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    each, axis = np.arange(len(corners)), abs(vectors).argmax(axis=1)
    way = np.sign(vectors[each, axis])[:, None]
    u, v = (corners[each, :, (axis + k) % 3] for k in (1, 2))
    uvs = np.stack([way * u + 10.0 * (axis[:, None] + 3 * way), v], axis=2)
    return replace(mesh, uvs=(uvs.reshape(-1, 2).astype(np.float32),))


@pytest.mark.parametrize("shaded", [False, True])
@pytest.mark.parametrize("placement", ["optimal", "original"])
def test_drilled_blocks_whose_uvs_must_fold_are_reduced_to_the_end(placement: str, shaded: bool) -> None:
    """Their edges cost the same over and over: none may put another off for ever."""
    for mesh in (triangulate(drilled_block(3, 2)).mesh, make_triangles(*drilled_plate(3, 2, 8))):
        mapped = _in_six_directions(mesh)
        mapped = replace(mapped, normals=normals_by_angle(mapped, 40.0)) if shaded else mapped
        assert collapse(mapped, placement=placement).triangles_at[-1] == 4
