"""The mesh: polygons as flat arrays, attributes where they belong.

``face_start`` (F + 1,) points into the corner arrays: face ``f`` owns the corners ``face_start[f]:face_start[f + 1]``,
counter-clockwise seen from outside. Attributes live per corner (normals, UV channels, colours, tangents), per face
(material, part, smoothing group, source polygon) and per edge (hard). A triangle mesh is a mesh whose faces all have
three corners; ``face_polygon`` remembers which polygon each triangle was cut from.
"""

import itertools
from dataclasses import dataclass, field, fields, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

F64 = NDArray[np.float64]
F32 = NDArray[np.float32]
I32 = NDArray[np.int32]
I64 = NDArray[np.int64]
Mask = NDArray[np.bool_]

NO_GROUP = -1
"""``face_smoothing`` of a face about whose smoothing the source says nothing."""


def _no_edges() -> I32:
    return np.zeros((0, 2), np.int32)


@dataclass(frozen=True, slots=True)
class Mesh:
    """Polygons with attributes. Lengths in metres, right-handed, Y up, UV origin at the upper left.

    Attributes
    ----------
    positions : (V, 3) float64
    face_start : (F + 1,) int64
    corner_vertex : (C,) int32
    face_material, face_part : (F,) int32, indices into the prop's materials and parts
    face_smoothing : (F,) int32, 0 = faceted, ``NO_GROUP`` = not said, else a group
    face_polygon : (F,) int32, index of the source polygon
    normals : (C, 3) float32 of unit length, (0, 0, 0) where missing; None when there are none
    uvs : one (C, 2) float32 a channel
    colors : (C, 4) float32 in 0..1, linear; or None
    tangents : (C, 4) float32, w = handedness; or None
    hard_edges : (H, 2) int32 vertex pairs, smaller index first
    loose_edges : (L, 2) int32 vertex pairs of lines that belong to no face
    """

    positions: F64
    face_start: I64
    corner_vertex: I32
    face_material: I32
    face_part: I32
    face_smoothing: I32
    face_polygon: I32
    normals: F32 | None = None
    uvs: tuple[F32, ...] = ()
    colors: F32 | None = None
    tangents: F32 | None = None
    hard_edges: I32 = field(default_factory=_no_edges)
    loose_edges: I32 = field(default_factory=_no_edges)

    @property
    def n_vertices(self) -> int:
        return len(self.positions)

    @property
    def n_faces(self) -> int:
        return len(self.face_start) - 1

    @property
    def n_corners(self) -> int:
        return len(self.corner_vertex)

    @property
    def face_sides(self) -> I64:
        """(F,) number of corners of each face."""
        return np.diff(self.face_start)

    @property
    def n_triangles(self) -> int:
        """Triangles after cutting every polygon: a face of n sides gives n - 2."""
        return int(np.maximum(self.face_sides - 2, 0).sum())

    @property
    def is_triangles(self) -> bool:
        return self.n_corners == 3 * self.n_faces and bool((self.face_sides == 3).all())

    def triangles(self) -> I32:
        """(F, 3) int32 vertex indices; only for triangle meshes."""
        if not self.is_triangles:
            raise ValueError("mesh: expected only triangles; triangulate it first")
        return self.corner_vertex.reshape(-1, 3)

    def corner_face(self) -> I64:
        """(C,) face of each corner."""
        return np.repeat(np.arange(self.n_faces), self.face_sides)

    def bounds(self) -> F64:
        """(2, 3) lower and upper corner over the finite vertices that faces use; zeros when there is none."""
        is_used = np.zeros(self.n_vertices, bool)
        is_used[self.corner_vertex] = True
        used = self.positions[is_used]
        used = used[np.isfinite(used).all(axis=1)]
        return np.stack([used.min(axis=0), used.max(axis=0)]) if len(used) else np.zeros((2, 3))

    def with_faces(self, keep: Mask | I64) -> "Mesh":
        """The mesh with only these faces (mask or indices), in that order; vertices are kept as they are."""
        if keep.dtype == bool and keep.all():
            return self
        faces = np.flatnonzero(keep) if keep.dtype == bool else keep
        sides = self.face_start[faces + 1] - self.face_start[faces]
        start = np.concatenate([[0], np.cumsum(sides)]).astype(np.int64)
        within = np.arange(start[-1]) - np.repeat(start[:-1], sides)
        return self.with_corners(np.repeat(self.face_start[faces], sides) + within, start, faces)

    def faces_by_part(self, n_parts: int) -> list[I64]:
        """The faces of each of ``n_parts`` parts, in their order; empty where a part has none."""
        order = np.argsort(self.face_part, kind="stable")
        starts = np.searchsorted(self.face_part[order], np.arange(n_parts + 1))
        return [order[a:b] for a, b in itertools.pairwise(starts.tolist())]

    def with_corners(self, corners: NDArray[Any], face_start: NDArray[Any], faces: NDArray[Any]) -> "Mesh":
        """A mesh whose corners are copies of ``corners`` and whose faces inherit from ``faces``."""
        return replace(
            self,
            face_start=np.asarray(face_start, np.int64),
            corner_vertex=_pick(self.corner_vertex, corners),
            face_material=_pick(self.face_material, faces),
            face_part=_pick(self.face_part, faces),
            face_smoothing=_pick(self.face_smoothing, faces),
            face_polygon=_pick(self.face_polygon, faces),
            normals=None if self.normals is None else _pick(self.normals, corners),
            uvs=tuple(_pick(uv, corners) for uv in self.uvs),
            colors=None if self.colors is None else _pick(self.colors, corners),
            tangents=None if self.tangents is None else _pick(self.tangents, corners),
        )


def _pick(values: NDArray[Any], index: NDArray[Any]) -> NDArray[Any]:
    """Rows by index; five times faster than indexing where rows are short. Indices must be within bounds."""
    return np.take(values, index, axis=0, mode="clip")


def make_mesh(
    positions: NDArray[Any],
    face_start: NDArray[Any],
    corner_vertex: NDArray[Any],
    *,
    face_material: NDArray[Any] | None = None,
    face_part: NDArray[Any] | None = None,
    face_smoothing: NDArray[Any] | None = None,
    normals: NDArray[Any] | None = None,
    uvs: tuple[NDArray[Any], ...] = (),
    colors: NDArray[Any] | None = None,
) -> Mesh:
    """A mesh from arrays of any numeric type; missing face attributes are filled with their neutral value.

    Raises ``ValueError`` where lengths do not agree or a corner names a vertex that is not there.
    """
    points = np.ascontiguousarray(positions, np.float64).reshape(-1, 3)
    start = np.ascontiguousarray(face_start, np.int64)
    corner = np.ascontiguousarray(corner_vertex, np.int32)
    n_faces, n_corners = len(start) - 1, len(corner)
    if n_faces < 0 or start[0] != 0 or start[-1] != n_corners or (np.diff(start) < 0).any():
        raise ValueError(f"face_start: expected to rise from 0 to {n_corners}")
    if n_corners and (corner.min() < 0 or corner.max() >= len(points)):
        raise ValueError(f"corner_vertex: expected 0..{len(points) - 1}, got {corner.min()}..{corner.max()}")

    def per_face(values: NDArray[Any] | None, neutral: int) -> I32:
        return np.full(n_faces, neutral, np.int32) if values is None else np.ascontiguousarray(values, np.int32)

    def per_corner(values: NDArray[Any] | None, width: int) -> F32 | None:
        return None if values is None else np.ascontiguousarray(values, np.float32).reshape(n_corners, width)

    return Mesh(
        positions=points,
        face_start=start,
        corner_vertex=corner,
        face_material=per_face(face_material, 0),
        face_part=per_face(face_part, 0),
        face_smoothing=per_face(face_smoothing, NO_GROUP),
        face_polygon=np.arange(n_faces, dtype=np.int32),
        normals=per_corner(normals, 3),
        uvs=tuple(np.ascontiguousarray(uv, np.float32).reshape(n_corners, 2) for uv in uvs),
        colors=per_corner(colors, 4),
    )


def make_triangles(positions: NDArray[Any], triangles: NDArray[Any], **attributes: Any) -> Mesh:
    """A triangle mesh from (V, 3) positions and (T, 3) vertex indices; further arguments as ``make_mesh``."""
    flat = np.asarray(triangles).reshape(-1)
    return make_mesh(positions, np.arange(0, len(flat) + 1, 3), flat, **attributes)


def drop_unused_vertices(mesh: Mesh) -> Mesh:
    """The mesh without vertices and edges that belong to no face, the other vertices in their order."""
    used = np.zeros(mesh.n_vertices, bool)
    used[mesh.corner_vertex] = True
    if used.all():
        return mesh if not len(mesh.loose_edges) else replace(mesh, loose_edges=_no_edges())
    renumber = np.cumsum(used).astype(np.int32) - 1
    hard = mesh.hard_edges[used[mesh.hard_edges].all(axis=1)] if len(mesh.hard_edges) else mesh.hard_edges
    return replace(
        mesh,
        positions=mesh.positions[used],
        corner_vertex=renumber[mesh.corner_vertex],
        hard_edges=renumber[hard].reshape(-1, 2),
        loose_edges=_no_edges(),
    )


def meshes_equal(a: Mesh, b: Mesh) -> bool:
    """Whether two meshes hold exactly the same values."""

    def same(x: Any, y: Any) -> bool:
        if isinstance(x, tuple):
            return len(x) == len(y) and all(same(*pair) for pair in zip(x, y, strict=True))
        return x is y or (x is not None and y is not None and np.array_equal(x, y, equal_nan=True))

    return all(same(getattr(a, f.name), getattr(b, f.name)) for f in fields(Mesh))
