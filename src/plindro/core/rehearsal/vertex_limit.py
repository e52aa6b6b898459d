"""A mesh with more vertices than an engine's indices name, as a strict engine cuts it, in order."""

from collections.abc import Iterator, Sequence

import numpy as np

from plindro.core.rehearsal.found import F64, I64, Primitive

SHORT = 65_535
"""Vertices that 16-bit indices name, but for the one that restarts a strip."""


def pieces_of(primitives: Sequence[Primitive], limit: int) -> int:
    """How many meshes of at most ``limit`` vertices a mesh becomes."""
    counts = [len(primitive.positions) for primitive in primitives]
    if sum(counts) <= limit:
        return 1
    return sum(len(list(_runs(primitive.triangles, limit))) if count > limit else 1
               for primitive, count in zip(primitives, counts, strict=True))  # fmt: skip


def cut_of(primitives: Sequence[Primitive], limit: int) -> F64:
    """(n, 3) the places that lie in more than one of those meshes."""
    shared = [np.zeros((0, 3))]
    for primitive in primitives:
        if len(primitive.positions) > limit:
            once, again = np.zeros((2, len(primitive.positions)), bool)
            for triangles in _runs(primitive.triangles, limit):
                used = np.zeros_like(once)
                used[triangles] = True
                again |= once & used
                once |= used
            shared.append(primitive.positions[again])
    return np.concatenate(shared)


def _runs(triangles: I64, limit: int) -> Iterator[I64]:
    """The triangles in runs of at most ``limit`` vertices."""
    first_use = np.empty(int(triangles.max(initial=-1)) + 1, np.int64)
    start = 0
    while start < len(triangles):
        end = start + _run(triangles[start:], limit, first_use)
        yield triangles[start:end]
        start = end


def _run(triangles: I64, limit: int, first_use: I64) -> int:
    """How many of the first triangles have at most ``limit`` vertices; ``first_use`` is scratch, a row a vertex."""
    looked = 2 * limit
    while True:
        corners = triangles[:looked].reshape(-1)
        order = np.arange(len(corners))
        first_use[corners[::-1]] = order[::-1]
        used = np.cumsum(first_use[corners] == order)[2::3]
        number = int(np.searchsorted(used, limit, side="right"))
        if number < len(used) or looked >= len(triangles):
            return max(number, 1)
        looked *= 2
