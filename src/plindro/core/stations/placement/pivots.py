"""Where the pivot goes: by kind of prop, or where it was put."""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F64, Mask, Mesh
from plindro.core.mesh.surgery import next_corners

NEAR = 0.01
"""Share of the longest side within which a pivot counts as being on a side of the bounds."""
HELD_PLACE = 0.02
"""Share of the diagonal within which a marked place must still be there after the source changed."""


@dataclass(frozen=True, slots=True)
class Bounds:
    """The box around the prop, in metres."""

    low: F64
    high: F64

    @property
    def size(self) -> F64:
        return self.high - self.low

    @property
    def tolerance(self) -> float:
        return max(NEAR * float(self.size.max()), 1e-6)

    def at(self, anchor: tuple[int, int, int]) -> F64:
        """A corner, face centre or middle: -1, 0, 1 along each axis."""
        result: F64 = (self.low + self.high) / 2 + np.array(anchor) * self.size / 2
        return result

    def holds(self, axes: tuple[int, ...]) -> bool:
        """Whether the origin lies within the bounds along these axes."""
        return all(self.low[k] - self.tolerance <= 0 <= self.high[k] + self.tolerance for k in axes)

    def is_at(self, axis: int, side: int) -> bool:
        """Whether the origin lies on a side of the bounds."""
        return bool(abs((self.low if side < 0 else self.high)[axis]) <= self.tolerance)


def fits(kind: str, bounds: Bounds) -> bool:
    """Whether the source's own pivot, the origin, suits a kind of prop."""
    if kind == "stands":
        return bounds.is_at(1, -1) and bounds.holds((0, 2))
    if kind == "hangs":
        return bounds.is_at(1, 1) and bounds.holds((0, 2))
    if kind == "hinges":
        return bounds.holds((0, 1, 2)) and any(bounds.is_at(k, s) for k in (0, 2) for s in (-1, 1))
    if kind == "held":
        return bounds.holds((0, 1, 2))
    return all(bounds.is_at(k, -1) or bounds.is_at(k, 1) for k in range(3))


def pivot_of_kind(kind: str, bounds: Bounds, mesh: Mesh) -> F64:
    """The pivot that a kind of prop gets where its own does not suit."""
    anchors = {"stands": (0, -1, 0), "hangs": (0, 1, 0), "hinges": (-1, -1, 0), "grid": (-1, -1, -1)}
    return centre_of_mass(mesh) if kind == "held" else bounds.at(anchors[kind])


def centre_of_mass(mesh: Mesh) -> F64:
    """Centre of the enclosed volume; of the surface where it encloses none to speak of."""
    mesh = _finite(mesh)
    if not mesh.n_faces:
        return np.zeros(3)
    vectors = face_vectors(mesh)
    points = mesh.positions[mesh.corner_vertex]
    middle = points.mean(axis=0)
    middles = np.add.reduceat(points, mesh.face_start[:-1], axis=0) / mesh.face_sides[:, None] - middle
    area = np.linalg.norm(vectors, axis=1)
    parts = np.einsum("ij,ij->i", middles, vectors) / 3.0
    extent = float(np.linalg.norm(np.ptp(points, axis=0)))
    if abs(parts.sum()) > 1e-3 * float(area.sum()) * extent * 0.1:
        # A pyramid over a face has its centre at three quarters of the way to the face's middle.
        result: F64 = middle + 0.75 * (middles * parts[:, None]).sum(axis=0) / parts.sum()
        return result
    return middle + (middles * area[:, None]).sum(axis=0) / max(float(area.sum()), 1e-300)


def _finite(mesh: Mesh) -> Mesh:
    """The mesh without faces of no corners or with a vertex that is not finite; they are taken out only later."""
    bad: Mask = np.asarray(~np.isfinite(mesh.positions).all(axis=1))
    has_corners = mesh.face_sides > 0
    if not bad.any() and has_corners.all():
        return mesh
    touched = np.bincount(mesh.corner_face()[bad[mesh.corner_vertex]], minlength=mesh.n_faces) > 0
    return mesh.with_faces(~touched & has_corners)


def nearest_feature(mesh: Mesh, point: F64, on: str) -> F64:
    """The vertex, edge middle or face centre nearest to a point; the point itself where there is none."""
    mesh = _finite(mesh)
    if not mesh.n_faces:
        return point
    if on == "vertex":
        places = mesh.positions[np.unique(mesh.corner_vertex)]
    elif on == "edge":
        places = (mesh.positions[mesh.corner_vertex] + mesh.positions[mesh.corner_vertex[next_corners(mesh)]]) / 2
    else:
        points = mesh.positions[mesh.corner_vertex]
        places = np.add.reduceat(points, mesh.face_start[:-1], axis=0) / mesh.face_sides[:, None]
    result: F64 = places[int(np.argmin(((places - point) ** 2).sum(axis=1)))]
    return result
