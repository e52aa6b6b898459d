"""What is said of UVs: islands, overlaps, stretch, density and gaps, against figures known beforehand and pixels."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.mesh.mesh import Mesh, make_triangles
from plindro.core.numeric.single import single_step
from plindro.core.uvs.gaps import bleeds_at, find_gaps
from plindro.core.uvs.judge import Judged, judge_channel
from plindro.core.uvs.overlap import measure_overlap
from plindro.core.uvs.sheet import lay_out
from tests.shapes import random_rotation

PIXELS = 1_000


def _squares(*places: tuple[float, float, float], mirrored: tuple[int, ...] = (), metres: float = 1.0) -> Mesh:
    """Squares of two triangles side by side in space; each a part, with UVs from (u, v) and so large on the sheet."""
    corner = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], float)
    positions, triangles, uvs = [], [], []
    for k, (u, v, size) in enumerate(places):
        positions.append(np.column_stack([metres * corner + [2 * metres * k, 0], np.zeros(4)]))
        triangles += [[4 * k, 4 * k + 1, 4 * k + 2], [4 * k, 4 * k + 2, 4 * k + 3]]
        # V runs down: seen from the front the texture stands upright.
        own = np.column_stack([corner[:, 0], 1 - corner[:, 1]])
        own[:, 0] = 1 - own[:, 0] if k in mirrored else own[:, 0]
        uvs.append(own * size + [u, v])
    mesh = make_triangles(np.concatenate(positions), np.array(triangles, np.int32))
    part = np.repeat(np.arange(len(places), dtype=np.int32), 2)
    at = np.concatenate(uvs)[mesh.corner_vertex].astype(np.float32)
    return replace(mesh, face_part=part, uvs=(at,))


def _judged(mesh: Mesh) -> Judged:
    return judge_channel(mesh, 0, PIXELS, int(mesh.face_part.max()) + 1)


def test_a_sound_sheet_is_told_as_it_is() -> None:
    judged = _judged(_squares((0.25, 0.25, 0.25), (0.625, 0.25, 0.125)))
    whole = judged.whole
    assert (whole.islands, whole.flipped_islands, whole.flipped_triangles, whole.zero_area_triangles) == (2, 0, 0, 0)
    assert (whole.overlap, whole.mirrored_overlap, whole.outside, whole.tiles) == (0.0, 0.0, 0.0, {})
    assert whole.used == pytest.approx(0.25**2 + 0.125**2)
    assert (whole.gap, whole.border_gap) == (pytest.approx(125.0), pytest.approx(250.0))
    # 125 pixels are less than one at the seventh halving.
    assert whole.bleeds_at == 7
    assert whole.density is not None
    assert (whole.density.least, whole.density.largest) == (pytest.approx(125.0), pytest.approx(250.0))
    assert [part and part.density and part.density.median for part in judged.parts] == [250.0, 125.0]
    assert whole.stretch is not None
    assert whole.stretch.conformal == pytest.approx(1.0)
    # Two densities on equal areas: a quarter of the area too large, or too small.
    assert whole.stretch.linf == pytest.approx(np.sqrt(0.5 * (1 + 0.25)) / 0.5)


def test_a_triangle_that_covers_nothing_is_no_island_and_near_to_none() -> None:
    sound = _squares((0.25, 0.25, 0.25), (0.625, 0.25, 0.125))
    triangles = np.concatenate([sound.triangles(), [[0, 4, 4]]]).astype(np.int32)
    flat = make_triangles(sound.positions, triangles)
    uvs = np.concatenate([sound.uvs[0], np.full((3, 2), 0.5, np.float32)])
    whole = _judged(replace(flat, uvs=(uvs,))).whole
    assert (whole.islands, whole.zero_area_triangles) == (2, 0)
    assert (whole.gap, whole.border_gap) == (pytest.approx(125.0), pytest.approx(250.0))


def test_mirrored_and_straight_overlaps_are_told_apart() -> None:
    whole = _judged(_squares((0, 0, 0.5), (0.25, 0, 0.5), (0.5, 0.5, 0.25), (0.5, 0.5, 0.25), mirrored=(3,))).whole
    total = 2 * 0.25 + 2 * 0.0625
    assert whole.overlap == pytest.approx((2 * 0.125 + 2 * 0.0625) / total)
    assert whole.mirrored_overlap == pytest.approx(2 * 0.0625 / total)
    assert whole.flipped_islands == 1
    assert whole.used == pytest.approx(0.375 + 0.0625)
    assert (whole.gap, whole.bleeds_at) == (0.0, 0)


def test_an_island_within_another_has_no_gap_though_their_rims_have() -> None:
    whole = _judged(_squares((0.0, 0.0, 0.5), (0.2, 0.2, 0.1))).whole
    assert (whole.gap, whole.bleeds_at) == (0.0, 0)
    assert whole.overlap == pytest.approx(2 * 0.01 / 0.26)


def test_whatever_lies_on_it_many_times_counts_once() -> None:
    whole = _judged(_squares(*[(0.5, 0.5, 0.25)] * 9)).whole
    assert (whole.overlap, whole.used) == (pytest.approx(1.0), pytest.approx(0.0625))


def test_repeats_are_told_square_by_square() -> None:
    whole = _judged(_squares((-0.5, 0.0, 2.0))).whole
    assert whole.outside == pytest.approx(0.75)
    assert whole.tiles == pytest.approx(
        {"-1 0": 0.125, "-1 1": 0.125, "0 0": 0.25, "0 1": 0.25, "1 0": 0.125, "1 1": 0.125}
    )
    assert whole.border_gap is None
    # Far beyond what anybody repeats nothing is counted square by square, but all is outside.
    far = _judged(_squares((5.0, 0.0, 1e4))).whole
    assert (far.outside, far.tiles) == (1.0, {})


def test_folded_flat_and_missing_area_is_counted() -> None:
    mesh = _squares((0.0, 0.0, 0.5))
    uvs = mesh.uvs[0].copy()
    uvs[5] = [0.9, 0.4]
    folded = _judged(replace(mesh, uvs=(uvs,))).whole
    assert (folded.islands, folded.flipped_triangles) == (1, 1)
    uvs[:] = 0.5
    flat = _judged(replace(mesh, uvs=(uvs,))).whole
    assert (flat.zero_area_triangles, flat.stretch, flat.used, flat.overlap) == (2, None, 0.0, 0.0)
    uvs[:] = np.nan
    assert _judged(replace(mesh, uvs=(uvs,))).whole.zero_area_triangles == 2


def test_a_triangle_that_writing_leaves_nothing_of_is_neither_missed_nor_dense() -> None:
    mesh = _squares((0.0, 0.0, 0.5))
    places = mesh.positions.copy()
    places[3] = 0.5 * (places[0] + places[2]) + [0.0, 0.0, 0.3 * single_step(places)]
    uvs = mesh.uvs[0].copy()
    usual = _judged(mesh).whole.density
    lined = _judged(replace(mesh, positions=places)).whole.density
    assert usual is not None
    assert lined is not None
    assert lined.largest == pytest.approx(usual.largest)
    uvs[3:] = 0.5
    assert _judged(replace(mesh, positions=places, uvs=(uvs,))).whole.zero_area_triangles == 0


def test_seams_are_measured_on_the_surface_and_in_engine_vertices() -> None:
    mesh = _squares((0.0, 0.0, 0.5), metres=3.0)
    assert _judged(mesh).whole.seams.edges == 0
    uvs = mesh.uvs[0].copy()
    uvs[3:] += 0.01
    cut = _judged(replace(mesh, uvs=(uvs,))).whole
    assert (cut.islands, cut.seams.edges, cut.seams.engine_vertices) == (2, 1, 2)
    assert cut.seams.length == pytest.approx(3.0 * np.sqrt(2.0))


def test_stretch_is_that_of_the_map() -> None:
    mesh = _squares((0.0, 0.0, 1.0))
    wide = replace(mesh, positions=mesh.positions * [4.0, 1.0, 1.0] @ random_rotation(3).T)
    stretch = _judged(wide).whole.stretch
    assert stretch is not None
    # Four metres and one for a step: halved, as the areas are made equal.
    assert (stretch.l2, stretch.linf) == (pytest.approx(np.sqrt(0.5 * (4 + 0.25))), pytest.approx(2.0))
    assert (stretch.conformal, stretch.area) == (pytest.approx(0.5 * (4 + 0.25)), pytest.approx(1.0))


@given(seed=st.integers(0, 10_000), n=st.integers(1, 12))
def test_overlaps_of_any_triangles_are_those_that_pixels_show(seed: int, n: int) -> None:
    random = np.random.default_rng(seed)
    uvs = random.random((3 * n, 2)).astype(np.float32)
    mesh = make_triangles(random.random((3 * n, 3)), np.arange(3 * n, dtype=np.int32).reshape(-1, 3))
    overlap = measure_overlap(lay_out(replace(mesh, uvs=(uvs,)), 0))
    side = 200
    x, y = np.meshgrid(*[(np.arange(side) + 0.5) / side] * 2)
    inside, turns = [], []
    for a, b, c in uvs.astype(float).reshape(-1, 3, 2):
        turn = np.sign((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]))
        sides = [(q[0] - p[0]) * (y - p[1]) - (q[1] - p[1]) * (x - p[0]) for p, q in ((a, b), (b, c), (c, a))]
        inside.append(np.all([turn * s > 0 for s in sides], axis=0))
        turns.append(turn)
    covered = np.array(inside)
    assert overlap.used == pytest.approx(covered.any(axis=0).mean(), abs=0.02)
    for t in range(n):
        others = [k for k in range(n) if k != t]
        against = [k for k in others if turns[k] != turns[t]]
        for found, which in ((overlap.any[t], others), (overlap.mirrored[t], against)):
            shown = (covered[t] & covered[which].any(axis=0)).mean() if which else 0.0
            assert found == pytest.approx(shown, abs=0.02)


def test_what_lies_under_a_thousand_others_is_measured_exactly() -> None:
    n = 30
    u, v = (at.ravel() / n + 0.25 / n for at in np.meshgrid(*[np.arange(n)] * 2))
    grid = [(a, b, 0.5 / n) for a, b in zip(u.tolist(), v.tolist(), strict=True)]
    overlap = measure_overlap(lay_out(_squares((0.0, 0.0, 1.0), *grid), 0))
    assert overlap.used == pytest.approx(1.0, rel=1e-6)
    assert overlap.any[:2].sum() == pytest.approx(0.25, rel=1e-5)
    assert overlap.any[2:].sum() == pytest.approx(0.25, rel=1e-5)


def test_copies_in_one_place_but_for_rounding_are_measured_as_one() -> None:
    shifts = np.random.default_rng(3).uniform(-3e-7, 3e-7, (300, 2)) + 0.25
    sheet = lay_out(_squares(*((u, v, 0.5) for u, v in shifts.tolist())), 0)
    overlap = measure_overlap(sheet)
    assert overlap.used == pytest.approx(0.25, abs=1e-5)
    assert overlap.any.sum() == pytest.approx(300 * 0.25, rel=1e-5)


@given(seed=st.integers(0, 1_000), turn=st.floats(0, 6.28))
def test_a_sheet_that_only_touches_itself_never_overlaps(seed: int, turn: float) -> None:
    random = np.random.default_rng(seed)
    n = 6
    u, v = np.meshgrid(*[np.linspace(0.2, 0.8, n)] * 2)
    points = np.column_stack([u.ravel(), v.ravel()]) + random.uniform(-0.04, 0.04, (n * n, 2))
    points = points @ np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    k = (np.arange(n - 1)[:, None] * n + np.arange(n - 1)).ravel()
    triangles = np.concatenate([np.stack([k, k + 1, k + n + 1], 1), np.stack([k, k + n + 1, k + n], 1)])
    mesh = make_triangles(np.column_stack([points, np.zeros(n * n)]), triangles.astype(np.int32))
    sheet = lay_out(replace(mesh, uvs=(points[mesh.corner_vertex].astype(np.float32),)), 0)
    overlap = measure_overlap(sheet)
    assert overlap.any.tolist() == [0.0] * len(triangles)
    assert (sheet.n_islands, len(sheet.rim)) == (1, 4 * (n - 1))


@given(seed=st.integers(0, 1_000), n=st.integers(2, 8))
def test_gaps_are_the_least_distances_between_rims(seed: int, n: int) -> None:
    random = np.random.default_rng(seed)
    middles = random.random((n, 1, 2)) * 3
    uvs = (middles + random.uniform(-0.3, 0.3, (n, 3, 2))).reshape(-1, 2).astype(np.float32)
    mesh = make_triangles(random.random((3 * n, 3)), np.arange(3 * n, dtype=np.int32).reshape(-1, 3))
    sheet = lay_out(replace(mesh, uvs=(uvs,)), 0)
    along = np.linspace(0, 1, 60)[:, None]
    rims = [np.concatenate([t[k] + along * (t[k - 1] - t[k]) for k in range(3)]) for t in sheet.corners]
    for i, gap in enumerate(find_gaps(sheet, np.zeros(n, bool)).between.tolist()):
        sampled = min(np.linalg.norm(rims[i][:, None] - rims[j], axis=2).min() for j in range(n) if j != i)
        assert sampled - 0.03 <= gap <= sampled + 1e-9


def test_islands_bleed_where_their_gap_is_less_than_a_pixel() -> None:
    assert [bleeds_at(gap, 1024) for gap in (0.0, 0.5 / 1024, 1 / 1024, 4 / 1024, np.inf)] == [0, 0, 1, 3, None]
