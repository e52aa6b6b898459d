"""Shells that vanish whole: any count is reached, the cheapest goes first, and what must stay stays."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.mesh.mesh import Mesh
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.reduction import Plane, Sequence, Topology, collapse, mirrored_sequence
from plindro.core.reduction.shells import find_shells, shells_of
from plindro.core.report import Report
from plindro.core.scene import Part
from plindro.core.shading.normals import normals_by_angle
from plindro.core.stations.levels import LevelsSettings, LevelTarget, run
from tests.shapes import bumpy_sphere, cube, edge_counts, join, moved

placements = st.sampled_from(["optimal", "original"])


def _cubes(places: list[tuple[float, float, float]], sizes: list[float]) -> Mesh:
    return triangulate(join(*(moved(cube(), at, scale=size) for at, size in zip(places, sizes, strict=True)))).mesh


def _count_shells(mesh: Mesh) -> int:
    shell, _ = shells_of(mesh.triangles(), mesh.n_vertices)
    return len(np.unique(shell[mesh.corner_vertex]))


def _replayed_counts(sequence: Sequence) -> np.ndarray:
    """How many triangles are there after each step, by when each one dies."""
    return (sequence.died_at[None, :] >= np.arange(sequence.n_steps + 1)[:, None]).sum(axis=1)


@given(seed=st.integers(0, 10_000), count=st.integers(2, 14), placement=placements, shaded=st.booleans())
def test_any_count_is_reached_and_every_level_is_sound(seed: int, count: int, placement: str, shaded: bool) -> None:
    rng = np.random.default_rng(seed)
    pieces = [
        moved(bumpy_sphere(int(rng.integers(3, 7)), int(k)), tuple(rng.uniform(-3, 3, 3)), scale=rng.uniform(0.05, 1))
        for k in range(count)
    ]
    mesh = triangulate(join(*pieces)).mesh
    if shaded:
        mesh = replace(mesh, normals=normals_by_angle(mesh, 40.0))
    sequence = collapse(mesh, placement=placement)
    assert sequence.triangles_at[-1] == 4, "one tetrahedron is left of all"
    assert (sequence.triangles_at == _replayed_counts(sequence)).all(), "what is counted is not what is recorded"
    for share in (0.6, 0.2, 0.05):
        step = sequence.step_of_triangles(max(int(share * mesh.n_faces), 4))
        level = sequence.level(step)
        assert level.n_faces == sequence.triangles_at[step]
        assert set(edge_counts(level.triangles()).values()) == {2}, "a shell is torn"
    assert collapse(mesh, placement=placement, n_threads=1).died_at.tolist() == sequence.died_at.tolist()


def test_a_heavy_shell_waits_until_all_else_costs_four_times_as_much() -> None:
    mesh = _cubes([(0.0, 0.0, 0.0), (1.2, 0.0, 0.0)], [1.0, 0.5])
    nothing, stays = np.zeros(mesh.n_vertices, bool), mesh.positions[:, 0] < 0.55

    def goes(limit: float, others: int) -> bool:
        shells = find_shells(mesh.positions, mesh.triangles(), np.zeros(0), stays, nothing)
        assert shells is not None
        gone = shells.vanish(np.array([others, 200]), limit, furthest=1.0, spare=10_000)
        return [shell for shell, _ in gone] == [1]

    def first_limit(others: int) -> float:
        low, high = 1e-6, 1.0
        while high > 1.01 * low:
            middle = np.sqrt(low * high)
            low, high = (low, middle) if goes(middle, others) else (middle, high)
        return high

    # The same 200 triangles among 10 000 others, and among as many.
    assert first_limit(200) == pytest.approx(4.0 * first_limit(10_000), rel=0.03)


def test_where_shells_are_kept_each_keeps_its_last_triangles() -> None:
    mesh = _cubes([(3.0 * k, 0.0, 0.0) for k in range(5)], [1.0] * 5)
    kept = collapse(mesh, keep_shells=True)
    assert (kept.triangles_at[-1], _count_shells(kept.level(kept.n_steps))) == (20, 5)
    # A locked vertex holds its shell, however cheap it is.
    locked = np.zeros(mesh.n_vertices, bool)
    locked[mesh.corner_vertex[mesh.positions[mesh.corner_vertex, 0] > 11.0]] = True
    held = collapse(mesh, locked=locked)
    assert held.level(held.n_steps).positions[:, 0].min() > 11.0


def test_the_shell_goes_first_that_leaves_least_behind() -> None:
    """A bolt that is sunk into a plate lies nearer to what stays than one that stands away from it, of equal size."""
    plate = triangulate(join(moved(cube(), (0, 0, 0), scale=4.0))).mesh
    sunk, proud = moved(cube(), (1.0, 3.85, 1.0), scale=0.2), moved(cube(), (3.0, 4.3, 3.0), scale=0.2)
    mesh = triangulate(join(plate, sunk, proud)).mesh
    shells = Topology(mesh)
    sequence = collapse(mesh)
    gone = [len(shells.sizes(sequence, step)) for step in range(sequence.n_steps + 1)]
    first = gone.index(1)
    tops = sequence.level(first).positions[:, 1]
    assert tops.max() > 4.4, "the one that stands away went first"
    assert (gone[0], gone[-1], sequence.triangles_at[-1]) == (0, 2, 4)


@pytest.mark.parametrize("placement", ["optimal", "original"])
def test_corner_pieces_go_before_the_crate_that_they_stand_on_loses_its_shape(placement: str) -> None:
    """They lie further from it than anything has moved so far, which the crate's own last collapses cost far more."""
    corners = [(x, y, z) for x in (-0.07, 0.93) for y in (-0.07, 0.93) for z in (-0.07, 0.93)]
    mesh = _cubes([(0.0, 0.0, 0.0), *corners], [1.0, *[0.14] * 8])
    sequence = collapse(mesh, placement=placement)
    level = sequence.level(sequence.step_of_triangles(24))
    assert Topology(mesh).sizes(sequence, sequence.step_of_triangles(24)).max() < 0.3, "the crate itself went"
    # What is left of the crate encloses nearly as much.
    a, b, c = np.moveaxis(level.positions[level.triangles()], 1, 0)
    assert np.einsum("ij,ij->", a, np.cross(b, c)) / 6.0 > 0.95


def test_a_shell_goes_on_both_sides_of_a_mirror() -> None:
    mesh = _cubes([(-0.5, 0.0, 0.0), (1.5, 0.2, 0.0), (-1.8, 0.2, 0.0)], [1.0, 0.3, 0.3])
    sequence = mirrored_sequence(mesh, Plane(np.array([1.0, 0.0, 0.0]), 0.0), {})
    assert (sequence.triangles_at == _replayed_counts(sequence)).all()
    for step in range(sequence.n_steps + 1):
        low, high = sequence.level(step).bounds()
        assert low[0] == pytest.approx(-high[0])
    assert Topology(sequence.source).sizes(sequence, sequence.n_steps).tolist() == pytest.approx(
        [0.3 * np.sqrt(3.0)] * 2
    )


def test_a_level_tells_which_shells_and_parts_it_goes_without() -> None:
    pieces = [bumpy_sphere(14, 1), *(moved(bumpy_sphere(5, k), (1.1, 0.06 * k, 0), scale=0.02) for k in range(2))]
    meshes = [triangulate(piece).mesh for piece in pieces]
    part = np.repeat(np.arange(3, dtype=np.int32), [m.n_faces for m in meshes])
    mesh = replace(join(*meshes), face_part=part)
    mesh = replace(mesh, normals=normals_by_angle(mesh, 180.0))
    prop = Prop("bolted", mesh, (Part("body", "body"), Part("bolt_1", "bolt_1"), Part("bolt_2", "bolt_2")), ())

    def told(**settings: object):
        report = Report()
        level = run(prop, LevelsSettings(levels=(LevelTarget(triangles=24),), **settings), report).levels[-1]
        return level, {finding.code: finding for finding in report.findings}

    level, found = told()
    assert (level.vanished, level.dropped) == (("bolt_1", "bolt_2"), ())
    assert found["shells-dropped"].message.startswith("LOD1: 2 shells of up to ")
    assert found["shells-dropped"].message.endswith("dropped, with them all of bolt_1, bolt_2")
    assert "part-missing" not in found
    level, found = told(protected_parts=("bolt_2",))
    assert (level.vanished, found["shells-dropped"].count) == (("bolt_1",), 1)
    level, found = told(keep_shells=True)
    assert (level.vanished, "shells-dropped" in found) == ((), False)
