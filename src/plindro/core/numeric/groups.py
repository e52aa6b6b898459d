"""Groups of things that hang together, by union-find (Tarjan 1975, paths halved)."""

import numpy as np
from numba import njit
from numpy.typing import NDArray


@njit(cache=True, nogil=True)
def find_root(parent, c):  # type: ignore[no-untyped-def]
    while parent[c] != c:
        parent[c] = parent[parent[c]]
        c = parent[c]
    return c


@njit(cache=True, nogil=True)
def unite(parent, a, b):  # type: ignore[no-untyped-def]
    """Join two groups under the smaller root, so that numbering by first appearance holds."""
    ra, rb = find_root(parent, a), find_root(parent, b)
    if ra < rb:
        parent[rb] = ra
    elif rb < ra:
        parent[ra] = rb


@njit(cache=True, nogil=True)
def number_roots(parent, group):  # type: ignore[no-untyped-def]
    """Number the groups in the order of first appearance; returns how many there are."""
    count = 0
    for c in range(len(parent)):
        root = find_root(parent, c)
        if root == c:
            group[c] = count
            count += 1
        else:
            group[c] = group[root]
    return count


@njit(cache=True, nogil=True)
def _unite_all(parent, first, second):  # type: ignore[no-untyped-def]
    for i in range(len(first)):
        unite(parent, first[i], second[i])


def connected(count: int, first: NDArray[np.integer], second: NDArray[np.integer]) -> tuple[NDArray[np.int32], int]:
    """(count,) the group of each thing, numbered in the order of first appearance, and how many groups there are.

    Thing ``first[i]`` hangs together with ``second[i]`` (N,).
    """
    parent, label = np.arange(count, dtype=np.int32), np.empty(count, np.int32)
    _unite_all(parent, np.ascontiguousarray(first, np.int64), np.ascontiguousarray(second, np.int64))
    return label, int(number_roots(parent, label))
