"""Triangulating a mesh: the result keeps every corner attribute and remembers the source polygons."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import I32, Mesh
from plindro.core.numeric.single import lost_height
from plindro.core.polygons import quads as rules
from plindro.core.polygons.cutting import cut_faces

QuadRule = Literal["shortest", "shapely", "first", "second"]
PolygonRule = Literal["ears", "shapely"]
QUAD_RULES: tuple[QuadRule, ...] = ("shortest", "shapely", "first", "second")
POLYGON_RULES: tuple[PolygonRule, ...] = ("ears", "shapely")

_RULES: dict[QuadRule, int] = {
    "shortest": rules.SHORTEST,
    "shapely": rules.SHAPELY,
    "first": rules.FIRST,
    "second": rules.SECOND,
}


@dataclass(frozen=True, slots=True)
class Triangulation:
    """A triangle mesh and what was met on the way.

    ``corners`` (3 T,) int32 is the polygon corner that each triangle corner comes from. ``n_overruled``: concave quads
    where the rule's diagonal would have run outside.
    """

    mesh: Mesh
    corners: I32
    n_overruled: int


def triangulate(mesh: Mesh, *, quads: QuadRule = "shortest", ngons: PolygonRule = "ears") -> Triangulation:
    """Cut every polygon of ``mesh`` inside its outline, on the plane across its Newell normal.

    Faces of fewer than three corners are left out. Vertices, corner attributes and the order of faces are kept.
    """
    if mesh.is_triangles:
        return Triangulation(mesh, np.arange(mesh.n_corners, dtype=np.int32), 0)
    n_triangles = mesh.n_triangles
    corners = np.empty((n_triangles, 3), np.int32)
    faces = np.empty(n_triangles, np.int32)
    overruled = cut_faces(
        mesh.positions,
        mesh.face_start,
        mesh.corner_vertex,
        face_vectors(mesh),
        lost_height(mesh.positions),
        _RULES[quads],
        ngons == "shapely",
        corners,
        faces,
    )
    flat = corners.reshape(-1)
    return Triangulation(cut_mesh(mesh, flat, faces), flat, int(overruled))


def cut_mesh(mesh: Mesh, corners: I32, faces: I32) -> Mesh:
    """The triangle mesh whose corners are copies of ``corners`` (3 T,) and whose triangles were cut from ``faces``."""
    cut = mesh.with_corners(corners, np.arange(0, len(corners) + 1, 3), faces)
    return replace(cut, face_polygon=faces)
