"""One run: passes over a shrinking mesh until nothing more can go, all of it written down.

Collapses that keep every feature and such as give some up take turns (``offers``). After each pass the shells vanish
and the holes close that cost no more than its collapses did (``shells``, ``cuts``).
"""

import os
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import I32
from plindro.core.reduction.arguments import call
from plindro.core.reduction.costs import MOST_WEDGES, choose, evaluate
from plindro.core.reduction.cutting import N_COUNTERS
from plindro.core.reduction.drift import Drift
from plindro.core.reduction.edges import evaluate_edges
from plindro.core.reduction.features import FREE, GONE, LOCKED, find_kinds
from plindro.core.reduction.log import empty_log
from plindro.core.reduction.merge import merge
from plindro.core.reduction.offers import Offers
from plindro.core.reduction.solving import ROW
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
_ASKED_AGAIN = 1.2
"""How many times more collapses must cost before shells are asked for their price again."""
_OF_STATE = (
    "positions", "shading", "quadrics", "wedge_quadrics", "values", "kind", "line", "rim", "watch", "cost", "target",
    "dirty", "node",
)  # fmt: skip
_OF_LOG = ("merge_from", "merge_to", "merge_step", "step_distance", "node_place", "node_values")
"""Fields that go to the passes under their own names."""


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
        self.material = start.material
        self._n_threads = n_threads or os.cpu_count() or 1
        self.counters = np.zeros(N_COUNTERS, np.int64)
        self.counters[LIVE_TRIANGLES], self.counters[NODES] = n_triangles, n_wedges
        n_values = state.values.shape[1]
        self.log = empty_log(n_vertices, n_wedges, n_triangles, n_values, start.openings, makes_nodes=moves)
        self.shells = start.shells
        self.drift = Drift(state.positions, n_triangles)
        self._offers = Offers(has_features=start.has_inner_features)
        # Until something is given up FREE vertices have one wedge.
        self._is_plain = True
        self._asked = 0.0
        self._is_checked = False
        self._room: dict[str, Any] | None = None
        self._arrays: dict[str, Any] | None = None
        self._number(max(n_vertices, n_wedges))
        self._rows = np.zeros((MOST_WEDGES * max(n_values, 1), ROW))
        self._counts = np.empty(1 << (31 - FINE), np.int32)

    def to(self, least_triangles: int, on_step: Callable[[float], None] | None = None) -> None:
        """Collapse until this many triangles are left or nothing more can go.

        ``on_step`` receives a fraction in 0..1 after each pass and may raise to stop.
        """
        n_all = max(len(self.log.died_at), 1)
        log_all = np.log(n_all + 1.0)
        with self._helpers() as pool:
            while self.counters[LIVE_TRIANGLES] > least_triangles:
                if not (
                    self._pass(least_triangles, pool)
                    or self._turn()
                    or self._let_uvs_fold()
                    or self._cut(np.inf)
                    or self._end(least_triangles)
                ):
                    break
                if on_step:
                    on_step(float(1.0 - np.log(self.counters[LIVE_TRIANGLES] + 1.0) / log_all))
        if self._offers.takes_turns and self._offers.is_loose:
            self.state.other.kind, self.state.kind = self.state.kind, self._kinds_with(0)[0]
            self._note_features(was_loose=True)
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
        if self._moves and self.log.make_room(self.counters):
            self._arrays = None
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
        order = self._offers.within(order[:n_order], state.cost, float(limit[0]))
        if not len(order):
            return False
        limit[0] = min(limit[0], self._offers.cap)
        counters[STAMP] = 0
        named.update(
            n_order=len(order),
            order=order,
            limit=float(limit[0]),
            least_triangles=least_triangles,
            touched=np.zeros(n, np.uint8),
            mark=np.zeros(n, np.int32),
            step_of=step_of,
        )
        call(merge if self._moves else sweep, named, checked=self._is_checked)
        self._is_checked = True
        state.other.dirty |= state.dirty
        left = int(
            close_up(
                state.triangles, state.triangle_wedge, state.name, into, wedge_into, step_of, state.has_wedges,
                self.log.died_at,
            )
        )  # fmt: skip
        self.drift.follow(into)
        counted = self._offers.in_order(float(limit[0]))
        left = self._vanish(left, counted, least_triangles)
        self._shrink(left, counted)
        self._cut(counted)
        return True

    def _let_uvs_fold(self) -> bool:
        """Where nothing goes without a triangle that turns over in its UVs, let them; False where they may already."""
        if self._flat < 0:
            return False
        self._flat = -1
        self._arrays = None
        for offers in (self.state, self.state.other):
            offers.dirty[self.state.kind < GONE] = 1
        return True

    def _end(self, least_triangles: int) -> bool:
        """Where nothing collapses any more shells go one after the other; False where none may."""
        n_triangles = len(self.state.name)
        left = self._vanish(n_triangles, np.inf, least_triangles)
        self._shrink(left, np.inf)
        return left < n_triangles

    def _vanish(self, left: int, limit: float, least_triangles: int) -> int:
        """Let the shells go whose turn has come among the first ``left`` triangles; returns how many are left then."""
        if self.shells is None or limit < _ASKED_AGAIN * self._asked:
            return left
        self._asked = limit if np.isfinite(limit) else self._asked
        state, counters, log = self.state, self.counters, self.log
        names = state.name[:left]
        shell = self.shells.of_triangle[names]
        counts = np.bincount(shell, minlength=len(self.shells.lives))
        spare = int(counters[LIVE_TRIANGLES]) - least_triangles
        # A cheap bolt must not bring the maximum forward.
        reach = np.inf if np.isinf(limit) else self.drift.largest[-1] ** 2
        gone = self.shells.vanish(counts, limit, reach, spare)
        if not gone:
            return left
        step_of = np.full(len(counts), -1, np.int32)
        for step, (number, squared) in enumerate(gone, int(counters[STEPS])):
            step_of[number] = step
            log.step_distance[step] = np.sqrt(squared)
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

    def _cut(self, limit: float) -> bool:
        """Close the through-holes and handles that cost no more than ``limit``; returns whether any was."""
        cuts = self.log.cuts
        if not cuts.are_left:
            return False
        # They grow while cuts are tried.
        self._arrays = None
        return cuts.apply(self, limit) > 0

    def find_kinds(self) -> tuple[NDArray[np.uint8], I32]:
        """Kinds and lines of all vertices as the offers whose turn it is have them."""
        return self._kinds_with(None if self._offers.is_loose else 0)

    def _kinds_with(self, first: int | None) -> tuple[NDArray[np.uint8], I32]:
        """Kinds and lines where the columns of the values from ``first`` on, and materials, are held; None: nothing."""
        state = self.state
        kind = np.where(state.kind == GONE, GONE, FREE).astype(np.uint8)
        line = np.full_like(state.line, -1)
        n_values = state.values.shape[1]
        held = np.arange(n_values if first is None else first, n_values, dtype=np.int64)
        n, rings = len(kind), state.rings
        find_kinds(
            rings.start, rings.around, state.triangle_wedge.reshape(-1), state.values, self.material[state.name], held,
            first is not None, np.full(n, -1, np.int32), np.zeros(n, np.int32), kind, line,
        )  # fmt: skip
        kind[state.locked & (kind < LOCKED)] = LOCKED
        return kind, line

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
            # What lies on a mirror's plane stays there.
            "lines_move": len(state.wedge_quadrics) == 0 and len(state.rim) == 0,
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
            "axes": np.empty((2, 3)),
            "place": np.empty(5),
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
        self.renumber()
        state.rings.fill(state.triangles, n)
        self.drift.note(state, int(self.counters[STEPS]), left, cost)

    def _number(self, count: int) -> None:
        """Room for the names of so many vertices and wedges."""
        self._numbers = np.arange(count, dtype=np.int32)
        self._into = self._numbers.copy()
        self.renumber()

    def renumber(self) -> None:
        """Every vertex and every wedge is its own again."""
        state = self.state
        n = len(state.kind)
        if max(n, len(state.node)) > len(self._numbers):
            return self._number(max(n, len(state.node)))
        self._into[:n] = self._numbers[:n]
        self._wedge_into = self._numbers[: len(state.node)].copy() if state.has_wedges else self._into
        return None

    def _turn(self) -> bool:
        """Let the other offers have their turn; False where there are none left."""
        was_loose = self._offers.is_loose
        if not self._offers.turn():
            return False
        self._arrays = None
        self._is_plain = False
        self.state.take_turns(self.find_kinds)
        self._note_features(was_loose)
        return True

    def _note_features(self, was_loose: bool) -> None:
        """A loose turn begins, or it ends and what it took off features is written down."""
        given_up, state = self.log.given_up, self.state
        if given_up.is_known:
            return
        strict, loose = (state.kind, state.other.kind) if was_loose else (state.other.kind, state.kind)
        seams = self._kinds_with(3)[0] if self._has_normals else strict
        alive = state.kind < GONE
        counts = np.array([(alive & (kind > loose)).sum() for kind in (strict, seams)])
        if was_loose:
            given_up.end(counts)
        else:
            given_up.begin(int(self.counters[STEPS]), counts)

    @property
    def n_nodes(self) -> int:
        return int(self.counters[NODES])

    @property
    def n_merges(self) -> int:
        return int(self.counters[MERGES])

    @property
    def n_steps(self) -> int:
        return int(self.counters[STEPS])
