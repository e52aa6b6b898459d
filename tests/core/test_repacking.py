"""Islands of which something is asked: packed anew, in one place, of another density, where they are, straight."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plindro.core.errors import InvalidSettings
from plindro.core.mesh.mesh import F64, I64, Mesh, make_mesh, make_triangles
from plindro.core.packing import Sheet
from plindro.core.polygons import triangulate
from plindro.core.unwrap.inset import inset
from plindro.core.unwrap.repacking import repack
from plindro.core.unwrap.unwrap import unwrap_mesh
from plindro.core.unwrap.wishes import Wishes
from plindro.core.uvs.judge import ChannelFigures, judge_channel
from plindro.core.uvs.sheet import lay_out
from tests.shapes import bumpy_sphere, cube, join, moved, wavy_sheet

PIXELS = 256
SHEET = Sheet(PIXELS, PIXELS, 3, 2)


def _silent(done: float, doing: str) -> None:
    """Progress that nobody watches."""


def _sheets(count: int, mirrored: tuple[int, ...] = (), tilt: float = 0.0) -> Mesh:
    """Flat L-shaped pieces in a row, each laid flat at a scale of its own; some of them mirrored in space."""
    axis = np.arange(4) / 3
    grid = np.array([[x, 0.0, z] for x in axis for z in axis])
    quads = [(i, j) for i in range(3) for j in range(3) if j == 0 or (i == 0 and j < 2)]
    corners = np.array([[4 * i + j, 4 * i + j + 1, 4 * i + j + 5, 4 * i + j + 4] for i, j in quads])
    triangles = np.concatenate([corners[:, [0, 1, 2]], corners[:, [0, 2, 3]]])
    points, uvs, faces = [], [], []
    for k in range(count):
        own = grid * [-1.0 if k in mirrored else 1.0, 1.0, 1.0]
        winding = triangles[:, ::-1] if k in mirrored else triangles
        faces.append(winding + 16 * k)
        points.append(own + [3.0 * k, 0.0, 0.0])
        angle = tilt * k
        turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        uvs.append((own[winding.reshape(-1)][:, [0, 2]] @ turn.T) * 0.1 * (1 + k) + [2.0 * k, 0.0])
    mesh = make_triangles(np.concatenate(points), np.concatenate(faces))
    return replace(mesh, uvs=(np.concatenate(uvs).astype(np.float32),))


def _judged(mesh: Mesh, uvs: F64) -> ChannelFigures:
    return judge_channel(replace(mesh, uvs=(uvs.astype(np.float32),)), 0, PIXELS, 1).whole


def _density(mesh: Mesh, uvs: F64, faces: I64) -> float:
    """Pixels a metre of some triangles."""
    laid = lay_out(replace(mesh, uvs=(uvs.astype(np.float32),)), 0)
    return float(np.sqrt(abs(laid.areas[faces]).sum() / laid.surface[faces].sum())) * PIXELS


@settings(deadline=None, max_examples=8)
@given(count=st.integers(2, 5), tilt=st.floats(0.0, 3.0))
def test_repacked_islands_are_even_apart_and_cut_nowhere(count: int, tilt: float) -> None:
    mesh = _sheets(count, mirrored=(1,), tilt=tilt)
    made = repack(mesh, 0, SHEET, _silent)
    figures = _judged(mesh, made.corners)
    assert (made.islands, made.anew, figures.islands) == (count, 0, count)
    assert (figures.overlap, figures.outside, figures.flipped_islands) == (0.0, 0.0, 0)
    assert figures.gap is not None
    assert figures.gap >= 3
    per_island = [_density(mesh, made.corners, np.arange(8 * k, 8 * k + 8)) for k in range(count)]
    assert np.ptp(per_island) < 0.02 * made.pixels_per_metre
    upwards = np.float32(1.0) - made.corners[:, 1]
    assert (np.float32(1.0) - upwards == made.corners[:, 1]).all()


def test_equal_and_mirrored_islands_lie_in_one_place_when_asked() -> None:
    mesh = _sheets(4, mirrored=(2,), tilt=0.7)
    made = repack(mesh, 0, SHEET, _silent, wishes=Wishes(stack=True))
    at = made.corners.reshape(4, -1, 2)
    first = np.unique(at[0].round(9), axis=0)
    assert all(np.array_equal(np.unique(island.round(9), axis=0), first) for island in at)
    alone = repack(mesh, 0, SHEET, _silent)
    assert made.pixels_per_metre > 1.4 * alone.pixels_per_metre
    figures = _judged(mesh, made.corners)
    assert (figures.islands, figures.overlap) == (4, pytest.approx(1.0))


def test_islands_that_only_look_alike_stay_apart() -> None:
    mesh = _sheets(2)
    bent = mesh.positions.copy()
    bent[16:] *= [1.0, 1.0, 1.05]
    uvs = mesh.uvs[0].copy()
    uvs[24:, 1] *= 1.05
    made = repack(replace(mesh, positions=bent, uvs=(uvs,)), 0, SHEET, _silent, wishes=Wishes(stack=True))
    assert _judged(mesh, made.corners).overlap == 0.0


def test_an_island_gets_the_density_that_it_is_given() -> None:
    mesh = _sheets(3)
    weights = np.ones(mesh.n_faces)
    weights[10] = 2.0
    made = repack(mesh, 0, SHEET, _silent, wishes=Wishes(weights=weights))
    by_island = [_density(mesh, made.corners, np.arange(8 * k, 8 * k + 8)) for k in range(3)]
    assert by_island[1] == pytest.approx(2 * by_island[0], rel=0.01)
    assert by_island[2] == pytest.approx(by_island[0], rel=0.01)


def test_density_is_what_is_asked_where_it_fits_and_else_the_most() -> None:
    for mesh in (_sheets(3), triangulate(cube()).mesh):
        made = unwrap_mesh(mesh, SHEET, _silent, wishes=Wishes(density=20.0))
        assert made.pixels_per_metre == 20.0
        assert _density(mesh, made.uvs.astype(float), np.arange(mesh.n_faces)) == pytest.approx(20.0, rel=0.01)
        most = unwrap_mesh(mesh, SHEET, _silent).pixels_per_metre
        short = unwrap_mesh(mesh, SHEET, _silent, wishes=Wishes(density=10 * most)).pixels_per_metre
        assert short == pytest.approx(most, rel=0.03)


def test_a_locked_island_stays_and_the_others_go_around_it() -> None:
    mesh = _sheets(3)
    uvs = mesh.uvs[0].copy()
    uvs[24:48] = (uvs[24:48] - uvs[24:48].min(axis=0)) * 2.0 + [0.3, 0.3]
    mesh = replace(mesh, uvs=(uvs,))
    made = repack(mesh, 0, SHEET, _silent, wishes=Wishes(locked=np.arange(mesh.n_faces) == 12))
    assert np.array_equal(made.corners[24:48], uvs[24:48].astype(float))
    figures = _judged(mesh, made.corners)
    assert (figures.overlap, figures.islands) == (0.0, 3)
    assert figures.gap is not None
    assert figures.gap >= 3
    everything = repack(mesh, 0, SHEET, _silent, wishes=Wishes(locked=np.ones(mesh.n_faces, bool)))
    assert np.array_equal(everything.corners.astype(np.float32), uvs)


def test_what_cannot_stay_as_it_is_is_cut_anew() -> None:
    mesh = join(_sheets(2), replace(moved(triangulate(cube()).mesh, (0.0, 5.0, 0.0)), uvs=()))
    uvs = np.concatenate([_sheets(2).uvs[0], np.full((36, 2), 0.5, np.float32)])
    made = repack(replace(mesh, uvs=(uvs,)), 0, SHEET, _silent)
    figures = _judged(mesh, made.corners)
    assert made.anew >= 1
    assert (figures.zero_area_triangles, figures.overlap, figures.islands) == (0, 0.0, 2 + made.anew)
    flat = replace(mesh, positions=mesh.positions * 0.0, uvs=(uvs,))
    with pytest.raises(InvalidSettings, match="no triangle has area"):
        repack(flat, 0, SHEET, _silent)


def test_a_strip_of_quads_comes_out_straight() -> None:
    """A bent band of quads: its rungs upright and evenly high, its length that of its middle."""
    n = 12
    angle = np.linspace(0.0, 1.4 * np.pi, n + 1)
    inner, outer = np.column_stack([np.cos(angle), 0 * angle, np.sin(angle)]), 1.5
    points = np.concatenate([inner, inner * outer])
    quads = np.array([[i, i + 1, n + 2 + i, n + 1 + i] for i in range(n)])
    mesh = triangulate(make_mesh(points, 4 * np.arange(n + 1), quads.reshape(-1))).mesh
    rung = np.array([[5, n + 6]], np.int32)
    made = unwrap_mesh(mesh, SHEET, _silent, rungs=rung)
    assert not made.no_strips.any()
    assert made.islands == 1
    at = made.uvs.reshape(-1, 2)
    sides = np.sort([np.ptp(at[:, 0]), np.ptp(at[:, 1])]) * PIXELS / made.pixels_per_metre
    step = angle[1]
    middle = n * 2 * np.sin(step / 2) * (1 + outer) / 2
    assert sides[1] / sides[0] == pytest.approx(middle / (outer - 1), rel=0.02)
    assert all(
        len(np.unique(at[:, k].round(6))) == m for k, m in zip(np.argsort(np.ptp(at, axis=0)), (2, n + 1), strict=True)
    )
    lone = unwrap_mesh(mesh, SHEET, _silent, rungs=np.array([[0, 1]], np.int32))
    assert not lone.no_strips.any(), "along the band each quad is a strip across it"
    triangles = triangulate(bumpy_sphere(6)).mesh
    apart = replace(triangles, face_polygon=np.arange(triangles.n_faces, dtype=np.int32))
    assert unwrap_mesh(apart, SHEET, _silent, rungs=apart.triangles()[:1, :2].astype(np.int32)).no_strips.all()


def test_islands_come_in_by_pixels_and_never_turn_over() -> None:
    mesh = triangulate(wavy_sheet(8)).mesh
    at = mesh.positions[mesh.corner_vertex][:, [0, 2]]
    uvs = ((at - at.min(axis=0)) / np.ptp(at, axis=0) * 0.8 + 0.1).astype(np.float32)
    mesh = replace(mesh, uvs=(uvs,))
    made = inset(mesh, 0, 4, PIXELS)
    assert made.thin == 0
    low, high = made.uvs.min(axis=0), made.uvs.max(axis=0)
    assert np.allclose((low - 0.1) * PIXELS, 4, atol=1e-3)
    assert np.allclose((0.9 - high) * PIXELS, 4, atol=1e-3)
    thin = inset(mesh, 0, 90, PIXELS)
    assert thin.thin == 1
    assert _judged(mesh, thin.uvs.astype(float)).flipped_triangles == 0
