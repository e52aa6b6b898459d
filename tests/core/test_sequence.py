"""The sequence as a record: prefixes, counts, what is left out, and what was measured of it."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from plindro.core.measure.deviation import DeviationFrom, Unchanged
from plindro.core.mesh.mesh import Mesh
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.reduction import Plane, Sequence, calibrated, collapse, measure_step, mirrored_sequence
from plindro.core.scene import Material
from plindro.core.shading.normals import normals_by_angle
from plindro.core.viewing.descent import write_descent
from tests.shapes import bumpy_sphere, drilled_block, join, moved, unwelded, wavy_sheet

PLACEMENTS = ("optimal", "original")


def _thing(kind: str, angle: float = 50.0) -> Mesh:
    """A mesh with normals: of three materials, with points for each face, drilled through, or of several shells."""
    if kind == "drilled":
        mesh = drilled_block(3, 2)
    elif kind == "shells":
        ball = bumpy_sphere(10)
        mesh = triangulate(join(*(moved(ball, (3.0 * i, 0.0, 0.0), scale=1.0 - 0.3 * i) for i in range(3)))).mesh
        mesh = replace(mesh, face_part=np.repeat(np.arange(3, dtype=np.int32), mesh.n_faces // 3))
    else:
        sheet = wavy_sheet(14, islands=2, materials=3)
        mesh = triangulate(unwelded(sheet, np.arange(sheet.n_faces) % 3 == 0) if kind == "unwelded" else sheet).mesh
    return replace(mesh, normals=normals_by_angle(mesh, angle))


def _from_smallest(rows: NDArray[np.floating]) -> list[tuple[float, ...]]:
    """Triangles by the values at their corners (3 T, N), each from its smallest corner."""
    found = []
    for triangle in rows.reshape(-1, 3, rows.shape[1]):
        first = min(range(3), key=lambda k, t=triangle: t[k].tolist())
        found.append(tuple(np.roll(triangle, -first, axis=0).reshape(-1).tolist()))
    return found


def _corners(mesh: Mesh) -> list[tuple[float, ...]]:
    """Triangles by places, normals and UVs, in order."""
    assert mesh.normals is not None
    return sorted(_from_smallest(np.concatenate([mesh.positions[mesh.corner_vertex], mesh.normals, *mesh.uvs], axis=1)))


def _steps(sequence: Sequence) -> list[int]:
    n = sequence.n_steps
    cuts = [step + by for step in sequence.cut_steps[:2] for by in (0, 1)]
    return sorted({0, 1, n // 7, n // 2, (4 * n) // 5, n, *cuts})


@pytest.mark.parametrize("placement", PLACEMENTS)
@pytest.mark.parametrize("kind", ["materials", "unwelded", "drilled", "shells"])
def test_counts_are_those_of_the_meshes_whatever_the_source(kind: str, placement: str) -> None:
    sequence = collapse(_thing(kind), placement=placement)
    for step in _steps(sequence)[1:]:
        level = sequence.level(step)
        assert level.n_faces == sequence.triangles_at[step]
        told, held = int(sequence.vertices_at[step]), count_engine_vertices(level)
        # A node that is idle for a while, between two materials, is counted on; two may come to carry the same normal.
        assert held <= told <= held + max(0.01 * held, 4 if kind == "unwelded" else 1)
        assert set(np.unique(level.face_material)) <= set(np.unique(sequence.source.face_material))


@pytest.mark.parametrize("kind", ["materials", "drilled"])
def test_a_count_is_met_at_the_first_step_that_meets_it(kind: str) -> None:
    sequence = collapse(_thing(kind), placement="optimal")
    for count in (0, 1, 7, 50, int(sequence.triangles_at[0]) - 1, int(sequence.triangles_at[0]), 10**6):
        step = sequence.step_of_triangles(count)
        met = np.flatnonzero(sequence.triangles_at <= count)
        assert step == (met[0] if len(met) else sequence.n_steps)
        step = sequence.step_of_vertices(count)
        assert step == sequence.n_steps or (sequence.vertices_at[step:] <= count).all()
        assert step == 0 or sequence.vertices_at[step - 1] > count or step == sequence.n_steps


@settings(max_examples=12)
@given(seed=st.integers(0, 10_000), kind=st.sampled_from(["materials", "drilled", "shells"]))
def test_what_is_left_out_from_the_start_is_missing_and_nothing_else(seed: int, kind: str) -> None:
    sequence = collapse(_thing(kind), placement="original")
    source = sequence.source
    of = source.face_part if kind == "shells" else np.arange(source.n_faces) // max(source.n_faces // 5, 1)
    gone = np.isin(of, np.random.default_rng(seed).choice(np.unique(of), 2, replace=False))
    left = sequence.without(gone)
    assert sequence.without(np.zeros(source.n_faces, bool)) is sequence
    for step in _steps(sequence)[1:]:
        whole, part = sequence.level(step), left.level(step)
        kept = ~gone[sequence.triangle_source[sequence.triangles_of(step)]]
        assert part.n_faces == left.triangles_at[step] == kept.sum()
        held = count_engine_vertices(part) if part.n_faces else 0
        assert held <= left.vertices_at[step] <= 1.03 * held + 1
        assert set(_corners(part)) <= set(_corners(whole))


@pytest.mark.parametrize("kind", ["materials", "unwelded", "shells"])
def test_figures_are_within_a_tenth_where_they_were_measured(kind: str) -> None:
    mesh = _thing(kind)
    ruler, sequence = DeviationFrom(mesh), collapse(mesh, placement="optimal")
    exact = {}
    for share in (0.5, 0.25, 0.1):
        step = sequence.step_of_triangles(int(share * mesh.n_faces))
        measure_step(sequence, step, ruler, exact)
    told = calibrated(sequence, ruler, exact)
    assert len(exact) == 3, "what is known stays as it was given"
    for step, found in exact.items():
        assert told.largest_at[step] == pytest.approx(found.largest, rel=0.01, abs=1e-9)


@pytest.mark.parametrize("placement", PLACEMENTS)
@pytest.mark.parametrize("kind", ["materials", "drilled", "shells"])
def test_what_a_level_has_of_the_one_above_is_the_same_and_need_not_be_measured(kind: str, placement: str) -> None:
    sequence = collapse(_thing(kind), placement=placement)
    source, ruler = sequence.source, DeviationFrom(sequence.source)
    steps = _steps(sequence)
    for above, step in [(0, 1), *zip(steps, steps[2:], strict=False)]:
        upper, level = sequence.level(above), sequence.level(step)
        same, own = sequence.unchanged(above, step), sequence.unchanged(0, step)
        there = set(_from_smallest(upper.positions[upper.corner_vertex]))
        assert set(_from_smallest(level.positions[level.corner_vertex[np.repeat(same, 3)]])) <= there
        assert step > 1 or same.mean() > 0.8, "a collapse changes what is around it"
        in_source = np.zeros(source.n_faces, bool)
        in_source[sequence.source_faces(step)[own]] = True
        exact = ruler.measure(level)
        # All of a level above that may be further off than this one says nothing: all is asked then.
        for unchanged in (
            Unchanged(in_source, same, ruler.measure(upper).largest),
            Unchanged(in_source, same | True, np.inf),
        ):
            reached, largest = ruler.estimate_largest(level, unchanged)
            assert reached <= 1.0001 * exact.largest
            assert exact.reached <= 1.0001 * largest


def test_a_way_down_that_begins_with_another_surface_is_measured_against_the_source() -> None:
    """A ball with one half mirrored is as far from it at its first level as its other half was different."""
    ball = triangulate(bumpy_sphere(16, height=0.3)).mesh
    for offset in (0.0, 0.2):
        sequence = mirrored_sequence(ball, Plane(np.array([1.0, 0.0, 0.0]), offset), {"placement": "optimal"})
        ruler = DeviationFrom(ball)
        told = calibrated(sequence, ruler, {})
        for count in (sequence.triangles_at[0] // k for k in (2, 4, 8)):
            step = sequence.step_of_triangles(int(count))
            assert told.largest_at[step] == pytest.approx(ruler.measure(sequence.level(step)).largest, rel=0.1)


def test_the_view_is_told_what_was_measured_and_a_build_by_count_measures_nothing_for_it() -> None:
    mesh = _thing("materials")
    sequence = collapse(mesh, placement="optimal")
    exact = {}
    step = sequence.step_of_triangles(mesh.n_faces // 4)
    measure_step(sequence, step, DeviationFrom(mesh), exact)
    materials = tuple(Material(name) for name in ("brass", "oak", "tar"))
    prop = Prop("thing", mesh, (), materials, sequence=sequence)
    alone, known = write_descent(prop), write_descent(replace(prop, measured=exact))
    assert alone is not None
    assert known is not None
    assert len(alone) == len(known)
    assert prop.measured == {}, "nothing is measured for a view that nobody opens"
    assert write_descent(replace(prop, sequence=None)) is None
