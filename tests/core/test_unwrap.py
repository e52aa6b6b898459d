"""What is unwrapped and packed: nothing folds, nothing overlaps, all lies in the square so many pixels apart."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.ndimage import binary_dilation
from scipy.spatial import ConvexHull

from plindro.core.errors import Cancelled, InvalidSettings
from plindro.core.mesh.mesh import F64, I64, Mesh, make_triangles
from plindro.core.packing import Islands, Sheet, pack
from plindro.core.polygons import triangulate
from plindro.core.unwrap import unions
from plindro.core.unwrap.charts import project
from plindro.core.unwrap.distortion import measure_chart
from plindro.core.unwrap.growing import grow_charts, mean_normals
from plindro.core.unwrap.halving import part_overlapping
from plindro.core.unwrap.hinging import try_join
from plindro.core.unwrap.light_map import choose_resolution, is_light_map, lay_light_map
from plindro.core.unwrap.limits import JoinLimits
from plindro.core.unwrap.projections import Projection
from plindro.core.unwrap.rectangles import convex_hull, smallest_rectangle
from plindro.core.unwrap.relaxing import flatten_charts
from plindro.core.unwrap.room import new_room
from plindro.core.unwrap.surface import read_surface
from plindro.core.unwrap.unwrap import Unwrapped, unwrap_mesh
from plindro.core.unwrap.wishes import Wishes
from plindro.core.uvs.judge import ChannelFigures, judge_channel
from plindro.core.uvs.overlap import measure_overlap
from plindro.core.uvs.sheet import find_seams, lay_out
from tests.shapes import bumpy_sphere, cube, drilled_block, join, moved, random_rotation, wavy_sheet

PIXELS, PADDING = 256, 3
SHEET = Sheet(PIXELS, PIXELS, PADDING, 2)


def _silent(done: float, doing: str) -> None:
    """Progress that nobody watches."""


def _tube(sides: int, rings: int) -> Mesh:
    """An open tube of radius 1 and height 2, which unrolls without stretch."""
    angle = 2 * np.pi * np.arange(sides) / sides
    ring = np.column_stack([np.cos(angle), np.zeros(sides), np.sin(angle)])
    points = np.concatenate([ring + (0, 2 * i / rings, 0) for i in range(rings + 1)])
    a = (np.arange(rings)[:, None] * sides + np.arange(sides)).reshape(-1)
    b = (np.arange(rings)[:, None] * sides + (np.arange(sides) + 1) % sides).reshape(-1)
    return make_triangles(
        points, np.concatenate([np.stack([a, a + sides, b], 1), np.stack([b, a + sides, b + sides], 1)])
    )


SHAPES: dict[str, Callable[[], Mesh]] = {
    "cube": lambda: triangulate(cube()).mesh,
    "ball": lambda: triangulate(bumpy_sphere(14)).mesh,
    "sheet": lambda: triangulate(wavy_sheet(10)).mesh,
    "drilled": lambda: drilled_block(3, 2),
    "tube": lambda: _tube(16, 3),
    # Doubled sheets that touch, and shells in one place: welded they share edges that more than two faces meet in.
    "heap": lambda: join(*(moved(triangulate(cube()).mesh, (0.5 * i, 0.0, 0.0)) for i in range(3))),
}
PROJECTIONS = (None, *(Projection(kind) for kind in ("box", "planar", "cylinder", "sphere")))


def _unwrapped(mesh: Mesh, made: Unwrapped) -> Mesh:
    return replace(mesh, uvs=(made.uvs,))


def _figures(mesh: Mesh, made: Unwrapped) -> ChannelFigures:
    return judge_channel(_unwrapped(mesh, made), 0, PIXELS, 1).whole


def _covered(mesh: Mesh) -> tuple[np.ndarray, int]:
    """(pixels, pixels) number of the island that touches each, sampled finely within each triangle; and a clash."""
    laid = lay_out(mesh, 0)
    step = np.linspace(0.0, 1.0, 60)
    a, b = (grid.reshape(-1) for grid in np.meshgrid(step, step))
    weights = np.stack([1 - a, a * (1 - b), a * b], axis=1)
    of = np.full((PIXELS, PIXELS), -1)
    clashes = 0
    for t, corners in enumerate(laid.corners):
        at = np.clip((weights @ corners * PIXELS).astype(int), 0, PIXELS - 1)
        seen = of[at[:, 1], at[:, 0]]
        clashes += int(((seen >= 0) & (seen != laid.island[t])).sum())
        of[at[:, 1], at[:, 0]] = laid.island[t]
    return of, clashes


@pytest.mark.parametrize("projection", PROJECTIONS, ids=lambda p: p.kind if p else "itself")
@pytest.mark.parametrize("shape", SHAPES)
def test_nothing_folds_overlaps_or_leaves_the_square(shape: str, projection: Projection | None) -> None:
    mesh = SHAPES[shape]()
    made = unwrap_mesh(mesh, SHEET, _silent, projection=projection)
    figures = _figures(mesh, made)
    assert (figures.flipped_islands, figures.flipped_triangles, figures.zero_area_triangles) == (0, 0, 0)
    assert figures.overlap == 0.0
    assert not measure_overlap(lay_out(_unwrapped(mesh, made), 0)).any.any()
    assert figures.outside == 0.0
    assert figures.islands == made.islands
    assert figures.gap is None or figures.gap >= PADDING
    assert figures.border_gap is not None
    assert figures.border_gap >= 2.0


@pytest.mark.parametrize("shape", ["cube", "ball", "drilled"])
def test_padding_is_kept_in_pixels(shape: str) -> None:
    mesh = SHAPES[shape]()
    of, clashes = _covered(_unwrapped(mesh, unwrap_mesh(mesh, SHEET, _silent)))
    assert clashes == 0
    for island in range(of.max() + 1):
        near = binary_dilation(of == island, np.ones((3, 3)), iterations=PADDING)
        assert not ((of >= 0) & (of != island) & near).any()


def test_what_only_slivers_hold_together_is_packed_apart_whichever_way_v_runs() -> None:
    n = 16
    x, y = np.linspace(0.0, 1.0, n), np.cumsum(np.tile([0.09, 6e-8], n // 2))
    points = np.column_stack([np.tile(x, n), np.repeat(y, n), np.zeros(n * n)])
    k = (np.arange(n - 1)[:, None] * n + np.arange(n - 1)).ravel()
    triangles = np.concatenate([np.stack([k, k + 1, k + n + 1], 1), np.stack([k, k + n + 1, k + n], 1)])
    mesh = make_triangles(points @ random_rotation(0).T, triangles.astype(np.int32))
    made = unwrap_mesh(mesh, SHEET, _silent)
    figures = _figures(mesh, made)
    assert figures.islands > 1, "rounding has spoilt some slivers"
    upwards = np.float32(1.0) - made.uvs[:, 1]
    assert (np.float32(1.0) - upwards == made.uvs[:, 1]).all(), "a reader that counts V upwards has the same triangles"
    assert figures.gap is not None
    assert figures.gap >= PADDING - 1e-3


@settings(deadline=None, max_examples=4)
@given(seed=st.integers(0, 1000))
def test_any_bumpy_ball_is_unwrapped_soundly_and_alike_each_time(seed: int) -> None:
    mesh = triangulate(bumpy_sphere(10, seed=seed, height=0.4)).mesh
    made = unwrap_mesh(mesh, SHEET, _silent)
    figures = _figures(mesh, made)
    assert (figures.overlap, figures.flipped_triangles, figures.zero_area_triangles) == (0.0, 0, 0)
    assert figures.stretch is not None
    assert figures.stretch.l2 < 1.05
    assert np.array_equal(unwrap_mesh(mesh, SHEET, _silent).uvs, made.uvs)


@pytest.mark.parametrize("seed", [0, 1])
def test_what_unrolls_keeps_its_area_and_its_shape(seed: int) -> None:
    tube = _tube(24, 4)
    mesh = replace(tube, positions=tube.positions * (1.0, 2.5, 1.0) @ random_rotation(seed).T)
    made = unwrap_mesh(mesh, SHEET, _silent)
    assert made.islands == 1
    laid = lay_out(_unwrapped(mesh, made), 0)
    flat = abs(laid.areas) * (PIXELS / made.pixels_per_metre) ** 2
    assert flat == pytest.approx(laid.surface, rel=1e-4)
    # Straight and upright: a rectangle fills its bounds.
    assert np.ptp(laid.corners.reshape(-1, 2), axis=0).prod() == pytest.approx(abs(laid.areas).sum(), rel=1e-3)
    assert find_seams(_unwrapped(mesh, made), 0, laid).length == pytest.approx(5.0, rel=1e-4)


@pytest.mark.parametrize("seed", [0, 1])
def test_small_boxes_unfold_whole_with_lids_that_hang_by_one_side(seed: int) -> None:
    random, boxes = np.random.default_rng(seed), []
    for i in range(80):
        box = triangulate(cube()).mesh
        turned = (box.positions - box.positions.mean(axis=0)) * random.uniform(0.5, 1.0, 3) @ random_rotation(i).T
        boxes.append(moved(replace(box, positions=turned), (3.0 * i, 0.0, 0.0)))
    heap = join(*boxes)
    made = unwrap_mesh(heap, Sheet(1024, 1024, 2, 1), _silent, limits=JoinLimits(as_large=0.0))
    assert made.islands == 80
    unwrapped = _unwrapped(heap, made)
    # Of twelve edges five stay whole.
    assert find_seams(unwrapped, 0, lay_out(unwrapped, 0)).edges == 80 * 7


def _ring(inner: float, sides: int = 96) -> Mesh:
    """A flat ring of outer radius 1."""
    angle = 2 * np.pi * np.arange(sides) / sides
    rim = np.column_stack([np.cos(angle), np.zeros(sides), np.sin(angle)])
    a, b = np.arange(sides), (np.arange(sides) + 1) % sides
    return make_triangles(
        np.concatenate([inner * rim, rim]),
        np.concatenate([np.stack([a, b, a + sides], 1), np.stack([b, b + sides, a + sides], 1)]),
    )


@pytest.mark.parametrize(("inner", "pieces"), [(0.9, 4), (0.3, 1)])
def test_thin_rings_are_cut_into_arcs_that_lie_within_one_another(inner: float, pieces: int) -> None:
    rings = join(*(moved(_ring(inner), (0.0, float(i), 0.0)) for i in range(6)))
    made = unwrap_mesh(rings, SHEET, _silent)
    laid = _unwrapped(rings, made)
    figures = judge_channel(laid, 0, PIXELS, 1).whole
    assert not figures.overlap
    assert figures.stretch is not None
    assert figures.stretch.l2 == pytest.approx(1.0, abs=1e-3), "nothing is bent"
    if pieces > 1:
        assert made.islands >= 6 * pieces
        assert figures.used > 0.3, "whole ones fill less than 0.2"
    else:
        assert made.islands == 6


@pytest.mark.parametrize(("height", "whole"), [(0.1, 0.05), (10.0, 0.3)])
def test_strips_longer_than_the_sheet_are_cut_across(height: float, whole: float) -> None:
    tube = _tube(48, 40)
    tube = replace(tube, positions=tube.positions * (1.0, height, 1.0))
    made = unwrap_mesh(tube, SHEET, _silent)
    figures = _figures(tube, made)
    assert figures.used > 2 * whole, "in one strip it fills hardly more than this"
    assert made.islands <= 12
    assert (figures.overlap, figures.flipped_triangles) == (0.0, 0)


def test_copies_of_a_ring_are_cut_alike_and_can_be_stacked() -> None:
    ring = _ring(0.9)
    ring = replace(ring, positions=ring.positions * (1.0, 1.0, 0.8))
    copies = [replace(ring, positions=ring.positions @ random_rotation(i).T + (3.0 * i, 0.0, 0.0)) for i in range(4)]
    alone = unwrap_mesh(ring, SHEET, _silent)
    stacked = unwrap_mesh(join(*copies), SHEET, _silent, wishes=Wishes(stack=True))
    assert stacked.islands == 4 * alone.islands
    assert stacked.pixels_per_metre == pytest.approx(alone.pixels_per_metre, rel=0.05)


@pytest.mark.parametrize("copies", [2, 3])
def test_sheets_in_one_place_are_unwrapped_as_one_alone_is(copies: int) -> None:
    tube = _tube(12, 3)
    doubled = join(*[tube] * copies)
    made = unwrap_mesh(doubled, SHEET, _silent)
    assert made.islands == copies
    assert _figures(doubled, made).overlap == 0.0


@pytest.mark.parametrize("steepness", [1.0, 10.0])
def test_a_front_and_a_back_in_one_place_come_apart(steepness: float) -> None:
    """A steep sheet leaves charts whose common rim branches, since the front's and the back's meet in its points."""
    sheet = triangulate(wavy_sheet(14)).mesh
    sheet = replace(sheet, positions=sheet.positions * (1.0, steepness, 1.0))
    back = make_triangles(sheet.positions, sheet.triangles()[:, ::-1])
    plain = make_triangles(sheet.positions, sheet.triangles())
    made = unwrap_mesh(join(plain, back), SHEET, _silent)
    figures = _figures(join(plain, back), made)
    assert (figures.overlap, figures.flipped_triangles) == (0.0, 0)
    # What both sides share in a place is no seam where each goes on for itself.
    assert figures.seams.edges < 0.5 * 3 * sheet.n_faces
    # They may hang together by a part of their rim, as a sheet that was folded.
    assert made.islands <= 2 * unwrap_mesh(plain, SHEET, _silent).islands


def _ramp(turns: int) -> Mesh:
    """A ramp that winds upwards, as a thread does: every turn of it faces the same way."""
    around = np.arange(48 * turns + 1) * np.pi / 24
    out = np.linspace(0.5, 1.0, 5)
    x, z = (f(around)[:, None] * out for f in (np.cos, np.sin))
    points = np.stack([x, np.repeat(0.02 * around[:, None], 5, axis=1), z], axis=2).reshape(-1, 3)
    first = (5 * np.arange(48 * turns)[:, None] + np.arange(4)).reshape(-1)
    a, b, c, d = first, first + 1, first + 6, first + 5
    return make_triangles(points, np.concatenate([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)]))


@pytest.mark.parametrize("turns", [5, 20])
def test_the_turns_of_a_thread_come_apart_in_few_pieces(turns: int) -> None:
    ramp = _ramp(turns)
    surface = read_surface(ramp)
    chart = grow_charts(surface)
    assert chart.max() == 0, "it is one chart until it is looked at from above"
    uv = project(surface, chart, mean_normals(surface, chart, 1))
    parted = part_overlapping(surface, chart, uv)
    count = int(parted.max()) + 1
    assert turns <= count <= 24 * turns
    beside = (uv + parted[:, None, None] * np.array([3.0, 0.0])).reshape(-1, 2).astype(np.float32)
    assert not measure_overlap(lay_out(replace(ramp, uvs=(beside,)), 0)).any.any()


def test_density_is_even() -> None:
    mesh = join(triangulate(cube()).mesh, moved(triangulate(cube()).mesh, (5.0, 0.0, 0.0), scale=0.1))
    density = _figures(mesh, unwrap_mesh(mesh, SHEET, _silent)).density
    assert density is not None
    assert density.largest / density.least < 1.02


def test_seams_that_are_asked_for_are_cut() -> None:
    mesh = triangulate(cube()).mesh
    sides = np.array([[0, 1], [2, 3], [4, 5], [6, 7], [0, 2], [1, 3], [4, 6], [5, 7], [0, 4], [1, 5], [2, 6], [3, 7]])
    free, cut = (unwrap_mesh(mesh, SHEET, _silent, seams=seams) for seams in (None, sides.astype(np.int32)))
    assert cut.islands == 6 > free.islands


def test_a_triangle_without_area_takes_no_room() -> None:
    mesh = triangulate(cube()).mesh
    corners = np.concatenate([mesh.triangles(), [[0, 1, 1]]])
    made = unwrap_mesh(make_triangles(mesh.positions, corners), SHEET, _silent)
    assert np.ptp(made.uvs[-3:], axis=0).tolist() == [0.0, 0.0]
    with pytest.raises(InvalidSettings, match="no triangle has area"):
        unwrap_mesh(make_triangles(mesh.positions, [[0, 1, 1]]), SHEET, _silent)


def test_it_can_be_called_off_at_any_step() -> None:
    mesh = SHAPES["ball"]()
    steps: list[float] = []
    unwrap_mesh(mesh, SHEET, lambda done, doing: steps.append(done))
    assert steps == sorted(steps)
    assert steps[0] == 0.0
    assert steps[-1] == 1.0

    def stop(done: float, doing: str) -> None:
        if done >= steps[len(steps) // 2]:
            raise Cancelled("called off")

    with pytest.raises(Cancelled):
        unwrap_mesh(mesh, SHEET, stop)


@given(columns=st.integers(1, 12), rows=st.integers(1, 12), stretch=st.floats(0.7, 1.4))
@settings(deadline=None, max_examples=25)
def test_what_is_only_stretched_lies_as_it_is_after_one_turn(columns: int, rows: int, stretch: float) -> None:
    flat = np.stack(np.meshgrid(np.arange(columns + 1.0), np.arange(rows + 1.0), indexing="ij"), 2).reshape(-1, 2)
    a = (np.arange(columns)[:, None] * (rows + 1) + np.arange(rows)).reshape(-1)
    b = a + rows + 1
    triangles = np.concatenate([np.stack([a, b, a + 1], 1), np.stack([a + 1, b, b + 1], 1)])
    bent = flat[:, 0] / 8.0
    points = np.column_stack([8.0 * np.sin(bent), flat[:, 1], 8.0 * np.cos(bent)])
    surface = read_surface(make_triangles(points, triangles.astype(np.int32)))
    count = len(surface.areas)

    def stretched_by(most_values: int) -> float:
        """L2 less one, after it was relaxed once."""
        uv, out = (flat * [stretch, 1.0 / stretch])[triangles], np.empty(5)
        flatten_charts(
            np.arange(count), np.array([0, count]), surface.twin, surface.twin >= 0, surface.cotangents, surface.flat,
            surface.areas, 1, new_room(count, most_values), uv, out,
        )  # fmt: skip
        measure_chart(np.arange(count), uv, surface.flat, surface.areas, out)
        return float(out[1] / out[0] * out[2] / out[0] - 1.0)

    # No triangle turns, so that one system is all there is to solve.
    assert abs(stretched_by(1 << 20)) < 1e-12
    # A system whose factors would be too many is solved without, and less well.
    assert abs(stretched_by(0)) < 1e-3


def test_a_large_chart_gives_way_where_small_ones_join_it_and_is_not_laid_anew_for_each(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    laid = []

    def counted(triangles: I64, *rest: object) -> int:
        laid.append(len(triangles))
        kind: int = try_join(triangles, *rest)
        return kind

    monkeypatch.setattr(unions, "try_join", counted)
    mesh = drilled_block(9, 5, 16)
    made = unwrap_mesh(mesh, Sheet(512, 512, 2, 1), _silent)
    # 163 times each, and more the more holes there are, if the plate were laid anew for each wall.
    assert sum(laid) < 110 * mesh.n_faces
    assert made.islands <= 50
    figures = _figures(mesh, made)
    assert (figures.overlap, figures.flipped_triangles, figures.zero_area_triangles) == (0.0, 0, 0)
    assert figures.stretch is not None
    assert figures.stretch.l2 < 1.005


def _area(corners: F64) -> float:
    """Of a polygon that turns left."""
    after = np.roll(corners, -1, axis=0)
    return float(0.5 * (corners[:, 0] * after[:, 1] - corners[:, 1] * after[:, 0]).sum())


@given(seed=st.integers(0, 10_000), n=st.integers(3, 80), steps=st.sampled_from([2, 5, 1000]))
def test_the_smallest_rectangle_is_that_around_the_hull(seed: int, n: int, steps: int) -> None:
    """Also of points that come several times, and of many on one side; those well inside are left out first."""
    rng = np.random.default_rng(seed)
    points = rng.integers(0, steps + 1, (n, 2)) / steps * rng.uniform(0.1, 30.0) @ random_rotation(seed)[:2, :2]
    assume(np.linalg.matrix_rank(points - points[0], tol=1e-6) == 2)
    hull = ConvexHull(points)
    corners = points[hull.vertices]
    assert _area(convex_hull(points)) == pytest.approx(hull.volume, rel=1e-9)
    sides = np.roll(corners, -1, axis=0) - corners
    along = sides / np.linalg.norm(sides, axis=1, keepdims=True)
    across = np.stack([-along[:, 1], along[:, 0]], axis=1)
    areas = [np.ptp(corners @ one) * np.ptp(corners @ other) for one, other in zip(along, across, strict=True)]
    assert smallest_rectangle(points).area == pytest.approx(min(areas), rel=1e-9)


def _rectangles(sizes: list[tuple[float, float]]) -> Islands:
    sides = []
    for width, height in sizes:
        at = np.array([[0, 0], [width, 0], [width, height], [0, height]], float)
        sides.append(np.stack([at, np.roll(at, -1, axis=0)], axis=1))
    first: I64 = 4 * np.arange(len(sizes) + 1)
    each: F64 = np.prod(np.array(sizes), axis=1)
    return Islands(np.concatenate(sides), first, each)


@settings(deadline=None, max_examples=10)
@given(
    sizes=st.lists(st.tuples(st.floats(0.05, 3.0), st.floats(0.05, 3.0)), min_size=1, max_size=12),
    padding=st.integers(0, 5),
    turns=st.sampled_from([4, 8]),
)
def test_rectangles_are_packed_apart(sizes: list[tuple[float, float]], padding: int, turns: int) -> None:
    islands, sheet = _rectangles(sizes), Sheet(128, 96, padding, 3)
    packed = pack(islands, sheet, turns, lambda done: None)
    of = np.repeat(np.arange(len(sizes)), 8)
    at = packed.place(islands.sides.reshape(-1, 2), of)
    assert (at >= 3.0).all()
    assert (at <= np.array([128, 96]) - 3.0).all()
    taken = np.zeros((96, 128), int)
    step = np.linspace(0.0, 1.0, 120)
    a, b = (grid.reshape(-1, 1) for grid in np.meshgrid(step, step))
    for i in range(len(sizes)):
        o, x, _, y = at[8 * i : 8 * i + 8 : 2]
        cells = np.unique((o + a * (x - o) + b * (y - o)).astype(int), axis=0)
        own = np.zeros_like(taken, bool)
        own[cells[:, 1], cells[:, 0]] = True
        wide = binary_dilation(own, np.ones((3, 3)), iterations=padding) if padding else own
        assert not taken[wide].any()
        taken[own] = 1


def test_many_islands_fill_a_sheet_and_small_ones_the_gaps() -> None:
    random = np.random.default_rng(4)
    sizes = [(float(w), float(h)) for w, h in random.uniform(0.3, 2.0, (500, 2))]
    packed = pack(_rectangles(sizes), Sheet(1024, 1024, 0, 0), 4, lambda done: None)
    used = packed.scale**2 * sum(w * h for w, h in sizes) / 1024**2
    assert used > 0.88


def test_a_ring_holds_what_fits_into_its_hole() -> None:
    outer, inner = (np.array([[-s, -s], [s, -s], [s, s], [-s, s]], float) for s in (1.0, 0.8))
    rim = [np.stack([at, np.roll(at, -1, axis=0)], axis=1) for at in (outer, inner, 0.7 * outer)]
    islands = Islands(np.concatenate(rim), np.array([0, 8, 12]), np.array([4 - 2.56, 1.96]))
    packed = pack(islands, Sheet(128, 128, 1, 0), 4, lambda done: None)
    assert packed.scale == pytest.approx(64, rel=0.02)


def test_too_much_for_a_sheet_is_said() -> None:
    with pytest.raises(InvalidSettings, match="100 islands, 8 pixels apart, do not fit into 32 x 32 pixels"):
        pack(_rectangles([(1.0, 1.0)] * 100), Sheet(32, 32, 8, 4), 4, lambda done: None)


def _stacked(mesh: Mesh) -> Mesh:
    """UVs of a cube whose opposite sides lie on each other, one of each two mirrored, past the square."""
    normals = np.cross(*(np.diff(mesh.positions[mesh.triangles()], axis=1)[:, k] for k in (0, 1)))
    uvs = np.empty((mesh.n_faces, 3, 2))
    for t in range(mesh.n_faces):
        axis = int(np.argmax(abs(normals[t])))
        at = mesh.positions[mesh.triangles()[t]][:, [k for k in range(3) if k != axis]]
        uvs[t] = 2.0 * (at - mesh.positions.min()) / np.ptp(mesh.positions) + 3.0 * axis
    return replace(mesh, uvs=(uvs.reshape(-1, 2).astype(np.float32),))


def test_a_light_map_is_laid_of_sound_islands_without_a_new_cut() -> None:
    mesh = _stacked(triangulate(cube()).mesh)
    assert not is_light_map(mesh, 0, PIXELS, 1)
    made = lay_light_map(mesh, PIXELS, 2, _silent)
    lit = replace(mesh, uvs=(mesh.uvs[0], made.uvs))
    assert made.made == "islands"
    assert is_light_map(lit, 1, PIXELS, 2)
    assert not is_light_map(lit, 1, PIXELS, 40)
    before, after = (find_seams(lit, channel, lay_out(lit, channel)).edges for channel in (0, 1))
    assert before == after
    figures = judge_channel(lit, 1, PIXELS, 1).whole
    assert figures.density is not None
    assert figures.density.largest / figures.density.least < 1.02


@pytest.mark.parametrize("fault", ["folded", "stretched", "flat"])
def test_a_light_map_is_unwrapped_where_the_islands_are_not_sound(fault: str) -> None:
    mesh = _stacked(triangulate(cube()).mesh)
    uvs = mesh.uvs[0].reshape(-1, 3, 2).copy()
    if fault == "folded":
        # The corner that the other half of the side does not have, over to that one.
        uvs[0, 1] = 0.9 * (uvs[0, 0] + uvs[0, 2]) - 0.8 * uvs[0, 1]
    elif fault == "stretched":
        uvs[:, :, 0] *= 9.0
    else:
        uvs[0] = uvs[0, 0]
    mesh = replace(mesh, uvs=(uvs.reshape(-1, 2),))
    made = lay_light_map(mesh, PIXELS, 2, _silent)
    assert made.made == "unwrap"
    assert is_light_map(replace(mesh, uvs=(mesh.uvs[0], made.uvs)), 1, PIXELS, 2)


def test_resolutions_are_powers_of_two_that_reach_the_density() -> None:
    assert [choose_resolution(1.0, density, 32, 1024) for density in (1, 32, 64, 90, 5000)] == [32, 64, 128, 128, 1024]
