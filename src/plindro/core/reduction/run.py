"""One run: passes over a shrinking mesh until nothing more can go, all of it written down.

After each pass the shells vanish that cost no more than its collapses did (``shells``).

While features hold, they hold strictly. Where they leave nothing to collapse, or nothing that stays near the surface,
hard edges are given up, then UV and colour seams and material borders, so that far levels are reached. Open borders
hold to the end.
"""

import os
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F32, F64, I32
from plindro.core.reduction.arguments import call
from plindro.core.reduction.costs import MOST_WEDGES, choose, evaluate
from plindro.core.reduction.drift import Drift
from plindro.core.reduction.edges import evaluate_edges
from plindro.core.reduction.features import GONE, LOCKED, find_kinds
from plindro.core.reduction.merge import merge
from plindro.core.reduction.steps import LIVE_TRIANGLES, MERGES, NODES, STAMP, STEPS, close_up
from plindro.core.reduction.sweep import sweep
from plindro.core.reduction.working import Start

SHARE, SMALL_SHARE = 0.5, 0.12
"""Share of the vertices that a pass takes, and where no more than ``SMALL`` are left."""
SMALL = 20_000
FINE, COARSE = 20, 22
"""Bits within which costs count as one: an eighth of an octave, or half an octave where memory is the limit."""
LARGE = 100_000
"""Vertices above which a pass goes in the order of memory rather than of finer costs."""
_IN_TWO = 60_000
"""Vertices above which both cores evaluate."""
_WORTH = 1_000
"""Vertices below which renumbering costs more than it saves."""
_ROOM = 4096
"""Nodes for which there is room at the start of a pass."""
_OF_STATE = (
    "positions", "shading", "quadrics", "wedge_quadrics", "values", "kind", "line", "rim", "cost", "target", "dirty",
    "node",
)  # fmt: skip
_OF_LOG = ("merge_from", "merge_to", "merge_step", "step_distance", "step_died", "node_place", "node_values")
"""Fields that go to the passes under their own names."""
_PHASES = (0.006, 0.02, np.inf)
"""How far, in shares of the diagonal and in the mean, a collapse may go before the next features are given up."""


@dataclass(slots=True)
class Log:
    """What happened: per step how many triangles died, the mean distance where it happened; per wedge from
    which node to which at which step; what new nodes hold; when each triangle died (-1: never); where phases began;
    the steps at which a shell went, with how many triangles."""

    step_distance: F32
    step_died: NDArray[np.uint8]
    merge_from: I32
    merge_to: I32
    merge_step: I32
    node_place: F64
    node_values: F64
    died_at: I32
    phase_steps: list[int]
    shell_steps: list[tuple[int, int]]


class Run:
    """Collapses a state to the end, or to ``least_triangles``.

    ``moves``: vertices move to where the error is least; otherwise they keep their places.
    """

    def __init__(self, start: Start, *, moves: bool, floor: float | None = None, n_threads: int | None = None) -> None:
        state = start.state
        n_vertices, n_wedges, n_triangles = len(state.kind), len(state.node), len(state.name)
        self.state = state
        self._moves = moves
        ordered = start.ordered
        self._floor = -np.inf if floor is None else (floor - ordered.middle[0]) / ordered.scale
        self._has_normals = start.values.has_normals
        self._flat = start.values.first_uv
        self._material = start.material
        self._n_threads = n_threads or os.cpu_count() or 1
        self.counters = np.array([n_triangles, 0, 0, 0, n_wedges], np.int64)
        n_nodes = 2 * n_wedges + _ROOM if moves else 0
        n_merges = 3 * n_wedges + 2 * _ROOM if moves else n_wedges
        n_values = state.values.shape[1]
        self.log = Log(
            step_distance=np.empty(n_vertices, np.float32),
            step_died=np.empty(n_vertices, np.uint8),
            merge_from=np.empty(n_merges, np.int32),
            merge_to=np.empty(n_merges, np.int32),
            merge_step=np.empty(n_merges, np.int32),
            node_place=np.empty((n_nodes, 3)),
            node_values=np.empty((n_nodes, n_values)),
            died_at=np.full(n_triangles, -1, np.int32),
            phase_steps=[],
            shell_steps=[],
        )
        self._shells = start.shells
        self.drift = Drift(state.positions, n_triangles)
        # With nothing to give up there is one phase.
        self._phase = 0 if start.has_inner_features else len(_PHASES) - 1
        self._is_plain = True
        self._is_checked = False
        self._room: dict[str, Any] | None = None
        self._arrays: dict[str, Any] | None = None
        self._numbers = np.arange(max(n_vertices, n_wedges), dtype=np.int32)
        self._into = self._numbers[:n_vertices].copy()
        self._wedge_into = np.arange(n_wedges, dtype=np.int32) if state.has_wedges else self._into
        self._rows = np.zeros((MOST_WEDGES * max(n_values, 1), 5))
        self._counts = np.empty(1 << (31 - FINE), np.int32)

    def to(self, least_triangles: int, on_step: Callable[[float], None] | None = None) -> None:
        """Collapse until this many triangles are left or nothing more can go.

        ``on_step`` receives a fraction in 0..1 after each pass and may raise to stop.
        """
        n_all = max(len(self.log.died_at), 1)
        log_all = np.log(n_all + 1.0)
        with self._helpers() as pool:
            while self.counters[LIVE_TRIANGLES] > least_triangles:
                if not self._pass(least_triangles, pool) and not self._give_up() and not self._end(least_triangles):
                    break
                if on_step:
                    on_step(float(1.0 - np.log(self.counters[LIVE_TRIANGLES] + 1.0) / log_all))
        self.drift.note(self.state, int(self.counters[STEPS]), int(self.counters[LIVE_TRIANGLES]), np.inf)

    @contextmanager
    def _helpers(self) -> Iterator[ThreadPoolExecutor | None]:
        if self._n_threads < 2 or len(self.state.kind) < _IN_TWO:
            yield None
        else:
            with ThreadPoolExecutor(self._n_threads) as pool:
                yield pool

    def _pass(self, least_triangles: int, pool: ThreadPoolExecutor | None) -> bool:
        """Evaluate, choose, collapse, close up; returns whether there was anything to choose from."""
        self._make_room()
        state, counters = self.state, self.counters
        n = len(state.kind)
        into, wedge_into = self._into[:n], self._wedge_into
        named = self._named()
        named.update(into=into, wedge_into=wedge_into, chain=np.full(n, -1, np.int32))
        self._evaluate(pool, named)
        order, limit, step_of = np.empty(n, np.int32), np.zeros(1, np.float32), np.full(n, -1, np.int32)
        shift = COARSE if n > LARGE else FINE
        n_order = choose(
            state.cost, state.kind, n, SMALL_SHARE if n <= SMALL else SHARE, shift, self._counts, limit, order
        )
        if n_order == 0:
            return False
        counters[STAMP] = 0
        named.update(
            n_order=n_order,
            order=order,
            limit=float(limit[0]),
            least_triangles=least_triangles,
            touched=np.zeros(n, np.uint8),
            mark=np.zeros(n, np.int32),
            step_of=step_of,
        )
        call(merge if self._moves else sweep, named, checked=self._is_checked)
        self._is_checked = True
        left = int(
            close_up(
                state.triangles, state.triangle_wedge, state.name, into, wedge_into, step_of, state.has_wedges,
                self.log.died_at,
            )
        )  # fmt: skip
        self.drift.follow(into)
        left = self._vanish(left, float(limit[0]), least_triangles)
        self._shrink(left, float(limit[0]))
        return True

    def _end(self, least_triangles: int) -> bool:
        """Where nothing collapses any more shells go one after the other; False where none may."""
        n_triangles = len(self.state.name)
        left = self._vanish(n_triangles, np.inf, least_triangles)
        self._shrink(left, np.inf)
        return left < n_triangles

    def _vanish(self, left: int, limit: float, least_triangles: int) -> int:
        """Let the shells go whose turn has come among the first ``left`` triangles; returns how many are left then."""
        if self._shells is None:
            return left
        state, counters, log = self.state, self.counters, self.log
        names = state.name[:left]
        shell = self._shells.of_triangle[names]
        counts = np.bincount(shell, minlength=len(self._shells.lives))
        spare = int(counters[LIVE_TRIANGLES]) - least_triangles
        # No further than the surface has moved anywhere: a cheap bolt must not bring the maximum forward.
        reach = np.inf if np.isinf(limit) else min(_furthest(self._phase), self.drift.largest[-1] ** 2)
        gone = self._shells.vanish(counts, limit, reach, spare)
        if not gone:
            return left
        step_of = np.full(len(counts), -1, np.int32)
        for step, (number, squared) in enumerate(gone, int(counters[STEPS])):
            step_of[number] = step
            log.step_distance[step], log.step_died[step] = np.sqrt(squared), 0
            log.shell_steps.append((step, int(counts[number])))
            counters[LIVE_TRIANGLES] -= counts[number]
        counters[STEPS] += len(gone)
        died_at = step_of[shell]
        dies = died_at >= 0
        log.died_at[names[dies]] = died_at[dies]
        vertices = state.triangles[:left][dies].reshape(-1)
        state.kind[vertices], state.cost[vertices], state.target[vertices], state.dirty[vertices] = GONE, np.inf, -1, 0
        stays = np.flatnonzero(~dies)
        for rows in (state.triangles, state.name, *([state.triangle_wedge] if state.has_wedges else [])):
            rows[: len(stays)] = rows[stays]
        self.drift.lose(state.kind)
        return len(stays)

    def _make_room(self) -> None:
        """Let the records of nodes and merges grow; where vertices keep their places they never have to."""
        if not self._moves:
            return
        log = self.log
        if self.counters[NODES] + _ROOM > len(log.node_place):
            for field in ("node_place", "node_values"):
                setattr(log, field, _longer(getattr(log, field)))
            self._arrays = None
        if self.counters[MERGES] + 2 * _ROOM > len(log.merge_from):
            for field in ("merge_from", "merge_to", "merge_step"):
                setattr(log, field, _longer(getattr(log, field)))
            self._arrays = None

    def _named(self) -> dict[str, Any]:
        """The arrays as they stand, under the names of ``arguments``; most of them are the same for many passes."""
        if self._arrays is None:
            self._arrays = self._arrays_of_phase()
        state = self.state
        self._arrays.update(
            start=state.rings.start,
            around=state.rings.around,
            triangle_wedge=state.triangle_wedge.reshape(-1),
            **self._own_scratch(),
        )
        return self._arrays

    def _arrays_of_phase(self) -> dict[str, Any]:
        """What stays until vertices are numbered anew, records grow, or the next phase begins."""
        state, log = self.state, self.log
        return {
            **{field: getattr(state, field) for field in _OF_STATE},
            **{field: getattr(log, field) for field in _OF_LOG},
            "counters": self.counters,
            "furthest": _furthest(self._phase),
            "is_plain": self._is_plain,
            "floor": self._floor,
            "flat": self._flat,
            "has_normals": self._has_normals,
            # With UVs to keep from folding the wedges are asked, however few there are.
            "has_wedges": state.has_wedges or len(state.wedge_quadrics) > 0,
        }

    def _own_scratch(self) -> dict[str, Any]:
        """Scratch of the pass itself, made anew only where the rings have grown."""
        if self._room is None or self._room["ring"].shape[1] < self.state.rings.longest + 2:
            self._room = self._scratch()
        return self._room

    def _scratch(self) -> dict[str, Any]:
        """Room of one thread to work in."""
        longest = self.state.rings.longest + 2
        ring, other_ring = np.empty((2, 3, longest), np.int32)
        wedges = np.empty((2, MOST_WEDGES), np.int32)
        return {
            "ring": ring,
            "other_ring": other_ring,
            "ring_cost": np.empty(longest),
            "went": wedges[0],
            "to": wedges[1],
            "pairs": wedges,
            "rows": np.zeros_like(self._rows),
            "place": np.empty(3),
        }

    def _evaluate(self, pool: ThreadPoolExecutor | None, named: dict[str, Any]) -> None:
        """Renew what is out of date, in shares where there is a pool."""
        n = len(self.state.kind)

        kernel = evaluate_edges if self._moves else evaluate

        def share(bounds: tuple[int, int]) -> None:
            named_here = {**named, **self._scratch(), "first": bounds[0], "last": bounds[1]}
            call(kernel, named_here, checked=self._is_checked)

        if pool is None or n < _IN_TWO:
            named.update(first=0, last=n)
            call(kernel, named, checked=self._is_checked)
            return
        step = -(-n // (4 * self._n_threads))
        for _ in pool.map(share, [(first, min(first + step, n)) for first in range(0, n, step)]):
            pass

    def _shrink(self, left: int, cost: float) -> None:
        """Keep the first triangles, renumber where it pays, list the rings anew."""
        state = self.state
        has_wedges = state.has_wedges
        state.triangles, state.name = state.triangles[:left], state.name[:left]
        state.triangle_wedge = state.triangle_wedge[:left] if has_wedges else state.triangles
        n = len(state.kind)
        if left < 1.1 * n and n > _WORTH:
            state.compact(self.drift.owner)
            self._arrays = None
            n = len(state.kind)
        self._into[:n] = self._numbers[:n]
        if has_wedges:
            self._wedge_into = self._numbers[: len(state.node)].copy()
        else:
            self._wedge_into = self._into
        state.rings.fill(state.triangles, n)
        self.drift.note(state, int(self.counters[STEPS]), left, cost)

    def _give_up(self) -> bool:
        """Go on to the next phase; False where there is none."""
        if self._phase + 1 >= len(_PHASES):
            return False
        self._phase += 1
        self._arrays = None
        self._is_plain = False
        state = self.state
        self.log.phase_steps.append(int(self.counters[STEPS]))
        held = np.arange(3 if self._has_normals else 0, state.values.shape[1], dtype=np.int64)
        if self._phase > 1:
            held = held[:0]
        n, rings = len(state.kind), state.rings
        find_kinds(
            rings.start, rings.around, state.triangle_wedge.reshape(-1), state.values,
            self._material[state.name], held, False, np.full(n, -1, np.int32), np.zeros(n, np.int32), state.kind,
            state.line,
        )  # fmt: skip
        state.kind[state.locked & (state.kind < LOCKED)] = LOCKED
        state.dirty[:] = 1
        return True

    @property
    def n_nodes(self) -> int:
        return int(self.counters[NODES])

    @property
    def n_merges(self) -> int:
        return int(self.counters[MERGES])

    @property
    def n_steps(self) -> int:
        return int(self.counters[STEPS])


def _longer(values: NDArray[Any]) -> NDArray[Any]:
    """The values with half as much room again behind them."""
    room = np.empty((len(values) // 2 + 2 * _ROOM, *values.shape[1:]), values.dtype)
    return np.concatenate([values, room])


def _furthest(phase: int) -> float:
    return float(_PHASES[phase] ** 2)
