"""Numbering equal rows: the one hash table behind welding, edges and the engine vertex stream."""

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from plindro.core.mesh.mesh import I32


@njit(cache=True, nogil=True)
def _number_rows(rows, ids, firsts):  # type: ignore[no-untyped-def]
    """Open addressing over row indices; returns how many different rows there are."""
    n, width = rows.shape
    size = 16
    while size < 2 * n:
        size *= 2
    table = np.full(size, -1, np.int32)
    mask = np.uint64(size - 1)
    count = 0
    for i in range(n):
        h = np.uint64(0x9E3779B97F4A7C15)
        for k in range(width):
            h = (h ^ np.uint64(rows[i, k])) * np.uint64(0xBF58476D1CE4E5B9)
            h ^= h >> np.uint64(29)
        slot = h & mask
        while True:
            other = table[slot]
            if other < 0:
                table[slot] = count
                firsts[count] = i
                ids[i] = count
                count += 1
                break
            same = True
            first = firsts[other]
            for k in range(width):
                if rows[first, k] != rows[i, k]:
                    same = False
                    break
            if same:
                ids[i] = other
                break
            slot = (slot + np.uint64(1)) & mask
    return count


def number_rows(rows: NDArray[np.uint32]) -> tuple[I32, I32]:
    """Number equal rows in the order of their first appearance.

    Takes (N, K) uint32; returns ``ids`` (N,) int32 and ``firsts`` (U,) int32, the first row of each number. The
    order of first appearance keeps neighbours in memory neighbours, which is worth more than any other order.
    """
    rows = np.ascontiguousarray(rows, np.uint32)
    ids = np.empty(len(rows), np.int32)
    firsts = np.empty(len(rows), np.int32)
    count = _number_rows(rows, ids, firsts)
    return ids, firsts[:count].copy()


@njit(cache=True, nogil=True)
def _number_keys(keys, ids, firsts):  # type: ignore[no-untyped-def]
    """As ``_number_rows`` for one 64-bit key a row."""
    n = len(keys)
    size = 16
    while size < 2 * n:
        size *= 2
    table = np.full(size, -1, np.int32)
    mask = np.uint64(size - 1)
    count = 0
    for i in range(n):
        h = keys[i] * np.uint64(0x9E3779B97F4A7C15)
        slot = (h ^ (h >> np.uint64(32))) & mask
        while table[slot] >= 0 and keys[firsts[table[slot]]] != keys[i]:
            slot = (slot + np.uint64(1)) & mask
        if table[slot] < 0:
            table[slot] = count
            firsts[count] = i
            count += 1
        ids[i] = table[slot]
    return count


def number_pairs(a: I32, b: I32) -> tuple[I32, I32]:
    """Number pairs of non-negative int32, in the order of first appearance: ids and firsts as ``number_rows``."""
    keys = (a.astype(np.uint64) << np.uint64(32)) | b.astype(np.uint64)
    ids = np.empty(len(keys), np.int32)
    firsts = np.empty(len(keys), np.int32)
    count = _number_keys(keys, ids, firsts)
    return ids, firsts[:count].copy()


def float_bits(values: NDArray[Any]) -> NDArray[np.uint32]:
    """(N, K) floats as (N, K) float32 bit patterns in which equal numbers have equal bits (-0 is 0)."""
    flat = np.array(values, np.float32, order="C")
    single = flat.reshape(len(values), int(np.prod(flat.shape[1:], dtype=int)))
    single += np.float32(0.0)
    return single.view(np.uint32)


def weld_positions(positions: NDArray[Any]) -> tuple[I32, I32]:
    """Number points whose float32 coordinates are exactly equal: ids and firsts as ``number_rows``."""
    return number_rows(float_bits(positions))
