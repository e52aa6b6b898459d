"""The one search through a tree of boxes: for rays, near places, overlapping faces and vertices on edges.

A search is told by an entry: a helper ``entry(query, tree, node)`` that says how far the box of a node is from what is
sought, infinitely far where it holds nothing of interest. ``query`` is a tuple of whatever the entry needs. Leaves come
with the nearer child first, and those that are not nearer than ``bound`` are left out:

    depth = begin(entry, query, tree, stack)
    while True:
        leaf, depth = next_leaf(entry, query, bound, tree, stack, depth)
        if leaf < 0:
            break
        for i in range(*things_of(leaf, tree)):
            ...
"""

from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, I64
from plindro.core.numeric.kernels import helper, index

_DEEPEST = 64
"""Nodes that wait at most: one a storey of the tree, and a tree of 64 storeys outgrows any memory."""


_ROOT, _ONE = index(0), index(1)


class Stack(NamedTuple):
    """``node`` the nodes that wait to be asked, and ``distance`` of each; one search at a time uses it."""

    node: I64
    distance: F64


def new_stack() -> Stack:
    return Stack(np.empty(_DEEPEST, np.int64), np.empty(_DEEPEST))


@helper
def begin(entry, query, tree, stack):  # type: ignore[no-untyped-def]
    """Put the root on the stack; returns the stack's depth."""
    stack.node[0], stack.distance[0] = _ROOT, entry(query, tree, _ROOT)
    return _ONE


@helper
def next_leaf(entry, query, bound, tree, stack, depth):  # type: ignore[no-untyped-def]
    """The next leaf nearer than ``bound``, or -1, and the stack's new depth."""
    while depth > 0:
        depth -= 1
        node = stack.node[depth]
        if not stack.distance[depth] < bound:
            continue
        if node >= tree.first_leaf:
            return node, depth
        near, far = 2 * node + 1, 2 * node + 2
        to_near, to_far = entry(query, tree, near), entry(query, tree, far)
        if to_far < to_near:
            near, far, to_near, to_far = far, near, to_far, to_near
        # The nearer child lies on top of the stack and is asked first.
        if to_far < bound:
            stack.node[depth], stack.distance[depth] = far, to_far
            depth += 1
        if to_near < bound:
            stack.node[depth], stack.distance[depth] = near, to_near
            depth += 1
    return -1, 0


@helper
def things_of(leaf, tree):  # type: ignore[no-untyped-def]
    """The first and the one after the last place in ``tree.order`` of the things in a leaf."""
    first = (leaf - tree.first_leaf) * tree.block
    return first, min(first + tree.block, len(tree.order))
