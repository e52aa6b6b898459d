"""The triangles around each vertex, listed in memory one vertex after the other.

Entry ``s`` of the ring of ``u``, in ``start[u]:start[u + 1]``, is a triangle (u, next[s], previous[s]) whose corner at
u is ``around[s, 2]``.
"""

import numpy as np

from plindro.core.mesh.mesh import I32
from plindro.core.numeric.kernels import kernel


@kernel
def fill_rings(triangle_vertex, n_vertices, start, around):  # type: ignore[no-untyped-def]
    """List the rings of all vertices, each in the order of the triangles; returns how many the longest has."""
    n = len(triangle_vertex)
    for v in range(n_vertices + 1):
        start[v] = 0
    for t in range(n):
        for k in range(3):
            start[triangle_vertex[t, k]] += 1
    total = 0
    longest = 0
    for v in range(n_vertices + 1):
        count = start[v]
        start[v] = total
        total += count
        longest = max(longest, count)
    for t in range(n):
        a, b, c = triangle_vertex[t, 0], triangle_vertex[t, 1], triangle_vertex[t, 2]
        s = start[a]
        around[s, 0], around[s, 1], around[s, 2] = b, c, 3 * t
        start[a] = s + 1
        s = start[b]
        around[s, 0], around[s, 1], around[s, 2] = c, a, 3 * t + 1
        start[b] = s + 1
        s = start[c]
        around[s, 0], around[s, 1], around[s, 2] = a, b, 3 * t + 2
        start[c] = s + 1
    for v in range(n_vertices, 0, -1):
        start[v] = start[v - 1]
    start[0] = 0
    return longest


class Rings:
    """The lists with their memory, which is used again for every smaller mesh."""

    def __init__(self, n_vertices: int, n_triangles: int) -> None:
        self.start = np.empty(n_vertices + 1, np.int32)
        self.around = np.empty((3 * n_triangles, 3), np.int32)
        self.longest = 0

    def fill(self, triangle_vertex: I32, n_vertices: int) -> None:
        """List the rings of ``triangle_vertex`` (T, 3)."""
        self.longest = int(fill_rings(triangle_vertex, n_vertices, self.start, self.around))
