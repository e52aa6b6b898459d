"""Reduction: what must hold after any collapse, whatever the mesh, and wherever the sequence is stopped."""

import subprocess
import sys
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from plindro.core.measure.deviation import DeviationFrom
from plindro.core.mesh.mesh import Mesh, make_triangles, meshes_equal
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.polygons import triangulate
from plindro.core.reduction import (
    Limits,
    Plane,
    Sequence,
    calibrated,
    collapse,
    curvature,
    diagonal,
    find_mirror,
    mirrored_sequence,
    outline,
    reduce_mesh,
    take_level,
)
from plindro.core.shading.normals import normals_by_angle
from tests.shapes import (
    areas,
    bumpy_sphere,
    drilled_block,
    edge_counts,
    flat_grid,
    join,
    moved,
    random_rotation,
    volume,
    wavy_sheet,
)

PLACEMENTS = ("optimal", "original")
placements = st.sampled_from(PLACEMENTS)


def _shaded(mesh: Mesh, angle: float = 60.0) -> Mesh:
    mesh = triangulate(mesh).mesh
    return replace(mesh, normals=normals_by_angle(mesh, angle))


def _stops(sequence: Sequence, *shares: float) -> list[int]:
    """Steps at shares of the way."""
    return [round(share * sequence.n_steps) for share in shares]


def _corners(mesh: Mesh) -> set[tuple[float, ...]]:
    blocks = [mesh.positions[mesh.corner_vertex], *mesh.uvs, mesh.normals]
    return set(map(tuple, np.concatenate(blocks, axis=1).tolist()))


def _seam_points(mesh: Mesh) -> set[tuple[float, ...]]:
    """Positions that occur with more than one UV."""
    seen: dict[tuple[float, ...], set[tuple[float, ...]]] = {}
    for position, uv in zip(mesh.positions[mesh.corner_vertex].tolist(), mesh.uvs[0].tolist(), strict=True):
        seen.setdefault(tuple(position), set()).add(tuple(uv))
    return {p for p, uvs in seen.items() if len(uvs) > 1}


def _thinness(mesh: Mesh) -> np.ndarray:
    """Twice the area over the longest side squared of every triangle."""
    points = mesh.positions[mesh.triangles()]
    sides = np.linalg.norm(points - np.roll(points, 1, axis=1), axis=2).max(axis=1)
    return np.linalg.norm(areas(mesh), axis=1) / sides**2


@given(n=st.integers(6, 20), seed=st.integers(0, 10_000), placement=placements, stop=st.floats(0.05, 1.0))
def test_closed_stays_closed_facing_outwards_and_without_new_needles(
    n: int, seed: int, placement: str, stop: float
) -> None:
    mesh = _shaded(bumpy_sphere(n, seed), 180.0)
    sequence = collapse(mesh, placement=placement)
    assert sequence.triangles_at[-1] == 4, "a sphere ends as a tetrahedron"
    (step,) = _stops(sequence, stop)
    level = sequence.level(step)
    assert set(edge_counts(level.triangles()).values()) == {2}, "an edge is open or non-manifold"
    assert level.n_vertices - level.n_faces // 2 == 2, "no sphere any more"
    if level.n_faces > 40:
        assert volume(level) > 0.5 * volume(mesh)
        assert _thinness(level).min() >= min(1e-3, 0.2 * _thinness(mesh).min())
        # Against the source's shading where each corner lies, which folds over many small steps would leave.
        source = cKDTree(mesh.positions[mesh.corner_vertex])
        shading = mesh.normals[source.query(level.positions[level.corner_vertex])[1]].reshape(-1, 3, 3).sum(axis=1)
        assert (np.einsum("ij,ij->i", areas(level), shading) > 0).all(), "a triangle faces inwards"


@given(
    n=st.integers(8, 20),
    islands=st.integers(1, 4),
    materials=st.integers(1, 3),
    seed=st.integers(0, 1_000),
    placement=placements,
    stop=st.floats(0.1, 1.0),
)
def test_borders_seams_and_materials_keep_their_lines(
    n: int, islands: int, materials: int, seed: int, placement: str, stop: float
) -> None:
    mesh = _shaded(wavy_sheet(n, islands=islands, materials=materials, seed=seed), 180.0)
    sequence = collapse(mesh, placement=placement)
    held = min(sequence.held_until, sequence.step_of_triangles(mesh.n_faces // 4))
    level = sequence.level(round(stop * held))
    counts = edge_counts(level.triangles())
    assert max(counts.values()) <= 2
    border = {v for edge, uses in counts.items() if uses == 1 for v in edge}
    points = level.positions
    on_rim = np.isclose(points[:, [0, 2]], 0, atol=1e-9).any(axis=1) | np.isclose(points[:, [0, 2]], 1).any(axis=1)
    assert border == set(np.flatnonzero(on_rim).tolist()), "the border left its line or a hole was torn"
    corners = [(0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0)]
    rim = points[on_rim][:, [0, 2]]
    assert all(np.abs(rim - corner).sum(axis=1).min() < 1e-9 for corner in corners)
    if placement == "original":
        assert _seam_points(level) <= _seam_points(mesh), "a seam left its line"
    assert len(np.unique(level.face_material)) == materials
    # Islands lie two apart in V: a triangle that spans two of them would be torn in the texture.
    v = level.uvs[0][:, 1].reshape(-1, 3)
    assert (v.max(axis=1) - v.min(axis=1) <= 1.0 + 1e-4).all(), "a triangle spans islands"
    # Seen from above the sheet is the unit square, before and after: nothing folded over, nothing lost.
    flat = areas(level)[:, 1]
    assert (flat > -1e-12).all(), "a triangle folded over"
    assert abs(flat.sum()) == pytest.approx(1.0, abs=1e-9)
    # Nor did anything fold in the texture.
    uv = level.uvs[0].reshape(-1, 3, 2).astype(float)
    first, second = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    turns = first[:, 0] * second[:, 1] - first[:, 1] * second[:, 0]
    assert (turns.min() > -1e-7) or (turns.max() < 1e-7)


@given(seed=st.integers(0, 50), share=st.floats(0.1, 0.9), attributes=st.booleans())
def test_levels_whose_vertices_move_enclose_what_their_source_does(seed: int, share: float, attributes: bool) -> None:
    mesh = triangulate(bumpy_sphere(20, seed)).mesh
    mesh = replace(mesh, positions=mesh.positions @ random_rotation(seed).T)
    if attributes:
        mesh = replace(mesh, normals=normals_by_angle(mesh, 180.0))
    sequence = collapse(mesh, placement="optimal")
    level = sequence.level(sequence.step_of_triangles(int(share * mesh.n_faces)))
    assert volume(level) == pytest.approx(volume(mesh), rel=1e-3)


@pytest.mark.parametrize("placement", PLACEMENTS)
def test_what_is_flat_stays_flat_beside_what_is_round(placement: str) -> None:
    mesh = drilled_block(2, 2)
    level = collapse(mesh, placement=placement).level(60)
    low, high = mesh.bounds()
    heights = level.positions[:, 1]
    assert np.minimum(abs(heights - low[1]), abs(heights - high[1])).max() < 1e-6 * diagonal(mesh)


def test_original_levels_use_engine_vertices_of_the_source_only() -> None:
    mesh = _shaded(wavy_sheet(20, islands=3))
    sequence = collapse(mesh, placement="original")
    source = _corners(mesh)
    for step in _stops(sequence, 0.3, 0.7, 1.0):
        assert _corners(sequence.level(step)) <= source


@pytest.mark.parametrize("placement", PLACEMENTS)
def test_sequence_tells_what_each_of_its_levels_is(placement: str) -> None:
    """Counts along the way against the meshes themselves; what dies never comes back."""
    mesh = _shaded(wavy_sheet(18, islands=2, materials=2))
    sequence = collapse(mesh, placement=placement)
    assert (np.diff(sequence.triangles_at) <= 0).all()
    assert (np.diff(sequence.largest_at) >= 0).all()
    assert (sequence.parent < np.arange(len(sequence.parent))).all()
    assert sequence.level(0) is mesh
    for step in _stops(sequence, 0.0, 0.2, 0.5, 0.9, 1.0)[1:]:
        level = sequence.level(step)
        assert level.n_faces == sequence.triangles_at[step]
        assert count_engine_vertices(level) == sequence.vertices_at[step]
        np.testing.assert_allclose(np.linalg.norm(level.normals, axis=1), 1.0, atol=1e-5)


@pytest.mark.parametrize("placement", PLACEMENTS)
def test_stopping_early_is_a_prefix_of_going_to_the_end(placement: str) -> None:
    mesh = _shaded(bumpy_sphere(20), 180.0)
    whole = collapse(mesh, placement=placement)
    part = collapse(mesh, placement=placement, least_triangles=200)
    assert part.triangles_at[-1] in (199, 200)
    assert meshes_equal(part.level(part.n_steps), whole.level(part.n_steps))


@given(seed=st.integers(0, 10_000), placement=placements)
def test_result_does_not_depend_on_the_order_of_faces_and_vertices(seed: int, placement: str) -> None:
    mesh = _shaded(wavy_sheet(12, islands=2, seed=seed % 7), 40.0)
    rng = np.random.default_rng(seed)
    shuffled = mesh.with_faces(rng.permutation(mesh.n_faces))
    order = rng.permutation(mesh.n_vertices)
    renumber = np.empty(mesh.n_vertices, np.int32)
    renumber[order] = np.arange(mesh.n_vertices, dtype=np.int32)
    shuffled = replace(shuffled, positions=mesh.positions[order], corner_vertex=renumber[shuffled.corner_vertex])
    # Within a triangle too the corners may begin anywhere.
    turned = (np.arange(3) + rng.integers(0, 3, (mesh.n_faces, 1))) % 3 + 3 * np.arange(mesh.n_faces)[:, None]
    shuffled = shuffled.with_corners(turned.reshape(-1), shuffled.face_start, np.arange(mesh.n_faces))
    one, other = (collapse(m, placement=placement) for m in (mesh, shuffled))
    np.testing.assert_array_equal(one.triangles_at, other.triangles_at)
    np.testing.assert_array_equal(one.largest_at, other.largest_at)
    for step in _stops(one, 0.4, 0.9):
        assert _soup(one.level(step)) == _soup(other.level(step))


def _soup(mesh: Mesh) -> list[tuple[float, ...]]:
    """The triangles by what their corners hold, each from its smallest corner, in order."""
    blocks = [mesh.positions[mesh.corner_vertex], *mesh.uvs, mesh.normals]
    corners = np.concatenate(blocks, axis=1).reshape(mesh.n_faces, 3, -1).tolist()
    turned = []
    for face in corners:
        first = face.index(min(face))
        turned.append(tuple(x for corner in face[first:] + face[:first] for x in corner))
    return sorted(turned)


_PRINT_DIGEST = """
import hashlib, sys
sys.path.insert(0, {root!r})
from tests.core.test_reduction import large_sequence
print(large_sequence(int(sys.argv[1])))
"""


def large_sequence(n_threads: int) -> str:
    """A digest of the sequence of a mesh that is large enough for both cores."""
    import hashlib

    mesh = _shaded(bumpy_sphere(260), 180.0)
    sequence = collapse(mesh, placement="optimal", n_threads=n_threads)
    digest = hashlib.sha256()
    for values in (sequence.parent, sequence.triangles_at, sequence.node_place, sequence.triangle_node):
        digest.update(values.tobytes())
    return digest.hexdigest()


def test_same_result_on_one_core_on_two_and_in_another_process(request: pytest.FixtureRequest) -> None:
    script = _PRINT_DIGEST.format(root=str(request.config.rootpath))
    other = subprocess.run([sys.executable, "-c", script, "2"], capture_output=True, text=True, check=True)
    assert large_sequence(1) == large_sequence(2) == other.stdout.strip()


@pytest.mark.parametrize("placement", PLACEMENTS)
@pytest.mark.parametrize("name", ["ball", "sheet", "bowl", "parts", "comb"])
def test_stated_deviation_is_within_a_tenth_of_what_is_measured(placement: str, name: str) -> None:
    shapes = {
        "ball": bumpy_sphere(40, height=0.3),
        "sheet": wavy_sheet(50),
        "bowl": replace(bumpy_sphere(40), positions=bumpy_sphere(40).positions * (1.0, 0.15, 1.0)),
        "parts": join(*(moved(bumpy_sphere(9, k), (k * 1.3, 0, 0), scale=0.3 + 0.1 * k) for k in range(6))),
    }
    # Its teeth are bridged at the end, which only samples of the level see.
    comb = flat_grid(40)
    teeth = np.floor(20 * comb.positions[:, 0] + 0.25) % 2
    shapes["comb"] = replace(comb, positions=comb.positions + 0.2 * teeth[:, None] * np.array((0.0, 0.0, 1.0)))
    mesh = _shaded(shapes[name], 180.0)
    ruler = DeviationFrom(mesh)
    sequence = calibrated(collapse(mesh, placement=placement), ruler, {})
    off = []
    for share in np.geomspace(0.01, 0.98, 16):
        step = sequence.step_of_triangles(int(share * mesh.n_faces))
        measured = ruler.measure(sequence.level(step)).largest
        if measured > 1e-3:
            off.append(sequence.largest_at[step] / measured)
    off = np.abs(np.log(off))
    assert np.mean(off < np.log(1.1)) >= 0.8
    assert off.max() < np.log(1.4)


def test_measured_deviation_is_what_dense_sampling_finds() -> None:
    """An oracle of its own: distances both ways between dense samples of both surfaces."""
    mesh = _shaded(bumpy_sphere(20, height=0.4), 180.0)
    level = reduce_mesh(mesh, Limits(ratio=0.1), placement="optimal")
    steps = np.linspace(0, 1, 40)
    weights = np.array([(a, b, 1 - a - b) for a in steps for b in steps if a + b <= 1])
    one, other = (
        np.einsum("wk,tkj->twj", weights, m.positions[m.triangles()]).reshape(-1, 3) for m in (mesh, level.mesh)
    )
    there, back = cKDTree(other).query(one)[0], cKDTree(one).query(other)[0]
    assert level.deviation.largest == pytest.approx(max(there.max(), back.max()), rel=0.05)
    assert level.deviation.mean == pytest.approx(max(there.mean(), back.mean()), rel=0.1)


@pytest.mark.parametrize(
    ("limits", "holds"),
    [
        (Limits(ratio=0.2), lambda mesh, level: level.mesh.n_faces == round(0.2 * mesh.n_faces)),
        (Limits(triangles=301), lambda _, level: level.mesh.n_faces in (300, 301)),
        (Limits(vertices=200), lambda _, level: 190 <= count_engine_vertices(level.mesh) <= 200),
        (Limits(tolerance=1.0), lambda mesh, level: 0.006 < level.deviation.largest / diagonal(mesh) <= 0.01),
        (Limits(tolerance_mm=20.0), lambda _, level: 0.012 < level.deviation.largest <= 0.02),
        # 1 px at 1080 lines over 60 degrees, 10 m away, is 10.69 mm.
        (Limits(pixels=2.0, distance=10.0), lambda _, level: 0.0128 < level.deviation.largest <= 0.02139),
        (Limits(ratio=0.01, tolerance_mm=20.0), lambda _, level: level.stopped_by_deviation and level.reached),
        (Limits(ratio=0.5, tolerance=50.0), lambda mesh, level: level.mesh.n_faces == mesh.n_faces // 2),
    ],
)
def test_first_limit_that_is_met_stops_it(limits: Limits, holds) -> None:
    mesh = _shaded(bumpy_sphere(40, height=0.3), 180.0)
    level = reduce_mesh(mesh, limits, placement="optimal")
    assert holds(mesh, level), (level.mesh.n_faces, count_engine_vertices(level.mesh), level.deviation)


def test_one_tolerance_means_one_size_of_error_on_different_props() -> None:
    for shape in (bumpy_sphere(30, height=0.05), bumpy_sphere(30, height=0.5), wavy_sheet(40)):
        mesh = _shaded(shape, 180.0)
        level = take_level(
            collapse(mesh, placement="optimal"), Limits(tolerance=0.5), DeviationFrom(mesh), diagonal(mesh)
        )
        assert 0.0025 < level.deviation.largest / diagonal(mesh) <= 0.005


@pytest.mark.parametrize("placement", PLACEMENTS)
@pytest.mark.parametrize("more", [{}, {"ratio": 0.5}])
def test_a_tolerance_that_no_collapse_keeps_leaves_the_mesh_as_it_is(placement: str, more: dict[str, float]) -> None:
    mesh = _shaded(bumpy_sphere(12, height=0.3), 180.0)
    level = reduce_mesh(mesh, Limits(tolerance=1e-6, **more), placement=placement)
    assert level.mesh is mesh
    assert (level.step, level.deviation.largest, level.stopped_by_deviation, level.reached) == (0, 0.0, True, True)


@pytest.mark.parametrize("figures", [{}, {"pixels": 1.0}, {"distance": 3.0}, {"ratio": -1.0}, {"tolerance": np.nan}])
def test_how_far_refuses_what_says_nothing(figures: dict[str, float]) -> None:
    with pytest.raises(ValueError, match=r"how far|belong together"):
        Limits(**figures)


@pytest.mark.parametrize("placement", PLACEMENTS)
def test_far_levels_are_reached_across_seams_and_hard_edges(placement: str) -> None:
    """A sheet cut into many islands: held they keep it heavy, and where they are given up it is told."""
    mesh = _shaded(wavy_sheet(24, islands=8), 10.0)
    sequence = collapse(mesh, placement=placement)
    assert sequence.triangles_at[-1] <= 20
    assert len(sequence.phase_steps) == 2
    assert sequence.triangles_at[sequence.phase_steps[0]] > 10
    for step in _stops(sequence, 0.97, 1.0):
        counts = edge_counts(sequence.level(step).triangles())
        assert max(counts.values()) <= 2


@pytest.mark.parametrize("placement", PLACEMENTS)
def test_locked_borders_and_protected_vertices_stay(placement: str) -> None:
    mesh = _shaded(wavy_sheet(20), 180.0)
    inside = (np.abs(mesh.positions[:, [0, 2]] - 0.5) < 0.15).all(axis=1)
    level = reduce_mesh(mesh, Limits(ratio=0.05), placement=placement, lock_borders=True, locked=inside).mesh
    on_rim = (np.isclose(mesh.positions[:, [0, 2]], 0) | np.isclose(mesh.positions[:, [0, 2]], 1)).any(axis=1)
    left = set(map(tuple, level.positions.tolist()))
    assert {tuple(p) for p in mesh.positions[on_rim | inside].tolist()} <= left
    assert level.n_faces < 0.6 * mesh.n_faces


def test_weights_keep_more_where_they_are_larger() -> None:
    mesh = _shaded(wavy_sheet(40), 180.0)
    left = mesh.positions[:, 0] < 0.5

    def share(weight: np.ndarray) -> float:
        level = reduce_mesh(mesh, Limits(ratio=0.1), weight=weight).mesh
        return float((level.positions[:, 0] < 0.5).mean())

    assert share(np.where(left, 20.0, 1.0)) > share(np.ones(mesh.n_vertices)) + 0.15


def test_outline_and_curvature_tell_the_rim_from_the_middle_and_the_bent_from_the_flat() -> None:
    disc = triangulate(wavy_sheet(30)).mesh
    flat = replace(disc, positions=disc.positions * (1.0, 0.0, 1.0))
    rim = (np.isclose(flat.positions[:, [0, 2]], 0) | np.isclose(flat.positions[:, [0, 2]], 1)).any(axis=1)
    at_rim = outline(flat)
    assert at_rim[rim].min() > at_rim[(np.abs(flat.positions[:, [0, 2]] - 0.5) < 0.2).all(axis=1)].max()
    assert curvature(flat).max() == 0.0
    ball = curvature(_shaded(bumpy_sphere(6, height=0.0)))
    assert 0.1 < ball.min() <= ball.max() <= 1.0


@given(seed=st.integers(0, 500), placement=placements, tilt=st.booleans(), stop=st.floats(0.2, 0.95))
def test_mirrored_levels_are_symmetric_and_closed(seed: int, placement: str, tilt: bool, stop: float) -> None:
    ball = _shaded(bumpy_sphere(12, seed), 180.0)
    rotation = random_rotation(seed) if tilt else np.eye(3)
    mesh = replace(ball, positions=ball.positions @ rotation.T, normals=(ball.normals @ rotation.T).astype(np.float32))
    plane = Plane(rotation[:, 0], 0.05)
    sequence = mirrored_sequence(mesh, plane, {"placement": placement})
    level = sequence.level(round(stop * sequence.n_steps))
    assert set(edge_counts(level.triangles()).values()) == {2}, "the seam is open or non-manifold"
    assert level.n_faces % 2 == 0
    across = cKDTree(level.positions).query(plane.reflect(level.positions))
    assert across[0].max() < 1e-12
    if not tilt:
        exact = {tuple(p) for p in level.positions.tolist()}
        assert len(exact) == level.n_vertices
        off = level.positions[level.positions[:, 0] != 0.05]
        assert (np.abs(off[:, 0] - 0.05) > 0).all()
    # The reflection of every triangle is a triangle that faces the other way round.
    twin = across[1]
    faces = {tuple(sorted(f)) for f in level.triangles().tolist()}
    assert {tuple(sorted(twin[f])) for f in level.triangles().tolist()} == faces
    np.testing.assert_array_equal(sequence.triangles_at[round(stop * sequence.n_steps)], level.n_faces)


def test_mirror_is_found_where_there_is_one() -> None:
    ball = triangulate(bumpy_sphere(14, 3)).mesh
    half = ball.with_faces((ball.positions[ball.triangles()][:, :, 0] > 0.2).all(axis=1))
    flipped = replace(half, positions=half.positions * (-1, 1, 1))
    flipped = replace(flipped, corner_vertex=flipped.triangles()[:, ::-1].reshape(-1).copy())
    both = moved(join(half, flipped), (0.7, 0.0, 0.0))
    plane = find_mirror(both)
    assert plane is not None
    assert abs(plane.normal[0]) == pytest.approx(1.0)
    assert plane.offset * np.sign(plane.normal[0]) == pytest.approx(0.7, abs=1e-6)
    assert find_mirror(half) is None


@given(seed=st.integers(0, 10_000), placement=placements)
def test_dirty_input_ends_and_loses_no_sound_corner(seed: int, placement: str) -> None:
    """Soup with doubled and zero-area faces: no edge becomes non-manifold, indices stay in range."""
    rng = np.random.default_rng(seed)
    points = rng.integers(0, 5, (20, 3)).astype(float)
    mesh = make_triangles(points, rng.integers(0, 20, (60, 3)))
    sequence = collapse(mesh, placement=placement)
    before = edge_counts(_welded(mesh))
    for step in _stops(sequence, 0.5, 1.0):
        level = sequence.level(step)
        assert level.corner_vertex.max(initial=-1) < level.n_vertices
        assert np.isfinite(level.positions).all()
        # Sheets that came apart may come to lie on the same places, each with vertices of its own.
        assert max(edge_counts(level.triangles()).values(), default=0) <= max(*before.values(), 2)


def _welded(mesh: Mesh) -> np.ndarray:
    """Triangles by position: equal points are one vertex, as reduction sees them."""
    return np.unique(mesh.positions, axis=0, return_inverse=True)[1].reshape(-1)[mesh.triangles()]


@pytest.mark.parametrize("placement", PLACEMENTS)
def test_nothing_and_nearly_nothing_are_no_trouble(placement: str) -> None:
    empty = make_triangles(np.zeros((0, 3)), np.zeros((0, 3), int))
    assert collapse(empty, placement=placement).n_steps == 0
    single = make_triangles([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]])
    assert collapse(single, placement=placement).triangles_at[-1] == 1
    flat = make_triangles([[0, 0, 0], [1, 0, 0], [2, 0, 0]], [[0, 1, 2], [0, 0, 1]])
    assert collapse(flat, placement=placement).n_steps == 0
    with pytest.raises(ValueError, match="triangles"):
        collapse(flat_grid(3), placement=placement)


@pytest.mark.parametrize("placement", ["optimal", "original"])
@pytest.mark.parametrize("is_shared", [True, False])
def test_a_front_and_a_back_in_one_place_are_reduced_as_one_alone_is(placement: str, is_shared: bool) -> None:
    """No triangle forms a shell with the one behind it, and the rim does not shrink."""
    front = triangulate(wavy_sheet(24)).mesh
    points, triangles = front.positions * (1.0, 4.0, 1.0), front.triangles()
    alone = make_triangles(points, triangles)
    behind = triangles[:, ::-1] + (0 if is_shared else len(points))
    both = make_triangles(points if is_shared else np.tile(points, (2, 1)), np.concatenate([triangles, behind]))
    ruler = DeviationFrom(alone)
    for share in (0.5, 0.1):
        one, two = (
            sequence.level(sequence.step_of_triangles(int(share * mesh.n_faces)))
            for mesh, sequence in ((mesh, collapse(mesh, placement=placement)) for mesh in (alone, both))
        )
        up = areas(two)[:, 1] > 0
        assert 0.4 < up.mean() < 0.6
        for side in (up, ~up):
            found, wanted = ruler.measure(two.with_faces(np.flatnonzero(side))), ruler.measure(one)
            assert found.mean < 1.5 * wanted.mean
            assert found.largest < 2.5 * wanted.largest


def _leaf(along: int, around: int) -> Mesh:
    """A thin lens, sharp all around its rim."""
    u = np.linspace(0.02, 0.98, along)[:, None]
    angle = 2 * np.pi * np.arange(around) / around
    width = np.sin(np.pi * u) ** 0.7
    points = np.stack(
        [np.broadcast_to(u, (along, around)), 0.004 * width * np.sin(angle), 0.2 * width * np.cos(angle)], axis=2
    )
    i, j = np.meshgrid(np.arange(along - 1), np.arange(around), indexing="ij")
    a, b = i * around + j, i * around + (j + 1) % around
    triangles = np.concatenate([np.stack([a, b, a + around], 2), np.stack([b, b + around, a + around], 2)])
    return make_triangles(points.reshape(-1, 3), triangles.reshape(-1, 3).astype(np.int32))


@pytest.mark.parametrize("placement", PLACEMENTS)
def test_a_thin_leaf_keeps_its_outline(placement: str) -> None:
    leaf = _leaf(60, 24)
    sequence = collapse(leaf, placement=placement)

    def shadow(mesh: Mesh) -> float:
        return float(abs(areas(mesh)[:, 1]).sum())

    for share, least in ((0.5, 0.9999), (0.25, 0.9985), (0.1, 0.996)):
        level = sequence.level(sequence.step_of_triangles(int(share * leaf.n_faces)))
        assert shadow(level) > least * shadow(leaf)
