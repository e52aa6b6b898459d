"""Polygons that stay whole, for formats that hold them."""

import numpy as np

from plindro.core.mesh.mesh import Mesh
from plindro.core.prop import Polygons


def with_whole_polygons(mesh: Mesh, polygons: Polygons) -> Mesh:
    """The triangle mesh ``mesh``, cut from ``polygons``, with the smaller polygons whole again.

    Vertices, normals and other corner attributes are those of ``mesh``; polygons of ``min_sides`` sides and more stay
    cut.
    """
    source = polygons.mesh
    sides = source.face_sides
    is_whole = (sides > 3) & (sides < polygons.min_sides)
    if not is_whole.any():
        return mesh
    # A corner of the polygon mesh takes the attributes of a triangle corner that came from it.
    of_corner = np.zeros(source.n_corners, np.int64)
    of_corner[polygons.corners] = np.arange(len(polygons.corners))
    first = np.searchsorted(mesh.face_polygon, np.arange(source.n_faces + 1))
    counts = np.diff(first)
    is_whole &= counts > 0
    pieces = np.where(is_whole, 1, counts)
    total = np.where(is_whole, sides, 3 * counts)
    start = np.concatenate([[0], np.cumsum(total)])
    corners = np.arange(3 * mesh.n_faces, dtype=np.int64)
    face_of_corner = np.repeat(np.arange(source.n_faces), total)
    within = np.arange(start[-1]) - start[:-1][face_of_corner]
    whole = is_whole[face_of_corner]
    picked = np.where(
        whole,
        of_corner[np.minimum(source.face_start[:-1][face_of_corner] + within, source.n_corners - 1)],
        corners[np.minimum(3 * first[:-1][face_of_corner] + within, max(len(corners) - 1, 0))],
    )
    faces = np.repeat(np.arange(source.n_faces), pieces)
    row = np.arange(len(faces)) - np.repeat(np.cumsum(pieces) - pieces, pieces)
    face_sides = np.where(is_whole[faces], sides[faces], 3)
    inherits = np.minimum(first[:-1][faces] + row, mesh.n_faces - 1)
    return mesh.with_corners(picked, np.concatenate([[0], np.cumsum(face_sides)]), inherits)
