"""Cutting and joining meshes without losing what lives on their corners."""

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F32, F64, I32, I64, Mesh


def next_corners(mesh: Mesh) -> I64:
    """(C,) the corner after each one around its face."""
    following = np.arange(1, mesh.n_corners + 1, dtype=np.int64)
    filled = mesh.face_sides > 0
    following[mesh.face_start[1:][filled] - 1] = mesh.face_start[:-1][filled]
    return following


def merge_vertices(mesh: Mesh, target: I32) -> Mesh:
    """Corners of vertex v go to ``target[v]`` (V,); corners that then repeat the next one vanish.

    Faces left with fewer than three corners go. Vertices stay in place, whether or not a face still uses them.
    """
    merged = replace(mesh, corner_vertex=target[mesh.corner_vertex].astype(np.int32))
    return drop_repeated_corners(merged)


def drop_repeated_corners(mesh: Mesh) -> Mesh:
    """The mesh without corners that name the same vertex as the next one, and without faces of fewer than three."""
    repeated = mesh.corner_vertex == mesh.corner_vertex[next_corners(mesh)]
    if not repeated.any() and (mesh.face_sides >= 3).all():
        return mesh
    face = mesh.corner_face()
    sides = np.bincount(face[~repeated], minlength=mesh.n_faces)
    kept = ~repeated & (sides >= 3)[face]
    faces = np.flatnonzero(sides >= 3)
    return mesh.with_corners(np.flatnonzero(kept), np.concatenate([[0], np.cumsum(sides[faces])]), faces)


def insert_corners(mesh: Mesh, after: I64, vertices: I32, shares: F64) -> Mesh:
    """New corners behind the corners ``after`` (N,), at ``shares`` of the way to the next corner.

    Their attributes are blended from the two corners between which they lie. Several on one edge go in by share.
    """
    order = np.lexsort((shares, after))
    after, vertices, shares = after[order], vertices[order], shares[order]
    beyond = next_corners(mesh)[after]
    at = after + 1

    def grown(values: F32, *, is_unit: bool = False) -> F32:
        blend = values[after] * (1.0 - shares[:, None]) + values[beyond] * shares[:, None]
        if is_unit:
            length = np.linalg.norm(blend[:, :3], axis=1, keepdims=True)
            blend[:, :3] = np.where(length > 0, blend[:, :3] / np.where(length > 0, length, 1.0), 0.0)
        return np.insert(values, at, blend.astype(np.float32), axis=0)

    grown_sides = mesh.face_sides + np.bincount(mesh.corner_face()[after], minlength=mesh.n_faces)
    return replace(
        mesh,
        face_start=np.concatenate([[0], np.cumsum(grown_sides)]).astype(np.int64),
        corner_vertex=np.insert(mesh.corner_vertex, at, vertices),
        normals=None if mesh.normals is None else grown(mesh.normals, is_unit=True),
        uvs=tuple(grown(uv) for uv in mesh.uvs),
        colors=None if mesh.colors is None else grown(mesh.colors),
        tangents=None if mesh.tangents is None else grown(mesh.tangents, is_unit=True),
    )


def split_vertices(mesh: Mesh, corner_group: I32) -> Mesh:
    """A vertex of its own for each further group of corners around a vertex; the first group keeps the vertex.

    ``corner_group`` (C,) numbers the groups; corners of one group name one vertex.
    """
    firsts = np.full(int(corner_group.max(initial=-1)) + 1, -1, np.int32)
    firsts[corner_group[::-1]] = mesh.corner_vertex[::-1]
    _, first_group = np.unique(firsts, return_index=True)
    is_first = np.zeros(len(firsts), bool)
    is_first[first_group] = True
    extra = np.flatnonzero(~is_first)
    if not len(extra):
        return mesh
    vertex = firsts.copy()
    vertex[extra] = mesh.n_vertices + np.arange(len(extra), dtype=np.int32)
    return replace(
        mesh,
        positions=np.concatenate([mesh.positions, mesh.positions[firsts[extra]]]),
        corner_vertex=vertex[corner_group],
    )


def turn_faces(mesh: Mesh, faces: NDArray[Any]) -> Mesh:
    """The mesh with these faces (F,) bool turned over: first corners stay, the others run the other way.

    A normal that then points to the back of its face is turned too; one that already pointed there was right.
    """
    sides = mesh.face_sides
    start = np.repeat(mesh.face_start[:-1], sides)
    within = np.arange(mesh.n_corners) - start
    back = np.where(within == 0, 0, np.repeat(sides, sides) - within)
    source = np.where(np.repeat(faces, sides), start + back, np.arange(mesh.n_corners))
    turned = mesh.with_corners(source, mesh.face_start, np.arange(mesh.n_faces))
    if turned.normals is None:
        return turned
    corner_face = turned.corner_face()
    touched = faces[corner_face]
    facing = np.einsum("ij,ij->i", turned.normals[touched], face_vectors(turned)[corner_face[touched]])
    normals = turned.normals.copy()
    normals[touched] *= np.where(facing < 0, np.float32(-1), np.float32(1))[:, None]
    return replace(turned, normals=normals)


def append_faces(mesh: Mesh, corners: I64, sides: I64, like: I64, normals: F32 | None) -> Mesh:
    """Further faces whose corners copy ``corners`` and which inherit from the faces ``like`` (N,)."""
    every = np.concatenate([np.arange(mesh.n_corners), corners])
    start = np.concatenate([mesh.face_start, mesh.n_corners + np.cumsum(sides)])
    grown = mesh.with_corners(every, start, np.concatenate([np.arange(mesh.n_faces), like]))
    if grown.normals is None or normals is None:
        return grown
    return replace(grown, normals=np.concatenate([grown.normals[: mesh.n_corners], normals]))
