"""Charts that lie on themselves, cut in two across where they are longest until none does."""

import numpy as np

from plindro.core.mesh.mesh import F64, I32, I64, Mask
from plindro.core.numeric.heap import pop, push
from plindro.core.numeric.kernels import kernel
from plindro.core.unwrap.growing import connected, sort_by_chart
from plindro.core.unwrap.laid import find_overlapping, lies_on_itself
from plindro.core.unwrap.surface import Surface

_STRAIGHT = 5
"""How often a chart is cut by where it is, before the way along its surface decides."""


@kernel
def _walk(members, start, middles, twin, barred, place, keys, values, far):  # type: ignore[no-untyped-def]
    """How far from one of some triangles the others lie, from middle to middle along the surface, into ``far`` (N,).

    ``place`` by triangle, filled with -1, and so it is left; ``keys`` and ``values`` of 3 N + 1.
    """
    for i in range(len(members)):
        place[members[i]] = i
        far[i] = np.inf
    far[start] = 0.0
    n = push(keys, values, 0, 0.0, start)
    while n > 0:
        key, i = keys[0], values[0]
        n = pop(keys, values, n)
        if key > far[i]:
            continue
        t = members[i]
        for side in range(3 * t, 3 * t + 3):
            if twin[side] < 0 or barred[side]:
                continue
            u = twin[side] // 3
            j = place[u]
            if j < 0:
                continue
            x = middles[u, 0] - middles[t, 0]
            y = middles[u, 1] - middles[t, 1]
            z = middles[u, 2] - middles[t, 2]
            reached = key + np.sqrt(x * x + y * y + z * z)
            if reached < far[j]:
                far[j] = reached
                n = push(keys, values, n, reached, j)
    for i in range(len(members)):
        place[members[i]] = -1


def part_overlapping(surface: Surface, chart: I32, uv: F64) -> I32:
    """(T,) charts of which none lies on itself where ``uv`` (T, 3, 2) puts it, each connected.

    One that does is cut in two by where it is, and where that does not help, at half the way along the surface between
    its ends: so the turns of a thread come apart one by one, all of which a straight cut goes through again and again.
    """
    chart = chart.copy()
    count = int(chart.max(initial=-1)) + 1
    all_members = sort_by_chart(chart, count)
    covered = find_overlapping(all_members, uv)
    if not covered.any():
        return chart
    middles = surface.points[surface.corners].mean(axis=1)
    place = np.full(len(chart), -1, np.int64)
    waiting = [(members, 0) for members, found in zip(all_members.apart(), covered, strict=True) if found]
    while waiting:
        members, n_cuts = waiting.pop()
        if len(members) < 2 or not lies_on_itself(uv[members]):
            continue
        at = middles[members]
        is_straight = n_cuts < _STRAIGHT
        along = at[:, int(np.argmax(np.ptp(at, axis=0)))] if is_straight else _way(surface, members, middles, place)
        is_far = _is_second_half(along)
        chart[members[is_far]] = count
        count += 1
        waiting += [(members[~is_far], n_cuts + 1), (members[is_far], n_cuts + 1)]
    return connected(surface, chart, np.zeros(len(chart), bool))


def _is_second_half(along: F64) -> Mask:
    """(N,) which values are infinite, or where none is, which are of the larger half."""
    found = ~np.isfinite(along)
    if not found.any():
        found[np.argsort(along, kind="stable")[len(along) // 2 :]] = True
    return found


def _way(surface: Surface, members: I64, middles: F64, place: I64) -> F64:
    """(N,) how far from one end of some triangles the others lie along the surface; infinite where no way leads."""
    keys, values = np.empty(3 * len(members) + 1), np.empty(3 * len(members) + 1, np.int64)
    far = np.empty(len(members))
    start = 0
    for _ in range(2):
        _walk(members, start, middles, surface.twin, surface.barred, place, keys, values, far)
        start = int(np.argmax(far))
        if not np.isfinite(far[start]):
            break
    return far
