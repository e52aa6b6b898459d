"""A channel made anew: the whole surface cut into charts, laid flat without a fold or an overlap, and packed."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from plindro.core.errors import InvalidSettings
from plindro.core.mesh.mesh import F32, F64, I32, Mask, Mesh
from plindro.core.packing import Sheet
from plindro.core.unwrap.charts import cut_charts
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.growing import connected
from plindro.core.unwrap.layout import Layout, layout_of, pack_layout
from plindro.core.unwrap.limits import JoinLimits
from plindro.core.unwrap.projections import Projection, project_charts
from plindro.core.unwrap.soundness import find_spoilt
from plindro.core.unwrap.stacking import stack_equal
from plindro.core.unwrap.strips import bar_strips, find_strips, with_strips
from plindro.core.unwrap.surface import Surface, read_surface, sides_along
from plindro.core.unwrap.wishes import NOTHING, Wishes

_ROUNDS = 6
"""How often what rounding has spoilt is cut out and all packed again."""
_THIN = 2e-4
"""Least height of a triangle that is an island of its own, against the root of the whole area: it keeps some area in
single precision."""
_AGAIN = 0.995
"""Share of the scale at which all is packed again then."""
_CUT, _PACKED = 0.7, 0.95
Step = Callable[[float, str], None]


@dataclass(frozen=True, slots=True)
class Unwrapped:
    """A channel that was made: UVs (C, 2) float32, how many islands, and pixels a metre.

    ``no_strips`` (R,) which edges have no strip of quads that they lie across.
    """

    uvs: F32
    islands: int
    pixels_per_metre: float
    no_strips: Mask


def unwrap_mesh(
    mesh: Mesh,
    sheet: Sheet,
    step: Step,
    *,
    seams: I32 | None = None,
    rungs: I32 | None = None,
    wishes: Wishes = NOTHING,
    n_turns: int = 4,
    projection: Projection | None = None,
    limits: JoinLimits | None = None,
) -> Unwrapped:
    """Unwrap a triangle mesh.

    Parameters
    ----------
    sheet : the texture, and how far islands stay apart
    seams : (S, 2) pairs of vertices whose edges are cut in any case
    rungs : (R, 2) pairs of vertices whose edges lie across strips that come out straight
    n_turns : in how many even turns an island may be packed
    projection : charts by a plain projection; by themselves where there is none

    Raises ``InvalidSettings`` where the islands do not fit, and where nothing has area.
    """
    surface = read_surface(mesh, seams)
    if not len(surface.faces):
        raise InvalidSettings("nothing to unwrap: no triangle has area")

    def cutting(done: float, doing: str) -> None:
        step(_CUT * done, doing)

    strips, found = find_strips(mesh, surface, [] if rungs is None else sides_along(mesh, surface, rungs))
    if strips:
        surface = bar_strips(surface, strips)
    if projection is None:
        charts = cut_charts(surface, limits or JoinLimits(), sheet, n_turns, cutting)
    else:
        charts = project_charts(surface, projection, cutting)
    if strips:
        charts = with_strips(surface, charts, strips)
    layout = layout_of(surface, charts)
    packed = _pack_sound(surface, charts, layout, sheet, step, n_turns, wishes)
    step(1.0, "packing")
    return Unwrapped(_to_corners(mesh, surface, packed.uv), packed.islands, packed.density, ~found)


class _PackedSound(NamedTuple):
    uv: F32
    islands: int
    density: float


def _pack_sound(
    surface: Surface, charts: Charts, layout: Layout, sheet: Sheet, step: Step, n_turns: int, wishes: Wishes
) -> _PackedSound:
    """Islands packed; what rounding has spoilt is cut out, and all packed again."""
    asked, density = wishes.density, 0.0
    for _ in range(_ROUNDS):
        shares = wishes.shares(surface.faces, layout.island, layout.count)
        stacked = layout
        if wishes.stack:
            stacked = stack_equal(layout, shares)
            shares = wishes.shares(surface.faces, stacked.island, stacked.count)
        uv, density = pack_layout(
            stacked, sheet, n_turns, lambda done: step(_CUT + done * (_PACKED - _CUT), "packing"), shares=shares,
            density=asked,
        )  # fmt: skip
        own = np.ones(len(uv), bool) if stacked.double is None else ~stacked.double
        spoilt = np.zeros(len(uv), bool)
        spoilt[own] = find_spoilt(uv[own], stacked.island[own], stacked.count, surface.areas[own])
        if not spoilt.any():
            break
        layout = _cut_out(surface, charts, layout, spoilt)
        # What is cut out is next to nothing: no need to look for the scale again.
        asked = _AGAIN * density if wishes.density is None else asked
    return _PackedSound(uv, layout.count, density)


def _cut_out(surface: Surface, charts: Charts, layout: Layout, spoilt: Mask) -> Layout:
    """The layout with spoilt triangles as islands of their own, and the parts of what only they held together."""
    which = np.flatnonzero(spoilt)
    corners = layout.corners.copy()
    flat = surface.flat[which].copy()
    least = _THIN * np.sqrt(surface.areas.sum())
    flat[:, 1, 0] = np.maximum(flat[:, 1, 0], least)
    flat[:, 2, 1] = np.maximum(flat[:, 2, 1], least)
    corners[which] = flat
    charts.glued.reshape(-1, 3)[which] = False
    twin = surface.twin
    charts.glued[(twin >= 0) & spoilt[np.maximum(twin, 0) // 3]] = False
    island = connected(replace(surface, barred=~charts.glued), layout.island, spoilt)
    count = int(island.max(initial=-1)) + 1
    return Layout(corners, island, count, np.flatnonzero(~charts.glued), layout.surface)


def _to_corners(mesh: Mesh, surface: Surface, uv: F32) -> F32:
    """(C, 2) of all triangles; one without area lies in one point, that of a neighbour where it has one."""
    uvs = np.zeros((mesh.n_faces, 3, 2), np.float32)
    uvs[surface.faces] = uv
    bare = np.ones(mesh.n_faces, bool)
    bare[surface.faces] = False
    if bare.any():
        at: F64 = np.zeros((mesh.n_vertices, 2))
        known = np.zeros(mesh.n_vertices, bool)
        corner = mesh.triangles()
        at[corner[surface.faces].reshape(-1)] = uv.reshape(-1, 2)
        known[corner[surface.faces].reshape(-1)] = True
        of = corner[bare]
        first = of[np.arange(len(of)), np.argmax(known[of], axis=1)]
        uvs[bare] = at[first][:, None].astype(np.float32)
    return uvs.reshape(-1, 2)
