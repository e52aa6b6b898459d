"""Doubles: vertices in one place that leave an open seam between faces which should share them.

Doubles are joined along edges, never at lone points: two open edges in one place close, while two things that only
touch keep apart. What splits a corner (UVs, normals, colours) lives on the corners and is not changed.
"""

import numpy as np
from numba import njit

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh
from plindro.core.mesh.numbering import number_pairs, weld_positions
from plindro.core.mesh.pairing import pair_half_edges
from plindro.core.mesh.topology import Topology, build_topology
from plindro.core.numeric.groups import find_root, unite
from plindro.core.spatial.neighbours import nearest_others
from plindro.core.stations.cleanup.duplicates import face_ids_by_position


@njit(cache=True, nogil=True)
def _unite_pairs(partner, start, end, place, parent):  # type: ignore[no-untyped-def]
    """Unite the vertices at both ends of paired half-edges, by the places at which they lie."""
    for c in range(len(partner)):
        d = partner[c]
        if d > c:
            if place[start[c]] == place[end[d]]:
                unite(parent, start[c], end[d])
                unite(parent, end[c], start[d])
            else:
                unite(parent, start[c], start[d])
                unite(parent, end[c], end[d])
    for v in range(len(parent)):
        parent[v] = find_root(parent, v)


def _places(mesh: Mesh, on_border: Mask, tolerance: float) -> I32:
    """(V,) one number for all vertices of one place; with a tolerance, border vertices that are near count as one."""
    place, firsts = weld_positions(mesh.positions)
    if tolerance > 0:
        held = np.zeros(len(firsts), bool)
        held[place[on_border]] = True
        border = np.flatnonzero(held)
        if len(border) > 1:
            merged = np.arange(len(firsts), dtype=np.int32)
            merged[border] = border[_near(mesh.positions[firsts[border]], tolerance)]
            place = merged[place]
    return place


@njit(cache=True, nogil=True)
def _unite_nearest(group, alive, nearest, close):  # type: ignore[no-untyped-def]
    """Unite points with their nearest; ``group`` is left naming each point's root."""
    for i in close:
        unite(group, alive[i], alive[nearest[i]])
    for v in range(len(group)):
        group[v] = find_root(group, v)


def _near(points: F64, tolerance: float) -> I32:
    """(N,) group of each point: points are joined with their nearest one while that is within the tolerance.

    Only nearest points are asked, so that a heap of points within the tolerance costs no more than any others.
    """
    group = np.arange(len(points), dtype=np.int32)
    alive = group.copy()
    for _ in range(8):
        nearest = nearest_others(points[alive], tolerance * (1 + 1e-9))
        close = np.flatnonzero(nearest >= 0)
        if not len(close):
            break
        _unite_nearest(group, alive, nearest, close)
        alive = alive[group[alive] == alive]
        if len(alive) < 2:
            break
    return group


def find_unwelded(mesh: Mesh, tolerance: float, topology: Topology | None = None) -> I32:
    """(V,) the vertex that each one should become; itself where it is no double. ``tolerance`` in metres."""
    topology = topology or build_topology(mesh)
    target = np.arange(mesh.n_vertices, dtype=np.int32)
    open_half = topology.edge_uses[topology.edge] == 1
    if not open_half.any():
        return target
    start, end = mesh.corner_vertex, mesh.corner_vertex[topology.next_corner]
    on_border = np.zeros(mesh.n_vertices, bool)
    on_border[start[open_half]] = True
    on_border[end[open_half]] = True
    place = _places(mesh, on_border, tolerance)
    if np.bincount(place[on_border]).max() < 2:
        return target
    from_, to = place[start], place[end]
    ids, firsts = number_pairs(np.minimum(from_, to), np.maximum(from_, to))
    crowd = np.bincount(ids, minlength=len(firsts)).astype(np.int32)
    open_ones = np.bincount(ids[open_half], minlength=len(firsts))
    chosen = open_half & (open_ones[ids] > 1) & (from_ != to)
    halves = np.flatnonzero(chosen)
    if not len(halves):
        return target
    vectors = np.zeros((mesh.n_corners, 3))
    vectors[halves] = face_vectors(mesh)[mesh.corner_face()[halves]]
    representative = np.zeros(int(place.max()) + 1, np.int32)
    representative[place[::-1]] = np.arange(len(place), dtype=np.int32)[::-1]
    stand_in = representative[place]
    partner = pair_half_edges(ids, chosen, crowd[ids], mesh.positions, stand_in[start], stand_in[end], vectors)
    _spare_sheets(mesh, partner, stand_in)
    _unite_pairs(partner, start, end, place, target)
    return target


def _spare_sheets(mesh: Mesh, partner: I64, stand_in: I32) -> None:
    """Take pairs apart that lie back to back: a leaf with a front and a back is not to become a cushion."""
    paired = np.flatnonzero(partner >= 0)
    outline = face_ids_by_position(mesh, stand_in)
    face = mesh.corner_face()
    same = outline[face[paired]] == outline[face[partner[paired]]]
    partner[paired[same]] = -1
