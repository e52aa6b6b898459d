"""Joining charts where their union can be laid flat: hinged where the seam between them fits, else relaxed together."""

import heapq
from collections.abc import Callable, Iterator
from itertools import islice

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from plindro.core.mesh.mesh import F64, I32, I64, Mask
from plindro.core.numeric.groups import find_root, unite
from plindro.core.numeric.kernels import index, kernel
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.growing import members_of
from plindro.core.unwrap.hinging import gape_along
from plindro.core.unwrap.limits import JoinLimits
from plindro.core.unwrap.surface import Surface
from plindro.core.unwrap.unions import Tried, Unions

_LARGE = 512
"""Triangles up to which a union may grow on at once, in the first round; twice as many in each that follows."""
_PARTS = 2
"""How many parts of a seam that gapes as a whole are tried."""


@kernel
def _keep_longest(sides, start, end, lengths, parent, total):  # type: ignore[no-untyped-def]
    """Bring those of the sides to the front that form the longest run of sides that share a point; returns how many.

    ``start`` and ``end`` the points of each side; ``parent`` by point, filled with itself, and so it is left.
    """
    for i in range(len(sides)):
        unite(parent, start[i], end[i])
        total[start[i]] = total[end[i]] = 0.0
    best = index(-1)
    for i in range(len(sides)):
        total[find_root(parent, start[i])] += lengths[sides[i]]
    for i in range(len(sides)):
        root = index(find_root(parent, start[i]))
        if best < 0 or total[root] > total[best] or (total[root] == total[best] and root < best):
            best = root
    n = 0
    for i in range(len(sides)):
        if find_root(parent, start[i]) == best:
            sides[n] = sides[i]
            n += 1
    for i in range(len(sides)):
        parent[start[i]], parent[end[i]] = start[i], end[i]
    return n


@kernel
def _measure_shared(rim, twin, chart, lengths, named, total, place):  # type: ignore[no-untyped-def]
    """Into ``named`` the charts beyond the sides of a rim, into ``total`` the metres shared with each; returns how
    many. ``place`` by chart, filled with -1, and so it is left."""
    n = 0
    for side in rim:
        other = chart[twin[side] // 3]
        if place[other] < 0:
            place[other] = n
            named[n], total[n] = other, 0.0
            n += 1
        total[place[other]] += lengths[side]
    for i in range(n):
        place[named[i]] = -1
    return n


class Joiner:
    """Charts on their way to fewer ones.

    Attributes
    ----------
    chart : (T,) which chart each triangle is of
    unions : the charts as they lie, and what is known of them
    """

    def __init__(self, surface: Surface, chart: I32, glued: Mask, uv: F64, limits: JoinLimits) -> None:
        self.surface, self.chart, self.limits = surface, chart.astype(np.int64), limits
        count = int(chart.max(initial=-1)) + 1
        self.unions = Unions(surface, members_of(chart, count), glued, uv, limits)
        self._out = np.empty(6)
        self._parent = np.arange(len(surface.points), dtype=np.int32)
        self._total = np.empty(max(len(surface.points), 2 * count))
        # Each union takes two charts for a new one.
        self._named, self._place = np.empty(2 * count, np.int64), np.full(2 * count, -1, np.int64)
        outer = (surface.twin >= 0) & ~surface.barred & ~glued
        self._rims = {c: self._sides(c, outer) for c in self.unions.members}
        rim = ~glued
        around = np.bincount(np.repeat(self.chart, 3)[rim], surface.lengths[rim], minlength=count)
        self._around = dict(enumerate(around.tolist()))
        # What was refused along a seam is not asked for again when one of the two has grown elsewhere; what would only
        # have filled its rectangle too little is, once all else is done.
        self._refused: set[tuple[int, int]] = set()
        self._unfilled: set[tuple[int, int]] = set()

    def _sides(self, chart: int, chosen: Mask) -> I64:
        sides = (3 * self.unions.members[chart][:, None] + np.arange(3)).reshape(-1)
        return sides[chosen[sides]]

    def join(self, step: Callable[[float], None]) -> None:
        """Join charts, those first that share most of their rims, until no more unions may be."""
        first = len(self.unions.members)
        self._join_all(lambda: step(1.0 - len(self.unions.members) / first))

    def join_rest(self, step: Callable[[float], None]) -> None:
        """Join on, what fills its rectangle less, and what hangs together by a part of its seam."""
        self.unions.is_last = True
        self._unfilled.clear()
        self.join(step)

    def _join_all(self, step: Callable[[], None]) -> None:
        heap: list[tuple[float, int, int]] = []
        for chart in self.unions.members:
            self._offer(heap, chart, later=True)
        tries, large = 0, _LARGE
        while heap:
            # A large union waits for the next round, so that charts grow alike: one that took in its small neighbours
            # one by one would be relaxed as a whole for each.
            born: list[int] = []
            while heap:
                _, a, b = heapq.heappop(heap)
                if a not in self.unions.members or b not in self.unions.members:
                    continue
                tries += 1
                if tries % 16 == 0:
                    step()
                if self._try(a, b):
                    union = self.unions.newest
                    if len(self.unions.members[union]) > large:
                        born.append(union)
                    else:
                        self._offer(heap, union, later=False)
            large *= 2
            for chart in (chart for chart in born if chart in self.unions.members):
                self._offer(heap, chart, later=False)

    def _offer(self, heap: list[tuple[float, int, int]], chart: int, later: bool) -> None:
        """Put the unions of a chart with its neighbours into the heap; only with later ones where ``later``."""
        rim = self._rims[chart]
        if not len(rim):
            return
        surface, named, total = self.surface, self._named, self._total
        n = _measure_shared(rim, surface.twin, self.chart, surface.lengths, named, total, self._place)
        for other, length in zip(named[:n].tolist(), total[:n].tolist(), strict=True):
            if other == chart or (later and other < chart):
                continue
            contact = length / min(self._around[chart], self._around[other])
            if contact >= self.limits.contact:
                heapq.heappush(heap, (-contact, chart, other))

    def _longest_run(self, shared: I64) -> I64:
        """Of the sides that two charts share, those of the longest connected run."""
        t, k = shared // 3, shared % 3
        start, end = self.surface.corners[t, k], self.surface.corners[t, (k + 1) % 3]
        run = shared.copy()
        return run[: _keep_longest(run, start, end, self.surface.lengths, self._parent, self._total)]

    def _try(self, a: int, b: int) -> bool:
        surface, limits = self.surface, self.limits
        if len(self.unions.members[a]) < len(self.unions.members[b]):
            a, b = b, a
        rim = self._rims[a]
        shared = rim[self.chart[surface.twin[rim] // 3] == b]
        shorter = min(self._around[a], self._around[b])
        run = self._longest_run(shared)
        if surface.lengths[run].sum() >= limits.contact * shorter and self._try_along(a, b, run, shared):
            return True
        if not self.unions.is_last or len(run) == 1:
            return False
        # Along all of it they may gape; along some of it they fit, as a lid does along one side.
        parts = islice(self._parts(run, limits.hinge * shorter), _PARTS)
        return any(self._try_along(a, b, part, shared) for part in parts)

    def _parts(self, run: I64, least: float) -> Iterator[I64]:
        """Of a run of sides the longest half that fits, then such a quarter, and so on down to ``least`` metres."""
        surface, uv = self.surface, self.unions.uv
        run = self._in_order(run)
        count = len(run)
        while count > 1:
            count //= 2
            windows = sliding_window_view(run, count)[:: max(count // 2, 1)]
            fits = np.array([gape_along(part, surface.twin, surface.lengths, uv, self._out) for part in windows])
            lengths = surface.lengths[windows].sum(axis=1)
            if lengths.max() < least:
                return
            worth = np.where(fits <= self.limits.part_gapes, lengths, 0.0)
            if worth.max() >= least:
                yield windows[int(np.argmax(worth))].copy()

    def _in_order(self, run: I64) -> I64:
        """A run's sides one after the other along the rim; where it branches, those of one way through it."""
        t, k = run // 3, run % 3
        start, end = self.surface.corners[t, k], self.surface.corners[t, (k + 1) % 3]
        after = {int(point): i for i, point in enumerate(start)}
        heads = set(start.tolist()) - set(end.tolist())
        at: int | None = after[min(heads)] if heads else 0
        order: list[int] = []
        seen = np.zeros(len(run), bool)
        while at is not None and not seen[at]:
            seen[at] = True
            order.append(at)
            at = after.get(int(end[at]))
        return run[order]

    def _try_along(self, a: int, b: int, run: I64, shared: I64) -> bool:
        """Join two charts along a run of the sides that they share, where their union is good."""
        seam = (int(np.minimum(run, self.surface.twin[run]).min()), len(run))
        if seam in self._refused or seam in self._unfilled:
            return False
        tried = self.unions.attempt(a, b, run, shared)
        if tried == Tried.TAKEN:
            self._take(a, b, shared)
            return True
        (self._unfilled if tried == Tried.UNFILLED else self._refused).add(seam)
        return False

    def _take(self, a: int, b: int, shared: I64) -> None:
        """The union of two charts is the newest."""
        new, glued = self.unions.newest, self.unions.glued
        between = 2.0 * float(self.surface.lengths[shared[glued[shared]]].sum())
        self._around[new] = self._around.pop(a) + self._around.pop(b) - between
        self.chart[self.unions.members[new]] = new
        rims = np.concatenate([self._rims.pop(a), self._rims.pop(b)])
        self._rims[new] = rims[~glued[rims]]

    def charts(self) -> Charts:
        """The charts as they are now, numbered by the first triangle of each."""
        named, first, which = np.unique(self.chart, return_index=True, return_inverse=True)
        rank = np.empty(len(named), np.int32)
        rank[np.argsort(first)] = np.arange(len(named))
        return Charts(rank[which], len(named), self.unions.uv.copy(), self.unions.glued.copy())
