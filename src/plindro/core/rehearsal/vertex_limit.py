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
            times = np.zeros(len(primitive.positions), np.int64)
            for triangles in _runs(primitive.triangles, limit):
                times[np.unique(triangles)] += 1
            shared.append(primitive.positions[times > 1])
    return np.concatenate(shared)


def _runs(triangles: I64, limit: int) -> Iterator[I64]:
    """The triangles in runs of at most ``limit`` vertices."""
    start = 0
    while start < len(triangles):
        rest = triangles[start:].reshape(-1)
        is_new = np.zeros(len(rest), bool)
        is_new[np.unique(rest, return_index=True)[1]] = True
        used = np.cumsum(is_new)[2::3]
        end = max(int(np.searchsorted(used, limit, side="right")), 1)
        yield triangles[start : start + end]
        start += end
