"""A channel made anew: the whole surface cut into charts, laid flat without a fold or an overlap, and packed."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from plindro.core.errors import InvalidSettings
from plindro.core.mesh.mesh import F32, F64, I32, Mask, Mesh
from plindro.core.packing import Sheet
from plindro.core.unwrap.charts import Charts, cut_charts
from plindro.core.unwrap.joining import JoinLimits
from plindro.core.unwrap.layout import Layout, pack_layout
from plindro.core.unwrap.orienting import orient
from plindro.core.unwrap.projections import Projection, project_charts
from plindro.core.unwrap.soundness import find_spoilt
from plindro.core.unwrap.surface import Surface, read_surface

_ROUNDS = 6
"""How often what rounding has spoilt is cut out and all packed again."""
_THIN = 2e-4
"""Least height of a triangle that is an island of its own, against the root of the whole area: it keeps some area in
single precision."""
_CUT, _PACKED = 0.7, 0.95
Step = Callable[[float, str], None]


@dataclass(frozen=True, slots=True)
class Unwrapped:
    """A channel that was made: UVs (C, 2) float32, how many islands, and pixels a metre."""

    uvs: F32
    islands: int
    pixels_per_metre: float


def unwrap_mesh(
    mesh: Mesh,
    sheet: Sheet,
    step: Step,
    *,
    seams: I32 | None = None,
    n_turns: int = 4,
    projection: Projection | None = None,
    limits: JoinLimits | None = None,
) -> Unwrapped:
    """Unwrap a triangle mesh.

    Parameters
    ----------
    sheet : the texture, and how far islands stay apart
    seams : (S, 2) pairs of vertices whose edges are cut in any case
    n_turns : in how many even turns an island may be packed
    projection : charts by a plain projection; by themselves where there is none

    Raises ``InvalidSettings`` where the islands do not fit, and where nothing has area.
    """
    surface = read_surface(mesh, seams)
    if not len(surface.faces):
        raise InvalidSettings("nothing to unwrap: no triangle has area")

    def cutting(done: float, doing: str) -> None:
        step(_CUT * done, doing)

    if projection is None:
        charts = cut_charts(surface, limits or JoinLimits(), cutting)
    else:
        charts = project_charts(surface, projection, cutting)
    corners = orient(surface, charts) if projection is None else charts.uv
    layout = Layout(corners, charts.chart, charts.count, np.flatnonzero(~charts.glued), surface.areas)
    for _ in range(_ROUNDS):
        uv, density = pack_layout(layout, sheet, n_turns, lambda done: step(_CUT + done * (_PACKED - _CUT), "packing"))
        single = uv.astype(np.float32)
        spoilt = find_spoilt(single, layout.island, layout.count, surface.areas)
        if not spoilt.any():
            break
        layout = _cut_out(surface, charts, layout, spoilt)
    step(1.0, "packing")
    return Unwrapped(_to_corners(mesh, surface, single), layout.count, density)


def _cut_out(surface: Surface, charts: Charts, layout: Layout, spoilt: Mask) -> Layout:
    """The layout with spoilt triangles as islands of their own; what they held together stays one."""
    which = np.flatnonzero(spoilt)
    island, corners = layout.island.copy(), layout.corners.copy()
    island[which] = layout.count + np.arange(len(which))
    flat = surface.flat[which].copy()
    least = _THIN * np.sqrt(surface.areas.sum())
    flat[:, 1, 0] = np.maximum(flat[:, 1, 0], least)
    flat[:, 2, 1] = np.maximum(flat[:, 2, 1], least)
    corners[which] = flat
    charts.glued.reshape(-1, 3)[which] = False
    twin = surface.twin
    charts.glued[(twin >= 0) & spoilt[np.maximum(twin, 0) // 3]] = False
    used, renamed = np.unique(island, return_inverse=True)
    return Layout(corners, renamed.astype(np.int32), len(used), np.flatnonzero(~charts.glued), layout.surface)


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
