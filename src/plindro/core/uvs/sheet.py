"""One UV channel of a triangle mesh, laid out flat: triangles, the islands they make, and the seams between these."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh
from plindro.core.mesh.numbering import float_bits, number_pairs, number_rows, weld_positions
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.numeric.exact import orient_sign
from plindro.core.numeric.groups import number_roots, unite
from plindro.core.numeric.kernels import kernel
from plindro.core.numeric.single import without_area


@dataclass(frozen=True, slots=True)
class UvSheet:
    """The triangles of a mesh in one UV channel; U right, V down, as the mesh has them.

    Attributes
    ----------
    corners : (T, 3, 2) UVs
    areas : (T,) signed; below 0 where the texture is not mirrored, since V runs down
    turns : (T,) int8, their signs, exactly
    surface : (T,) square metres, 0 where single precision leaves none
    island : (T,) which island each triangle belongs to: triangles that share an edge on the surface and on the sheet
    n_islands : how many there are
    edge : (3 T,) number of the edge that each side 3 t + k of a triangle t is, from corner k to the next
    rim : (R,) int64 sides that bound their island
    """

    corners: F64
    areas: F64
    turns: NDArray[np.int8]
    surface: F64
    island: I32
    n_islands: int
    edge: I32
    rim: I64

    @property
    def covers(self) -> Mask:
        """(N,) which islands cover anything: triangles without area alone do not."""
        return np.bincount(self.island, self.turns != 0, minlength=self.n_islands) > 0


@dataclass(frozen=True, slots=True)
class Seams:
    """Edges inside the surface along which a channel is cut: how many, metres, and the engine vertices they cost."""

    edges: int
    length: float
    engine_vertices: int


@kernel
def _find_turns(corners, turns):  # type: ignore[no-untyped-def]
    """Whether each triangle turns left (1) or right (-1), or has no area (0)."""
    for t in range(len(corners)):
        turns[t] = orient_sign(
            corners[t, 0, 0], corners[t, 0, 1], corners[t, 1, 0], corners[t, 1, 1], corners[t, 2, 0], corners[t, 2, 1]
        )


@kernel
def _join_sides(edge, parent, first):  # type: ignore[no-untyped-def]
    """Unite triangles that share an edge; ``edge`` (3 T,) of each side, ``first`` (E,) filled with -1."""
    for side in range(len(edge)):
        if first[edge[side]] < 0:
            first[edge[side]] = side // 3
        else:
            unite(parent, first[edge[side]], side // 3)


def signed_areas(corners: F64) -> F64:
    """(T,) areas of triangles (T, 3, 2); above 0 where they turn left."""
    one, two = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    areas: F64 = 0.5 * (one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0])
    return areas


def find_turns(corners: F64) -> NDArray[np.int8]:
    """(T,) int8 whether each triangle of (T, 3, 2) turns left (1), right (-1) or has no area (0), exactly."""
    turns = np.empty(len(corners), np.int8)
    _find_turns(corners, turns)
    return turns


def _number_sides(points: I32) -> I32:
    """(3 T,) the edge of each side of triangles whose corners (3 T,) are numbered."""
    ends = np.roll(points.reshape(-1, 3), -1, axis=1).reshape(-1)
    return number_pairs(np.minimum(points, ends), np.maximum(points, ends))[0]


def lay_out(mesh: Mesh, channel: int) -> UvSheet:
    """The sheet of a channel that a triangle mesh has. UVs that are not finite lie at 0."""
    # In the order of C, whatever order they came in: kernels are compiled for one.
    uvs = np.array(mesh.uvs[channel], np.float64, order="C")
    corners = np.nan_to_num(uvs, posinf=0.0, neginf=0.0).reshape(-1, 3, 2)
    places = mesh.positions[mesh.corner_vertex].reshape(-1, 3, 3)
    vectors = np.cross(places[:, 1] - places[:, 0], places[:, 2] - places[:, 0])
    flat = without_area(mesh.positions, mesh.triangles(), vectors)
    # Sides are one where they agree on the surface and on the sheet.
    both = [float_bits(mesh.positions)[mesh.corner_vertex], float_bits(mesh.uvs[channel])]
    edge = _number_sides(number_rows(np.concatenate(both, axis=1))[0])
    parent, island = np.arange(len(corners), dtype=np.int32), np.empty(len(corners), np.int32)
    n_edges = int(edge.max()) + 1 if len(edge) else 0
    _join_sides(edge, parent, np.full(n_edges, -1, np.int32))
    n_islands = int(number_roots(parent, island))
    return UvSheet(
        corners=corners,
        areas=signed_areas(corners),
        turns=find_turns(corners),
        surface=np.where(flat, 0.0, 0.5 * np.linalg.norm(vectors, axis=1)),
        island=island,
        n_islands=n_islands,
        edge=edge,
        rim=np.flatnonzero(np.bincount(edge, minlength=n_edges)[edge] == 1).astype(np.int64),
    )


def find_seams(mesh: Mesh, channel: int, sheet: UvSheet) -> Seams:
    """Where a channel of a triangle mesh is cut: at edges where two sides that could be one lie apart on the sheet.

    Where more than two faces meet in a place, as where a front and a back lie on each other, those that are one on the
    sheet are no seam, and of the others two make one.
    """
    edge = _number_sides(weld_positions(mesh.positions)[0][mesh.corner_vertex])
    apart = edge[sheet.rim]
    cuts = np.bincount(apart) // 2
    lengths = np.zeros(len(cuts))
    places = mesh.positions[mesh.corner_vertex].reshape(-1, 3, 3)
    t, k = sheet.rim // 3, sheet.rim % 3
    lengths[apart] = np.linalg.norm(places[t, (k + 1) % 3] - places[t, k], axis=1)
    without = replace(mesh, uvs=mesh.uvs[:channel] + mesh.uvs[channel + 1 :])
    return Seams(
        edges=int(cuts.sum()),
        length=float(cuts @ lengths),
        engine_vertices=count_engine_vertices(mesh) - count_engine_vertices(without),
    )
