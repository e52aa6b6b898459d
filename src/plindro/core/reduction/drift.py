"""How far a mesh has come from its source, measured now and then while it collapses.

Source vertices, spread evenly, each know the vertex that stands for them. From the triangles around it a walk over
neighbours leads to the nearest triangle; between two such measurements the deviation follows the number of triangles.
"""

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F64, I32
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.reduction.features import GONE
from plindro.core.reduction.rings import Rings

FALL_EARLY, FALL = 0.8, 0.5
"""A measurement is due when the triangles have fallen to this share: early on, where little has happened, and later."""
RISE = 16.0
"""... or when collapses cost so many times more."""
MOST_STEPS = 24


@helper
def _to_segment(wx, wy, wz, dx, dy, dz):  # type: ignore[no-untyped-def]
    """Squared distance of the point w to the segment from the origin to d."""
    length = dx * dx + dy * dy + dz * dz
    t = (wx * dx + wy * dy + wz * dz) / length if length > 0.0 else 0.0
    t = min(max(t, 0.0), 1.0)
    return (t * dx - wx) ** 2 + (t * dy - wy) ** 2 + (t * dz - wz) ** 2


@helper
def _to_triangle(px, py, pz, p, a, b, c):  # type: ignore[no-untyped-def]
    """Squared distance of a place to the triangle a, b, c, and whether its foot lies inside."""
    ux, uy, uz = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[b, 2] - p[a, 2]
    vx, vy, vz = p[c, 0] - p[a, 0], p[c, 1] - p[a, 1], p[c, 2] - p[a, 2]
    wx, wy, wz = px - p[a, 0], py - p[a, 1], pz - p[a, 2]
    nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    nn = nx * nx + ny * ny + nz * nz
    d = np.inf
    if nn > 0.0:
        beta = ((wy * vz - wz * vy) * nx + (wz * vx - wx * vz) * ny + (wx * vy - wy * vx) * nz) / nn
        gamma = ((uy * wz - uz * wy) * nx + (uz * wx - ux * wz) * ny + (ux * wy - uy * wx) * nz) / nn
        if beta >= 0.0 and gamma >= 0.0 and beta + gamma <= 1.0:
            d = (wx * nx + wy * ny + wz * nz) ** 2 / nn
    inside = d < np.inf
    if not inside:
        d = _to_segment(wx, wy, wz, ux, uy, uz)
        d = min(d, _to_segment(wx, wy, wz, vx, vy, vz))
        d = min(d, _to_segment(wx - ux, wy - uy, wz - uz, vx - ux, vy - uy, vz - uz))
    return d, inside


@kernel
def _to_ring(places, owner, positions, start, around, out):  # type: ignore[no-untyped-def]
    """Squared distance of each place to the triangles around its owner."""
    for i in range(len(places)):
        at, nearest = owner[i], np.inf
        for s in range(start[at], start[at + 1]):
            d, _ = _to_triangle(places[i, 0], places[i, 1], places[i, 2], positions, at, around[s, 0], around[s, 1])
            nearest = min(nearest, d)
        out[i] = nearest


@kernel
def _measure(places, owner, positions, start, around, out):  # type: ignore[no-untyped-def]
    """Distance of each place to the surface, walking from the ring of its owner to nearer rings."""
    for i in range(len(places)):
        px, py, pz = places[i, 0], places[i, 1], places[i, 2]
        at = owner[i]
        nearest = np.inf
        for _ in range(MOST_STEPS):
            better = -1
            within = False
            for s in range(start[at], start[at + 1]):
                d, inside = _to_triangle(px, py, pz, positions, at, around[s, 0], around[s, 1])
                if d < nearest:
                    nearest = d
                    within = inside
                    # Of the far side's ends the one that is nearer leads on.
                    a, b = around[s, 0], around[s, 1]
                    da = (positions[a, 0] - px) ** 2 + (positions[a, 1] - py) ** 2 + (positions[a, 2] - pz) ** 2
                    db = (positions[b, 0] - px) ** 2 + (positions[b, 1] - py) ** 2 + (positions[b, 2] - pz) ** 2
                    better = a if da < db else b
            # With its foot inside a triangle a place has nearly always found the nearest one.
            if better < 0 or within:
                break
            at = better
        out[i] = np.sqrt(nearest)


class Drift:
    """The measurements of one run: ``steps`` and ``largest``, in the unit of the positions."""

    def __init__(self, positions: F64, n_triangles: int) -> None:
        n = len(positions)
        count = min(n, max(n // 8, 700), 2048)
        self.owner: I32 = np.unique(np.linspace(0, n - 1, count).astype(np.int32)) if n else np.zeros(0, np.int32)
        self._places = positions[self.owner].copy()
        self._n_vertices, self._n_triangles = n, n_triangles
        self._due = FALL_EARLY * n_triangles
        self._cost = 0.0
        self.steps, self.largest = [0], [0.0]

    def follow(self, into: I32) -> None:
        """Name the vertices that the owners went into."""
        self.owner[:] = into[self.owner]

    def part(self, made_of: I32, n_old: int, state) -> None:  # type: ignore[no-untyped-def]
        """Vertices were split: ``made_of`` what each from ``n_old`` on was. A place goes with the nearer side."""
        copy_of = np.full(n_old, -1, np.int32)
        copy_of[made_of] = np.arange(n_old, n_old + len(made_of), dtype=np.int32)
        at = np.flatnonzero(copy_of[self.owner] >= 0)
        if not len(at):
            return
        rings: Rings = state.rings
        both = np.empty((2, len(at)))
        for side, owner in zip(both, (self.owner[at], copy_of[self.owner[at]]), strict=True):
            _to_ring(self._places[at], owner, state.positions, rings.start, rings.around, side)
        changes = at[both[1] < both[0]]
        self.owner[changes] = copy_of[self.owner[changes]]

    def lose(self, kind: NDArray[np.uint8]) -> None:
        """Leave out the places whose vertices are gone, and with them all that could stand for them."""
        stays = kind[self.owner] != GONE
        self.owner, self._places = self.owner[stays], self._places[stays]

    def note(self, state, step: int, n_triangles: int, cost: float) -> None:  # type: ignore[no-untyped-def]
        """Measure, if the triangles have fallen far enough, or the ``cost`` of collapses has risen.

        ``state`` is a ``State`` with its rings listed; an infinite cost asks for a measurement in any case.
        """
        is_due = n_triangles <= self._due or cost > RISE * self._cost
        if not is_due or step == self.steps[-1] or not len(self.owner):
            return
        self._cost = cost
        self._due = (FALL_EARLY if 2 * n_triangles > self._n_triangles else FALL) * n_triangles
        rings: Rings = state.rings
        out = np.empty(len(self._places))
        _measure(self._places, self.owner, state.positions, rings.start, rings.around, out)
        out = out[np.isfinite(out)]
        largest = float(out.max(initial=0.0))
        self.steps.append(step)
        self.largest.append(max(self.largest[-1], self._beyond_samples(step) * largest))

    def _beyond_samples(self, step: int) -> float:
        """How much further the furthest of all that went is than the furthest of the samples among them.

        For distances whose frequency falls off exponentially the largest grows with the logarithm of their number.
        """
        sampled = step * len(self._places) / self._n_vertices
        return float(np.log(step + 2.0) / np.log(sampled + 2.0))
