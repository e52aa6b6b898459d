"""Strips of quads laid straight: from an edge across one, along it both ways for as far as quads follow each other."""

from dataclasses import dataclass, replace

import numpy as np

from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.surface import Surface


@dataclass(frozen=True, slots=True)
class Strip:
    """``triangles`` (T,) of the surface, and where their corners lie (T, 3, 2), in metres and turning left."""

    triangles: I64
    uv: F64


class _Quads:
    """The quads of a surface: pairs of triangles that were cut from one polygon, and what lies across their sides."""

    def __init__(self, surface: Surface, polygon: I32) -> None:
        self.corners, self._twin = surface.corners, surface.twin
        self._barred = surface.barred
        names, number = np.unique(polygon, return_inverse=True)
        order = np.argsort(number, kind="stable")
        of = np.bincount(number, minlength=len(names))
        starts = np.concatenate([[0], np.cumsum(of)[:-1]])
        self.number = number
        self._pairs = {int(q): order[starts[q] : starts[q] + 2] for q in np.flatnonzero(of == 2)}

    def sides(self, quad: int) -> list[int] | None:
        """Its four outer sides in their order; None where it is no quad, or not whole."""
        pair = self._pairs.get(quad)
        if pair is None:
            return None
        one, two = pair.tolist()
        inner = [s for s in range(3 * one, 3 * one + 3) if self._twin[s] >= 0 and self._twin[s] // 3 == two]
        if len(inner) != 1 or self._barred[inner[0]]:
            return None
        a, b = inner[0], int(self._twin[inner[0]])
        return [_next(a), _next(_next(a)), _next(b), _next(_next(b))]

    def across(self, side: int) -> int:
        """The side on the other quad; -1 where there is none."""
        return -1 if self._barred[side] else int(self._twin[side])

    def triangles(self, quad: int) -> list[int]:
        return self._pairs[quad].tolist()


def _next(side: int) -> int:
    return side - side % 3 + (side % 3 + 1) % 3


def _walk(quads: _Quads, side: int, taken: set[int]) -> list[tuple[int, int]]:
    """Quads from one that is entered through ``side``, each with the side through which it is entered."""
    walked = []
    while side >= 0:
        quad = int(quads.number[side // 3])
        sides = quads.sides(quad)
        if sides is None or quad in taken or side not in sides:
            break
        taken.add(quad)
        walked.append((quad, side))
        side = quads.across(sides[(sides.index(side) + 2) % 4])
    return walked


def _lay(surface: Surface, quads: _Quads, walked: list[tuple[int, int]]) -> Strip:
    """Quads one after the other along U, as wide as they are in the mean."""
    points = surface.points
    rungs, forth, width = [], 0.0, 0.0
    for quad, side in walked:
        sides = quads.sides(quad)
        assert sides is not None
        at = sides.index(side)
        # Entered through a side from c to d, a quad turns left: d lies on the right, its two others lead on.
        c, d, right, left = (int(surface.corners[s // 3, s % 3]) for s in (sides[(at + k) % 4] for k in range(4)))
        long = 0.5 * float(np.linalg.norm(points[right] - points[d]) + np.linalg.norm(points[left] - points[c]))
        width += float(np.linalg.norm(points[d] - points[c])) * long
        rungs.append((c, d, right, left, forth, forth + long))
        forth += long
    width /= max(forth, 1e-300)
    triangles, uv = [], []
    for (quad, _), (c, d, right, left, start, end) in zip(walked, rungs, strict=True):
        where = {c: (start, width), d: (start, 0.0), right: (end, 0.0), left: (end, width)}
        for t in quads.triangles(quad):
            triangles.append(t)
            uv.append([where[int(corner)] for corner in surface.corners[t]])
    return Strip(np.array(triangles, np.int64), np.array(uv, np.float64))


def find_strips(mesh: Mesh, surface: Surface, rungs: list[I64]) -> tuple[list[Strip], Mask]:
    """Strips through edges across them, given by the sides (surface) that lie along each edge; and which were found.

    A closed strip is cut at its edge.
    """
    quads = _Quads(surface, mesh.face_polygon[surface.faces])
    strips, taken, found = [], set(), np.zeros(len(rungs), bool)  # type: list[Strip], set[int], Mask
    for k, sides in enumerate(rungs):
        if not len(sides):
            continue
        first = int(sides[0])
        # An edge across a strip that another edge has laid already is of that one.
        if int(quads.number[first // 3]) in taken:
            found[k] = True
            continue
        forth = _walk(quads, first, taken)
        back = _walk(quads, quads.across(first), taken)
        if not forth and not back:
            continue
        found[k] = True
        strips.append(_lay(surface, quads, [*_turned(quads, back), *forth]))
    return strips, found


def _turned(quads: _Quads, walked: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """A walk the other way: each quad entered through the side by which it was left."""
    turned = []
    for quad, side in reversed(walked):
        sides = quads.sides(quad)
        assert sides is not None
        turned.append((quad, sides[(sides.index(side) + 2) % 4]))
    return turned


def bar_strips(surface: Surface, strips: list[Strip]) -> Surface:
    """The surface with the outer sides of strips as seams, so that nothing else grows into them."""
    of = np.full(len(surface.faces), -1, np.int64)
    for k, strip in enumerate(strips):
        of[strip.triangles] = k
    own = np.repeat(of, 3)
    across = np.where(surface.twin >= 0, own[np.maximum(surface.twin, 0)], -1)
    return replace(surface, barred=surface.barred | (own != across))


def with_strips(surface: Surface, charts: Charts, strips: list[Strip]) -> Charts:
    """The charts with each strip as one of its own, as it was laid."""
    chart, uv, glued = charts.chart.copy(), charts.uv.copy(), charts.glued.copy()
    for k, strip in enumerate(strips):
        t = strip.triangles
        chart[t] = charts.count + k
        uv[t] = strip.uv
        sides = (3 * t[:, None] + np.arange(3)).reshape(-1)
        glued[sides] = False
        own = sides[np.isin(surface.twin[sides] // 3, t) & (surface.twin[sides] >= 0)]
        ends = np.concatenate([uv, np.roll(uv, -1, axis=1)], axis=2).reshape(-1, 4)
        meets = (ends[own] == ends[surface.twin[own]][:, [2, 3, 0, 1]]).all(axis=1)
        glued[own[meets]] = True
    used, named = np.unique(chart, return_inverse=True)
    return Charts(named.astype(np.int32), len(used), uv, glued)
