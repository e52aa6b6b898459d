"""The islands that a channel has, packed anew: nothing is cut but what cannot stay as it is."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from plindro.core.errors import InvalidSettings
from plindro.core.mesh.mesh import F32, I32, I64, Mask, Mesh
from plindro.core.packing import Islands, Sheet
from plindro.core.unwrap.charts import cut_charts
from plindro.core.unwrap.layout import Layout, even_out, layout_of, outlines, pack_layout
from plindro.core.unwrap.limits import JoinLimits
from plindro.core.unwrap.soundness import find_spoilt
from plindro.core.unwrap.stacking import stack_equal
from plindro.core.unwrap.surface import read_surface
from plindro.core.unwrap.wishes import NOTHING, Wishes
from plindro.core.uvs.overlap import measure_overlap
from plindro.core.uvs.sheet import UvSheet, lay_out
from plindro.core.uvs.stretch import find_stretch, stretch_figures

_CUT = 0.3
Step = Callable[[float, str], None]


@dataclass(frozen=True, slots=True)
class Repacked:
    """``corners`` (C, 2) UVs; how many islands, ``anew`` how many of them had to be cut anew; pixels a metre."""

    corners: F32
    islands: int
    anew: int
    pixels_per_metre: float


def _unsound(laid: UvSheet) -> Mask:
    """(N,) islands with a triangle that has no area or faces the other way than most, or that lie on themselves."""
    turns = np.where(laid.surface > 0, laid.turns, 0).astype(np.float64)
    sums = np.bincount(laid.island, turns, minlength=laid.n_islands)
    of = np.bincount(laid.island, laid.surface > 0, minlength=laid.n_islands)
    unsound: Mask = abs(sums) != of
    # Islands moved apart, so that only what lies on itself is met.
    width = float(np.ptp(laid.corners[:, :, 0]).max(initial=0.0)) + 1.0
    apart = laid.corners + np.stack([laid.island * width, np.zeros(len(laid.island))], axis=1)[:, None]
    overlap = measure_overlap(replace(laid, corners=apart))
    unsound[laid.island[overlap.any > 1e-9 * np.maximum(abs(laid.areas), 1e-300)]] = True
    return unsound


def _layout_of(laid: UvSheet, kept: I64) -> Layout:
    """The islands of some triangles. Mirrored ones are mirrored back, and V runs up, so that all turn left."""
    turns = np.bincount(laid.island[kept], laid.turns[kept], minlength=laid.n_islands)
    corners = laid.corners[kept].copy()
    corners[:, :, 1] *= np.where(turns[laid.island[kept]] > 0, 1.0, -1.0)[:, None]
    named, island = np.unique(laid.island[kept], return_inverse=True)
    return Layout(corners, island.astype(np.int32), len(named), _rim(laid, kept), laid.surface[kept])


def _rim(laid: UvSheet, kept: I64) -> I64:
    """Sides of the kept triangles, numbered among these, that no other of them shares."""
    sides = laid.edge.reshape(-1, 3)[kept].reshape(-1)
    rim: I64 = np.flatnonzero(np.bincount(sides, minlength=len(laid.edge))[sides] != 2).astype(np.int64)
    return rim


def _cut_anew(mesh: Mesh, faces: I64, sheet: Sheet, n_turns: int, step: Step) -> tuple[Layout, I64] | None:
    """Triangles as new charts, and which of the mesh's those are that have area."""
    chosen = np.zeros(mesh.n_faces, bool)
    chosen[faces] = True
    surface = read_surface(mesh.with_faces(chosen))
    if not len(surface.faces):
        return None
    charts = cut_charts(surface, JoinLimits(), sheet, n_turns, lambda done, doing: step(_CUT * done, doing))
    return layout_of(surface, charts), np.flatnonzero(chosen)[surface.faces]


def _joined(one: Layout, two: Layout) -> Layout:
    """Two layouts as one; the islands of both in metres."""
    return Layout(
        np.concatenate([even_out(one), even_out(two)]),
        np.concatenate([one.island, two.island + one.count]).astype(np.int32),
        one.count + two.count,
        np.concatenate([one.rim, two.rim + 3 * len(one.island)]),
        np.concatenate([one.surface, two.surface]),
    )


def stretch_of(mesh: Mesh, channel: int) -> float:
    """Sander's L2 stretch of a channel's islands at even density; infinity where they are not sound."""
    laid = lay_out(mesh, channel)
    kept = np.flatnonzero(laid.surface > 0).astype(np.int64)
    if not len(kept) or _unsound(laid)[laid.island[kept]].any():
        return float("inf")
    layout = _layout_of(laid, kept)
    even = replace(laid, corners=even_out(layout), areas=layout.surface, surface=layout.surface)
    figures = stretch_figures(even, find_stretch(mesh.with_faces(kept), even))
    return float("inf") if figures is None else figures.l2


def _locked_outlines(laid: UvSheet, faces: I64, sheet: Sheet) -> Islands | None:
    """Islands that stay where they are, in pixels with V up."""
    if not len(faces):
        return None
    layout = _layout_of(laid, faces)
    at = laid.corners[faces] * [1.0, -1.0] + [0.0, 1.0]
    return outlines(layout, at * [sheet.width, sheet.height])


def repack(
    mesh: Mesh, channel: int, sheet: Sheet, step: Step, *, n_turns: int = 4, wishes: Wishes = NOTHING
) -> Repacked:
    """The islands of a channel side by side at even density. Those that are not sound are cut anew.

    Raises ``InvalidSettings`` where they do not fit, and where nothing has area.
    """
    laid = lay_out(mesh, channel)
    has_area = laid.surface > 0
    unsound = _unsound(laid)
    locked = np.zeros(laid.n_islands, bool)
    if wishes.locked is not None:
        locked[laid.island[wishes.locked & has_area]] = True
    moves = has_area & ~locked[laid.island]
    kept = np.flatnonzero(moves & ~unsound[laid.island]).astype(np.int64)
    layout, faces, n_anew = _layout_of(laid, kept), kept, 0
    anew = _cut_anew(mesh, np.flatnonzero(moves & unsound[laid.island]).astype(np.int64), sheet, n_turns, step)
    if anew is not None:
        layout, faces, n_anew = _joined(layout, anew[0]), np.concatenate([kept, anew[1]]), anew[0].count
    if not len(faces) and locked.any():
        return Repacked(np.array(mesh.uvs[channel], np.float64), int(locked.sum()), 0, 0.0)
    if not len(faces):
        raise InvalidSettings("nothing to pack: no triangle has area")
    shares = wishes.shares(faces, layout.island, layout.count)
    islands = layout.count + int(locked.sum())
    if wishes.stack:
        layout = stack_equal(layout, shares)
        shares = wishes.shares(faces, layout.island, layout.count)
    uv, density = pack_layout(
        layout, sheet, n_turns, lambda done: step(_CUT + done * (1 - _CUT), "packing"), shares=shares,
        density=wishes.density, locked=_locked_outlines(laid, np.flatnonzero(locked[laid.island] & has_area), sheet),
    )  # fmt: skip
    return Repacked(_to_corners(mesh, channel, faces, uv, has_area), islands, n_anew, density)


def _to_corners(mesh: Mesh, channel: int, faces: I64, uv: F32, has_area: Mask) -> F32:
    """(C, 2) of all triangles: what was not moved stays, what has no area lies in one point of what was."""
    uvs = np.array(mesh.uvs[channel], np.float32).reshape(-1, 3, 2)
    uvs[~has_area] = uv[0, 0]
    uvs[faces] = uv
    return uvs.reshape(-1, 2)


def is_spoilt(repacked: Repacked, mesh: Mesh, channel: int) -> bool:
    """Whether rounding to single precision made a triangle of repacked islands unsound."""
    laid = lay_out(mesh, channel)
    kept = np.flatnonzero(laid.surface > 0)
    island: I32 = laid.island[kept]
    single = repacked.corners.reshape(-1, 3, 2)[kept]
    return bool(find_spoilt(single, island, laid.n_islands, laid.surface[kept]).any())
