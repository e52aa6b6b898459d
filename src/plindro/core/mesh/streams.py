"""The engine vertex stream: corners that agree in everything, numbered once; what the GPU counts.

Artists count points. An engine splits a point wherever a UV seam, a hard edge, a colour change or a material border
runs through it, and the number after splitting is the one that hits the limits.
"""

from dataclasses import dataclass, replace

import numpy as np

from plindro.core.mesh.mesh import I32, I64, Mesh
from plindro.core.mesh.numbering import float_bits, number_rows


@dataclass(frozen=True, slots=True)
class VertexStream:
    """Engine vertices of a mesh: ``corner_index`` (C,) int32 numbers the corners, ``corners`` (N,) one of each."""

    corner_index: I32
    corners: I32

    def __len__(self) -> int:
        return len(self.corners)


def corner_keys(mesh: Mesh, *, with_material: bool) -> np.ndarray[tuple[int, int], np.dtype[np.uint32]]:
    """(C, K) uint32 rows that are equal exactly where an engine would share the vertex."""
    columns = [mesh.corner_vertex.view(np.uint32)[:, None]]
    for values in (mesh.normals, *mesh.uvs, mesh.colors, mesh.tangents):
        if values is not None:
            columns.append(float_bits(values))
    if with_material:
        columns.append(mesh.face_material[mesh.corner_face()].view(np.uint32)[:, None])
    return np.concatenate(columns, axis=1)


def attribute_classes(mesh: Mesh) -> I32:
    """(C,) number of what an engine vertex shares apart from its normal: vertex, UVs, colour, material."""
    return number_rows(corner_keys(replace(mesh, normals=None, tangents=None), with_material=True))[0]


def vertex_stream(mesh: Mesh, *, corners: I64 | None = None) -> VertexStream:
    """Engine vertices of the whole mesh (split at material borders), or of these corners of one material."""
    keys = corner_keys(mesh, with_material=corners is None)
    return VertexStream(*number_rows(keys if corners is None else keys[corners]))


def count_engine_vertices(mesh: Mesh) -> int:
    """The number of vertices that an engine will hold for this mesh."""
    return len(vertex_stream(mesh))


def stream_bytes(mesh: Mesh, n_vertices: int) -> int:
    """Bytes of the vertices and indices of a triangle mesh with so many engine vertices, as they ship."""
    a_vertex = 12 + sum(
        4 * values.shape[1] for values in (mesh.normals, *mesh.uvs, mesh.colors, mesh.tangents) if values is not None
    )
    return n_vertices * a_vertex + mesh.n_corners * (2 if n_vertices <= 65_535 else 4)
