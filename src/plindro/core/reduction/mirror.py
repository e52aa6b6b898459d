"""Levels that are symmetric across a plane: one half is reduced, the other follows it step by step.

The mesh is cut at the plane and the cut becomes an open border, which collapses only along itself; corners where a
real border meets the plane stay. Each step of the half is a step of both sides, so that every level is symmetric.
"""

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np
import scipy

from plindro.core.mesh.mesh import F32, F64, I32, I64, Mask, Mesh, drop_unused_vertices
from plindro.core.reduction.borders import border_ends, border_vertices
from plindro.core.reduction.reduce import Options, collapse
from plindro.core.reduction.sequence import Sequence
from plindro.core.spatial.nearest import NearestPlace
from plindro.core.spatial.samples import even_samples

if TYPE_CHECKING:
    from collections.abc import Iterable

ON_PLANE = 1e-6
"""Share of the diagonal within which a vertex lies on the plane."""
_SAMPLES = 4_000
_MEAN_OFF, _MOST_OFF = 0.002, 0.01
"""Shares of the diagonal by which a symmetric prop's reflection may miss it, in the mean and for 99 of 100 places."""


@dataclass(frozen=True, slots=True)
class Plane:
    """The places p with normal · p = offset; the side to which the normal points is the model for the other."""

    normal: F64
    offset: float

    def reflect(self, places: F64) -> F64:
        """(n, 3) places on the other side."""
        off = places @ self.normal - self.offset
        return places - 2.0 * off[:, None] * self.normal

    def frame(self) -> F64:
        """(3, 3) rotation after which the normal is the first axis; for an axis it only changes signs and places."""
        axis = int(np.argmax(np.abs(self.normal)))
        if np.count_nonzero(self.normal) == 1:
            rows = np.roll(np.eye(3), -axis, axis=0)
            sign = np.sign(self.normal[axis])
            # Two signs change together, so that it stays a rotation.
            return rows * np.array([[sign], [sign], [1.0]])
        first = self.normal / np.linalg.norm(self.normal)
        second = np.cross(first, np.eye(3)[(axis + 1) % 3])
        second /= np.linalg.norm(second)
        return np.stack([first, second, np.cross(first, second)])


def find_mirror(mesh: Mesh) -> Plane | None:
    """The plane across which a mesh is symmetric, or nearly; None where there is none.

    Asked are the axes and the directions in which the mesh spreads, through its middle, its centre of area and the
    pivot.
    """
    if not mesh.n_faces:
        return None
    face, weights = even_samples(mesh, _SAMPLES)
    places = np.einsum("ij,ijk->ik", weights, mesh.positions[mesh.triangles()[face]])
    low, high = mesh.bounds()
    diagonal = float(np.linalg.norm(high - low)) or 1.0
    surface = NearestPlace(mesh.positions, mesh.triangles())
    centre = places.mean(axis=0)
    spread = np.linalg.eigh(np.cov((places - centre).T))[1].T
    best, least = None, np.inf
    quick = scipy.spatial.cKDTree(places)
    for normal in _different([*np.eye(3), *spread]):
        for through in ((low + high) / 2, centre, np.zeros(3)):
            plane = Plane(normal, float(normal @ through))
            reflected = plane.reflect(places)
            # Far off between samples already: not worth asking the surface.
            if quick.query(reflected[::20])[0].mean() > 0.05 * diagonal:
                continue
            off = surface.distances(reflected) / diagonal
            if off.mean() < min(least, _MEAN_OFF) and np.quantile(off, 0.99) < _MOST_OFF:
                # Better by a hair is no reason to leave an axis or the middle.
                best, least = plane, off.mean() * 0.9
    return best


def _different(directions: "Iterable[F64]") -> list[F64]:
    kept: list[F64] = []
    for direction in directions:
        if all(abs(float(direction @ other)) < 1.0 - 1e-6 for other in kept):
            kept.append(direction)
    return kept


def mirrored_sequence(mesh: Mesh, plane: Plane, options: Options) -> Sequence:
    """The collapse sequence of the side of ``mesh`` to which the plane's normal points, and of its reflection.

    Step 0 is the symmetric mesh, which is the source only where that was symmetric. Raises ``ValueError`` where nothing
    of the mesh lies on that side.
    """
    frame = plane.frame()
    turned = _turn(mesh, frame)
    offset = plane.offset * (1.0 if np.count_nonzero(plane.normal) == 1 else 1.0 / float(np.linalg.norm(plane.normal)))
    cut = cut_mesh(turned, offset)
    if not cut.mesh.n_faces:
        raise ValueError("the side of the mirror that is the model for the other holds nothing; take the other side")
    half = cut.mesh
    on_plane = half.positions[:, 0] == offset
    locked = _meets_border(half, on_plane)
    if options.get("lock_borders", False):
        locked |= border_vertices(half) & ~on_plane
    inner: Options = {**options, "lock_borders": False, "locked": locked, "floor": offset}
    if "locked" in options:
        inner["locked"] = locked | cut.carry(options["locked"])
    if "weight" in options:
        inner["weight"] = cut.carry(options["weight"])
    if "least_triangles" in options:
        inner["least_triangles"] = options["least_triangles"] // 2
    sequence = collapse(half, **inner)
    return _double(sequence, offset, frame.T)


@dataclass(frozen=True, slots=True)
class Cut:
    """One side of a mesh; ``first``, ``second`` (V,) the old vertices that each of its vertices lies between."""

    mesh: Mesh
    first: I64
    second: I64

    def carry(self, values: Any) -> Any:
        """Values of the old vertices at the new ones: the larger of two."""
        return np.maximum(values[self.first], values[self.second])


def cut_mesh(mesh: Mesh, offset: float) -> Cut:
    """The part of a triangle mesh from ``offset`` on along the first axis; vertices near the plane go onto it.

    Triangles that lie in the plane are left out: as borders of both sides they would stand in the way.
    """
    low, high = mesh.bounds()
    positions = mesh.positions.copy()
    near = np.abs(positions[:, 0] - offset) <= ON_PLANE * float(np.linalg.norm(high - low))
    positions[near, 0] = offset
    side = np.sign(positions[:, 0] - offset).astype(np.int8)
    corners = side[mesh.corner_vertex].reshape(-1, 3)
    whole = np.flatnonzero((corners >= 0).all(axis=1) & (corners > 0).any(axis=1))
    split = np.flatnonzero((corners > 0).any(axis=1) & (corners < 0).any(axis=1))
    # The polygon of a split triangle: its corners in front, and where its edges cross. A corner is two corners and t.
    first: list[int] = []
    second: list[int] = []
    share: list[float] = []
    face: list[int] = []
    for f in split.tolist():
        ring: list[tuple[int, int, float]] = []
        for k in range(3):
            a, b = 3 * f + k, 3 * f + (k + 1) % 3
            if corners[f, k] >= 0:
                ring.append((a, a, 0.0))
            if corners[f, k] * corners[f, (k + 1) % 3] < 0:
                va, vb = mesh.corner_vertex[a], mesh.corner_vertex[b]
                # From the smaller vertex, so that both triangles at an edge find one place.
                low_corner, high_corner, v, w = (a, b, va, vb) if va < vb else (b, a, vb, va)
                crossing = (offset - positions[v, 0]) / (positions[w, 0] - positions[v, 0])
                ring.append((low_corner, high_corner, float(crossing)))
        for k in range(1, len(ring) - 1):
            for corner in (ring[0], ring[k], ring[k + 1]):
                first.append(corner[0])
                second.append(corner[1])
                share.append(corner[2])
            face.append(f)
    whole_corners = (3 * whole[:, None] + np.arange(3)).reshape(-1)
    from_corner = np.concatenate([whole_corners, np.array(first, np.int64)]).astype(np.int64)
    to_corner = np.concatenate([whole_corners, np.array(second, np.int64)]).astype(np.int64)
    t: F64 = np.concatenate([np.zeros(len(whole_corners)), np.array(share)])
    faces = np.concatenate([whole, np.array(face, np.int64)]).astype(np.int64)
    vertex_a, vertex_b = (
        mesh.corner_vertex[from_corner].astype(np.int64),
        mesh.corner_vertex[to_corner].astype(np.int64),
    )
    keys, index = np.unique(vertex_a * mesh.n_vertices + vertex_b, return_inverse=True)
    old_a, old_b = keys // mesh.n_vertices, keys % mesh.n_vertices
    at = np.zeros(len(keys))
    at[index] = t
    places = positions[old_a] + at[:, None] * (positions[old_b] - positions[old_a])
    places[old_a != old_b, 0] = offset

    def between(values: F32 | None) -> F32 | None:
        if values is None:
            return None
        mixed = values[from_corner] + t[:, None].astype(np.float32) * (values[to_corner] - values[from_corner])
        return np.where((t == 0)[:, None], values[from_corner], mixed).astype(np.float32)

    normals = between(mesh.normals)
    if normals is not None:
        length = np.linalg.norm(normals, axis=1, keepdims=True)
        normals = (normals / np.where(length > 0, length, 1.0)).astype(np.float32)
    bare = mesh.with_corners(from_corner, np.arange(0, len(from_corner) + 1, 3), faces)
    half = replace(
        bare,
        positions=places,
        corner_vertex=index.astype(np.int32),
        normals=normals,
        uvs=tuple(uv for uv in map(between, mesh.uvs) if uv is not None),
        colors=between(mesh.colors),
        tangents=None,
        hard_edges=np.zeros((0, 2), np.int32),
        loose_edges=np.zeros((0, 2), np.int32),
    )
    return Cut(half, old_a, old_b)


def _meets_border(mesh: Mesh, on_plane: Mask) -> Mask:
    """Vertices on the plane from which an open edge leads away from it."""
    ends = border_ends(mesh)
    mask = np.zeros(mesh.n_vertices, bool)
    leaves = on_plane[ends[:, 0]] != on_plane[ends[:, 1]]
    mask[ends[leaves]] = True
    return mask & on_plane


def _turn(mesh: Mesh, frame: F64) -> Mesh:
    normals = None if mesh.normals is None else (mesh.normals @ frame.T.astype(np.float32)).astype(np.float32)
    return replace(mesh, positions=mesh.positions @ frame.T, normals=normals)


def _double(sequence: Sequence, offset: float, back: F64) -> Sequence:
    """Both sides: node n of the half becomes 2 n and 2 n + 1, its reflection; triangles likewise."""
    half = sequence.source
    n_vertices = half.n_vertices
    on_plane = half.positions[:, 0] == offset
    twin = np.where(on_plane, np.arange(n_vertices), n_vertices + np.arange(n_vertices)).astype(np.int32)
    flip = np.array([2, 1, 0])

    def both_corners(values: F32) -> F32:
        return np.concatenate([values.reshape(-1, 3, values.shape[1]), _flipped(values, flip)]).reshape(
            -1, values.shape[1]
        )

    doubled = half.with_faces(np.tile(np.arange(half.n_faces), 2))
    other = twin[half.corner_vertex].reshape(-1, 3)[:, flip]
    source = drop_unused_vertices(
        replace(
            doubled,
            positions=np.concatenate([half.positions, _reflected(half.positions, offset)]) @ back.T,
            corner_vertex=np.concatenate([half.corner_vertex, other.reshape(-1)]).astype(np.int32),
            normals=None if half.normals is None else _turned_normals(half.normals, back, flip),
            uvs=tuple(both_corners(uv) for uv in half.uvs),
            colors=None if half.colors is None else both_corners(half.colors),
        )
    )
    nodes = 2 * sequence.triangle_node
    # Those that came of merges were scaled to and fro.
    one_side = sequence.node_place.copy()
    node_on_plane = np.abs(one_side[:, 0] - offset) <= 1e-12 * float(np.linalg.norm(np.ptp(half.positions, axis=0)))
    one_side[node_on_plane, 0] = offset
    place = np.stack([one_side, _reflected(one_side, offset)], axis=1).reshape(-1, 3)
    vertex = np.stack(
        [2 * sequence.node_vertex, 2 * sequence.node_vertex + np.where(node_on_plane, 0, 1)], axis=1
    ).reshape(-1)
    n_faces = half.n_faces
    pairs = _shared_nodes(sequence, node_on_plane)
    return replace(
        sequence,
        source=source,
        triangle_node=np.stack([nodes, (nodes + 1)[:, flip]], axis=1).reshape(-1, 3).astype(np.int32),
        triangle_source=np.stack([sequence.triangle_source, sequence.triangle_source + n_faces], axis=1).reshape(-1),
        parent=np.stack(
            [
                np.where(sequence.parent >= 0, 2 * sequence.parent, -1),
                np.where(sequence.parent >= 0, 2 * sequence.parent + 1, -1),
            ],
            axis=1,
        )
        .reshape(-1)
        .astype(np.int32),
        triangles_at=2 * sequence.triangles_at,
        nodes_at=2 * sequence.nodes_at,
        died_at=np.repeat(sequence.died_at, 2),
        starts_at=np.repeat(sequence.starts_at, 2),
        # Each on both sides.
        cut_steps=tuple(np.repeat(sequence.cut_steps, 2).tolist()),
        border_steps=tuple(np.repeat(sequence.border_steps, 2).tolist()),
        vertices_at=(2 * sequence.vertices_at - pairs).astype(np.int32),
        node_vertex=vertex.astype(np.int32),
        node_place=place @ back.T,
        normals=None if sequence.normals is None else _node_normals(sequence.normals, back),
        uvs=tuple(np.repeat(uv, 2, axis=0) for uv in sequence.uvs),
        colors=None if sequence.colors is None else np.repeat(sequence.colors, 2, axis=0),
    )


def _reflected(places: F64, offset: float) -> F64:
    other = places.copy()
    other[:, 0] = 2.0 * offset - other[:, 0]
    other[places[:, 0] == offset, 0] = offset
    return other


def _flipped(values: F32, flip: I64) -> F32:
    return values.reshape(-1, 3, values.shape[1])[:, flip]


_ACROSS = np.array([-1.0, 1.0, 1.0], np.float32)


def _turned_normals(normals: F32, back: F64, flip: I64) -> F32:
    both = np.concatenate([normals.reshape(-1, 3, 3), _flipped(normals * _ACROSS, flip)]).reshape(-1, 3)
    return (both @ back.T).astype(np.float32)


def _node_normals(normals: F32, back: F64) -> F32:
    both = np.stack([normals, normals * _ACROSS], axis=1).reshape(-1, 3)
    return (both @ back.T).astype(np.float32)


def _shared_nodes(sequence: Sequence, on_plane: Mask) -> I32:
    """(S + 1,) how many nodes an engine shares between both sides: on the plane, with a normal that lies in it."""
    is_shared = on_plane.copy()
    if sequence.normals is not None:
        is_shared &= sequence.normals[:, 0] == 0
    return sequence.count_living(is_shared)
