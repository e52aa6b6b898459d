"""A hull of few corners that holds all that the whole hull holds."""

import numpy as np
import scipy

from plindro.core.mesh.mesh import F64

_CANDIDATES = 6
"""How many of the farthest corners are tried for the next cut."""
_SAME = 1e-7
"""Share of the size below which two corners are one, and a corner is no farther out."""


def reduced_corners(sides: F64, first: F64, inside: F64, size: float, most: int) -> F64:
    """(V, 3) at most ``most`` corners around all that lies within ``sides`` (F, 4): unit normals and offsets.

    From the planes ``first`` (P, 4) on, one side after another cuts off a corner that stands out, each time the one
    that takes most volume away. Whatever is left holds the whole.
    """
    planes, corners = first, corners_of(first, inside, size)
    best_volume = scipy.spatial.ConvexHull(corners).volume
    while True:
        beyond = corners @ sides[:, :3].T + sides[:, 3]
        side = beyond.argmax(axis=1)
        out = beyond[np.arange(len(corners)), side]
        chosen: tuple[float, F64, F64] | None = None
        for corner in out.argsort()[::-1][:_CANDIDATES]:
            if out[corner] <= _SAME * size:
                break
            tried = np.concatenate([planes, sides[side[corner]][None]])
            cut = corners_of(tried, inside, size)
            if len(cut) > most:
                continue
            volume = scipy.spatial.ConvexHull(cut).volume
            if chosen is None or volume < chosen[0]:
                chosen = volume, tried, cut
        if chosen is None or chosen[0] > best_volume * (1.0 - 1e-6):
            return corners
        best_volume, planes, corners = chosen


def corners_of(planes: F64, inside: F64, size: float) -> F64:
    """(V, 3) the corners of the common inside of planes around a point."""
    found = scipy.spatial.HalfspaceIntersection(planes, inside).intersections
    found = found[np.isfinite(found).all(axis=1)]
    _, first = np.unique((found / (_SAME * size)).round(), axis=0, return_index=True)
    result: F64 = found[np.sort(first)]
    return result


def sides_without_repeats(hull: "scipy.spatial.ConvexHull") -> F64:
    """(F, 4) planes of a hull's faces, those of one face once; the largest first."""
    a, b, c = (hull.points[hull.simplices[:, k]] for k in range(3))
    areas = 0.5 * np.linalg.norm(np.cross(b - a, c - a), axis=1)
    size = float(np.ptp(hull.points, axis=0).max())
    key = np.concatenate([hull.equations[:, :3].round(5), (hull.equations[:, 3:] / size).round(5)], axis=1)
    _, first, group = np.unique(key, axis=0, return_index=True, return_inverse=True)
    total = np.bincount(group.reshape(-1), areas)
    order = np.argsort(-total, kind="stable")
    sides: F64 = hull.equations[first[order]]
    return sides
