"""What a run writes down while it collapses: arrays with room behind them."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F32, F64, I32, I64
from plindro.core.reduction.cuts import Cuts
from plindro.core.reduction.given_up import GivenUp
from plindro.core.reduction.handles import Openings
from plindro.core.reduction.steps import MERGES, NODES, STEPS

_ROOM = 4096
"""Nodes for which there is room at the start of a pass."""
_NODES = ("node_place", "node_values")
_MERGES = ("merge_from", "merge_to", "merge_step")
_STEPS = ("step_distance",)


@dataclass(slots=True)
class Log:
    """What happened: the mean distance where each step happened; per wedge from which node to which at which step;
    what new nodes hold; when each triangle died (-1: never); which features were given up; what cuts made."""

    step_distance: F32
    merge_from: I32
    merge_to: I32
    merge_step: I32
    node_place: F64
    node_values: F64
    died_at: I32
    given_up: GivenUp
    cuts: Cuts

    def make_room(self, counters: I64) -> bool:
        """Room for the nodes and merges of a pass that makes new ones; whether arrays were made anew."""
        has_grown = False
        for names, wanted in ((_NODES, counters[NODES] + _ROOM), (_MERGES, counters[MERGES] + 2 * _ROOM)):
            length = len(getattr(self, names[0]))
            if wanted > length:
                self._grow(names, length + length // 2 + 2 * _ROOM)
                has_grown = True
        return has_grown

    def make_room_for_cuts(self, counters: I64, n_vertices: int, n_wedges: int, *, nodes: int, steps: int) -> None:
        """Room for so many more nodes and steps than so many vertices and wedges would take."""
        self._grow(_NODES, int(counters[NODES]) + nodes + _ROOM)
        self._grow(_MERGES, int(counters[MERGES]) + n_wedges + 3 * nodes)
        self._grow(_STEPS, int(counters[STEPS]) + n_vertices + steps)

    def _grow(self, names: tuple[str, ...], length: int) -> None:
        for name in names:
            values: NDArray[Any] = getattr(self, name)
            if length > len(values):
                room = np.empty((length - len(values), *values.shape[1:]), values.dtype)
                setattr(self, name, np.concatenate([values, room]))


def empty_log(
    n_vertices: int, n_wedges: int, n_triangles: int, n_values: int, openings: Openings | None, *, makes_nodes: bool
) -> Log:
    """A log for so many; where ``makes_nodes`` is not set each wedge goes once and no node comes."""
    n_nodes = 2 * n_wedges + _ROOM if makes_nodes else 0
    n_merges = 3 * n_wedges + 2 * _ROOM if makes_nodes else n_wedges
    return Log(
        step_distance=np.empty(n_vertices, np.float32),
        merge_from=np.empty(n_merges, np.int32),
        merge_to=np.empty(n_merges, np.int32),
        merge_step=np.empty(n_merges, np.int32),
        node_place=np.empty((n_nodes, 3)),
        node_values=np.empty((n_nodes, n_values)),
        died_at=np.full(n_triangles, -1, np.int32),
        given_up=GivenUp(),
        cuts=Cuts(openings),
    )
