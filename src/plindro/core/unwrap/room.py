"""A chart while it is laid flat: its vertices by number, and what kernels work in."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F64, I32, I64
from plindro.core.numeric.envelope import Envelope, new_envelope
from plindro.core.numeric.groups import find_root, unite
from plindro.core.numeric.kernels import helper, index

_ROOMY = 2.0
"""Numbers that the factors of a chart take, against its triangles to the power of 1.5, at most: four times what a
round one needs."""
_MOST_VALUES = 1 << 24
"""Numbers that factors may take in any case; a chart that takes more, from about 100 000 triangles on, is solved
without."""


class Room(NamedTuple):
    """What the kernels work in, for charts of a surface of N triangles; made once.

    ``local`` (3 N,) number of each corner's vertex in its chart, ``place`` (N,) of each triangle in its chart or -1,
    ``parent`` (3 N,) int32; ``ends`` (3 N, 2) the vertices of each edge, ``stiffness`` (3 N,) how hard it holds them;
    ``xy`` and the rest (3 N, 2) by vertex, ``weight`` (3 N,), ``held`` (3 N,) whether a vertex stays where it is, since
    triangles that are not of the chart hang on it.
    """

    local: I64
    place: I64
    parent: I32
    number: I64
    ends: I64
    stiffness: F64
    xy: F64
    wanted: F64
    residual: F64
    ahead: F64
    product: F64
    weight: F64
    held: NDArray[np.uint8]
    envelope: Envelope


def new_room(n_triangles: int, most_values: int = _MOST_VALUES) -> Room:
    """Room for charts of a surface of ``n_triangles``, and for ``most_values`` of factors at most."""
    n = 3 * n_triangles
    n_values = min(64 * n_triangles + int(_ROOMY * n_triangles**1.5), most_values)
    xy, wanted, residual, ahead, product = (np.empty((n, 2)) for _ in range(5))
    return Room(
        np.empty(n, np.int64), np.full(n_triangles, -1, np.int64), np.empty(n, np.int32), np.empty(n, np.int64),
        np.empty((n, 2), np.int64), np.empty(n), xy, wanted, residual, ahead, product, np.empty(n),
        np.zeros(n, np.uint8), new_envelope(n, n, n_values),
    )  # fmt: skip


@helper
def number_corners(chart, twin, glued, room):  # type: ignore[no-untyped-def]
    """Number the vertices of a chart: corners on both sides of a glued side are one. Returns how many there are."""
    n = len(chart)
    for i in range(n):
        room.place[chart[i]] = i
        for k in range(3):
            room.parent[3 * i + k] = 3 * i + k
    for i in range(n):
        for k in range(3):
            side = 3 * chart[i] + k
            if glued[side]:
                other = twin[side]
                j = room.place[other // 3]
                if j >= 0:
                    m = other % 3
                    unite(room.parent, 3 * i + k, 3 * j + (m + 1) % 3)
                    unite(room.parent, 3 * i + (k + 1) % 3, 3 * j + m)
    count = index(0)
    for c in range(3 * n):
        root = find_root(room.parent, c)
        if root == c:
            room.number[c] = count
            count += 1
        room.local[c] = room.number[root]
    for v in range(count):
        room.held[v] = 0
    for i in range(n):
        for k in range(3):
            side = 3 * chart[i] + k
            if glued[side] and room.place[twin[side] // 3] < 0:
                room.held[room.local[3 * i + k]] = 1
                room.held[room.local[3 * i + (k + 1) % 3]] = 1
    for i in range(n):
        room.place[chart[i]] = -1
    return count
