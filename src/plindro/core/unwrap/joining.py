"""Joining charts where their union can be laid flat: hinged where the seam between them fits, else relaxed together."""

import heapq
from collections.abc import Callable, Iterator
from itertools import islice

import numpy as np

from plindro.core.mesh.mesh import F64, I32, I64, Mask
from plindro.core.numeric.groups import find_root, unite
from plindro.core.numeric.kernels import helper, index, kernel
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.growing import sort_by_chart
from plindro.core.unwrap.hinging import gape_along
from plindro.core.unwrap.limits import JoinLimits
from plindro.core.unwrap.room import Room
from plindro.core.unwrap.surface import Surface
from plindro.core.unwrap.unions import Tried, Unions

_LARGE = 512
"""Triangles up to which a union may grow on at once, in the first round; twice as many in each that follows."""
_PARTS = 2
"""How many parts of a seam that gapes as a whole are tried."""


@helper
def _ends(side, corners):  # type: ignore[no-untyped-def]
    """The points at which a side begins and ends."""
    return corners[side // 3, side % 3], corners[side // 3, (side % 3 + 1) % 3]


@kernel
def _find_run(rim, twin, chart, other, corners, lengths, parent, total, shared, run):  # type: ignore[no-untyped-def]
    """Into ``shared`` the sides of a rim that lie at another chart, into ``run`` those of them that form the longest
    run of sides that share a point; returns how many of both, the metres of the run, and its first side of either
    chart.

    ``parent`` by point, filled with itself, and so it is left; ``total`` by point is for it.
    """
    count = index(0)
    for side in rim:
        if chart[twin[side] // 3] == other:
            shared[count] = side
            count += 1
    for i in range(count):
        start, end = _ends(shared[i], corners)
        unite(parent, start, end)
        total[start] = total[end] = 0.0
    for i in range(count):
        total[find_root(parent, _ends(shared[i], corners)[0])] += lengths[shared[i]]
    best = index(-1)
    for i in range(count):
        root = index(find_root(parent, _ends(shared[i], corners)[0]))
        if best < 0 or total[root] > total[best] or (total[root] == total[best] and root < best):
            best = root
    n, first = index(0), index(len(twin))
    for i in range(count):
        side = shared[i]
        if find_root(parent, _ends(side, corners)[0]) == best:
            run[n] = side
            n += 1
            first = min(first, side, index(twin[side]))
    metres = total[best] if count else 0.0
    for i in range(count):
        start, end = _ends(shared[i], corners)
        parent[start], parent[end] = start, end
    return count, n, metres, first


@kernel
def _widest_fit(run, count, stride, twin, lengths, uv, most, out):  # type: ignore[no-untyped-def]
    """Of ``count`` sides of a run one after the other, each ``stride`` sides on, those that are longest and gape by no
    more than ``most``: where they begin, -1 where none do, and their metres; and those of the longest that gape or not.

    ``out`` (6,) is for it.
    """
    best, widest, longest = index(-1), 0.0, 0.0
    for first in range(0, len(run) - count + 1, stride):
        part = run[first : first + count]
        metres = 0.0
        for side in part:
            metres += lengths[side]
        longest = max(longest, metres)
        if metres > widest and gape_along(part, twin, lengths, uv, out) <= most:
            best, widest = index(first), metres
    return best, widest, longest


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

    def __init__(self, surface: Surface, chart: I32, glued: Mask, uv: F64, limits: JoinLimits, room: Room) -> None:
        self.surface, self.chart, self.limits = surface, chart.astype(np.int64), limits
        count = int(chart.max(initial=-1)) + 1
        self.unions = Unions(surface, sort_by_chart(chart, count), glued, uv, limits, room)
        self._out = np.empty(6)
        self._shared, self._run = np.empty((2, len(surface.twin)), np.int64)
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

    def _try(self, a: int, b: int) -> bool:
        surface, limits = self.surface, self.limits
        if len(self.unions.members[a]) < len(self.unions.members[b]):
            a, b = b, a
        rim = self._rims[a]
        count, n, metres, first = _find_run(
            rim, surface.twin, self.chart, b, surface.corners, surface.lengths, self._parent, self._total, self._shared,
            self._run,
        )  # fmt: skip
        shared, run = self._shared[:count], self._run[:n]
        shorter = min(self._around[a], self._around[b])
        if metres >= limits.contact * shorter and self._try_along(a, b, run, shared, (first, n)):
            return True
        if not self.unions.is_last or n == 1:
            return False
        # Along all of it they may gape; along some of it they fit, as a lid does along one side.
        for part in islice(self._parts(run, limits.hinge * shorter), _PARTS):
            first = int(np.minimum(part, surface.twin[part]).min())
            if self._try_along(a, b, part, shared, (first, len(part))):
                return True
        return False

    def _parts(self, run: I64, least: float) -> Iterator[I64]:
        """Of a run of sides the longest half that fits, then such a quarter, and so on down to ``least`` metres."""
        surface, uv = self.surface, self.unions.uv
        run = self._in_order(run)
        count = len(run)
        while count > 1:
            count //= 2
            first, metres, longest = _widest_fit(
                run, count, max(count // 2, 1), surface.twin, surface.lengths, uv, self.limits.part_gapes, self._out
            )
            if longest < least:
                return
            if first >= 0 and metres >= least:
                yield run[first : first + count].copy()

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

    def _try_along(self, a: int, b: int, run: I64, shared: I64, seam: tuple[int, int]) -> bool:
        """Join two charts along a run of the sides that they share, where their union is good; ``seam`` names it by its
        first side and how many it has."""
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
