"""What the view needs to know of LOD0 beyond what ships: how its triangles hang together, and how they were cut.

Packed as ``packed`` says, with ``triangles`` in the header. All arrays are in the order in which the GLB holds the
triangles of LOD0; a corner's number is three times its triangle's plus 0, 1 or 2.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.files.gltf.writer import face_order
from plindro.core.mesh.mesh import I64, Mesh
from plindro.core.mesh.streams import attribute_classes
from plindro.core.mesh.topology import build_topology
from plindro.core.prop import Prop
from plindro.core.shading import half_edges_of
from plindro.core.shading.normals import find_flats, fold_angles, hard_half_edges
from plindro.core.viewing.packed import pack_arrays

SHEET_LIMIT = 600_000
"""Meshes of more triangles get no sheet: the view then shows what was built, and nothing of it live."""
OWN_HARD, MADE_HARD, MADE_SOFT = 1, 2, 4
"""Bits of ``edge``: hard in the source; marked hard; marked soft."""


def write_sheet(prop: Prop, cut_flags: NDArray[np.uint8] | None = None) -> bytes | None:
    """The sheet of a built prop; None where it has no levels or is too large.

    Arrays: ``vertex``, ``attribute`` (3 T,) uint32, the vertex of each corner and what else an engine vertex shares but
    the normal; ``twin`` (3 T,) int32, the half-edge on the other side, -1 where there is none; ``edge`` (3 T,) uint8
    bits; ``polygon``, ``part`` (T,) uint32; ``flat`` (T,) float32, the area of the flat it lies in; and
    where polygons were cut otherwise than by a fan from their first corner, ``fan`` (3 T,) uint32, the corners of
    those fans' triangles, and ``cut`` (T,) uint8, flags of the polygon (``triangulation.engine``).
    """
    if not prop.levels or prop.levels[0].mesh.n_faces > SHEET_LIMIT:
        return None
    mesh = prop.levels[0].mesh
    order = face_order(prop, mesh)
    corner_order = (3 * order[:, None] + np.arange(3)).reshape(-1)
    place = np.empty(mesh.n_corners, np.int64)
    place[corner_order] = np.arange(mesh.n_corners)
    topology = build_topology(mesh)
    angles = fold_angles(mesh, topology)
    proper = (topology.twin >= 0) & ~topology.turned[topology.edge]
    twin = np.where(proper, place[np.maximum(topology.twin, 0)], -1)
    bits = hard_half_edges(mesh, topology).astype(np.uint8) * OWN_HARD
    if prop.shading is not None:
        bits |= half_edges_of(topology, prop.shading.hard, mesh.n_vertices).astype(np.uint8) * MADE_HARD
        bits |= half_edges_of(topology, prop.shading.soft, mesh.n_vertices).astype(np.uint8) * MADE_SOFT
    arrays: dict[str, NDArray[Any]] = {
        "vertex": mesh.corner_vertex[corner_order].astype("<u4"),
        "attribute": attribute_classes(mesh)[corner_order].astype("<u4"),
        "twin": twin[corner_order].astype("<i4"),
        "polygon": mesh.face_polygon[order].astype("<u4"),
        "part": mesh.face_part[order].astype("<u4"),
        "flat": find_flats(mesh, topology, angles).area[order].astype("<f4"),
        "edge": bits[corner_order],
    }
    fan = _fans(prop, mesh, place)
    if fan is not None and cut_flags is not None:
        arrays["fan"] = fan[order].reshape(-1).astype("<u4")
        arrays["cut"] = cut_flags[mesh.face_polygon[order]].astype(np.uint8)
    return pack_arrays({"triangles": mesh.n_faces}, arrays)


def _fans(prop: Prop, mesh: Mesh, place: I64) -> I64 | None:
    """(T, 3) places of the corners of each polygon's fan, in the rows of the polygon's own triangles."""
    if prop.polygons is None:
        return None
    source, corners = prop.polygons.mesh, prop.polygons.corners
    of_corner = np.zeros(source.n_corners, np.int64)
    of_corner[corners] = np.arange(len(corners))
    begin = source.face_start[mesh.face_polygon]
    first = np.searchsorted(mesh.face_polygon, np.arange(source.n_faces))
    step = np.arange(mesh.n_faces) - first[mesh.face_polygon]
    fan = np.stack([begin, begin + step + 1, begin + step + 2], axis=1)
    return place[of_corner[np.minimum(fan, source.n_corners - 1)]]
