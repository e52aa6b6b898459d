"""Equal and mirrored islands in one place: which are, to within a hair, and where each of their points goes."""

from dataclasses import replace

import numpy as np
import scipy

from plindro.core.mesh.mesh import F64, I64
from plindro.core.unwrap.growing import members_of
from plindro.core.unwrap.layout import Layout, even_out, outlines

_ALIKE = 1e-3
"""Share of an island's size by which its points may lie off those of an equal one, and share of its area and rim."""
_SAME = 1e-6
"""Share of an island's size within which corners are one point."""
_TRIES = 64
"""Sides of a rim that are tried for one side of another: a round island has many of one length."""


class _Island:
    """One island by itself, in metres: ``members`` (T,) triangles, and the sides of its rim (R, 2, 2)."""

    def __init__(self, members: I64, corners: F64, rim: F64) -> None:
        self.members, self.rim = members, rim
        points = corners[members].reshape(-1, 2)
        self.size = float(np.ptp(points, axis=0).max(initial=0.0))
        places = np.round(points / max(_SAME * self.size, 1e-300))
        _, first, self._inverse = np.unique(places, axis=0, return_index=True, return_inverse=True)
        self.points = points[first]
        lengths = np.linalg.norm(rim[:, 1] - rim[:, 0], axis=1)
        self.lengths, self.length = lengths, float(lengths.sum())
        # Of the longest sides the one whose neighbour is longest: few others look like it.
        self.longest = int(np.lexsort((np.roll(lengths, -1), np.round(lengths / max(self.size, 1e-300), 4)))[-1])
        self._tree: scipy.spatial.cKDTree | None = None

    def nearest(self, points: F64) -> tuple[F64, I64]:
        if self._tree is None:
            self._tree = scipy.spatial.cKDTree(self.points)
        return self._tree.query(points)

    def spread(self, points: F64) -> F64:
        """(T, 3, 2) of the members, with points in place of its own."""
        spread: F64 = points[self._inverse].reshape(-1, 3, 2)
        return spread


def _places(side: F64, onto: F64, points: F64, is_mirrored: bool) -> F64:
    """Points moved, without a change of size, as one side goes onto another; mirrored, from its end to its start."""
    a, b = (side[1], side[0]) if is_mirrored else (side[0], side[1])
    at = (points - a) @ np.array([1.0, 1.0j])
    along = (b - a) @ np.array([1.0, 1.0j])
    wanted = (onto[1] - onto[0]) @ np.array([1.0, 1.0j])
    if is_mirrored:
        at, along = at.conj(), along.conj()
    turn = wanted / along
    moved = at * turn / abs(turn)
    return np.stack([moved.real, moved.imag], axis=1) + onto[0]


def _onto(island: _Island, first: _Island) -> F64 | None:
    """Where each of an island's points lies on one that is equal to it, turned or mirrored; None where it is not."""
    if len(island.points) != len(first.points):
        return None
    tolerance = _ALIKE * first.size
    longest = first.longest
    candidates = np.flatnonzero(abs(island.lengths - first.lengths[longest]) <= tolerance)[:_TRIES]
    # As it is rather than mirrored, where an island is like its own image.
    for is_mirrored in (False, True):
        for side in candidates.tolist():
            placed = _places(island.rim[side], first.rim[longest], island.points, is_mirrored)
            off, which = first.nearest(placed)
            if off.max() <= tolerance and len(np.unique(which)) == len(which):
                onto: F64 = first.points[which]
                return onto
    return None


def _are_near(a: float, b: float) -> bool:
    return abs(a - b) <= _ALIKE * max(a, b)


def stack_equal(layout: Layout, shares: F64 | None = None) -> Layout:
    """The layout with every island that equals one before it, turned or mirrored, in that one's place.

    shares : (N,) islands of different shares are not equal
    """
    metres = even_out(layout)
    members = members_of(layout.island, layout.count)
    rims = outlines(layout, metres)
    areas = layout.sums(layout.surface)
    corners, target = metres.copy(), np.arange(layout.count, dtype=np.int32)
    firsts: dict[tuple[int, float], list[int]] = {}
    islands: dict[int, _Island] = {}
    for i in range(layout.count):
        rim = rims.sides[rims.first[i] : rims.first[i + 1]]
        if not len(rim):
            continue
        island = _Island(members[i], metres, rim)
        alike = firsts.setdefault((len(rim), 1.0 if shares is None else float(shares[i])), [])
        for j in alike:
            if not _are_near(areas[i], areas[j]) or not _are_near(island.length, islands[j].length):
                continue
            onto = _onto(island, islands[j])
            if onto is not None:
                corners[members[i]] = island.spread(onto)
                target[i] = j
                break
        else:
            alike.append(i)
            islands[i] = island
    double = target[layout.island] != layout.island
    used, named = np.unique(target[layout.island], return_inverse=True)
    rim = layout.rim[~double[layout.rim // 3]]
    return replace(
        layout, corners=corners, island=named.astype(np.int32), count=len(used), rim=rim, double=double
    )  # fmt: skip
