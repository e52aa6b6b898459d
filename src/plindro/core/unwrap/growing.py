"""The first charts: connected triangles that face much the same way, so that each can be laid flat by projection."""

from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, I32, I64, Mask
from plindro.core.numeric.groups import number_roots, unite
from plindro.core.numeric.heap import pop, push
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.unwrap.surface import Surface

_FOLD = 0.8
"""Cosine of how far a triangle may face away from its chart's mean: 37 degrees."""
_STEEP = 0.25
"""Cosine below which a triangle would come out too thin in its chart's projection."""
_STRAIGHTENED = 6
"""How often borders are straightened."""


@helper
def _offer(t, x, y, z, twin, barred, normals, chart, keys, values, n):  # type: ignore[no-untyped-def]
    """Put the neighbours of triangle t into the heap, by how far they face away from (x, y, z)."""
    for k in range(3):
        side = 3 * t + k
        if twin[side] >= 0 and not barred[side] and chart[twin[side] // 3] < 0:
            u = twin[side] // 3
            cosine = normals[u, 0] * x + normals[u, 1] * y + normals[u, 2] * z
            n = push(keys, values, n, 1.0 - cosine, u)
    return n


@kernel
def _grow(seeds, twin, barred, normals, areas, limit, chart, keys, values):  # type: ignore[no-untyped-def]
    """Grow charts from the seeds in their order, the triangle that faces most as its chart does first; returns how
    many there are."""
    count = 0
    for s in range(len(seeds)):
        if chart[seeds[s]] >= 0:
            continue
        t = seeds[s]
        chart[t] = count
        sx, sy, sz = normals[t, 0] * areas[t], normals[t, 1] * areas[t], normals[t, 2] * areas[t]
        n = _offer(t, normals[t, 0], normals[t, 1], normals[t, 2], twin, barred, normals, chart, keys, values, 0)
        while n > 0:
            u = values[0]
            n = pop(keys, values, n)
            if chart[u] >= 0:
                continue
            length = np.sqrt(sx * sx + sy * sy + sz * sz)
            x, y, z = sx / length, sy / length, sz / length
            if normals[u, 0] * x + normals[u, 1] * y + normals[u, 2] * z < limit:
                continue
            chart[u] = count
            sx += normals[u, 0] * areas[u]
            sy += normals[u, 1] * areas[u]
            sz += normals[u, 2] * areas[u]
            n = _offer(u, x, y, z, twin, barred, normals, chart, keys, values, n)
        count += 1
    return count


@kernel
def _straighten(twin, barred, lengths, normals, means, limit, chart):  # type: ignore[no-untyped-def]
    """Let triangles go over to the chart with which they share most of their sides' length; returns how many did."""
    moved = 0
    for t in range(len(chart)):
        own, best, most = 0.0, -1, 0.0
        for k in range(3):
            side = 3 * t + k
            if twin[side] < 0 or barred[side]:
                continue
            other = chart[twin[side] // 3]
            if other == chart[t]:
                own += lengths[side]
                continue
            shared = 0.0
            for j in range(3):
                across = twin[3 * t + j]
                if across >= 0 and not barred[3 * t + j] and chart[across // 3] == other:
                    shared += lengths[3 * t + j]
            if shared > most:
                most, best = shared, other
        if best >= 0 and most > own * 1.000001:
            m = means[best]
            if normals[t, 0] * m[0] + normals[t, 1] * m[1] + normals[t, 2] * m[2] >= limit:
                chart[t] = best
                moved += 1
    return moved


@kernel
def _connect(twin, barred, chart, alone, parent):  # type: ignore[no-untyped-def]
    """Unite triangles of one chart across the sides they share, but for those that stay alone."""
    for side in range(len(twin)):
        other = twin[side]
        if other > side and not barred[side]:
            t, u = side // 3, other // 3
            if chart[t] == chart[u] and not alone[t] and not alone[u]:
                unite(parent, t, u)


class Members(NamedTuple):
    """What belongs to charts: that of one lies in ``order`` from ``first`` (N + 1,) of it to that of the next."""

    order: I64
    first: I64

    def apart(self) -> list[I64]:
        """The same, chart by chart."""
        return list(np.split(self.order, self.first[1:-1])) if len(self.first) > 1 else []


def sort_by_chart(chart: I32 | I64, count: int) -> Members:
    """What belongs to each of ``count`` charts, one after the other."""
    first = np.concatenate([[0], np.cumsum(np.bincount(chart, minlength=count))]).astype(np.int64)
    return Members(np.argsort(chart, kind="stable").astype(np.int64), first)


def members_of(chart: I32 | I64, count: int) -> list[I64]:
    """What belongs to each of ``count`` charts."""
    return sort_by_chart(chart, count).apart()


def mean_normals(surface: Surface, chart: I32, count: int) -> F64:
    """(N, 3) which way each chart faces on the whole."""
    means = np.zeros((count, 3))
    np.add.at(means, chart, surface.normals * surface.areas[:, None])
    length = np.linalg.norm(means, axis=1, keepdims=True)
    facing: F64 = means / np.where(length > 0, length, 1.0)
    return facing


def connected(surface: Surface, chart: I32, alone: Mask) -> I32:
    """(T,) charts numbered anew so that each is connected; triangles that are ``alone`` get one of their own."""
    parent = np.arange(len(chart), dtype=np.int32)
    _connect(surface.twin, surface.barred, chart, alone, parent)
    renamed = np.empty(len(chart), np.int32)
    number_roots(parent, renamed)
    return renamed


def grow_charts(surface: Surface) -> I32:
    """(T,) the first charts: none faces away from any of its triangles, all are connected."""
    n = len(surface.areas)
    chart = np.full(n, -1, np.int32)
    seeds: I64 = np.argsort(-surface.areas, kind="stable").astype(np.int64)
    keys, values = np.empty(3 * n + 1), np.empty(3 * n + 1, np.int64)
    count = _grow(
        seeds, surface.twin, surface.barred, surface.normals, surface.areas, _FOLD, chart, keys, values
    )  # fmt: skip
    for _ in range(_STRAIGHTENED):
        means = mean_normals(surface, chart, count)
        if not _straighten(surface.twin, surface.barred, surface.lengths, surface.normals, means, _FOLD, chart):
            break
    means = mean_normals(surface, chart, count)
    alone = np.einsum("ij,ij->i", means[chart], surface.normals) < _STEEP
    return connected(surface, chart, alone)


@kernel
def glue_within(chart, twin, barred, glued):  # type: ignore[no-untyped-def]
    """Mark the sides within one chart as glued."""
    for side in range(len(twin)):
        other = twin[side]
        glued[side] = other >= 0 and not barred[side] and chart[side // 3] == chart[other // 3]
