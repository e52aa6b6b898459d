"""A heap in two arrays, for compiled searches: the least key on top."""

from plindro.core.numeric.kernels import helper


@helper
def push(keys, values, n, key, value):  # type: ignore[no-untyped-def]
    """Put into a heap, the least on top; returns how many it holds."""
    at = n
    while at > 0:
        above = (at - 1) // 2
        if keys[above] <= key:
            break
        keys[at], values[at] = keys[above], values[above]
        at = above
    keys[at], values[at] = key, value
    return n + 1


@helper
def pop(keys, values, n):  # type: ignore[no-untyped-def]
    """Take the top of a heap off; returns how many it holds."""
    n -= 1
    key, value = keys[n], values[n]
    at = 0
    while True:
        below = 2 * at + 1
        if below >= n:
            break
        if below + 1 < n and keys[below + 1] < keys[below]:
            below += 1
        if keys[below] >= key:
            break
        keys[at], values[at] = keys[below], values[below]
        at = below
    keys[at], values[at] = key, value
    return n
