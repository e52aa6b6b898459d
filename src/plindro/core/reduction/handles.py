"""What can close: how many through-holes and handles (its genus) and borders each shell of a surface has.

Where the link condition holds back a collapse because its two ends have a neighbour in common that makes no triangle
with them, the three edges go around a handle, through a hole, or around a neck. Only shells with a handle are watched.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import I32, Mask
from plindro.core.reduction.shells import shells_of

NOBODY, WATCHES, PINCHED = 0, 1, 2
"""What a vertex does: nothing; mark where a collapse is held back by such a cycle; it was held back."""


class Openings(NamedTuple):
    """What can close on a surface.

    ``watch`` (V,) WATCHES at the vertices of shells with handles; ``handles`` how many there are in all; ``shell`` (V,)
    the shell of each vertex; ``loops`` (S,) how many borders each shell has.
    """

    watch: NDArray[np.uint8]
    handles: int
    shell: I32
    loops: NDArray[np.int64]


def find_openings(triangles: I32, open_edges: Mask, n_vertices: int) -> Openings:
    """The openings of a surface of ``triangles`` (T, 3), whose vertices each lie on one sheet.

    ``open_edges`` (3 T,): whether the half-edge that leaves each corner is open.
    """
    at_vertex, n_shells = shells_of(triangles, n_vertices)
    shell = at_vertex[triangles[:, 0]]
    is_used = np.zeros(n_vertices, bool)
    is_used[triangles.reshape(-1)] = True
    faces = np.bincount(shell, minlength=n_shells)
    borders = np.bincount(np.repeat(shell, 3)[open_edges], minlength=n_shells)
    vertices = np.bincount(at_vertex[is_used], minlength=n_shells)
    euler = vertices - (3 * faces + borders) // 2 + faces
    loops = _loops(triangles, open_edges, at_vertex, n_shells)
    handles = np.where(faces > 0, np.maximum((2 - euler - loops) // 2, 0), 0)
    watch = np.where(handles[at_vertex] > 0, WATCHES, NOBODY).astype(np.uint8)
    return Openings(watch, int(handles.sum()), at_vertex, loops)


def _loops(triangles: I32, open_edges: Mask, at_vertex: I32, n_shells: int) -> NDArray[np.int64]:
    """(S,) how many borders each shell has."""
    at = np.flatnonzero(open_edges)
    if not len(at):
        return np.zeros(n_shells, np.int64)
    ends = np.stack([triangles.reshape(-1)[at], triangles.reshape(-1)[at - at % 3 + (at + 1) % 3]], axis=1)
    # A border as a chain of triangles without area.
    loop, _ = shells_of(np.concatenate([ends, ends[:, 1:]], axis=1).astype(np.int32), len(at_vertex))
    _, firsts = np.unique(loop[ends[:, 0]], return_index=True)
    return np.bincount(at_vertex[ends[firsts, 0]], minlength=n_shells)
