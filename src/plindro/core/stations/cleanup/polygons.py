"""Polygons that have no plane, cross themselves or have no surface; and slivers."""

from typing import NamedTuple

import numpy as np
from numba import njit

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F64, Mask, Mesh
from plindro.core.mesh.outlines import crosses_itself, project_outline
from plindro.core.numeric.single import lost_height

NO_SURFACE = 1e-6
"""Height over longest side up to which a face has no surface: what single precision leaves of a straight line."""


@njit(cache=True, nogil=True)
def _slimness(positions, face_start, corner_vertex, out, height):  # type: ignore[no-untyped-def]
    """Height over length, and height, of each face: of a triangle over its longest side, of a polygon across its
    longest reach."""
    for f in range(len(face_start) - 1):
        begin, end = face_start[f], face_start[f + 1]
        longest = 0.0
        from_, to = begin, begin
        if end - begin == 3:
            for k in range(3):
                i, j = begin + k, begin + (k + 1) % 3
                a, b = corner_vertex[i], corner_vertex[j]
                d = 0.0
                for m in range(3):
                    d += (positions[b, m] - positions[a, m]) ** 2
                if d > longest:
                    longest, from_, to = d, i, j
        else:
            for start in range(2):
                source = begin if start == 0 else to
                longest = 0.0
                for j in range(begin, end):
                    d = 0.0
                    for m in range(3):
                        d += (positions[corner_vertex[j], m] - positions[corner_vertex[source], m]) ** 2
                    if d > longest:
                        longest, from_, to = d, source, j
        if longest == 0.0:
            out[f] = height[f] = 0.0
            continue
        o, q = corner_vertex[from_], corner_vertex[to]
        ux, uy, uz = (
            positions[q, 0] - positions[o, 0],
            positions[q, 1] - positions[o, 1],
            positions[q, 2] - positions[o, 2],
        )
        widest = 0.0
        for j in range(begin, end):
            v = corner_vertex[j]
            x, y, z = (
                positions[v, 0] - positions[o, 0],
                positions[v, 1] - positions[o, 1],
                positions[v, 2] - positions[o, 2],
            )
            cx, cy, cz = uy * z - uz * y, uz * x - ux * z, ux * y - uy * x
            widest = max(widest, cx * cx + cy * cy + cz * cz)
        out[f] = np.sqrt(widest) / longest
        height[f] = np.sqrt(widest / longest)


class Slimness(NamedTuple):
    """Of each face (F,): height over length, 0 without surface, 0.87 for an equal-sided triangle; and the height."""

    ratio: F64
    height: F64

    def has_no_surface(self, mesh: Mesh) -> Mask:
        """(F,) faces of which single precision leaves none: a line, or so low that rounding may turn it over."""
        return (self.ratio <= NO_SURFACE) | (self.height <= lost_height(mesh.positions))


def slimness(mesh: Mesh) -> Slimness:
    """How slim each face is."""
    found = Slimness(np.empty(mesh.n_faces), np.empty(mesh.n_faces))
    _slimness(mesh.positions, mesh.face_start, mesh.corner_vertex, *found)
    return found


@njit(cache=True, nogil=True)
def _survey(positions, face_start, corner_vertex, vectors, limit, crooked, crossing):  # type: ignore[no-untyped-def]
    n = np.empty(3)
    largest = 4
    for f in range(len(face_start) - 1):
        largest = max(largest, face_start[f + 1] - face_start[f])
    x, y = np.empty(largest), np.empty(largest)
    for f in range(len(face_start) - 1):
        begin, end = face_start[f], face_start[f + 1]
        sides = end - begin
        crooked[f] = False
        crossing[f] = False
        if sides < 4:
            continue
        corners = corner_vertex[begin:end]
        middle_x = middle_y = middle_z = 0.0
        for k in range(sides):
            middle_x += positions[corners[k], 0] / sides
            middle_y += positions[corners[k], 1] / sides
            middle_z += positions[corners[k], 2] / sides
        reach = 0.0
        for k in range(sides):
            v = corners[k]
            reach = max(
                reach,
                (positions[v, 0] - middle_x) ** 2
                + (positions[v, 1] - middle_y) ** 2
                + (positions[v, 2] - middle_z) ** 2,
            )
        length = np.sqrt(vectors[f, 0] ** 2 + vectors[f, 1] ** 2 + vectors[f, 2] ** 2)
        for k in range(3):
            n[k] = vectors[f, k]
        if length < 1e-6 * reach:
            # Loops of opposite sense cancel out, as in a bow-tie: the largest corner gives the plane.
            for k in range(sides):
                a, b, c = corners[k], corners[(k + 1) % sides], corners[(k + 2) % sides]
                ux, uy, uz = (
                    positions[b, 0] - positions[a, 0],
                    positions[b, 1] - positions[a, 1],
                    positions[b, 2] - positions[a, 2],
                )
                vx, vy, vz = (
                    positions[c, 0] - positions[a, 0],
                    positions[c, 1] - positions[a, 1],
                    positions[c, 2] - positions[a, 2],
                )
                cx, cy, cz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
                size = np.sqrt(cx * cx + cy * cy + cz * cz)
                if size > length:
                    length = size
                    n[0], n[1], n[2] = cx, cy, cz
        if not (length > 0.0 and reach > 0.0):
            continue
        for k in range(3):
            n[k] /= length
        off = 0.0
        for k in range(sides):
            v = corners[k]
            off = max(
                off,
                abs(
                    (positions[v, 0] - middle_x) * n[0]
                    + (positions[v, 1] - middle_y) * n[1]
                    + (positions[v, 2] - middle_z) * n[2]
                ),
            )
        crooked[f] = off > limit * 2.0 * np.sqrt(reach)
        project_outline(positions, corners, n, x, y)
        crossing[f] = crosses_itself(x[:sides], y[:sides])


def survey_polygons(mesh: Mesh, share: float) -> tuple[Mask, Mask]:
    """(F,) polygons further off their plane than ``share`` of their reach, and (F,) polygons that cross themselves."""
    crooked, crossing = np.zeros(mesh.n_faces, bool), np.zeros(mesh.n_faces, bool)
    if not mesh.is_triangles:
        _survey(mesh.positions, mesh.face_start, mesh.corner_vertex, face_vectors(mesh), share, crooked, crossing)
    return crooked, crossing
