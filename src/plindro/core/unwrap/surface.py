"""A triangle mesh as unwrapping needs it: welded by place, with what lies across each side and each triangle laid
flat."""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh, make_triangles
from plindro.core.mesh.numbering import number_pairs, weld_positions
from plindro.core.mesh.topology import build_topology

_LEAST_AREA = 1e-14
"""Share of the squared diagonal under which a triangle has no area to lay flat."""
_STEEPEST = 50.0
"""Largest cotangent: a sliver must not outweigh all around it."""


@dataclass(frozen=True, slots=True)
class Surface:
    """The triangles of a mesh that have area. Side 3 t + k runs from corner k of triangle t to the next.

    Attributes
    ----------
    faces : (T,) which triangle of the mesh each is
    points, corners : (V, 3) metres; (T, 3) which point each corner is
    twin : (3 T,) the side across, -1 where there is none, where more than two meet, and where windings disagree
    barred : (3 T,) sides that must stay seams
    lengths : (3 T,) metres
    flat : (T, 3, 2) each triangle laid flat, turning left
    cotangents : (T, 3) of the angle opposite each side
    normals, areas : (T, 3); (T,) square metres
    """

    faces: I64
    points: F64
    corners: I32
    twin: I64
    barred: Mask
    lengths: F64
    flat: F64
    cotangents: F64
    normals: F64
    areas: F64


def read_surface(mesh: Mesh, seams: I32 | None = None) -> Surface:
    """The surface of a triangle mesh. ``seams`` (S, 2) pairs of its vertices whose edges stay seams."""
    number, first = weld_positions(mesh.positions)
    points = mesh.positions[first]
    corners = number[mesh.triangles()].astype(np.int32)
    places = points[corners]
    vectors = np.cross(places[:, 1] - places[:, 0], places[:, 2] - places[:, 0])
    double = np.linalg.norm(vectors, axis=1)
    size = float(np.ptp(points, axis=0).max(initial=0.0))
    faces = np.flatnonzero(double > _LEAST_AREA * size * size).astype(np.int64)
    corners, places, double = corners[faces], places[faces], double[faces]
    topology = build_topology(make_triangles(points, corners))
    sides = np.roll(places, -1, axis=1) - places
    lengths = np.linalg.norm(sides, axis=2)
    along = sides[:, 0] / lengths[:, :1]
    across = places[:, 2] - places[:, 0]
    flat = np.zeros((len(faces), 3, 2))
    flat[:, 1, 0] = lengths[:, 0]
    flat[:, 2, 0] = np.einsum("ij,ij->i", across, along)
    flat[:, 2, 1] = double / lengths[:, 0]
    # Of the two sides that meet in the corner opposite side k.
    cotangents = -np.stack([np.einsum("ij,ij->i", sides[:, k - 2], sides[:, k - 1]) for k in range(3)], axis=1)
    cotangents /= double[:, None]
    cotangents /= np.maximum(abs(cotangents).max(axis=1, initial=0.0, keepdims=True) / _STEEPEST, 1.0)
    return Surface(
        faces=faces,
        points=points,
        corners=corners,
        twin=np.where(topology.turned[topology.edge], -1, topology.twin).astype(np.int64),
        barred=_barred(number, seams, topology.edges, topology.edge),
        lengths=lengths.reshape(-1),
        flat=flat,
        cotangents=cotangents,
        normals=vectors[faces] / double[:, None],
        areas=0.5 * double,
    )


def _barred(number: I32, seams: I32 | None, edges: I32, edge: I32) -> Mask:
    """(3 T,) sides along seams, which are given by vertices as they were before welding."""
    if seams is None or not len(seams):
        return np.zeros(len(edge), bool)
    ends = np.sort(number[seams], axis=1).astype(np.int32)
    both = np.concatenate([edges, ends])
    named, _ = number_pairs(both[:, 0], both[:, 1])
    return np.isin(named[: len(edges)], named[len(edges) :])[edge]
