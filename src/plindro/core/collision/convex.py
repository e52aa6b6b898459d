"""Convex hulls that are convex to the last bit of the float32 coordinates that they ship in.

A hull whose corners are rounded when it is written is no longer convex in the strict sense: a quad of a turned box is
bent by its rounding, and a physics engine that checks it refuses it. So corners are rounded first, and the hull is
built on what was rounded, point by point (Clarkson and Shor 1989, "Applications of random sampling"), by orientations
that are exact.
"""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
import scipy

from plindro.core.mesh.mesh import F64, I32

_CERTAIN = 8.0 * 2.0**-53
"""Bound of the rounding of a determinant of three differences, relative to the sum of its products (Shewchuk 1997)."""


@dataclass(frozen=True, slots=True)
class Convex:
    """A closed convex surface: ``points`` (V, 3) float64 that float32 holds, ``triangles`` (T, 3) seen from outside."""

    points: F64
    triangles: I32

    @property
    def volume(self) -> float:
        a, b, c = (self.points[self.triangles[:, k]] - self.points.mean(axis=0) for k in range(3))
        return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6.0)

    def planes(self) -> F64:
        """(T, 4) unit normals and offsets: points within have ``normal · p + offset ≤ 0``."""
        a, b, c = (self.points[self.triangles[:, k]] for k in range(3))
        normal = np.cross(b - a, c - a)
        length = np.linalg.norm(normal, axis=1, keepdims=True)
        normal = normal[length[:, 0] > 0.0] / length[length[:, 0] > 0.0]
        offset = -np.einsum("ij,ij->i", normal, a[length[:, 0] > 0.0])
        return np.concatenate([normal, offset[:, None]], axis=1)


def sides_of(points: F64, triangles: I32, p: F64) -> I32:
    """(T,) 1 where p lies outside of a triangle's plane, -1 where inside, 0 where on it; exactly."""
    a, b, c = (points[triangles[:, k]] - p for k in range(3))
    products = np.stack([a[:, i] * b[:, j] * c[:, k] for i, j, k in _TERMS], axis=1)
    value = products @ _SIGNS
    sign: I32 = np.sign(value).astype(np.int32)
    # Differences of float32 values are exact in float64 for all but wildly different magnitudes; products are not.
    for t in np.flatnonzero(np.abs(value) <= _CERTAIN * np.abs(products).sum(axis=1)):
        sign[t] = _exact_side(points[triangles[t]], p)
    return -sign


_TERMS = ((0, 1, 2), (1, 2, 0), (2, 0, 1), (2, 1, 0), (1, 0, 2), (0, 2, 1))
_SIGNS = np.array([1.0, 1.0, 1.0, -1.0, -1.0, -1.0])


def _exact_side(corners: F64, p: F64) -> int:
    rows = [[Fraction(float(x)) - Fraction(float(y)) for x, y in zip(corner, p, strict=True)] for corner in corners]
    value = sum(
        (int(s) * rows[0][i] * rows[1][j] * rows[2][k] for (i, j, k), s in zip(_TERMS, _SIGNS, strict=True)),
        Fraction(0),
    )
    return (value > 0) - (value < 0)


def convex_hull(points: F64) -> Convex:
    """The hull of points, (N, 3), rounded to float32; raises ``ValueError`` where they lie in a plane."""
    rounded = np.unique(points.astype(np.float32).astype(np.float64), axis=0)
    try:
        corners = rounded[np.sort(scipy.spatial.ConvexHull(rounded).vertices)]
    except (scipy.spatial.QhullError, ValueError) as error:
        raise ValueError("all points lie in one plane") from error
    while True:
        triangles = _hull(corners)
        used = np.unique(triangles)
        flat = _without_area(corners, triangles)
        if flat < 0 and len(used) == len(corners):
            return Convex(corners, triangles)
        # A corner between two others, or under the surface that the rest makes, is none.
        corners = np.delete(corners, flat, axis=0) if flat >= 0 else corners[used]


def _without_area(points: F64, triangles: I32) -> int:
    """The middle corner of a triangle whose corners lie on one line; -1 where there is none."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    area = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    for t in np.flatnonzero(area == 0.0):
        sides = [np.linalg.norm(points[triangles[t, k - 1]] - points[triangles[t, k - 2]]) for k in range(3)]
        return int(triangles[t, int(np.argmax(sides))])
    return -1


def _hull(points: F64) -> I32:
    """(T, 3) the triangles of the hull of points."""
    order, triangles = _first_four(points)
    for p in order:
        sides = sides_of(points, triangles, points[p])
        outside = sides > 0
        if not outside.any():
            continue
        edges = triangles[outside][:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
        known = {(int(a), int(b)) for a, b in edges}
        rim = [edge for edge in known if edge[::-1] not in known]
        added = np.array([(a, b, p) for a, b in sorted(rim)], np.int32)
        triangles = np.concatenate([triangles[~outside], added])
    return triangles


def _first_four(points: F64) -> tuple[list[int], I32]:
    """The points beside a tetrahedron that is as thick as may be, and its triangles."""
    a = int(points[:, 0].argmin())
    b = int(np.linalg.norm(points - points[a], axis=1).argmax())
    line = np.cross(points - points[a], points[b] - points[a])
    c = int(np.linalg.norm(line, axis=1).argmax())
    normal = np.cross(points[b] - points[a], points[c] - points[a])
    d = int(np.abs((points - points[a]) @ normal).argmax())
    first = np.array([[a, b, c]], np.int32)
    side = int(sides_of(points, first, points[d])[0])
    if side == 0:
        raise ValueError("all points lie in one plane")
    if side > 0:
        b, c = c, b
    triangles = np.array([[a, b, c], [a, d, b], [b, d, c], [c, d, a]], np.int32)
    return [p for p in range(len(points)) if p not in (a, b, c, d)], triangles


def is_convex(points: F64, triangles: I32) -> bool:
    """Whether a closed surface is convex: no corner lies outside of any triangle's plane, exactly."""
    return all((sides_of(points, triangles, p) <= 0).all() for p in points)


def is_closed(triangles: I32) -> bool:
    """Whether each edge has two triangles, which run along it in opposite directions."""
    edges = triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    there = {(int(a), int(b)) for a, b in edges}
    return len(there) == len(edges) and all((b, a) in there for a, b in there)
