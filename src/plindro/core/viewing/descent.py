"""The way from LOD0 down, for the view: it draws any level of it while a slider moves, and asks for nothing.

Packed as ``packed`` says. The header has ``groups``: for each material its name, and where its triangles begin and end.
Within a group the triangles that stay longest come first; some begin only with a step, where a through-hole closes.
"""

from collections.abc import Callable

import numpy as np

from plindro.core.measure.deviation import DeviationFrom
from plindro.core.mesh.mesh import I64
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.prop import Prop
from plindro.core.reduction import Sequence, calibrated
from plindro.core.shading.faceted import is_faceted
from plindro.core.viewing.packed import pack_arrays
from plindro.core.viewing.sheet import SHEET_LIMIT


def write_descent(prop: Prop, on_share: Callable[[], None] | None = None) -> bytes | None:
    """The descent of a prop that has a sequence; None where it has none or is too large to be drawn live.

    ``on_share`` is called now and then while levels are measured, and may raise to stop.

    Arrays: ``parent`` (N,) int32, ``goes`` (N,) uint32, the step at which a node is gone; ``nodesAt``,
    ``trianglesAt``, ``verticesAt`` (S + 1,) uint32, ``largestAt`` (S + 1,) and ``distance`` (S,) float32, metres;
    ``corner`` (3 T,) uint32 nodes of the triangles, ``died`` and ``starts`` (T,) uint32 the steps between which they
    are there; ``place`` (3 N,), ``normal`` (3 N,) and ``uv`` (2 N,) float32 of the nodes, the last two where there are
    any. What is faceted has no normals: each triangle is drawn flat.
    """
    if prop.sequence is None or not prop.sequence.n_steps or len(prop.sequence.triangle_node) > SHEET_LIMIT:
        return None
    # Its figures are seen nowhere else, so that they are put right here and not for every build.
    sequence = calibrated(prop.sequence, DeviationFrom(prop.mesh, on_share), prop.measured)
    faceted = is_faceted(prop.mesh)
    material = sequence.source.face_material[sequence.triangle_source]
    order = np.argsort(material, kind="stable")
    numbers, begin = np.unique(material[order], return_index=True)
    ends = [*begin[1:].tolist(), len(order)]
    groups = [
        {"material": prop.materials[number].name if number < len(prop.materials) else "", "first": first, "last": last}
        for number, first, last in zip(numbers.tolist(), begin.tolist(), ends, strict=True)
    ]
    arrays = {
        "parent": sequence.parent.astype("<i4"),
        "goes": sequence.goes_at.astype("<u4"),
        "nodesAt": sequence.nodes_at.astype("<u4"),
        "trianglesAt": sequence.triangles_at.astype("<u4"),
        "verticesAt": (_flat_vertices(prop, sequence) if faceted else sequence.vertices_at).astype("<u4"),
        "largestAt": sequence.largest_at.astype("<f4"),
        "distance": sequence.distance_at.astype("<f4"),
        "corner": sequence.triangle_node[order].reshape(-1).astype("<u4"),
        "died": sequence.died_at[order].astype("<u4"),
        "starts": sequence.starts_at[order].astype("<u4"),
        "place": sequence.node_place.reshape(-1).astype("<f4"),
    }
    if sequence.normals is not None and not faceted:
        arrays["normal"] = sequence.normals.reshape(-1).astype("<f4")
    if sequence.uvs:
        arrays["uv"] = sequence.uvs[0].reshape(-1).astype("<f4")
    return pack_arrays({"triangles": len(order), "groups": groups}, arrays)


def _flat_vertices(prop: Prop, sequence: Sequence) -> I64:
    """(S + 1,) engine vertices where every fold is hard: for each triangle as many as in the nearest built levels."""
    meshes = [prop.mesh, *(level.mesh for level in prop.levels if level.mesh.n_faces)]
    known = {mesh.n_faces: count_engine_vertices(mesh) for mesh in meshes}
    counts = np.array(sorted(known))
    share = np.array([known[count] for count in counts.tolist()]) / counts
    triangles = np.maximum(sequence.triangles_at, 1)
    return np.rint(sequence.triangles_at * np.interp(np.log(triangles), np.log(counts), share)).astype(np.int64)
