"""Faces that lie on other faces in one plane: they flicker in the engine."""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.spatial.boxes import BLOCK, BoxTree, build_box_tree, triangle_boxes
from plindro.core.spatial.search import begin, new_stack, next_leaf, things_of

PARALLEL = 0.99999
"""Cosine between two normals above which faces count as parallel: a quarter of a degree."""
CHUNKS = 32
PAIRS_A_BLOCK, LEAST_PAIRS = 60, 50_000
"""How many pairs of blocks are asked at most; a sound surface needs about ten a block."""
LEAST_OVERLAP = 1e-3
"""Share of the smaller triangle's size by which two must overlap along every axis."""


@dataclass(frozen=True, slots=True)
class Overlaps:
    """Faces that lie on an earlier face: ``same`` (F,) facing the same way, ``opposite`` (F,) back to back.

    ``complete`` is False where so many faces run through one another that not all could be asked.
    """

    same: Mask
    opposite: Mask
    complete: bool


class _Asked(NamedTuple):
    """Triangles (T, 3) over ``points`` (V, 3) and the ``face`` (T,) of each; the rest is in the order of the tree.

    ``boxes`` (T, 6) and ``directions`` (T, 3), the normals, lie so that neighbours are read together.
    """

    points: F64
    triangles: I32
    face: I64
    boxes: F64
    directions: F64


@helper
def _separates(x, y, first, other, least):  # type: ignore[no-untyped-def]
    """Whether an edge of the triangle at ``first`` has the one at ``other`` on its far side, but for ``least``.

    The triangle at ``first`` runs counter-clockwise.
    """
    for i in range(3):
        a, b = first + i, first + (i + 1) % 3
        ex, ey = x[b] - x[a], y[b] - y[a]
        length = np.sqrt(ex * ex + ey * ey)
        if length == 0.0:
            return True
        inner = -np.inf
        for k in range(other, other + 3):
            inner = max(inner, ex * (y[k] - y[a]) - ey * (x[k] - x[a]))
        if inner <= least * length:
            return True
    return False


@helper
def _overlap(points, s, t, normal, reach, x, y):  # type: ignore[no-untyped-def]
    """Whether two parallel triangles lie in one plane and overlap by more than a sliver (separating axes).

    ``x``, ``y`` (6,) are room to work in.
    """
    o = points[s[0]]
    off = 0.0
    for i in range(3):
        p = points[t[i]]
        off = max(off, abs((p[0] - o[0]) * normal[0] + (p[1] - o[1]) * normal[1] + (p[2] - o[2]) * normal[2]))
        if off > reach:
            return False
    # On the coordinate plane that the triangles face most; lengths shrink by no more than 0.58 there.
    k = 0
    if abs(normal[1]) > abs(normal[k]):
        k = 1
    if abs(normal[2]) > abs(normal[k]):
        k = 2
    u, v = (k + 1) % 3, (k + 2) % 3
    size = np.inf
    for tri in range(2):
        corners = s if tri == 0 else t
        for i in range(3):
            x[3 * tri + i] = points[corners[i], u] - o[u]
            y[3 * tri + i] = points[corners[i], v] - o[v]
        at = 3 * tri
        if (x[at + 1] - x[at]) * (y[at + 2] - y[at]) < (y[at + 1] - y[at]) * (x[at + 2] - x[at]):
            x[at + 1], x[at + 2] = x[at + 2], x[at + 1]
            y[at + 1], y[at + 2] = y[at + 2], y[at + 1]
        longest = 0.0
        for i in range(3):
            a, b = at + i, at + (i + 1) % 3
            longest = max(longest, (x[b] - x[a]) ** 2 + (y[b] - y[a]) ** 2)
        size = min(size, np.sqrt(longest))
    if off > 0.01 * size:
        return False
    least = LEAST_OVERLAP * size
    return not (_separates(x, y, 0, 3, least) or _separates(x, y, 3, 0, least))


@helper
def _share_an_edge(s, t, same_side):  # type: ignore[no-untyped-def]
    """Whether two triangles have the same vertices (duplicates, counted elsewhere) or lie side by side on one edge."""
    shared = 0
    neighbours = False
    for i in range(3):
        for j in range(3):
            if s[i] == t[j]:
                shared += 1
                neighbours = neighbours or s[(i + 1) % 3] == t[(j + 2) % 3]
    return shared == 3 or (shared == 2 and same_side and neighbours)


@helper
def _touches(mine, tree, node):  # type: ignore[no-untyped-def]
    """0 where the box of a node touches that of the leaf ``mine`` and leaves after it may be below, else infinite."""
    low, high = tree.low, tree.high
    if (
        low[node, 0] > high[mine, 0] or high[node, 0] < low[mine, 0]
        or low[node, 1] > high[mine, 1] or high[node, 1] < low[mine, 1]
        or low[node, 2] > high[mine, 2] or high[node, 2] < low[mine, 2]
        or (node >= tree.first_leaf and node < mine)
    ):  # fmt: skip
        return np.inf
    return 0.0


@helper
def _near(boxes, first, last, tree, leaf, near):  # type: ignore[no-untyped-def]
    """Write to ``near`` which of the triangles first ... last touch the box of a leaf; returns how many."""
    low, high = tree.low, tree.high
    n_near = 0
    for i in range(first, last):
        if not (
            boxes[i, 0] > high[leaf, 0] or boxes[i, 3] < low[leaf, 0]
            or boxes[i, 1] > high[leaf, 1] or boxes[i, 4] < low[leaf, 1]
            or boxes[i, 2] > high[leaf, 2] or boxes[i, 5] < low[leaf, 2]
        ):  # fmt: skip
            near[n_near] = i
            n_near += 1
    return n_near


@helper
def _ask(asked, tree, i, j, reach, x, y, same, opposite):  # type: ignore[no-untyped-def]
    """Mark the later of two faces, the i-th and j-th triangle of the tree, if they overlap in one plane."""
    boxes, directions = asked.boxes, asked.directions
    if (
        boxes[i, 0] > boxes[j, 3] or boxes[i, 3] < boxes[j, 0]
        or boxes[i, 1] > boxes[j, 4] or boxes[i, 4] < boxes[j, 1]
        or boxes[i, 2] > boxes[j, 5] or boxes[i, 5] < boxes[j, 2]
    ):  # fmt: skip
        return
    cosine = (
        directions[i, 0] * directions[j, 0] + directions[i, 1] * directions[j, 1] + directions[i, 2] * directions[j, 2]
    )
    if abs(cosine) < PARALLEL:
        return
    s, t = tree.order[i], tree.order[j]
    one, other = asked.face[s], asked.face[t]
    later = max(one, other)
    if one == other or (same[later] if cosine > 0 else opposite[later]):
        return
    if _share_an_edge(asked.triangles[s], asked.triangles[t], cosine > 0):
        return
    if _overlap(asked.points, asked.triangles[s], asked.triangles[t], directions[i], reach, x, y):
        if cosine > 0:
            same[later] = True
        else:
            opposite[later] = True


@kernel
def _search(asked, tree, reach, same, opposite, first_block, last_block, most, stack, near, x, y):  # type: ignore[no-untyped-def]
    """Ask each block of triangles of a range against the later blocks that its box touches.

    Returns whether all were asked: after ``most`` pairs of blocks the search ends.
    """
    pairs = 0
    for mine in range(tree.first_leaf + first_block, tree.first_leaf + last_block):
        begins, ends = things_of(mine, tree)
        depth = begin(_touches, mine, tree, stack)
        while True:
            leaf, depth = next_leaf(_touches, mine, np.inf, tree, stack, depth)
            if leaf < 0:
                break
            pairs += 1
            if pairs > most:
                return False
            n_near = _near(asked.boxes, begins, ends, tree, leaf, near)
            first, last = things_of(leaf, tree)
            for j in range(first, last):
                for m in range(n_near):
                    if j > near[m]:
                        _ask(asked, tree, near[m], j, reach, x, y, same, opposite)
    return True


def find_overlaps(mesh: Mesh, reach: float, skip: Mask) -> Overlaps:
    """Faces that lie within ``reach`` metres on an earlier face in one plane.

    ``skip`` (F,): faces not to be asked (without surface, or not flat). Triangles and quads are asked; larger
    polygons are not.
    """
    same, opposite = np.zeros(mesh.n_faces, bool), np.zeros(mesh.n_faces, bool)
    sides = mesh.face_sides
    vectors = face_vectors(mesh)
    face, triangles = _cut(mesh, np.flatnonzero((sides >= 3) & (sides <= 4) & ~skip), vectors)
    if len(triangles) < 2:
        return Overlaps(same, opposite, True)
    asked, tree = _arranged(mesh.positions, triangles, face, unit(vectors)[face], reach)
    blocks = (len(triangles) + BLOCK - 1) // BLOCK
    cuts = np.linspace(0, blocks, CHUNKS + 1).astype(int).tolist()

    def search(first: int, last: int) -> bool:
        """Marks are only ever set, so that threads do not disturb one another and their order does not matter."""
        done: bool = _search(
            asked, tree, reach, same, opposite, first, last, PAIRS_A_BLOCK * (last - first) + LEAST_PAIRS, new_stack(),
            np.empty(BLOCK, np.int64), np.empty(6), np.empty(6),
        )  # fmt: skip
        return done

    with ThreadPoolExecutor(os.cpu_count()) as threads:
        complete = all(list(threads.map(search, cuts[:-1], cuts[1:])))
    return Overlaps(same, opposite, complete)


def _cut(mesh: Mesh, faces: I64, vectors: F64) -> tuple[I64, I32]:
    """(T,) the face of each triangle and (T, 3) its vertices, of triangles and quads."""
    sides, starts = mesh.face_sides[faces], mesh.face_start[:-1]
    whole, quads = faces[sides == 3], faces[sides == 4]
    corners = starts[quads][:, None] + _inner_diagonals(mesh, quads, vectors)
    threes = starts[whole][:, None] + np.arange(3)
    return (
        np.concatenate([whole, np.repeat(quads, 2)]),
        mesh.corner_vertex[np.concatenate([threes, corners.reshape(-1, 3)])],
    )


def _arranged(points: F64, triangles: I32, face: I64, normals: F64, reach: float) -> tuple[_Asked, BoxTree]:
    """The triangles as the search needs them, and the tree of their boxes, half of ``reach`` wider to all sides."""
    low, high = triangle_boxes(points, triangles, 0.5 * reach)
    tree = build_box_tree(low, high)
    boxes = np.concatenate([low, high], axis=1)[tree.order]
    return _Asked(points, triangles, face, boxes, normals[tree.order]), tree


def _inner_diagonals(mesh: Mesh, quads: I64, vectors: F64) -> I64:
    """(Q, 6) corners of the two triangles of each quad, cut where the diagonal runs inside."""
    p = mesh.positions[mesh.corner_vertex[mesh.face_start[:-1][quads][:, None] + np.arange(4)]]
    first = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    second = np.cross(p[:, 2] - p[:, 0], p[:, 3] - p[:, 0])
    n = vectors[quads]
    inside = (np.einsum("ij,ij->i", first, n) > 0) & (np.einsum("ij,ij->i", second, n) > 0)
    return np.where(inside[:, None], [0, 1, 2, 0, 2, 3], [1, 2, 3, 1, 3, 0])
