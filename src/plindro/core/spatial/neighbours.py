"""For each of some points the nearest other one, through a tree of boxes."""

import numpy as np

from plindro.core.mesh.mesh import F64, I64
from plindro.core.numeric.kernels import index, kernel
from plindro.core.spatial.boxes import build_box_tree
from plindro.core.spatial.nearest import box_distance
from plindro.core.spatial.search import begin, new_stack, next_leaf, things_of

_NONE = index(-1)


@kernel
def _find(points, squared_reach, tree, stack, out):  # type: ignore[no-untyped-def]
    for i in range(len(points)):
        place = (points[i, 0], points[i, 1], points[i, 2])
        best, found = squared_reach, _NONE
        depth = begin(box_distance, place, tree, stack)
        while True:
            leaf, depth = next_leaf(box_distance, place, best, tree, stack, depth)
            if leaf < 0:
                break
            first, last = things_of(leaf, tree)
            for k in range(first, last):
                j = tree.order[k]
                x, y, z = points[j, 0] - place[0], points[j, 1] - place[1], points[j, 2] - place[2]
                distance = x * x + y * y + z * z
                if j != i and distance < best:
                    best, found = distance, j
        out[i] = found


def nearest_others(points: F64, reach: float) -> I64:
    """(N,) the nearest other one of each of the points (N, 3), -1 where none is nearer than ``reach`` metres."""
    found = np.empty(len(points), np.int64)
    _find(np.ascontiguousarray(points), reach * reach, build_box_tree(points, points), new_stack(), found)
    return found
