"""Joining charts where their union can be laid flat: hinged where the seam between them fits, else relaxed together."""

import heapq
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import islice
from typing import NamedTuple

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from plindro.core.mesh.mesh import F64, I32, I64, Mask
from plindro.core.mesh.topology import find_root, unite
from plindro.core.numeric.kernels import kernel
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.growing import members_of
from plindro.core.unwrap.hinging import FITTED, REFUSED, gape_along, try_join
from plindro.core.unwrap.rectangles import smallest_rectangle
from plindro.core.unwrap.relaxing import Room, new_room
from plindro.core.unwrap.surface import Surface
from plindro.core.uvs.overlap import triangles_overlap
from plindro.core.uvs.sheet import signed_areas

_LARGE = 512
"""Triangles up to which a union may grow on at once, in the first round; twice as many in each that follows."""
_PARTS = 2
"""How many parts of a seam that gapes as a whole are tried."""
_LONGER = 1.02
"""How many times as long as its charts a union is before it is longer."""
_MOST = 0.35
"""Share of the surface from which on a union may be as long as it comes: what it makes small is little."""


@dataclass(frozen=True, slots=True)
class JoinLimits:
    """What a union may be like.

    Attributes
    ----------
    stretch, large : the largest L2 of one that has no more than the share ``small`` of the surface, and of others,
        which count for the whole
    worst : the largest stretch of one of its triangles
    price : how much more it may be bent for each metre of seam that it spares, bent being squared L2 less one, of the
        area, against the root of the whole area
    contact, hinge : the shared length over the shorter rim that is worth it, and that of one side to hang by
    longest : its length against the root of the whole surface, where its charts are shorter: what is longer than the
        sheet makes all others small
    filled : the share of the smallest rectangle that it covers, where its charts do
    part, little_filled : in the end, one of less than the share ``part`` of the surface needs to cover so much only
    gapes, part_gapes : how far, against its length, a seam may gape for a union to be tried, and a part of it
    as_large : how large islands must come out, against more of them, for the last unions to count
    turns : how often a union is relaxed
    """

    stretch: float = 1.02
    large: float = 1.006
    small: float = 0.05
    worst: float = 1.6
    price: float = 0.001
    contact: float = 0.05
    hinge: float = 0.1
    longest: float = 1.2
    filled: float = 0.55
    part: float = 0.03
    little_filled: float = 0.3
    gapes: float = 0.25
    part_gapes: float = 0.1
    as_large: float = 0.93
    turns: int = 6


@kernel
def lies_on_itself(corners, order, low, high):  # type: ignore[no-untyped-def]
    """Whether two of some triangles (N, 3, 2) that turn left overlap; ``order`` (N,) by their lowest x."""
    for i in range(len(order)):
        t = order[i]
        for j in range(i + 1, len(order)):
            u = order[j]
            if low[u, 0] >= high[t, 0]:
                break
            if low[u, 1] < high[t, 1] and high[u, 1] > low[t, 1] and triangles_overlap(corners, t, 1, u, 1):
                return True
    return False


@kernel
def _runs(start, end, parent, run):  # type: ignore[no-untyped-def]
    """Number runs of sides that share a point; ``parent`` by point, filled with itself."""
    for i in range(len(start)):
        unite(parent, start[i], end[i])
    for i in range(len(start)):
        run[i] = find_root(parent, start[i])


class _Fill(NamedTuple):
    """The share of its smallest rectangle that a chart covers, and how long that is."""

    share: float
    long: float


def _fill_of(corners: F64, area: float) -> _Fill:
    """Of triangles (T, 3, 2) with an area."""
    around = smallest_rectangle(corners.reshape(-1, 2))
    return _Fill(area / around.area if around.area > 0 else 1.0, around.long)


class Joiner:
    """Charts on their way to fewer ones.

    Attributes
    ----------
    chart : (T,) which chart each triangle is of
    glued : (3 T,) sides that are no seams
    uv : (T, 3, 2) metres, each chart for itself
    """

    def __init__(self, surface: Surface, chart: I32, glued: Mask, uv: F64, limits: JoinLimits) -> None:
        self.surface, self.chart, self.glued, self.uv, self.limits = surface, chart.astype(np.int64), glued, uv, limits
        count = int(chart.max(initial=-1)) + 1
        self._area = float(surface.areas.sum())
        self._members = dict(enumerate(members_of(chart, count)))
        self._room: Room = new_room(len(chart), len(chart))
        self._joined = np.empty((len(chart), 3, 2))
        self._out = np.empty(11)
        self._parent = np.arange(len(surface.points), dtype=np.int32)
        outer = (surface.twin >= 0) & ~surface.barred & ~glued
        self._rims = {c: self._sides(c, outer) for c in self._members}
        rim = ~glued
        self._around = np.bincount(np.repeat(self.chart, 3)[rim], surface.lengths[rim], minlength=count).tolist()
        self._filled: dict[int, _Fill] = {}
        self._bent: dict[int, float] = {}
        self._is_last = False
        # What was refused along a seam is not asked for again when one of the two has grown elsewhere; what would only
        # have filled its rectangle too little is, once all else is done.
        self._refused: set[tuple[int, int]] = set()
        self._unfilled: set[tuple[int, int]] = set()

    def _sides(self, chart: int, chosen: Mask) -> I64:
        sides = (3 * self._members[chart][:, None] + np.arange(3)).reshape(-1)
        return sides[chosen[sides]]

    def join(self, step: Callable[[float], None]) -> None:
        """Join charts, those first that share most of their rims, until no more unions may be."""
        first = len(self._members)
        self._join_all(lambda: step(1.0 - len(self._members) / first))

    def join_rest(self, step: Callable[[float], None]) -> None:
        """Join on, what fills its rectangle less, and what hangs together by a part of its seam."""
        self._is_last = True
        self._unfilled.clear()
        self.join(step)

    def _join_all(self, step: Callable[[], None]) -> None:
        heap: list[tuple[float, int, int]] = []
        for chart in self._members:
            self._offer(heap, chart, later=True)
        tries, large = 0, _LARGE
        while heap:
            # A large union waits for the next round, so that charts grow alike: one that took in its small neighbours
            # one by one would be relaxed as a whole for each.
            born: list[int] = []
            while heap:
                _, a, b = heapq.heappop(heap)
                if a not in self._members or b not in self._members:
                    continue
                tries += 1
                if tries % 16 == 0:
                    step()
                if self._try(a, b):
                    union = len(self._around) - 1
                    if len(self._members[union]) > large:
                        born.append(union)
                    else:
                        self._offer(heap, union, later=False)
            large *= 2
            for chart in (chart for chart in born if chart in self._members):
                self._offer(heap, chart, later=False)

    def _offer(self, heap: list[tuple[float, int, int]], chart: int, later: bool) -> None:
        """Put the unions of a chart with its neighbours into the heap; only with later ones where ``later``."""
        rim = self._rims[chart]
        if not len(rim):
            return
        others = self.chart[self.surface.twin[rim] // 3]
        named, which = np.unique(others, return_inverse=True)
        shared = np.bincount(which, self.surface.lengths[rim])
        for other, length in zip(named.tolist(), shared.tolist(), strict=True):
            if other == chart or (later and other < chart):
                continue
            contact = length / min(self._around[chart], self._around[other])
            if contact >= self.limits.contact:
                heapq.heappush(heap, (-contact, chart, other))

    def _longest_run(self, shared: I64) -> I64:
        """Of the sides that two charts share, those of the longest connected run."""
        t, k = shared // 3, shared % 3
        start, end = self.surface.corners[t, k], self.surface.corners[t, (k + 1) % 3]
        run = np.empty(len(shared), np.int64)
        _runs(start, end, self._parent, run)
        self._parent[start], self._parent[end] = start, end
        named, which = np.unique(run, return_inverse=True)
        if len(named) == 1:
            return shared
        lengths = np.bincount(which, self.surface.lengths[shared])
        return shared[which == int(np.argmax(lengths))]

    def _try(self, a: int, b: int) -> bool:
        surface, limits = self.surface, self.limits
        if len(self._members[a]) < len(self._members[b]):
            a, b = b, a
        rim = self._rims[a]
        shared = rim[self.chart[surface.twin[rim] // 3] == b]
        shorter = min(self._around[a], self._around[b])
        run = self._longest_run(shared)
        if surface.lengths[run].sum() >= limits.contact * shorter and self._try_along(a, b, run, shared):
            return True
        if not self._is_last or len(run) == 1:
            return False
        # Along all of it they may gape; along some of it they fit, as a lid does along one side.
        parts = islice(self._parts(run, limits.hinge * shorter), _PARTS)
        return any(self._try_along(a, b, part, shared) for part in parts)

    def _parts(self, run: I64, least: float) -> Iterator[I64]:
        """Of a run of sides the longest half that fits, then such a quarter, and so on down to ``least`` metres."""
        surface, count = self.surface, len(run)
        run = self._in_order(run)
        while count > 1:
            count //= 2
            windows = sliding_window_view(run, count)[:: max(count // 2, 1)]
            fits = np.array([gape_along(part, surface.twin, surface.lengths, self.uv, self._out) for part in windows])
            lengths = surface.lengths[windows].sum(axis=1)
            if lengths.max() < least:
                return
            worth = np.where(fits <= self.limits.part_gapes, lengths, 0.0)
            if worth.max() >= least:
                yield windows[int(np.argmax(worth))].copy()

    def _in_order(self, run: I64) -> I64:
        """A run's sides one after the other along the rim."""
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
        surface, limits = self.surface, self.limits
        one, two = self._members[a], self._members[b]
        seam = (int(np.minimum(run, surface.twin[run]).min()), len(run))
        if seam in self._refused or seam in self._unfilled:
            return False
        union = np.concatenate([one, two])
        out, joined = self._out, self._joined[: len(union)]
        area = float(surface.areas[union].sum())
        stretch = limits.stretch if area <= limits.small * self._area else limits.large
        bent = self._bent.get(a, 0.0) + self._bent.get(b, 0.0)
        worth = limits.price * float(surface.lengths[run].sum()) * np.sqrt(self._area)
        most_bent = min((stretch * stretch - 1.0) * area, bent + worth)
        kind = try_join(
            union, len(one), run, shared, surface.twin, self.glued, surface.cotangents, surface.flat, surface.areas,
            surface.lengths, limits.turns, limits.gapes, bent, most_bent, self._room, self.uv, joined, out,
        )  # fmt: skip
        if kind == REFUSED or not self._is_flat(kind, most_bent):
            self._refused.add(seam)
        elif not self._is_full(a, b, joined):
            self._unfilled.add(seam)
        elif lies_on_itself(joined, np.argsort(joined[:, :, 0].min(axis=1)), joined.min(axis=1), joined.max(axis=1)):
            self._refused.add(seam)
        else:
            self._take(a, b, union, joined, shared)
            return True
        self.glued[shared] = False
        self.glued[surface.twin[shared]] = False
        return False

    def _is_flat(self, kind: int, most_bent: float) -> bool:
        """Whether the union that was tried last is bent no more than it may."""
        area, flat, sum_, largest, least, *_ = self._out.tolist()
        if least <= 1e-3 or area <= 0.0:
            return False
        is_bent = flat / area * sum_ - area > most_bent or np.sqrt(flat / area) * largest > self.limits.worst
        return kind == FITTED or not is_bent

    def _is_full(self, a: int, b: int, joined: F64) -> bool:
        """Whether the union of two charts that was tried last packs well enough."""
        limits, (area, flat) = self.limits, self._out[:2].tolist()
        fill, one, two = _fill_of(joined, flat), self._fill(a), self._fill(b)
        is_little = self._is_last and area < limits.part * self._area
        if fill.share < min(limits.little_filled if is_little else limits.filled, one.share, two.share):
            return False
        is_longer = fill.long > _LONGER * max(one.long, two.long)
        if is_longer and fill.long > limits.longest * np.sqrt(self._area) and area < _MOST * self._area:
            return False
        self._filled[len(self._around)] = fill
        return True

    def _fill(self, chart: int) -> _Fill:
        if chart not in self._filled:
            at = self.uv[self._members[chart]]
            self._filled[chart] = _fill_of(at, float(abs(signed_areas(at)).sum()))
        return self._filled[chart]

    def _take(self, a: int, b: int, union: I64, joined: F64, shared: I64) -> None:
        new = len(self._around)
        area, flat, sum_ = self._out[:3].tolist()
        self._bent[new] = flat / area * sum_ - area
        inside = self.glued[shared]
        between = 2.0 * float(self.surface.lengths[shared[inside]].sum())
        self._around.append(self._around[a] + self._around[b] - between)
        self.uv[union] = joined
        self.chart[union] = new
        self._members[new] = union
        rims = np.concatenate([self._rims[a], self._rims[b]])
        self._rims[new] = rims[~self.glued[rims]]
        for old in (a, b):
            del self._members[old], self._rims[old]

    def charts(self) -> Charts:
        """The charts as they are now, numbered by the first triangle of each."""
        named, first, which = np.unique(self.chart, return_index=True, return_inverse=True)
        rank = np.empty(len(named), np.int32)
        rank[np.argsort(first)] = np.arange(len(named))
        return Charts(rank[which], len(named), self.uv.copy(), self.glued.copy())
