"""Proxies fitted around points: a box, a turned box, a ball, a capsule, or a hull of few corners."""

from collections.abc import Callable
from functools import cached_property

import numpy as np
import scipy

from plindro.core.collision.balls import smallest_ball
from plindro.core.collision.boxes import least_box
from plindro.core.collision.capsules import least_capsule
from plindro.core.collision.convex import convex_hull
from plindro.core.collision.proxy import Proxy, Shape
from plindro.core.collision.reduced import corners_of, reduced_corners, sides_without_repeats
from plindro.core.mesh.mesh import F64

SHAPES: tuple[Shape, ...] = ("box", "turned-box", "ball", "capsule", "hull")
_LIFT = 1e-6
"""Share of the size that is added to every margin, and of the largest coordinate: what rounding to float32 may take."""
_AROUND, _ALONG = 16, 4
"""Sides of a capsule around its axis, and rings of each half ball, in the mesh that stands for it."""
_FEW = 12
_FAR = 1e-5
"""Share of the largest coordinate below which a thickness could be lost to rounding."""
_THIN = 1e-3
"""Share of the size that points in a plane are thickened by on either side."""


class Points:
    """Points that proxies are fitted around, with their hull; points in a plane are thickened."""

    def __init__(self, points: F64) -> None:
        """Raises ``ValueError`` where there are no points."""
        if not len(points):
            raise ValueError("there is nothing to fit a proxy to")
        self.size = float(np.ptp(points, axis=0).max()) or 1e-3
        far = float(np.abs(points).max())
        self.hull = scipy.spatial.ConvexHull(_thickened(points, max(_THIN * self.size, _FAR * far)))
        self._lift = _LIFT * max(self.size, far)
        self.corners: F64 = self.hull.points[self.hull.vertices]
        self.sides = sides_without_repeats(self.hull)

    @cached_property
    def least_box(self) -> tuple[F64, F64, F64]:
        """Axes, lowest and highest coordinates of the least box: several shapes begin with it."""
        return least_box(self.corners, self.sides[:, :3])

    def fitted(self, shape: Shape, margin: float, most: int) -> Proxy:
        """The least proxy of a shape that lies ``margin`` metres and more outside of all points."""
        return _FITS[shape](self, margin + self._lift, most)

    def simple(self, margin: float, most: int) -> Proxy:
        """The least of box, turned box, ball and capsule; a box before a turned one that is hardly less."""
        found = [self.fitted(shape, margin, most) for shape in ("box", "turned-box", "ball", "capsule")]
        return min(found, key=lambda proxy: own_volume(proxy) * _PREFERRED.get(proxy.shape, 1.0))


_PREFERRED: dict[Shape, float] = {"box": 0.98}


def own_volume(proxy: Proxy) -> float:
    """Cubic metres of what a proxy is in itself."""
    numbers = np.array(proxy.numbers)
    if proxy.shape == "ball":
        return float(4.0 / 3.0 * np.pi * numbers[3] ** 3)
    if proxy.shape == "capsule":
        radius = numbers[6]
        return float(np.pi * radius**2 * (np.linalg.norm(numbers[:3] - numbers[3:6]) + 4.0 / 3.0 * radius))
    return proxy.mesh.volume


def _thickened(points: F64, by: float) -> F64:
    """Points that all but lie in a plane, on a line or in one place, moved to both sides of it."""
    centred = points - points.mean(axis=0)
    _, axes = np.linalg.eigh(centred.T @ centred)
    for axis in axes.T:
        if np.ptp(centred @ axis) < by:
            points = np.concatenate([points - by * axis, points + by * axis])
    return points


def _box(points: Points, margin: float, most: int) -> Proxy:
    return _box_along(points, np.eye(3), margin, "box")


def _turned_box(points: Points, margin: float, most: int) -> Proxy:
    axes, _, _ = points.least_box
    return _box_along(points, axes, margin, "turned-box")


def _box_along(points: Points, axes: F64, margin: float, shape: Shape) -> Proxy:
    along = points.corners @ axes.T
    low, high = along.min(axis=0) - margin, along.max(axis=0) + margin
    ends = np.array([[low[0], high[0]], [low[1], high[1]], [low[2], high[2]]])
    corners = np.array([[ends[0, i], ends[1, j], ends[2, k]] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
    middle, half = axes.T @ (0.5 * (low + high)), 0.5 * (high - low)
    return Proxy(shape, convex_hull(corners @ axes), (*middle.tolist(), *half.tolist(), *axes.reshape(-1).tolist()))


def _ball(points: Points, margin: float, most: int) -> Proxy:
    middle, radius = smallest_ball(points.corners)
    radius += margin
    return Proxy("ball", convex_hull(_around(middle, middle, radius)), (*middle.tolist(), radius))


def _capsule(points: Points, margin: float, most: int) -> Proxy:
    axes, low, high = points.least_box
    starts = axes[np.argsort(low - high)]
    one, other, radius = least_capsule(points.corners, starts)
    radius += margin
    return Proxy("capsule", convex_hull(_around(one, other, radius)), (*one.tolist(), *other.tolist(), radius))


def _around(one: F64, other: F64, radius: float) -> F64:
    """Corners of a mesh that lies around a capsule, or around a ball where both ends are one."""
    length = float(np.linalg.norm(other - one))
    axis = (other - one) / length if length > 1e-9 * radius else np.array([0.0, 1.0, 0.0])
    across = np.cross(axis, np.eye(3)[np.abs(axis).argmin()])
    u = across / np.linalg.norm(across)
    v = np.cross(axis, u)
    # The sides of the mesh touch the round shape at their middles: it is wider by what its corners stand out.
    wide = 1.0 / (np.cos(np.pi / _AROUND) * np.cos(0.25 * np.pi / _ALONG))
    turns = np.arange(_AROUND) * (2.0 * np.pi / _AROUND)
    ring = np.cos(turns)[:, None] * u + np.sin(turns)[:, None] * v
    found = []
    for end, sign in ((one, -1.0), (other, 1.0)):
        for k in range(_ALONG):
            rise = 0.5 * np.pi * k / _ALONG
            found.append(end + wide * radius * (np.cos(rise) * ring + sign * np.sin(rise) * axis))
        found.append((end + sign * wide * radius * axis)[None])
    return np.concatenate(found)


def _hull(points: Points, margin: float, most: int) -> Proxy:
    inside = points.corners.mean(axis=0)
    sides = points.sides - [0.0, 0.0, 0.0, margin]
    corners = corners_of(sides, inside, points.size) if len(points.corners) <= most else None
    if corners is None or len(corners) > most:
        # Of many corners few are left of where the cuts began: the nearest box is as good as the least.
        axes = points.least_box[0] if most <= _FEW else np.eye(3)
        low, high = (points.corners @ axes.T).min(axis=0), (points.corners @ axes.T).max(axis=0)
        first = np.concatenate([np.c_[axes, -high - margin], np.c_[-axes, low - margin]])
        corners = reduced_corners(sides, first, inside, points.size, most)
    return Proxy("hull", convex_hull(corners))


_FITS: dict[Shape, Callable[[Points, float, int], Proxy]] = {
    "box": _box,
    "turned-box": _turned_box,
    "ball": _ball,
    "capsule": _capsule,
    "hull": _hull,
}
