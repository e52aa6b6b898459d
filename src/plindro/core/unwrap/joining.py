"""Joining charts where their union can be laid flat: hinged where the seam between them fits, else relaxed together."""

import heapq
from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, I32, I64, Mask
from plindro.core.mesh.topology import find_root, unite
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.unwrap.growing import members_of
from plindro.core.unwrap.rectangles import smallest_rectangle
from plindro.core.unwrap.relaxing import Room, find_distortion, new_room, number_corners, relax
from plindro.core.unwrap.surface import Surface
from plindro.core.uvs.overlap import triangles_overlap
from plindro.core.uvs.sheet import signed_areas

_FITS = 1e-4
"""How far, against its length, a seam may gape where charts are hinged along it without being relaxed."""
_FIRST_TURNS, _HOPELESS = 2, 3.0
"""How often a union is relaxed at first, and how many times more than it may it may be stretched then to go on."""
_LARGE = 512
"""Triangles up to which a union may grow on at once, in the first round; twice as many in each that follows."""
_LONGER = 1.02
"""How many times as long as its charts a union is before it is longer."""
_MOST = 0.35
"""Share of the surface from which on a union may be as long as it comes: what it makes small is little."""
FITTED, RELAXED, REFUSED = 0, 1, 2


@dataclass(frozen=True, slots=True)
class JoinLimits:
    """What a union may be like.

    Attributes
    ----------
    stretch, large : the largest L2 of one that has no more than the share ``small`` of the surface, and of others,
        which count for the whole
    worst : the largest stretch of one of its triangles
    contact : the shared length over the shorter rim that is worth it
    longest : its length against the root of the whole surface, where its charts are shorter: what is longer than the
        sheet makes all others small
    filled : the share of the smallest rectangle that it covers, where its charts do
    gapes : how far, against its length, a seam may gape for a union to be tried
    turns : how often a union is relaxed
    """

    stretch: float = 1.012
    large: float = 1.0018
    small: float = 0.02
    worst: float = 1.6
    contact: float = 0.05
    longest: float = 1.2
    filled: float = 0.55
    gapes: float = 0.25
    turns: int = 6


@helper
def _side_ends(uv, side):  # type: ignore[no-untyped-def]
    t, k = side // 3, side % 3
    j = (k + 1) % 3
    return uv[t, k, 0], uv[t, k, 1], uv[t, j, 0], uv[t, j, 1]


@helper
def _hinge(run, twin, lengths, uv, out):  # type: ignore[no-untyped-def]
    """The turn and shift that bring the far side of a run of sides onto the near one: cosine, sine, x, y; then how
    far it gapes at most, and its length."""
    total, ax, ay, bx, by = 0.0, 0.0, 0.0, 0.0, 0.0
    for side in run:
        w = lengths[side]
        x, y, u, v = _side_ends(uv, side)
        p, q, r, s = _side_ends(uv, twin[side])
        total += 2.0 * w
        ax += w * (x + u)
        ay += w * (y + v)
        bx += w * (p + r)
        by += w * (q + s)
    ax, ay, bx, by = ax / total, ay / total, bx / total, by / total
    cosine, sine = 0.0, 0.0
    for side in run:
        w = lengths[side]
        x, y, u, v = _side_ends(uv, side)
        # The far side runs the other way.
        r, s, p, q = _side_ends(uv, twin[side])
        cosine += w * ((p - bx) * (x - ax) + (q - by) * (y - ay) + (r - bx) * (u - ax) + (s - by) * (v - ay))
        sine += w * ((p - bx) * (y - ay) - (q - by) * (x - ax) + (r - bx) * (v - ay) - (s - by) * (u - ax))
    length = np.sqrt(cosine * cosine + sine * sine)
    cosine, sine = (cosine / length, sine / length) if length > 0.0 else (1.0, 0.0)
    out[0], out[1] = cosine, sine
    out[2], out[3] = ax - (cosine * bx - sine * by), ay - (sine * bx + cosine * by)
    out[4], out[5] = 0.0, 0.5 * total
    for side in run:
        x, y, u, v = _side_ends(uv, side)
        r, s, p, q = _side_ends(uv, twin[side])
        out[4] = max(out[4], _gap(x, y, p, q, out), _gap(u, v, r, s, out))


@helper
def _gap(x, y, p, q, out):  # type: ignore[no-untyped-def]
    dx = out[0] * p - out[1] * q + out[2] - x
    dy = out[1] * p + out[0] * q + out[3] - y
    return np.sqrt(dx * dx + dy * dy)


@kernel
def _try_join(  # type: ignore[no-untyped-def]
    union,
    n_first,
    run,
    shared,
    twin,
    glued,
    cotangents,
    flat,
    areas,
    lengths,
    turns,
    gapes,
    stretch,
    room,
    uv,
    joined,
    out,
):
    """Lay the union of two charts flat, into ``joined`` (N, 3, 2).

    ``union`` the triangles of the first, then of the second; ``run`` sides of the first to glue, ``shared`` all it
    shares with the second: those that come to lie on each other are glued too. Those of the run stay glued, and it is
    for the caller to undo where the union is not taken. ``out`` as ``find_distortion``, then as ``_hinge`` from 5 on.
    """
    _hinge(run, twin, lengths, uv, out[5:])
    cosine, sine, x0, y0, gape, length = out[5], out[6], out[7], out[8], out[9], out[10]
    if gape > gapes * length:
        return REFUSED
    fits = gape <= _FITS * length
    for side in run:
        glued[side] = True
        glued[twin[side]] = True
    for side in shared:
        x, y, u, v = _side_ends(uv, side)
        r, s, p, q = _side_ends(uv, twin[side])
        near = 2.0 * _FITS * lengths[side]
        if _gap(x, y, p, q, out[5:]) <= near and _gap(u, v, r, s, out[5:]) <= near:
            glued[side] = True
            glued[twin[side]] = True
    count = number_corners(union, twin, glued, room)
    for v in range(count):
        room.weight[v] = 0.0
        room.xy[v, 0], room.xy[v, 1] = 0.0, 0.0
    for i in range(len(union)):
        for k in range(3):
            x, y = uv[union[i], k, 0], uv[union[i], k, 1]
            if i >= n_first:
                x, y = cosine * x - sine * y + x0, sine * x + cosine * y + y0
            v = room.local[3 * i + k]
            room.xy[v, 0] += x
            room.xy[v, 1] += y
            room.weight[v] += 1.0
    for v in range(count):
        room.xy[v, 0] /= room.weight[v]
        room.xy[v, 1] /= room.weight[v]
    if not fits:
        relax(union, cotangents, flat, count, _FIRST_TURNS, room)
        find_distortion(union, flat, areas, room, out)
        if out[4] > 0.0 and out[2] * out[1] > (1.0 + _HOPELESS * (stretch * stretch - 1.0)) * out[0] * out[0]:
            return REFUSED
        relax(union, cotangents, flat, count, turns, room)
    find_distortion(union, flat, areas, room, out)
    for i in range(len(union)):
        for k in range(3):
            v = room.local[3 * i + k]
            joined[i, k, 0], joined[i, k, 1] = room.xy[v, 0], room.xy[v, 1]
    return FITTED if fits else RELAXED


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
        # What was refused along a seam is not asked for again when one of the two has grown elsewhere.
        self._refused: set[tuple[int, int]] = set()

    def _sides(self, chart: int, chosen: Mask) -> I64:
        sides = (3 * self._members[chart][:, None] + np.arange(3)).reshape(-1)
        return sides[chosen[sides]]

    def join(self, step: Callable[[float], None]) -> None:
        """Join charts, those first that share most of their rims, until no more unions may be."""
        heap: list[tuple[float, int, int]] = []
        for chart in self._members:
            self._offer(heap, chart, later=True)
        first, tries, large = len(self._members), 0, _LARGE
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
                    step(1.0 - len(self._members) / first)
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
        one, two = self._members[a], self._members[b]
        rim = self._rims[a]
        shared = rim[self.chart[surface.twin[rim] // 3] == b]
        run = self._longest_run(shared)
        if surface.lengths[run].sum() < limits.contact * min(self._around[a], self._around[b]):
            return False
        seam = (int(np.minimum(run, surface.twin[run]).min()), len(run))
        if seam in self._refused:
            return False
        union = np.concatenate([one, two])
        out, joined = self._out, self._joined[: len(union)]
        stretch = self._most_stretch(union)
        kind = _try_join(
            union, len(one), run, shared, surface.twin, self.glued, surface.cotangents, surface.flat, surface.areas,
            surface.lengths, limits.turns, limits.gapes, stretch, self._room, self.uv, joined, out,
        )  # fmt: skip
        if kind != REFUSED and self._is_good(kind, a, b, joined, stretch):
            self._take(a, b, union, joined, shared)
            return True
        self._refused.add(seam)
        self.glued[shared] = False
        self.glued[surface.twin[shared]] = False
        return False

    def _most_stretch(self, union: I64) -> float:
        """How far a union may stretch: what is small counts little for the whole, but is one more island."""
        share = float(self.surface.areas[union].sum()) / self._area
        limits = self.limits
        return limits.stretch if share <= limits.small else limits.large

    def _is_good(self, kind: int, a: int, b: int, joined: F64, stretch: float) -> bool:
        area, flat, sum_, largest, least, *_ = self._out.tolist()
        if least <= 1e-3 or area <= 0.0:
            return False
        scale = np.sqrt(flat / area)
        if kind == RELAXED and (scale * np.sqrt(sum_ / area) > stretch or scale * largest > self.limits.worst):
            return False
        fill, one, two = _fill_of(joined, flat), self._fill(a), self._fill(b)
        if fill.share < self.limits.filled and fill.share < min(one.share, two.share):
            return False
        is_long = fill.long > self.limits.longest * np.sqrt(self._area) and fill.long > _LONGER * max(
            one.long, two.long
        )
        if is_long and area < _MOST * self._area:
            return False
        low, high = joined.min(axis=1), joined.max(axis=1)
        if lies_on_itself(joined, np.argsort(low[:, 0]), low, high):
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

    def numbered(self) -> I32:
        """(T,) the charts, numbered by the first triangle of each."""
        named, first, which = np.unique(self.chart, return_index=True, return_inverse=True)
        rank = np.empty(len(named), np.int32)
        rank[np.argsort(first)] = np.arange(len(named))
        return rank[which]
