"""The compiled part of the PLY reader: walking over rows that hold lists, in bytes or in text tokens."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def _whole_number(data, at, size, signed, big):  # type: ignore[no-untyped-def]
    """The integer of ``size`` bytes at ``at``."""
    value = np.int64(0)
    for k in range(size):
        byte = np.int64(data[at + k if big else at + size - 1 - k])
        value = (value << 8) | byte
    if signed and value >= np.int64(1) << (8 * size - 1):
        value -= np.int64(1) << (8 * size)
    return value


@njit(cache=True, nogil=True)
def walk_bytes(data, at, rows, sizes, count_sizes, signed_counts, big, starts, lengths):  # type: ignore[no-untyped-def]
    """Where each list of each row starts and how long it is; scalars count as lists of one.

    ``count_sizes`` is 0 for scalars. Returns the offset behind the last row, or -1 where the data ends too early.
    """
    end = len(data)
    for row in range(rows):
        for p in range(len(sizes)):
            length = np.int64(1)
            if count_sizes[p]:
                if at + count_sizes[p] > end:
                    return -1
                length = _whole_number(data, at, count_sizes[p], signed_counts[p], big)
                at += count_sizes[p]
            if length < 0 or at + length * sizes[p] > end:
                return -1
            starts[row, p] = at
            lengths[row, p] = length
            at += length * sizes[p]
    return at


@njit(cache=True, nogil=True)
def walk_tokens(tokens, at, rows, is_list, starts, lengths):  # type: ignore[no-untyped-def]
    """As ``walk_bytes`` over numbers that were text."""
    end = len(tokens)
    for row in range(rows):
        for p in range(len(is_list)):
            length = np.int64(1)
            if is_list[p]:
                if at >= end:
                    return -1
                length = np.int64(tokens[at])
                at += 1
            if length < 0 or at + length > end:
                return -1
            starts[row, p] = at
            lengths[row, p] = length
            at += length
    return at
