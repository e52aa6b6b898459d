"""A triangle mesh as unwrapping needs it: welded by place, with what lies across each side and each triangle laid
flat."""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh, make_triangles
from plindro.core.mesh.numbering import number_pairs, number_rows, weld_positions
from plindro.core.mesh.pairing import pair_half_edges
from plindro.core.mesh.topology import Topology, build_topology

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
    twin : (3 T,) the side across, -1 where there is none, and where windings disagree; where more than two meet, the
        one that bounds the same solid, and of sheets in one place that of the same sheet
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
    topology, twin = _neighbours(points, corners, vectors[faces])
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
        twin=twin,
        barred=_barred(number, seams, topology.edges % max(len(points), 1), topology.edge),
        lengths=lengths.reshape(-1),
        flat=flat,
        cotangents=cotangents,
        normals=vectors[faces] / double[:, None],
        areas=0.5 * double,
    )


def sides_along(mesh: Mesh, surface: Surface, edges: I32) -> list[I64]:
    """The sides of a mesh's surface that lie along each of its edges (S, 2), pairs of its vertices."""
    number = weld_positions(mesh.positions)[0]
    ends = np.sort(number[edges], axis=1).astype(np.int32)
    start = surface.corners.reshape(-1)
    end = np.roll(surface.corners, -1, axis=1).reshape(-1)
    both = np.concatenate([np.stack([np.minimum(start, end), np.maximum(start, end)], axis=1), ends])
    named, _ = number_pairs(both[:, 0], both[:, 1])
    own, wanted = named[: len(start)], named[len(start) :]
    order = np.argsort(own, kind="stable").astype(np.int64)
    low, high = np.searchsorted(own[order], wanted), np.searchsorted(own[order], wanted, side="right")
    return [order[a:b] for a, b in zip(low.tolist(), high.tolist(), strict=True)]


def _neighbours(points: F64, corners: I32, vectors: F64) -> tuple[Topology, I64]:
    """The edges of triangles (T, 3) with area vectors (T, 3), and (3 T,) the side across each.

    A triangle that is there twice is one of a second sheet, whose points have numbers of their own.
    """
    first = np.argmin(corners, axis=1)
    turned = corners[np.arange(len(corners))[:, None], (first[:, None] + np.arange(3)) % 3]
    sheet = _occurrence(number_rows(turned)[0])
    n_sheets = int(sheet.max(initial=0)) + 1
    own = (corners + sheet[:, None] * len(points)).astype(np.int32)
    places = np.tile(points, (n_sheets, 1))
    topology = build_topology(make_triangles(places, own))
    twin = np.where(topology.turned[topology.edge], -1, topology.twin).astype(np.int64)
    uses = topology.edge_uses[topology.edge]
    crowded = uses > 2
    if crowded.any():
        start, end = own.reshape(-1), np.roll(own, -1, axis=1).reshape(-1)
        partner = pair_half_edges(
            topology.edge, crowded, uses, places, start, end, np.repeat(vectors, 3, axis=0)
        )  # fmt: skip
        twin[crowded] = partner[crowded]
    return topology, twin


def _occurrence(name: I32) -> I64:
    """How many of the same name come before each."""
    order = np.argsort(name, kind="stable")
    starts = np.concatenate([[0], np.cumsum(np.bincount(name))]).astype(np.int64)
    before = np.empty(len(name), np.int64)
    before[order] = np.arange(len(name)) - starts[name[order]]
    return before


def _barred(number: I32, seams: I32 | None, edges: I32, edge: I32) -> Mask:
    """(3 T,) sides along seams, which are given by vertices as they were before welding."""
    if seams is None or not len(seams):
        return np.zeros(len(edge), bool)
    ends = np.sort(number[seams], axis=1).astype(np.int32)
    both = np.concatenate([edges, ends])
    named, _ = number_pairs(both[:, 0], both[:, 1])
    return np.isin(named[: len(edges)], named[len(edges) :])[edge]
