"""Reducing a triangle mesh to one or several counts in a single run.

The levels' vertices are a subset of the source's, with the source's attributes: no UV, normal or colour is made up.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from plindro.core.mesh.mesh import Mesh, drop_unused_vertices
from plindro.core.reduction.collapse import sweep
from plindro.core.reduction.deviation import measure_deviation
from plindro.core.reduction.state import LIVE_TRIANGLES, CollapseInput, build_state

_PATIENCE = 64
"""Sweeps in a row that may collapse nothing, while they correct costs, before the run gives up."""


@dataclass(frozen=True, slots=True)
class Reduced:
    """A reduced mesh; deviations in metres. ``reached`` is False where nothing more could be collapsed."""

    mesh: Mesh
    max_deviation: float
    mean_deviation: float
    reached: bool


def reduce_mesh(
    mesh: Mesh,
    targets: Sequence[int],
    *,
    hold_hard_edges: bool = True,
    on_step: Callable[[float], None] | None = None,
) -> list[Reduced]:
    """Reduce ``mesh`` to each of the falling triangle counts ``targets``.

    Open borders, UV and colour seams and material borders collapse only along themselves, hard edges too where
    ``hold_hard_edges``; their ends and crossings stay. ``on_step`` receives a fraction in 0..1 after each sweep and may
    raise to stop. Raises ``ValueError`` where the mesh is not of triangles or the targets do not fall.
    """
    if any(b >= a for a, b in pairwise(targets)) or any(t < 0 for t in targets):
        raise ValueError(f"targets: expected falling counts, got {list(targets)}")
    if not mesh.n_faces:
        return [Reduced(mesh, 0.0, 0.0, True) for _ in targets]
    work = build_state(mesh, hold_hard_edges=hold_hard_edges)
    counters = work.state.counters
    levels = []
    for target in targets:
        reached = _collapse_to(work, target, mesh.n_faces, on_step)
        levels.append(_snapshot(mesh, work, reached=reached))
        if on_step:
            on_step(1.0 - int(counters[LIVE_TRIANGLES]) / mesh.n_faces)
    return levels


def _collapse_to(work: CollapseInput, target: int, n_source: int, on_step: Callable[[float], None] | None) -> bool:
    """Sweep until ``target``; returns whether it was reached."""
    counters = work.state.counters
    idle = 0
    while counters[LIVE_TRIANGLES] > target and idle < _PATIENCE:
        collapsed = sweep(work.state, target)
        if collapsed < 0:
            break
        idle = 0 if collapsed else idle + 1
        if on_step:
            on_step(1.0 - int(counters[LIVE_TRIANGLES]) / n_source)
    return bool(counters[LIVE_TRIANGLES] <= target)


def _snapshot(mesh: Mesh, work: CollapseInput, *, reached: bool) -> Reduced:
    """The mesh as it stands now."""
    state = work.state
    triangle_vertex = state.corner_vertex.reshape(-1, 3)
    alive = np.flatnonzero(triangle_vertex[:, 0] >= 0)
    corners = work.wedge_corner[state.corner_wedge.reshape(-1, 3)[alive].reshape(-1)]
    level = mesh.with_corners(corners, np.arange(0, 3 * len(alive) + 1, 3), alive)
    worst, mean = measure_deviation(state.positions, triangle_vertex[alive], state.owner)
    return Reduced(drop_unused_vertices(level), worst * work.scale, mean * work.scale, reached)
