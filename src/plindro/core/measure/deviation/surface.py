"""A surface made ready to be measured."""

from collections import deque
from typing import NamedTuple

import numpy as np

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F64, I64, Mesh
from plindro.core.mesh.topology import build_topology
from plindro.core.numeric.kernels import helper
from plindro.core.spatial.nearest import ANY, Surface, find_nearest, searched_surface, squared_distance

_KEPT = 3
"""Surfaces that are kept: of a level, of the one above it, and of one that was tried."""


class MeasuredSurface(NamedTuple):
    """A surface with its triangles in the order of their tree.

    ``grown`` (T,) their areas added up; ``across`` (T, 3) the triangle beyond each side, -1 where there is none.
    """

    surface: Surface
    grown: F64
    across: I64


def measured_surface(mesh: Mesh) -> MeasuredSurface:
    """The triangles of a mesh, of which there is at least one."""
    vectors = face_vectors(mesh)
    surface = searched_surface(mesh.positions, mesh.triangles(), vectors)
    order = surface.tree.order
    place = np.empty(len(order) + 1, np.int64)
    place[order], place[-1] = np.arange(len(order)), -1
    twin = build_topology(mesh).twin.reshape(-1, 3)[order]
    across = place[np.where(twin >= 0, twin // 3, -1)]
    return MeasuredSurface(surface, np.cumsum(0.5 * np.linalg.norm(vectors[order], axis=1)), across)


class RecentSurfaces:
    """Surfaces made ready, of which the last few are kept: a chain measures each of its levels more than once."""

    def __init__(self) -> None:
        self._kept: deque[tuple[Mesh, MeasuredSurface]] = deque(maxlen=_KEPT)

    def of(self, mesh: Mesh) -> MeasuredSurface:
        """The triangles of a mesh, of which there is at least one."""
        for known, surface in self._kept:
            if known.positions is mesh.positions and known.corner_vertex is mesh.corner_vertex:
                return surface
        surface = measured_surface(mesh)
        self._kept.append((mesh, surface))
        return surface


@helper
def nearest_triangle(x, y, z, guess, surface, stack):  # type: ignore[no-untyped-def]
    """The triangle that is nearest to a place, looked for from ``guess`` on, and its squared distance."""
    t = find_nearest((x, y, z), (0.0, 0.0, 0.0), ANY, guess, surface, stack)[0]
    return t, squared_distance(x, y, z, surface.corners, t)
