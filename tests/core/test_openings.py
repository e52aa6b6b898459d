"""Through-holes and small borders that close, sheets that come apart: any count is reached, all levels are sound."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plindro.core.measure.deviation import DeviationFrom
from plindro.core.mesh.mesh import Mesh, make_triangles
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.reduction import Plane, Sequence, Topology, collapse, diagonal, mirrored_sequence
from plindro.core.reduction.shells import shells_of
from plindro.core.report import Report
from plindro.core.scene import Part
from plindro.core.shading.normals import normals_by_angle
from plindro.core.stations.levels import LevelsSettings, LevelTarget, run
from tests.shapes import cube, drilled_block, edge_counts, join, moved, volume, wavy_sheet

placements = st.sampled_from(["optimal", "original"])
PLACEMENTS = ["optimal", "original"]


def _genus(mesh: Mesh) -> float:
    """Handles of a closed surface, over all its shells."""
    triangles = mesh.triangles()
    edges = len(edge_counts(triangles))
    shell, _ = shells_of(triangles, mesh.n_vertices)
    shells = len(np.unique(shell[triangles[:, 0]]))
    return shells - (len(np.unique(triangles)) - edges + len(triangles)) / 2


def _half_edges_once(mesh: Mesh) -> bool:
    """Whether no two triangles run the same way along an edge: oriented, and manifold at its edges."""
    triangles = mesh.triangles()
    half = np.concatenate([triangles[:, [k, (k + 1) % 3]] for k in range(3)])
    return len(np.unique(half, axis=0)) == len(half)


def _pinched(mesh: Mesh) -> int:
    """Vertices around which the triangles are not one fan."""
    triangles, count = mesh.triangles(), 0
    for vertex in np.unique(triangles):
        ring = {}
        for triangle in triangles[(triangles == vertex).any(axis=1)].tolist():
            at = triangle.index(vertex)
            ring[triangle[(at + 1) % 3]] = triangle[(at + 2) % 3]
        begin = next(iter(set(ring) - set(ring.values())), next(iter(ring)))
        at, met = begin, 0
        while at in ring and met < len(ring):
            at, met = ring[at], met + 1
        count += met < len(ring)
    return count


def _counted(sequence: Sequence) -> np.ndarray:
    """How many triangles are there after each step, by when each begins and ends."""
    step = np.arange(sequence.n_steps + 1)[:, None]
    return ((sequence.starts_at[None] <= step) & (sequence.died_at[None] >= step)).sum(axis=1)


def _stops(sequence: Sequence, n: int = 9) -> list[int]:
    """Steps all along the way, and those just before and after something closed."""
    closings = [step + by for step in (*sequence.cut_steps[:3], *sequence.border_steps[:3]) for by in (0, 1)]
    return sorted({int(s) for s in np.linspace(1, sequence.n_steps, n)} | {s for s in closings if s > 0})


def test_the_drilled_block_is_what_the_tests_take_it_for() -> None:
    block = drilled_block(3, 2)
    assert (_genus(block), set(edge_counts(block.triangles()).values())) == (6, {2})
    assert _half_edges_once(block)
    assert volume(block) == pytest.approx(0.3 * (6 - 6 * 2 * np.sqrt(2) * 0.28**2), rel=1e-9)


@given(
    across=st.integers(1, 4), along=st.integers(1, 3), sides=st.sampled_from([4, 8, 12]), placement=placements,
    shaded=st.booleans(), bumps=st.integers(0, 1000),
)  # fmt: skip
@settings(max_examples=25)
def test_every_hole_closes_and_the_surface_stays_whole(
    across: int, along: int, sides: int, placement: str, shaded: bool, bumps: int
) -> None:
    mesh = drilled_block(across, along, sides)
    mesh = replace(
        mesh, positions=mesh.positions + 0.02 * np.random.default_rng(bumps).normal(size=(mesh.n_vertices, 3))
    )
    if shaded:
        mesh = replace(mesh, normals=normals_by_angle(mesh, 40.0))
    sequence = collapse(mesh, placement=placement)
    assert sequence.triangles_at[-1] <= 8, "any count is reached, down to a handful"
    assert len(sequence.cut_steps) <= across * along
    assert (sequence.triangles_at == _counted(sequence)).all(), "what is counted is not what is recorded"
    for step in _stops(sequence):
        level = sequence.level(step)
        assert level.n_faces == sequence.triangles_at[step]
        assert set(edge_counts(level.triangles()).values()) == {2}, "the surface is torn, or four faces meet"
        assert _half_edges_once(level)
        assert _pinched(level) == 0
        assert _genus(level) == across * along - sequence.closed_holes(step), (
            "a cut closes one hole, and nothing else does"
        )
        assert sequence.vertices_at[step] >= len(np.unique(level.triangles()))


@pytest.mark.parametrize("placement", PLACEMENTS)
def test_where_holes_are_kept_none_closes(placement: str) -> None:
    mesh = drilled_block(4, 3)
    kept = collapse(mesh, placement=placement, keep_holes=True)
    assert (kept.cut_steps, kept.border_steps) == ((), ())
    assert _genus(kept.level(kept.n_steps)) == 12
    freed = collapse(mesh, placement=placement)
    assert (len(freed.cut_steps), freed.triangles_at[-1]) == (12, 4)
    assert kept.triangles_at[-1] > 100
    assert (freed.triangles_at[: freed.cut_steps[0]] == kept.triangles_at[: freed.cut_steps[0]]).all(), (
        "until the first hole closes nothing is otherwise"
    )


def test_small_holes_close_before_large_ones() -> None:
    """A block whose holes are small on one side of it."""
    small, large = drilled_block(3, 1, radius=0.06), drilled_block(3, 1, radius=0.4)
    mesh = join(small, moved(large, (0.0, 0.0, 3.0)))
    sequence = collapse(mesh, placement="optimal")
    step = sequence.cut_steps[2] + 1
    level = sequence.level(step)
    shell, _ = shells_of(level.triangles(), level.n_vertices)
    near = level.positions[level.triangles()[:, 0], 2] < 2.0
    parts = [make_triangles(level.positions, level.triangles()[which]) for which in (near, ~near)]
    assert len(np.unique(shell[level.triangles()[:, 0]])) == 2
    assert [_genus(part) for part in parts] == [0, 3], "the three small ones went first"


def test_a_cut_never_parts_the_surface() -> None:
    """Two blocks on a thin neck: the neck is a cycle of three edges too, but no hole."""
    sequence = collapse(drilled_block(2, 1), placement="optimal")
    for step in _stops(sequence, 20):
        shell, _ = shells_of(sequence.level(step).triangles(), sequence.level(step).n_vertices)
        assert len(np.unique(shell[sequence.level(step).triangles()[:, 0]])) == 1


def test_levels_are_the_same_on_one_core_and_on_many() -> None:
    mesh = drilled_block(6, 4, 12)
    one, many = (collapse(mesh, placement="optimal", n_threads=n) for n in (1, 4))
    assert one.cut_steps == many.cut_steps
    for field in ("died_at", "starts_at", "triangle_node", "parent", "node_place"):
        assert (getattr(one, field) == getattr(many, field)).all(), field


def test_original_levels_use_places_of_the_source_also_where_holes_closed() -> None:
    mesh = replace(drilled_block(4, 3), normals=normals_by_angle(drilled_block(4, 3), 40.0))
    sequence = collapse(mesh, placement="original")
    assert len(sequence.cut_steps) == 12
    source = set(map(tuple, mesh.positions.tolist()))
    carried = {tuple(n) for n in mesh.normals.round(4).tolist()}
    for step in _stops(sequence):
        level = sequence.level(step)
        assert set(map(tuple, level.positions.tolist())) <= source
        assert {tuple(n) for n in level.normals.round(4).tolist()} <= carried, "a normal that LOD0 does not have"


def test_materials_and_uvs_run_on_over_what_closes() -> None:
    mesh = drilled_block(3, 3)
    materials = (mesh.positions[mesh.triangles()].mean(axis=1)[:, 0] > 1.5).astype(np.int32)
    uv = mesh.positions[mesh.corner_vertex][:, [0, 2]].astype(np.float32) / 3
    mesh = replace(mesh, face_material=materials, uvs=(uv,))
    sequence = collapse(mesh, placement="optimal")
    level = sequence.level(sequence.step_of_triangles(60))
    assert sequence.closed_holes(sequence.step_of_triangles(60)) > 0
    places = level.positions[level.corner_vertex][:, [0, 2]] / 3
    assert np.abs(level.uvs[0] - places).max() < 0.12, "the texture is where it was"
    sides = level.positions[level.triangles()].mean(axis=1)[:, 0] > 1.5
    area = np.linalg.norm(np.cross(*(np.diff(level.positions[level.triangles()], axis=1).transpose(1, 0, 2))), axis=1)
    assert area[sides != (level.face_material == 1)].sum() < 0.1 * area.sum()


def test_protected_rims_and_locked_borders_stay_open() -> None:
    mesh = drilled_block(2, 1)
    first = mesh.positions[:, 0] < 1.0
    sequence = collapse(mesh, placement="optimal", locked=first)
    assert len(sequence.cut_steps) <= 1
    left = set(map(tuple, sequence.level(sequence.n_steps).positions.tolist()))
    assert {tuple(p) for p in mesh.positions[first].tolist()} <= left
    sheet = _holed_sheet()
    locked = collapse(sheet, placement="optimal", lock_borders=True)
    assert locked.border_steps == ()
    ends = [v for edge, uses in edge_counts(sheet.triangles()).items() if uses == 1 for v in edge]
    assert {tuple(p) for p in sheet.positions[ends].tolist()} <= set(
        map(tuple, locked.level(locked.n_steps).positions.tolist())
    )


def _holed_sheet(islands: int = 3) -> Mesh:
    """A wavy sheet of several islands with five triangles missing from its inside."""
    mesh = triangulate(wavy_sheet(16, islands=islands)).mesh
    middles = mesh.positions[mesh.triangles()].mean(axis=1)[:, [0, 2]]
    gone = [
        int(np.linalg.norm(middles - at, axis=1).argmin()) for at in np.random.default_rng(3).uniform(0.2, 0.8, (5, 2))
    ]
    assert len(set(gone)) == 5
    stays = np.ones(mesh.n_faces, bool)
    stays[gone] = False
    return mesh.with_faces(np.flatnonzero(stays))


@pytest.mark.parametrize("placement", PLACEMENTS)
def test_small_borders_close_but_never_the_last(placement: str) -> None:
    sheet = _holed_sheet()
    sequence = collapse(sheet, placement=placement)
    assert len(sequence.border_steps) == 5
    assert (sequence.triangles_at == _counted(sequence)).all()
    for step in _stops(sequence):
        counts = edge_counts(sequence.level(step).triangles())
        assert max(counts.values()) <= 2
        assert 1 in counts.values(), "the outer border closed"
    assert collapse(sheet, placement=placement, keep_holes=True).border_steps == ()


def test_a_mirrored_prop_closes_its_holes_on_both_sides() -> None:
    mesh = drilled_block(4, 2)
    sequence = mirrored_sequence(mesh, Plane(np.array([1.0, 0.0, 0.0]), 2.0), {"placement": "optimal"})
    assert (sequence.triangles_at == _counted(sequence)).all()
    for step in _stops(sequence):
        level = sequence.level(step)
        assert _genus(level) == 8 - sequence.closed_holes(step)
        low, high = level.bounds()
        assert (low + high)[0] == pytest.approx(4.0, abs=1e-9)


def test_parts_can_be_left_out_of_a_sequence_whose_holes_closed() -> None:
    mesh = join(drilled_block(3, 2), moved(drilled_block(2, 2), (0.0, 2.0, 0.0)))
    second = np.arange(mesh.n_faces) >= drilled_block(3, 2).n_faces
    sequence = collapse(mesh, placement="optimal", keep_shells=True)
    without = sequence.without(second)
    for step in _stops(sequence):
        whole, part = sequence.level(step), without.level(step)
        assert part.n_faces == without.triangles_at[step]
        own = whole.positions[whole.triangles()]
        assert part.n_faces == (own[:, :, 1].max(axis=1) < 1.0).sum()


def _touching_cubes(shift: tuple[float, float, float]) -> Mesh:
    return triangulate(join(cube(), moved(cube(), shift))).mesh


@pytest.mark.parametrize(("shift", "what"), [((1.0, 1.0, 0.0), "an edge"), ((1.0, 1.0, 1.0), "a corner")])
def test_solids_that_touch_come_apart_and_reduce_each_by_itself(shift: tuple[float, float, float], what: str) -> None:
    mesh = _touching_cubes(tuple(np.ptp(cube().positions, axis=0) * shift))
    counts = edge_counts(_welded(mesh).triangles())
    assert max(counts.values()) == (4 if what == "an edge" else 2)
    sequence = collapse(_welded(mesh), placement="optimal", keep_shells=True)
    level = sequence.level(sequence.n_steps)
    assert level.n_faces == 8, "two tetrahedra"
    for step in range(1, sequence.n_steps + 1):
        at = sequence.level(step)
        assert set(edge_counts(at.triangles()).values()) == {2}
        assert _pinched(at) == 0


def _welded(mesh: Mesh) -> Mesh:
    places, number = np.unique(mesh.positions.round(9), axis=0, return_inverse=True)
    return make_triangles(places, number.reshape(-1)[mesh.triangles()].astype(np.int32))


def _cells(filled: np.ndarray) -> Mesh:
    """The surface of unit cells, (X, Y, Z) bool: where four faces meet at an edge they share its two vertices."""
    inside = np.pad(filled, 1)
    quads = []
    for axis in range(3):
        u, v = np.eye(3, dtype=int)[[(axis + 1) % 3, (axis + 2) % 3]]
        for side in (0, 1):
            bare = inside & ~np.roll(inside, 1 - 2 * side, axis)
            corner = np.argwhere(bare) + side * np.eye(3, dtype=int)[axis]
            ring = np.stack([corner, corner + u, corner + u + v, corner + v], axis=1)
            quads.append(ring if side else ring[:, ::-1])
    points, number = np.unique(np.concatenate(quads).reshape(-1, 3), axis=0, return_inverse=True)
    faces = number.reshape(-1, 4)[:, [0, 1, 2, 0, 2, 3]].reshape(-1, 3).astype(np.int32)
    return make_triangles(points.astype(float), faces)


def test_a_sheet_that_comes_back_to_an_edge_holds_nothing() -> None:
    """Two cells that touch along an edge, joined by others above and below: the sheet around both ends of that edge
    meets it twice."""
    filled = np.ones((2, 2, 3), bool)
    filled[0, 1, :] = False
    filled[1, 0, 1] = False
    mesh = _cells(filled)
    assert max(edge_counts(mesh.triangles()).values()) == 4
    sequence = collapse(mesh, placement="optimal")
    assert sequence.triangles_at[-1] <= 4
    level = sequence.level(sequence.step_of_triangles(12))
    assert level.n_faces > 4
    assert set(edge_counts(level.triangles()).values()) == {2}, "no edge is open, none has more than two faces"


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 2**27 - 1), placements)
def test_cells_at_random_reach_any_count(number: int, placement: str) -> None:
    filled = (number >> np.arange(27) & 1).astype(bool).reshape(3, 3, 3)
    if not filled.any():
        return
    mesh = _cells(filled)
    sequence = collapse(mesh, placement=placement)
    assert sequence.triangles_at[-1] <= 4
    assert _half_edges_once(sequence.level(sequence.step_of_triangles(4)))


def test_a_fin_on_a_plate_ends_there_and_the_plate_goes_on() -> None:
    plate = triangulate(wavy_sheet(10)).mesh
    flat = replace(plate, positions=plate.positions * (1.0, 0.0, 1.0))
    along = np.flatnonzero(np.isclose(flat.positions[:, 0], 0.5))
    along = along[np.argsort(flat.positions[along, 2])]
    tips = flat.n_vertices + np.arange(len(along))
    fin = [(a, b, c) for k in range(len(along) - 1) for a, b, c in (
        (along[k], along[k + 1], tips[k + 1]), (along[k], tips[k + 1], tips[k]))]  # fmt: skip
    points = np.concatenate([flat.positions, flat.positions[along] + (0.0, 0.3, 0.0)])
    mesh = make_triangles(points, np.concatenate([flat.triangles(), np.array(fin, np.int32)]))
    assert 3 in edge_counts(mesh.triangles()).values()
    sequence = collapse(mesh, placement="optimal", keep_shells=True)
    level = sequence.level(sequence.step_of_triangles(12))
    assert level.n_faces <= 12
    assert max(edge_counts(level.triangles()).values()) == 2
    assert DeviationFrom(mesh).measure(level).largest < 1e-6 * diagonal(mesh), "both are flat: nothing of them is lost"


def test_features_are_held_until_giving_them_up_costs_less() -> None:
    """Hard edges of a box hold to the last; the seam across its flat side is worth nothing and may go early."""
    mesh = drilled_block(1, 1, 24, radius=0.4)
    mesh = replace(mesh, normals=normals_by_angle(mesh, 40.0))
    sequence = collapse(mesh, placement="optimal")
    rims = sequence.level(sequence.step_of_triangles(mesh.n_faces // 3))
    bends = np.einsum("ij,ij->i", rims.normals[0::3], rims.normals[1::3])
    assert (bends > 0.5).all(), "no normal runs around a hard edge"
    assert sequence.step_of_triangles(mesh.n_faces // 3) <= sequence.held_until


def test_a_level_tells_what_closed_and_a_switch_keeps_it_open() -> None:
    block = drilled_block(6, 4)
    mesh = replace(block, normals=normals_by_angle(block, 40.0))
    prop = Prop("grate", mesh, (Part("grate", "grate"),), ())

    def told(**more: object) -> dict[str, str]:
        report = Report()
        run(prop, LevelsSettings(levels=(LevelTarget(triangles=60),), **more), report)
        return {finding.code: finding.message for finding in report.findings}

    found = told()
    assert found["holes-closed"].startswith("LOD1: ")
    assert found["holes-closed"].endswith(" through-holes closed")
    assert "target-not-reached" not in found
    kept = told(keep_holes=True)
    assert "holes-closed" not in kept
    assert "through-holes keep their last triangles" in kept["target-not-reached"]


def test_one_sentence_tells_shells_holes_and_borders() -> None:
    mesh = join(drilled_block(4, 3), *(moved(cube(), (6.0, 0.0, 0.3 * k), scale=0.01) for k in range(3)))
    mesh = triangulate(mesh).mesh
    sequence = collapse(mesh, placement="optimal")
    found = Topology(mesh).tell(sequence, sequence.step_of_triangles(24), index=2, parts="bolts")
    step = sequence.step_of_triangles(24)
    level = sequence.level(step)
    left = len(np.unique(shells_of(level.triangles(), level.n_vertices)[0][level.triangles()[:, 0]]))
    assert found is not None
    assert (found.code, found.count, found.level) == ("shells-dropped", 4 - left, 2)
    assert found.message.startswith(f"LOD2: {4 - left} shells of up to ")
    assert found.message.endswith(
        f" dropped, with them all of bolts; {sequence.closed_holes(step)} through-holes closed"
    )
    assert Topology(mesh).tell(sequence, 0) is None
