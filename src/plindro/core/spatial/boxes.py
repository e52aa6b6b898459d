"""A tree of boxes over many small things: the one spatial index behind rays, T-vertices, overlaps and nearest points.

The things are sorted along a Morton curve (Morton 1966) and cut into blocks; a complete binary tree of bounds lies over
the blocks. Building is a sort and two passes; no pointers are needed: the children of node i are 2 i + 1 and 2 i + 2.
"""

from typing import NamedTuple

import numpy as np
from numba import njit

from plindro.core.mesh.mesh import F64, I32, I64

BLOCK = 8
"""Things in a block, the leaves of the tree, where single ones are quickly asked."""
NONE, MIXED = -1, -2


class BoxTree(NamedTuple):
    """``order`` (N,) the things along the curve; ``low``, ``high`` (nodes, 3) bounds; ``first_leaf`` the first leaf.

    Leaf k holds the things ``order[block * k : block * (k + 1)]``; empty nodes have low above high. Kernels take it as
    it is.
    """

    order: I64
    low: F64
    high: F64
    first_leaf: int
    block: int


@njit(cache=True, nogil=True)
def _spread(x):  # type: ignore[no-untyped-def]
    """Put two zero bits between the lower 21 bits of ``x``."""
    x &= np.uint64(0x1FFFFF)
    x = (x | (x << np.uint64(32))) & np.uint64(0x1F00000000FFFF)
    x = (x | (x << np.uint64(16))) & np.uint64(0x1F0000FF0000FF)
    x = (x | (x << np.uint64(8))) & np.uint64(0x100F00F00F00F00F)
    x = (x | (x << np.uint64(4))) & np.uint64(0x10C30C30C30C30C3)
    return (x | (x << np.uint64(2))) & np.uint64(0x1249249249249249)


@njit(cache=True, nogil=True)
def morton_codes(low, high, start, scale, codes):  # type: ignore[no-untyped-def]
    for i in range(len(low)):
        code = np.uint64(0)
        for k in range(3):
            middle = (0.5 * (low[i, k] + high[i, k]) - start[k]) * scale
            code |= _spread(np.uint64(min(max(middle, 0.0), 2097151.0))) << np.uint64(k)
        codes[i] = code


@njit(cache=True, nogil=True)
def _fill_bounds(order, low, high, first_leaf, block, node_low, node_high):  # type: ignore[no-untyped-def]
    node_low[:] = np.inf
    node_high[:] = -np.inf
    for i in range(len(order)):
        node = first_leaf + i // block
        for k in range(3):
            node_low[node, k] = min(node_low[node, k], low[order[i], k])
            node_high[node, k] = max(node_high[node, k], high[order[i], k])
    for node in range(first_leaf - 1, -1, -1):
        for k in range(3):
            node_low[node, k] = min(node_low[2 * node + 1, k], node_low[2 * node + 2, k])
            node_high[node, k] = max(node_high[2 * node + 1, k], node_high[2 * node + 2, k])


@njit(cache=True, nogil=True)
def _triangle_boxes(points, triangles, reach, low, high):  # type: ignore[no-untyped-def]
    for t in range(len(triangles)):
        for k in range(3):
            a, b, c = points[triangles[t, 0], k], points[triangles[t, 1], k], points[triangles[t, 2], k]
            low[t, k], high[t, k] = min(a, b, c) - reach, max(a, b, c) + reach


@njit(cache=True, nogil=True)
def _label_nodes(label, first_leaf, block, only):  # type: ignore[no-untyped-def]
    only[:] = NONE
    for i in range(len(label)):
        node = first_leaf + i // block
        only[node] = label[i] if only[node] == NONE or only[node] == label[i] else MIXED
    for node in range(first_leaf - 1, -1, -1):
        a, b = only[2 * node + 1], only[2 * node + 2]
        only[node] = a if b == NONE or a == b else MIXED


def label_nodes(labels: I64, tree: BoxTree) -> I64:
    """(nodes,) the one label, of those 0 and up that things (N,) have, that each node holds; MIXED where it holds
    several, NONE where it is empty."""
    only = np.empty(len(tree.low), np.int64)
    _label_nodes(labels[tree.order], tree.first_leaf, tree.block, only)
    return only


def triangle_boxes(points: F64, triangles: I32, reach: float = 0.0) -> tuple[F64, F64]:
    """(T, 3) lower and upper corners of triangles (T, 3), ``reach`` wider to all sides."""
    low, high = np.empty((len(triangles), 3)), np.empty((len(triangles), 3))
    _triangle_boxes(points, triangles, reach, low, high)
    return low, high


def along_curve(low: F64, high: F64) -> I64:
    """(N,) the order of N boxes along a Morton curve, given by (N, 3) finite lower and upper corners."""
    n = len(low)
    start = low.min(axis=0) if n else np.zeros(3)
    extent = float((high.max(axis=0) - start).max()) if n else 0.0
    codes = np.empty(n, np.uint64)
    morton_codes(low, high, start, 2097151.0 / extent if extent > 0 else 0.0, codes)
    return np.argsort(codes, kind="stable").astype(np.int64)


def build_box_tree(low: F64, high: F64, block: int = BLOCK) -> BoxTree:
    """A tree over N boxes given by (N, 3) finite lower and upper corners, ``block`` of them to a leaf."""
    order = along_curve(low, high)
    leaves = 1
    while leaves * block < len(order):
        leaves *= 2
    node_low, node_high = np.empty((2 * leaves - 1, 3)), np.empty((2 * leaves - 1, 3))
    _fill_bounds(order, low, high, leaves - 1, block, node_low, node_high)
    return BoxTree(order, node_low, node_high, leaves - 1, block)
