"""In which order the common implementation of MikkTSpace meets the edges of its last vertex.

It sorts edges by their two vertices, but leaves the last run, the edges of the vertex with the largest number, as its
first sort by one vertex left them. There two halves of an edge are only found where they happen to lie side by side.
Whoever bakes normal maps gets that result, so it is reproduced here: the numbers of vertices, which follow from how
corners are welded, and the order in which that unstable sort leaves the last run.
"""

import numpy as np
from numba import njit

_CELLS = 2048
_SEED = 39871946


@njit(cache=True, nogil=True)
def _longest(width):  # type: ignore[no-untyped-def]
    if width[1] > width[0] and width[1] > width[2]:
        return 1
    return 2 if width[2] > width[0] else 0


@njit(cache=True, nogil=True)
def _halve(p, order, first, last, low, high):  # type: ignore[no-untyped-def]
    """Separate corners by the middle of their box; returns where the right part begins, -1 where all are in one."""
    for k in range(3):
        low[k] = high[k] = p[order[first], k]
    for i in range(first + 1, last + 1):
        for k in range(3):
            low[k], high[k] = min(low[k], p[order[i], k]), max(high[k], p[order[i], k])
    axis = _longest(high - low)
    middle = np.float32(0.5) * (high[axis] + low[axis])
    if not np.isfinite(middle) or middle >= high[axis] or middle <= low[axis]:
        return -1
    left, right = first, last
    while left < right:
        while left < right and p[order[left], axis] < middle:
            left += 1
        while left < right and not p[order[right], axis] < middle:
            right -= 1
        if left < right:
            order[left], order[right] = order[right], order[left]
            left += 1
            right -= 1
    if left == right and p[order[right], axis] < middle:
        left += 1
    return left


@njit(cache=True, nogil=True)
def name_vertices(p, vertex, names):  # type: ignore[no-untyped-def]
    """For each vertex (V,) the corner that it is called by: the first that the welding meets.

    ``p`` (C, 3) float32 corner positions, ``vertex`` (C,) the vertex of each corner; ``names`` (V,) starts as -1.
    """
    n = len(p)
    low, high = np.empty(3, np.float32), np.empty(3, np.float32)
    for k in range(3):
        low[k], high[k] = p[:, k].min(), p[:, k].max()
    axis = _longest(high - low)
    start, extent = low[axis], high[axis] - low[axis]
    cell = np.zeros(n, np.int32)
    counts = np.zeros(_CELLS + 1, np.int64)
    for c in range(n):
        place = np.float32(_CELLS) * ((p[c, axis] - start) / extent) if extent > 0 else np.float32(0)
        cell[c] = min(int(max(place, np.float32(0))), _CELLS - 1)
        counts[cell[c] + 1] += 1
    for i in range(_CELLS):
        counts[i + 1] += counts[i]
    order = np.empty(n, np.int32)
    slot = counts[:-1].copy()
    for c in range(n):
        order[slot[cell[c]]] = c
        slot[cell[c]] += 1
    stack = np.empty((256, 2), np.int64)
    for i in range(_CELLS):
        if counts[i + 1] == counts[i]:
            continue
        stack[0, 0], stack[0, 1] = counts[i], counts[i + 1] - 1
        depth = 1
        while depth > 0:
            depth -= 1
            first, last = stack[depth, 0], stack[depth, 1]
            middle = _halve(p, order, first, last, low, high) if first < last else -1
            if middle < 0:
                for j in range(first, last + 1):
                    v = vertex[order[j]]
                    if names[v] < 0:
                        names[v] = order[j]
                continue
            stack[depth, 0], stack[depth, 1] = first, middle - 1
            stack[depth + 1, 0], stack[depth + 1, 1] = middle, last
            depth += 2


@njit(cache=True, nogil=True)
def last_run(keys):  # type: ignore[no-untyped-def]
    """Places of the largest key, in the order in which the unstable sort leaves them; ``keys`` (n,) is not changed."""
    n = len(keys)
    key = keys.copy()
    index = np.arange(n)
    largest = key.max()
    ranges = np.empty((4096, 3), np.int64)
    ranges[0, 0], ranges[0, 1], ranges[0, 2] = 0, n - 1, _SEED
    depth = 1
    while depth > 0:
        depth -= 1
        first, last, seed = ranges[depth, 0], ranges[depth, 1], ranges[depth, 2]
        if last - first < 1:
            continue
        if last - first == 1:
            if key[first] > key[last]:
                key[first], key[last] = key[last], key[first]
                index[first], index[last] = index[last], index[first]
            continue
        turn = seed & 31
        rotated = ((seed << turn) | (seed >> (32 - turn))) & 0xFFFFFFFF
        seed = (seed + rotated + 3) & 0xFFFFFFFF
        pivot = key[first + seed % (last - first + 1)]
        left, right = first, last
        while True:
            while key[left] < pivot:
                left += 1
            while key[right] > pivot:
                right -= 1
            if left <= right:
                key[left], key[right] = key[right], key[left]
                index[left], index[right] = index[right], index[left]
                left += 1
                right -= 1
            if left > right:
                break
        # What lies left of a smaller pivot never holds the largest key.
        if pivot == largest and first < right:
            ranges[depth, 0], ranges[depth, 1], ranges[depth, 2] = first, right, seed
            depth += 1
        if left < last:
            ranges[depth, 0], ranges[depth, 1], ranges[depth, 2] = left, last, seed
            depth += 1
    count = 0
    while count < n and key[n - 1 - count] == largest:
        count += 1
    return index[n - count :].copy()
