"""How close the islands of a sheet come to each other, and to the border of the texture.

Where a texture is made smaller for a far mip level, islands that are nearer than a pixel bleed into each other.
"""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F64, Mask
from plindro.core.numeric.exact import orient_sign
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.spatial.boxes import build_box_tree, label_nodes
from plindro.core.spatial.search import begin, new_stack, next_leaf, things_of
from plindro.core.uvs.sheet import UvSheet


@dataclass(frozen=True, slots=True)
class Gaps:
    """Distances on the sheet.

    ``between`` (I,) from the rim of each island to the nearest of another, 0 where they touch or overlap, infinite
    where there is no other; ``to_border`` (I,) to the nearest border of the unit square, below 0 beyond it.
    """

    between: F64
    to_border: F64


@helper
def _to_box(query, tree, node):  # type: ignore[no-untyped-def]
    """Squared distance between the boxes; infinite where a box holds the own island alone."""
    x0, y0, x1, y1, own, only = query
    if only[node] == own:
        return np.inf
    dx = max(tree.low[node, 0] - x1, x0 - tree.high[node, 0], 0.0)
    dy = max(tree.low[node, 1] - y1, y0 - tree.high[node, 1], 0.0)
    return dx * dx + dy * dy


@helper
def _from_point(px, py, ax, ay, bx, by):  # type: ignore[no-untyped-def]
    """Squared distance of a point to the line from a to b."""
    dx, dy = bx - ax, by - ay
    squared = dx * dx + dy * dy
    f = ((px - ax) * dx + (py - ay) * dy) / squared if squared > 0.0 else 0.0
    f = min(max(f, 0.0), 1.0)
    x, y = ax + f * dx - px, ay + f * dy - py
    return x * x + y * y


@helper
def _between(lines, i, j):  # type: ignore[no-untyped-def]
    """Squared distance of two lines, 0 where they cross."""
    ax, ay, bx, by = lines[i, 0], lines[i, 1], lines[i, 2], lines[i, 3]
    cx, cy, dx, dy = lines[j, 0], lines[j, 1], lines[j, 2], lines[j, 3]
    if (
        orient_sign(ax, ay, bx, by, cx, cy) * orient_sign(ax, ay, bx, by, dx, dy) < 0
        and orient_sign(cx, cy, dx, dy, ax, ay) * orient_sign(cx, cy, dx, dy, bx, by) < 0
    ):
        return 0.0
    return min(
        _from_point(ax, ay, cx, cy, dx, dy),
        _from_point(bx, by, cx, cy, dx, dy),
        _from_point(cx, cy, ax, ay, bx, by),
        _from_point(dx, dy, ax, ay, bx, by),
    )


@kernel
def _nearest_islands(lines, island, tree, only, stack, squared):  # type: ignore[no-untyped-def]
    """The squared distance of each island to the nearest line of another."""
    for place in range(len(tree.order)):
        i = tree.order[place]
        own = island[i]
        query = (
            min(lines[i, 0], lines[i, 2]),
            min(lines[i, 1], lines[i, 3]),
            max(lines[i, 0], lines[i, 2]),
            max(lines[i, 1], lines[i, 3]),
            own,
            only,
        )
        depth = begin(_to_box, query, tree, stack)
        while squared[own] > 0.0:
            leaf, depth = next_leaf(_to_box, query, squared[own], tree, stack, depth)
            if leaf < 0:
                break
            first, last = things_of(leaf, tree)
            for other in range(first, last):
                j = tree.order[other]
                if island[j] != own:
                    this = _between(lines, i, j)
                    squared[own] = min(squared[own], this)
                    squared[island[j]] = min(squared[island[j]], this)


def find_gaps(sheet: UvSheet, met: Mask) -> Gaps:
    """The gaps of a sheet, between the rims of its islands; ``met`` (T,) triangles that overlap another island.

    An island that covers nothing, as triangles without area do, is as far from all others as can be.
    """
    covers = sheet.covers
    rim = sheet.rim[covers[sheet.island[sheet.rim // 3]]]
    triangle, side = rim // 3, rim % 3
    lines = np.concatenate([sheet.corners[triangle, side], sheet.corners[triangle, (side + 1) % 3]], axis=1)
    squared = np.full(sheet.n_islands, np.inf)
    # Among thousands of copies in one place the search would find no end.
    squared[sheet.island[met]] = 0.0
    if len(lines):
        flat = np.zeros((2, len(lines), 3))
        flat[0, :, :2], flat[1, :, :2] = np.minimum(lines[:, :2], lines[:, 2:]), np.maximum(lines[:, :2], lines[:, 2:])
        island = sheet.island[triangle].astype(np.int64)
        tree = build_box_tree(flat[0], flat[1], block=1)
        _nearest_islands(lines, island, tree, label_nodes(island, tree), new_stack(), squared)
    to_border = np.full(sheet.n_islands, np.inf)
    nearest = np.minimum(sheet.corners, 1.0 - sheet.corners).min(axis=(1, 2))
    np.minimum.at(to_border, sheet.island, nearest)
    to_border[~covers] = np.inf
    return Gaps(np.sqrt(squared), to_border)


def bleeds_at(gap: float, pixels: int) -> int | None:
    """The first mip level at which a gap is less than a pixel on a texture of so many along a side; None where there is
    no gap that could be."""
    if not np.isfinite(gap):
        return None
    return max(int(np.floor(np.log2(gap * pixels))) + 1, 0) if gap * pixels > 0 else 0
