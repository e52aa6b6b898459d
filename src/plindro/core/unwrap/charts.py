"""From a surface to charts laid flat: the first ones grown and projected, then joined as far as they go."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from plindro.core.mesh.mesh import F64, I32, Mask
from plindro.core.packing import Sheet
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.growing import Members, glue_within, grow_charts, mean_normals, sort_by_chart
from plindro.core.unwrap.halving import part_overlapping
from plindro.core.unwrap.joining import Joiner
from plindro.core.unwrap.laid import find_overlapping
from plindro.core.unwrap.layout import estimate_density, fits_roughly, layout_of
from plindro.core.unwrap.limits import JoinLimits
from plindro.core.unwrap.orienting import orient
from plindro.core.unwrap.parting import part_costly
from plindro.core.unwrap.relaxing import flatten_charts
from plindro.core.unwrap.room import Room, new_room
from plindro.core.unwrap.surface import Surface

_FIRST_TURNS, _LAST_TURNS = 8, 30
_GROWN, _JOINED, _ALL_JOINED, _RELAXED = 0.1, 0.8, 0.9, 1.0
"""Shares of the work that are done after each step."""


def project(surface: Surface, chart: I32, facing: F64) -> F64:
    """(T, 3, 2) each chart seen from the way it faces (N, 3)."""
    least = np.argmin(abs(facing), axis=1)
    right = np.cross(facing, np.eye(3)[least])
    right /= np.linalg.norm(right, axis=1, keepdims=True)
    up = np.cross(facing, right)
    places = surface.points[surface.corners]
    return np.stack([np.einsum("tkj,tj->tk", places, axis[chart]) for axis in (right, up)], axis=2)


def cut_charts(
    surface: Surface, limits: JoinLimits, sheet: Sheet, n_turns: int, step: Callable[[float, str], None]
) -> Charts:
    """Charts of a surface by itself, upright, as few as pack well into a sheet, each in one of ``n_turns`` turns."""
    step(0.0, "growing charts")
    chart = grow_charts(surface)
    uv = project(surface, chart, mean_normals(surface, chart, int(chart.max(initial=-1)) + 1))
    chart = part_overlapping(surface, chart, uv)
    glued = np.zeros(len(surface.twin), bool)
    glue_within(chart, surface.twin, surface.barred, glued)
    room = new_room(len(chart))
    _flatten(surface, sort_by_chart(chart, int(chart.max(initial=-1)) + 1), glued, uv, _FIRST_TURNS, room)
    step(_GROWN, "joining charts")
    joiner = Joiner(surface, chart, glued, uv, limits, room)
    joiner.join(lambda done: step(_GROWN + done * (_JOINED - _GROWN), "joining charts"))
    charts = part_costly(surface, joiner.charts())
    joiner.join_rest(lambda done: step(_JOINED + done * (_ALL_JOINED - _JOINED), "joining charts"))
    fewer = part_costly(surface, joiner.charts())
    if fewer.count < charts.count:
        # Fewer islands are worth little that makes all of them smaller.
        large = estimate_density(layout_of(surface, _upright(charts)), sheet, n_turns)
        if large == 0.0 or fits_roughly(layout_of(surface, _upright(fewer)), sheet, n_turns, limits.as_large * large):
            charts = fewer
    step(_ALL_JOINED, "laying charts flat")
    _flatten(surface, sort_by_chart(charts.chart, charts.count), charts.glued, charts.uv, _LAST_TURNS, room)
    step(_RELAXED, "laying charts flat")
    return _upright(charts)


def _upright(charts: Charts) -> Charts:
    return replace(charts, uv=orient(charts))


def _flatten(surface: Surface, members: Members, glued: Mask, uv: F64, turns: int, room: Room) -> None:
    """Relax charts where they lie; one that would lie on itself then stays as it was."""
    before = uv.copy()
    flatten_charts(
        members.order, members.first, surface.twin, glued, surface.cotangents, surface.flat, surface.areas, turns, room,
        uv, np.empty(5),
    )  # fmt: skip
    for chart in np.flatnonzero(find_overlapping(members, uv)):
        own = members.order[members.first[chart] : members.first[chart + 1]]
        uv[own] = before[own]
