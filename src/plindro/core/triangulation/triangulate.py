"""Triangulating a mesh: the result keeps every corner attribute and remembers the source polygons."""

from dataclasses import dataclass, replace

import numpy as np

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import Mesh
from plindro.core.triangulation import kernels
from plindro.core.triangulation.settings import QuadRule

_RULES: dict[QuadRule, int] = {
    "shortest": kernels.SHORTEST,
    "shapely": kernels.SHAPELY,
    "first": kernels.FIRST,
    "second": kernels.SECOND,
}


@dataclass(frozen=True, slots=True)
class Triangulation:
    """A triangle mesh and what was met on the way.

    ``n_overruled``: concave quads where the rule's diagonal would have run outside.
    """

    mesh: Mesh
    n_overruled: int


def triangulate(mesh: Mesh, *, quads: QuadRule = "shortest") -> Triangulation:
    """Cut every polygon of ``mesh`` inside its outline, on the plane across its Newell normal.

    Faces of fewer than three corners are left out. Vertices, corner attributes and the order of faces are kept.
    """
    if mesh.is_triangles:
        return Triangulation(mesh, 0)
    n_triangles = mesh.n_triangles
    corners = np.empty((n_triangles, 3), np.int32)
    faces = np.empty(n_triangles, np.int32)
    overruled = kernels.cut_faces(
        mesh.positions,
        mesh.face_start,
        mesh.corner_vertex,
        face_vectors(mesh),
        _RULES[quads],
        corners,
        faces,
    )
    cut = mesh.with_corners(corners.reshape(-1), np.arange(0, 3 * n_triangles + 1, 3), faces)
    return Triangulation(replace(cut, face_polygon=faces), int(overruled))
