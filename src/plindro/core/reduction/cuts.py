"""Through-holes, handles and small borders that close, each at its own cost, in one order with the collapses.

No collapse closes a hole that goes through: the link condition keeps the last triangles of each, and what is asked
beyond that is taken from the shape that remains. A cut along three edges around it takes one handle away; the caps, and
what lined the hole, are ordinary surface then. A cut that would part the surface in two is not made. A border of three
edges closes with a triangle, but for the last of its shell.
"""

from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import I32
from plindro.core.reduction.costs import MOST_WEDGES
from plindro.core.reduction.cutting import BORN, VERTICES, WEDGES, close_loops, cut_cycles
from plindro.core.reduction.cycles import find_cycles, find_loops
from plindro.core.reduction.features import FREE
from plindro.core.reduction.handles import NOBODY, Openings
from plindro.core.reduction.rings import Rings
from plindro.core.reduction.steps import STEPS

if TYPE_CHECKING:
    from plindro.core.reduction.run import Run

_MOST = 4096
"""Cycles that are looked at after one pass."""
_AT_LAST = 4.0
"""Where nothing collapses any more those go that cost no more than so many times the cheapest."""
_ROOM = 3 * MOST_WEDGES
_BY_VERTEX = ("positions", "quadrics", "kind", "line", "locked", "watch", "shell", "cost", "target", "dirty")
_BY_WEDGE = ("shading", "wedge_quadrics", "values", "node")


class Cuts:
    """What the cuts of one run left in the record.

    ``steps``, ``border_steps`` : the steps at which a handle, and at which a border was closed; ``like`` (B,),
    ``nodes`` (B, 3), ``born_at`` (B,) of the triangles that began with one: the source's triangle that each continues,
    its nodes, and the step from which it is there; ``copies`` (C, 4) node, node that it copies, step and number of the
    vertex that it is at.
    """

    def __init__(self, openings: Openings | None) -> None:
        self.steps: list[int] = []
        self.border_steps: list[int] = []
        self.like: I32 = np.zeros(0, np.int32)
        self.nodes: I32 = np.zeros((0, 3), np.int32)
        self.born_at: I32 = np.zeros(0, np.int32)
        self.copies: I32 = np.zeros((0, 4), np.int32)
        self._handles = 0 if openings is None else openings.handles
        self._loops = np.zeros(0, np.int64) if openings is None else openings.loops.copy()
        self._n_vertices = 0

    @property
    def are_left(self) -> bool:
        """Whether anything can still close."""
        return self._handles > 0 or bool((self._loops > 1).any())

    def apply(self, run: "Run", limit: float) -> int:
        """Close what is due on a state whose rings are listed; returns how many openings were closed."""
        cycles, loops = self._due(run, limit)
        if not len(cycles) and not len(loops):
            return 0
        n_closed = self._close(run, cycles, loops)
        if not self._handles:
            run.state.watch[:] = NOBODY
        return n_closed

    def _due(self, run: "Run", limit: float) -> tuple[I32, I32]:
        """(N, 3) the cycles and (M, 3) the borders whose turn has come, the cheapest first."""
        state = run.state
        n, longest = len(state.kind), state.rings.longest + 2
        cycles, prices = np.empty((_MOST, 3), np.int32), np.empty(_MOST)
        loops, loop_prices = np.empty((_MOST, 3), np.int32), np.empty(_MOST)
        stays = state.locked | state.rim if len(state.rim) else state.locked
        surface = (state.rings.start, state.rings.around, state.positions, state.quadrics)
        n_cycles = n_loops = 0
        if self._handles:
            n_cycles = find_cycles(
                state.watch, *surface, stays, np.full(n, -1, np.int32), np.empty(longest, np.int32),
                np.empty(longest, np.int32), cycles, prices,
            )  # fmt: skip
        if (self._loops > 1).any():
            n_loops = find_loops(*surface, state.kind, state.line, stays, state.triangles, loops, loop_prices)
            several = np.flatnonzero(self._loops[state.shell[loops[:n_loops, 0]]] > 1)
            loops, loop_prices, n_loops = loops[several], loop_prices[several], len(several)
        prices, loop_prices = prices[:n_cycles], loop_prices[:n_loops]
        if np.isinf(limit) and n_cycles + n_loops:
            limit = _AT_LAST * float(np.concatenate([prices, loop_prices]).min())
        return (
            _cheapest(cycles, prices, limit)[: self._handles],
            _cheapest(loops, loop_prices, limit),
        )

    def _close(self, run: "Run", cycles: I32, loops: I32) -> int:
        state, log, counters = run.state, run.log, run.counters
        n, n_wedges, n_triangles = len(state.kind), len(state.node), len(state.name)
        n_names, n_copies = len(log.died_at), len(cycles) * 24 + _ROOM if len(cycles) else 0
        has_wedges = state.has_wedges
        log.make_room_for_cuts(counters, n, n_wedges, nodes=n_copies, steps=len(cycles) * 4 + len(loops))
        counters[VERTICES], counters[WEDGES], counters[BORN] = n, n_wedges, 0
        self._make_room(state, 3 * len(cycles) + _ROOM, n_copies, 2 * len(cycles) + len(loops))
        longest = state.rings.longest + 2
        born = len(cycles) * (2 + 3 * MOST_WEDGES) + len(loops)
        like, nodes, born_at = np.empty(born, np.int32), np.empty((born, 3), np.int32), np.empty(born, np.int32)
        copies = np.zeros((1 + n_copies, 4), np.int32)
        touched, made_of = np.zeros(n, np.uint8), np.empty(3 * len(cycles), np.int32)
        first_step = int(counters[STEPS])
        rings, surface = state.rings, (state.triangles, state.triangle_wedge, has_wedges, state.name)
        n_cuts = 0
        if len(cycles):
            n_cuts = int(
                cut_cycles(
                    cycles, rings.start, rings.around, np.full(n, -1, np.int32), np.empty((3, longest), np.int32),
                    np.empty((3, longest), np.int32), np.zeros(n, np.int32), np.empty(n, np.int32),
                    np.empty(n, np.int32), touched, state.dirty, np.empty(MOST_WEDGES, np.int32),
                    np.empty(MOST_WEDGES, np.int32), *surface, n_triangles, n_names, state.positions, state.shading,
                    state.quadrics, state.wedge_quadrics, state.values, state.node, counters, log.node_place,
                    log.node_values, copies, made_of, log.died_at, like, nodes, born_at, log.step_distance, state.watch,
                )
            )  # fmt: skip
        n_closed = 0
        if len(loops):
            n_closed = int(
                close_loops(
                    loops, rings.start, rings.around, state.shell, self._loops, touched, state.dirty,
                    *surface, n_triangles + 2 * n_cuts, n_names, state.node, counters, like, nodes, born_at,
                    log.step_distance,
                )
            )  # fmt: skip
        n_made, made_of = 3 * n_cuts, made_of[: 3 * n_cuts]
        self._handles -= n_cuts
        self._trim(state, n + n_made, int(counters[WEDGES]), n_triangles + 2 * n_cuts + n_closed, has_wedges)
        state.cost[n:], state.target[n:], state.dirty[n:], state.kind[n:] = np.inf, -1, 1, FREE
        state.line[n:], state.locked[n:], state.watch[n:] = -1, False, state.watch[made_of]
        state.shell[n:] = state.shell[made_of]
        state.other.grow(n_made, touched)
        if len(state.rim):
            state.rim[n:] = False
        n_steps = n_cuts + n_closed
        self.steps.extend(range(first_step, first_step + n_cuts))
        self.border_steps.extend(range(first_step + n_cuts, first_step + n_steps))
        n_born = int(counters[BORN])
        self._record(run, like[:n_born], nodes[:n_born], born_at[:n_born], n_names)
        self._record_copies(copies[1 : 1 + copies[0, 0]], n)
        if n_steps:
            run.renumber()
            n = len(state.kind)
            if n + 1 > len(rings.start) or 3 * len(state.triangles) > len(rings.around):
                state.rings = Rings(n, len(state.triangles))
            state.rings.fill(state.triangles, n)
            self._renew_kinds(run, touched, n - n_made)
            run.drift.part(made_of, n - n_made, state)
        return n_steps

    @staticmethod
    def _make_room(state: Any, vertices: int, wedges: int, triangles: int) -> None:
        """Room behind the arrays for what comes."""
        has_wedges = state.has_wedges
        for field in (*_BY_VERTEX, *(["rim"] if len(state.rim) else [])):
            setattr(state, field, _with_room(getattr(state, field), vertices))
        for field in _BY_WEDGE:
            values = getattr(state, field)
            if len(values):
                setattr(state, field, _with_room(values, wedges if has_wedges else vertices))
        state.triangles, state.name = _with_room(state.triangles, triangles), _with_room(state.name, triangles)
        state.triangle_wedge = _with_room(state.triangle_wedge, triangles) if has_wedges else state.triangles

    @staticmethod
    def _trim(state: Any, n: int, n_wedges: int, n_triangles: int, has_wedges: bool) -> None:
        """Cut off the room that was not needed."""
        for field in (*_BY_VERTEX, *(["rim"] if len(state.rim) else [])):
            setattr(state, field, getattr(state, field)[:n])
        for field in _BY_WEDGE:
            values = getattr(state, field)
            if len(values):
                setattr(state, field, values[:n_wedges])
        state.triangles, state.name = state.triangles[:n_triangles], state.name[:n_triangles]
        state.triangle_wedge = state.triangle_wedge[:n_triangles] if has_wedges else state.triangles

    def _record(self, run: "Run", like: I32, nodes: I32, born_at: I32, n_names: int) -> None:
        """New triangles are what those were that they continue."""
        log = run.log
        n_first = n_names - len(self.like)
        for i, name in enumerate(like.tolist()):
            if name >= n_first:
                at = name - n_first
                like[i] = self.like[at] if at < len(self.like) else like[at - len(self.like)]
        self.like = np.concatenate([self.like, like])
        self.nodes = np.concatenate([self.nodes, nodes])
        self.born_at = np.concatenate([self.born_at, born_at])
        log.died_at = np.concatenate([log.died_at, np.full(len(like), -1, np.int32)])
        run.material = np.concatenate([run.material, run.material[like]])
        if run.shells is not None:
            run.shells.of_triangle = np.concatenate([run.shells.of_triangle, run.shells.of_triangle[like]])

    def _record_copies(self, copies: I32, n_old: int) -> None:
        """Vertices of copies are numbered through the whole run."""
        made = copies.copy()
        made[:, 3] += self._n_vertices - n_old
        self._n_vertices += len(np.unique(made[:, 3]))
        self.copies = np.concatenate([self.copies, made])

    @staticmethod
    def _renew_kinds(run: "Run", touched: NDArray[np.uint8], n_old: int) -> None:
        """Kinds and lines where something was cut."""
        state = run.state
        kind, line = run.find_kinds()
        is_near = np.ones(len(state.kind), bool)
        is_near[:n_old] = touched > 0
        state.kind[is_near], state.line[is_near] = kind[is_near], line[is_near]


def _cheapest(cycles: I32, prices: NDArray[np.float64], limit: float) -> I32:
    order = np.argsort(prices, kind="stable")
    due: I32 = cycles[order[prices[order] <= limit]]
    return due


def _with_room(values: NDArray[Any], room: int) -> NDArray[Any]:
    return np.concatenate([values, np.zeros((room, *values.shape[1:]), values.dtype)])
