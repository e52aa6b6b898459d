"""Faces that lie on other faces in one plane: they flicker in the engine."""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numba import njit

from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F64, I64, Mask, Mesh
from plindro.core.spatial.boxes import BLOCK, DEEPEST, build_box_tree, triangle_boxes

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


@njit(cache=True, nogil=True)
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


@njit(cache=True, nogil=True)
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


@njit(cache=True, nogil=True)
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


@njit(cache=True, nogil=True)
def _gather(box_low, box_high, normals, order, boxes, directions):  # type: ignore[no-untyped-def]
    """Boxes (T, 6) and normals (T, 3) of triangles in the order of the tree, so that neighbours are read together."""
    for i in range(len(order)):
        t = order[i]
        for k in range(3):
            boxes[i, k], boxes[i, 3 + k] = box_low[t, k], box_high[t, k]
            directions[i, k] = normals[t, k]


@njit(cache=True, nogil=True)
def _search(  # type: ignore[no-untyped-def]
    points, triangles, face, boxes, directions, order, low, high, first_leaf, reach, same, opposite, first_block, last,
    most,
):  # fmt: skip
    """Ask each block of triangles of a range against the later blocks that its box touches.

    Returns whether all were asked: after ``most`` pairs of blocks the search ends.
    """
    asked = 0
    stack = np.empty(DEEPEST, np.int64)
    near = np.empty(BLOCK, np.int64)
    x, y = np.empty(6), np.empty(6)
    n = len(order)
    for b in range(first_block, last):
        mine = first_leaf + b
        begin, end = b * BLOCK, min(b * BLOCK + BLOCK, n)
        stack[0] = 0
        depth = 1
        while depth > 0:
            depth -= 1
            node = stack[depth]
            if (
                low[node, 0] > high[mine, 0] or high[node, 0] < low[mine, 0]
                or low[node, 1] > high[mine, 1] or high[node, 1] < low[mine, 1]
                or low[node, 2] > high[mine, 2] or high[node, 2] < low[mine, 2]
            ):  # fmt: skip
                continue
            if node < first_leaf:
                stack[depth] = 2 * node + 2
                stack[depth + 1] = 2 * node + 1
                depth += 2
                continue
            if node < mine:
                continue
            asked += 1
            if asked > most:
                return False
            other = (node - first_leaf) * BLOCK
            n_near = 0
            for i in range(begin, end):
                if not (
                    boxes[i, 0] > high[node, 0] or boxes[i, 3] < low[node, 0]
                    or boxes[i, 1] > high[node, 1] or boxes[i, 4] < low[node, 1]
                    or boxes[i, 2] > high[node, 2] or boxes[i, 5] < low[node, 2]
                ):  # fmt: skip
                    near[n_near] = i
                    n_near += 1
            if not n_near:
                continue
            for j in range(other, min(other + BLOCK, n)):
                for m in range(n_near):
                    i = near[m]
                    if j <= i or (
                        boxes[i, 0] > boxes[j, 3] or boxes[i, 3] < boxes[j, 0]
                        or boxes[i, 1] > boxes[j, 4] or boxes[i, 4] < boxes[j, 1]
                        or boxes[i, 2] > boxes[j, 5] or boxes[i, 5] < boxes[j, 2]
                    ):  # fmt: skip
                        continue
                    cosine = (
                        directions[i, 0] * directions[j, 0]
                        + directions[i, 1] * directions[j, 1]
                        + directions[i, 2] * directions[j, 2]
                    )
                    if abs(cosine) < PARALLEL:
                        continue
                    s, t = order[i], order[j]
                    later = max(face[s], face[t])
                    if face[s] == face[t] or (same[later] if cosine > 0 else opposite[later]):
                        continue
                    if _share_an_edge(triangles[s], triangles[t], cosine > 0):
                        continue
                    if _overlap(points, triangles[s], triangles[t], directions[i], reach, x, y):
                        if cosine > 0:
                            same[later] = True
                        else:
                            opposite[later] = True
    return True


def find_overlaps(mesh: Mesh, reach: float, skip: Mask) -> Overlaps:
    """Faces that lie within ``reach`` metres on an earlier face in one plane.

    ``skip`` (F,): faces not to be asked (without surface, or not flat). Triangles and quads are asked; larger
    polygons are not.
    """
    same, opposite = np.zeros(mesh.n_faces, bool), np.zeros(mesh.n_faces, bool)
    sides = mesh.face_sides
    asked = np.flatnonzero((sides >= 3) & (sides <= 4) & ~skip)
    vectors = face_vectors(mesh)
    quads = asked[sides[asked] == 4]
    corners = mesh.face_start[:-1][quads][:, None] + _inner_diagonals(mesh, quads, vectors)
    threes = mesh.face_start[:-1][asked[sides[asked] == 3]][:, None] + np.arange(3)
    face = np.concatenate([asked[sides[asked] == 3], np.repeat(quads, 2)])
    triangles = mesh.corner_vertex[np.concatenate([threes, corners.reshape(-1, 3)])]
    if len(triangles) < 2:
        return Overlaps(same, opposite, True)
    normals = unit(vectors)[face]
    points = mesh.positions
    box_low, box_high = triangle_boxes(points, triangles, 0.5 * reach)
    tree = build_box_tree(box_low, box_high)
    boxes, directions = np.empty((len(triangles), 6)), np.empty((len(triangles), 3))
    _gather(box_low, box_high, normals, tree.order, boxes, directions)
    blocks = (len(triangles) + BLOCK - 1) // BLOCK
    cuts = np.linspace(0, blocks, CHUNKS + 1).astype(int).tolist()

    def search(first: int, last: int) -> bool:
        """Marks are only ever set, so that threads do not disturb one another and their order does not matter."""
        done: bool = _search(
            points, triangles, face, boxes, directions, tree.order, tree.low, tree.high, tree.first_leaf, reach, same,
            opposite, first, last, PAIRS_A_BLOCK * (last - first) + LEAST_PAIRS,
        )  # fmt: skip
        return done

    with ThreadPoolExecutor(os.cpu_count()) as threads:
        complete = all(list(threads.map(search, cuts[:-1], cuts[1:])))
    return Overlaps(same, opposite, complete)


def _inner_diagonals(mesh: Mesh, quads: I64, vectors: F64) -> I64:
    """(Q, 6) corners of the two triangles of each quad, cut where the diagonal runs inside."""
    p = mesh.positions[mesh.corner_vertex[mesh.face_start[:-1][quads][:, None] + np.arange(4)]]
    first = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    second = np.cross(p[:, 2] - p[:, 0], p[:, 3] - p[:, 0])
    n = vectors[quads]
    inside = (np.einsum("ij,ij->i", first, n) > 0) & (np.einsum("ij,ij->i", second, n) > 0)
    return np.where(inside[:, None], [0, 1, 2, 0, 2, 3], [1, 2, 3, 1, 3, 0])
