"""Charts as they lie, and whether two of them lie well as one."""

from enum import Enum
from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, I64, Mask
from plindro.core.unwrap.distortion import measure_chart
from plindro.core.unwrap.growing import Members
from plindro.core.unwrap.hinging import BENT, RELAXED, gape_along, try_join
from plindro.core.unwrap.laid import Fill, Laid, fill_of, lies_on_itself, measure_charts
from plindro.core.unwrap.limits import JoinLimits
from plindro.core.unwrap.patches import gather_near, gather_others
from plindro.core.unwrap.rectangles import convex_hull
from plindro.core.unwrap.room import Room
from plindro.core.unwrap.surface import Surface

_LEAST_PARTED, _PATCHED, _LEAST_PATCH = 512, 8, 256
"""A chart of so many triangles, and so many times more than the one that joins it, gives way around their seam only:
so many triangles of it, and so many times more than those of the other."""
_ANEW = 64
"""How often such a chart is tried as a whole where, moved around the seam, it lies on itself."""
_LONGER = 1.02
"""How many times as long as its charts a union is before it is longer."""
_MOST = 0.35
"""Share of the surface from which on a union may be as long as it comes: what it makes small is little."""


class Union(NamedTuple):
    """Two charts that are tried: the triangles that are laid anew, how many are of the first, whether that is a patch
    of it, and then how that lies."""

    moved: I64
    n_first: int
    is_patch: bool
    near: Laid


class Tried(Enum):
    TAKEN, GAPES, BENT, UNFILLED, COVERED = range(5)


class Unions:
    """Charts that become fewer.

    Attributes
    ----------
    members : the triangles of each chart
    newest : the chart that came last
    glued : (3 T,) sides that are no seams
    uv : (T, 3, 2) metres, each chart for itself
    is_last : whether small charts need fill little
    """

    def __init__(
        self, surface: Surface, members: Members, glued: Mask, uv: F64, limits: JoinLimits, room: Room
    ) -> None:
        self.surface, self.glued, self.uv, self.limits = surface, glued, uv, limits
        self.members = dict(enumerate(members.apart()))
        self.newest = len(self.members) - 1
        self.is_last = False
        count = len(surface.areas)
        self._area = float(surface.areas.sum())
        self._side = float(np.sqrt(self._area))
        self._room = room
        self._joined = np.empty((count, 3, 2))
        self._out = np.empty(11)
        self._near, self._mark, self._stamp = np.empty(count, np.int64), np.zeros(count, np.int64), 0
        laid, filled = measure_charts(members, uv, surface.flat, surface.areas)
        self._laid, self._filled = dict(enumerate(laid)), dict(enumerate(filled))
        self._hulls: dict[int, F64] = {}
        self._bent: dict[int, float] = {}
        self._anew: dict[int, int] = {}

    def attempt(self, a: int, b: int, run: I64, shared: I64) -> Tried:
        """Join the larger chart ``a`` and ``b`` along a run of the sides that they share, where their union is good."""
        surface = self.surface
        if gape_along(run, surface.twin, surface.lengths, self.uv, self._out) > self.limits.gapes:
            return Tried.GAPES
        union = self._patch(a, b, shared) or self._whole(a, b)
        tried = self._attempt(a, b, run, shared, union)
        anew = self._anew.get(a, 0)
        if tried == Tried.COVERED and union.is_patch and anew < _ANEW:
            # What lies on its neighbours there may not where all of it gives way a little. What is bent too much
            # around the seam stays so: of 55 of 23 meshes none was taken as a whole.
            self._unglue(shared)
            tried = self._attempt(a, b, run, shared, self._whole(a, b))
            self._anew[a] = anew = anew + 1
        if tried == Tried.TAKEN:
            self._anew[self.newest] = anew
        else:
            self._unglue(shared)
        return tried

    def _unglue(self, sides: I64) -> None:
        self.glued[sides] = False
        self.glued[self.surface.twin[sides]] = False

    def _attempt(self, a: int, b: int, run: I64, shared: I64, union: Union) -> Tried:
        """Lay a union flat along a run of sides, and take it where it is good; sides may stay glued where it is not."""
        surface, limits = self.surface, self.limits
        joined = self._joined[: len(union.moved)]
        area = self._laid[a].area + self._laid[b].area
        stretch = limits.stretch if area <= limits.small * self._area else limits.large
        bent = self._bent.get(a, 0.0) + self._bent.get(b, 0.0)
        worth = limits.price * float(surface.lengths[run].sum()) * self._side
        most_bent = min((stretch * stretch - 1.0) * area, bent + worth)
        # What of the first stays as it lies is bent no more for the second.
        still = self._bent.get(a, 0.0) - union.near.bent if union.is_patch else 0.0
        kind = try_join(
            union.moved, union.n_first, run, shared, surface.twin, self.glued, surface.cotangents, surface.flat,
            surface.areas, surface.lengths, limits.turns, bent - still, most_bent - still, self._room,
            self.uv, joined, self._out,
        )  # fmt: skip
        if kind == BENT or self._out[4] <= 1e-3:
            return Tried.BENT
        laid = self._laid_as(a, union)
        if kind == RELAXED and (laid.bent > most_bent or laid.stretch > limits.worst):
            return Tried.BENT
        points = joined.reshape(-1, 2)
        if union.is_patch:
            points = np.concatenate([self._hull(a), points])
        fill = fill_of(points, laid.flat)
        if not self._is_full(a, b, laid, fill):
            return Tried.UNFILLED
        if self._lies_on_itself(a, union, joined):
            return Tried.COVERED
        self._take(a, b, union.moved, laid, joined)
        self._filled[self.newest] = fill
        if union.is_patch:
            self._hulls[self.newest] = convex_hull(points)
        return Tried.TAKEN

    def _whole(self, a: int, b: int) -> Union:
        one, two = self.members[a], self.members[b]
        return Union(np.concatenate([one, two]), len(one), False, Laid(0.0, 0.0, 0.0, 0.0))

    def _patch(self, a: int, b: int, shared: I64) -> Union | None:
        """Of a large chart what lies around the sides that it shares with a small one; None where they are alike."""
        one, two = self.members[a], self.members[b]
        if len(one) <= max(_LEAST_PARTED, _PATCHED * len(two)):
            return None
        self._stamp += 1
        most = _LEAST_PATCH + _PATCHED * len(two)
        count = gather_near(shared, self.surface.twin, self.glued, most, self._mark, self._stamp, self._near)
        near = self._near[:count].copy()
        return Union(np.concatenate([near, two]), count, True, self._measured(near))

    def _measured(self, triangles: I64) -> Laid:
        out = np.empty(5)
        measure_chart(triangles, self.uv, self.surface.flat, self.surface.areas, out)
        return Laid(*out[:4].tolist())

    def _laid_as(self, a: int, union: Union) -> Laid:
        """The whole union as it was tried last."""
        moved = Laid(*self._out[:4].tolist())
        if not union.is_patch:
            return moved
        old, near = self._laid[a], union.near
        return Laid(
            old.area - near.area + moved.area, old.flat - near.flat + moved.flat, old.sum_ - near.sum_ + moved.sum_,
            max(old.largest, moved.largest),
        )  # fmt: skip

    def _is_full(self, a: int, b: int, laid: Laid, fill: Fill) -> bool:
        """Whether a union of two charts packs well enough."""
        limits, one, two = self.limits, self._filled[a], self._filled[b]
        is_little = self.is_last and laid.area < limits.part * self._area
        if fill.share < min(limits.little_filled if is_little else limits.filled, one.share, two.share):
            return False
        is_longer = fill.long > _LONGER * max(one.long, two.long)
        is_too_long = is_longer and fill.long > limits.longest * self._side
        return not (is_too_long and laid.area < _MOST * self._area)

    def _hull(self, chart: int) -> F64:
        """Around a chart, and around what of it has moved since by little."""
        if chart not in self._hulls:
            self._hulls[chart] = convex_hull(self.uv[self.members[chart]].reshape(-1, 2))
        return self._hulls[chart]

    def _lies_on_itself(self, a: int, union: Union, joined: F64) -> bool:
        """Whether the union that was tried last does."""
        if union.is_patch:
            low, high = joined.min(axis=(0, 1)), joined.max(axis=(0, 1))
            count = gather_others(self.members[a], self.uv, low, high, self._mark, self._stamp, self._near)
            joined = np.concatenate([joined, self.uv[self._near[:count]]])
        return lies_on_itself(joined)

    def _take(self, a: int, b: int, moved: I64, laid: Laid, joined: F64) -> None:
        self.newest += 1
        self._laid[self.newest], self._bent[self.newest] = laid, laid.bent
        self.uv[moved] = joined
        self.members[self.newest] = np.concatenate([self.members.pop(a), self.members.pop(b)])
