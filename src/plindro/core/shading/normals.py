"""Corner normals: the faces around a corner that are smoothly connected, weighted by their corner's angle.

The weight by corner angle (Thürmer and Wüthrich 1998) makes a normal independent of how the faces around it are cut.
A cut within one polygon is never an edge: its two triangles are one face to the eye.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numba import njit

from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F32, F64, I32, Mask, Mesh
from plindro.core.mesh.numbering import number_pairs
from plindro.core.mesh.topology import Topology, build_topology, corner_fans
from plindro.core.numeric.groups import connected
from plindro.core.numeric.kernels import kernel

WeightKind = Literal["angle", "area", "area-angle", "large"]
FLAT = 0.5
"""Degrees of fold below which two faces lie in one flat, whose area weighs as that of one face."""


@dataclass(frozen=True, slots=True)
class Weights:
    """How much each face counts in the normal of a corner.

    ``angle``: by its corner's angle. ``area``: by the area of the flat it lies in. ``area-angle``: by both. ``large``:
    only the largest flats around the corner, those of at least ``share`` of the largest, by their corner's angle;
    ``strength`` 0..1 leads there from ``angle``.
    """

    kind: WeightKind = "angle"
    share: float = 0.5
    strength: float = 1.0


BY_ANGLE = Weights()


@njit(cache=True, nogil=True)
def _corner_angles(positions, triangles, angles):  # type: ignore[no-untyped-def]
    for t in range(len(triangles)):
        for k in range(3):
            a, b, c = triangles[t, k], triangles[t, (k + 1) % 3], triangles[t, (k + 2) % 3]
            ux, uy, uz = (
                positions[b, 0] - positions[a, 0],
                positions[b, 1] - positions[a, 1],
                positions[b, 2] - positions[a, 2],
            )
            vx, vy, vz = (
                positions[c, 0] - positions[a, 0],
                positions[c, 1] - positions[a, 1],
                positions[c, 2] - positions[a, 2],
            )
            cx, cy, cz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
            angles[3 * t + k] = np.arctan2(np.sqrt(cx * cx + cy * cy + cz * cz), ux * vx + uy * vy + uz * vz)


@njit(cache=True, nogil=True)
def _accumulate(weights, face_normals, group, sums):  # type: ignore[no-untyped-def]
    for c in range(len(group)):
        t, g = c // 3, group[c]
        for j in range(3):
            sums[g, j] += weights[c] * face_normals[t, j]


@dataclass(frozen=True, slots=True)
class Flats:
    """Triangles joined over edges that hardly fold: (T,) number and (T,) area of the flat each lies in."""

    number: I32
    area: F64


def find_flats(mesh: Mesh, topology: Topology, angles: F64) -> Flats:
    """The flats of a triangle mesh; ``angles`` (C,) are the folds of its half-edges."""
    size = np.linalg.norm(face_vectors(mesh), axis=1)
    face = mesh.corner_face()
    there = np.flatnonzero((topology.twin >= 0) & (angles <= FLAT))
    a, b = face[there], face[topology.twin[there]]
    number, _ = connected(mesh.n_faces, a, b)
    total: F64 = np.bincount(number, size, minlength=1).astype(np.float64)
    return Flats(number, total[number])


def corner_weights(mesh: Mesh, group: I32, n_groups: int, weights: Weights, flats: Flats | None) -> F64:
    """(C,) weight of each corner of a triangle mesh in the normal of its group."""
    angles = np.empty(mesh.n_corners)
    _corner_angles(mesh.positions, mesh.triangles(), angles)
    if weights.kind == "angle" or flats is None:
        return angles
    area = np.repeat(flats.area, 3)
    if weights.kind == "area-angle":
        return angles * area
    if weights.kind == "area":
        # A flat counts once around a corner, however many of its triangles meet there.
        key, firsts = number_pairs(group, np.repeat(flats.number, 3))
        share = np.bincount(key, angles, minlength=len(firsts))[key]
        return area * angles / np.where(share > 0, share, 1.0)
    largest = np.zeros(n_groups)
    np.maximum.at(largest, group, area)
    counts = area >= weights.share * largest[group] * (1.0 - 1e-9)
    return angles * ((1.0 - weights.strength) + weights.strength * counts)


def fold_angles(mesh: Mesh, topology: Topology) -> F64:
    """(C,) fold in degrees at the edge of each half-edge of a triangle mesh.

    NaN where the edge has no proper twin; 0 at a cut within one polygon and beside faces without area.
    """
    normals = unit(face_vectors(mesh))
    angles = np.full(mesh.n_corners, np.nan)
    _fold_angles(normals, topology.twin, topology.turned, topology.edge, mesh.face_polygon, angles)
    return np.degrees(angles, out=angles)


@kernel
def _fold_angles(normals, twin, turned, edge, polygon, angles):  # type: ignore[no-untyped-def]
    """As ``fold_angles``, in radians; what has no twin is left as it is. Normals of faces without area are zero."""
    for corner in range(len(twin)):
        other = twin[corner]
        if other < 0 or turned[edge[corner]]:
            continue
        f, g = corner // 3, other // 3
        ax, ay, az = normals[f, 0], normals[f, 1], normals[f, 2]
        bx, by, bz = normals[g, 0], normals[g, 1], normals[g, 2]
        is_empty = (ax == 0.0 and ay == 0.0 and az == 0.0) or (bx == 0.0 and by == 0.0 and bz == 0.0)
        if is_empty or polygon[f] == polygon[g]:
            angles[corner] = 0.0
        elif corner < other:
            x, y, z = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
            angles[corner] = angles[other] = np.arctan2(np.sqrt(x * x + y * y + z * z), ax * bx + ay * by + az * bz)


def smooth_by_angle(mesh: Mesh, topology: Topology, angles: F64, threshold: float) -> Mask:
    """(C,) which half-edges are smooth at a threshold in degrees; the mesh's own hard edges never are."""
    with np.errstate(invalid="ignore"):
        return (angles <= threshold + 1e-6) & ~hard_half_edges(mesh, topology)


def hard_half_edges(mesh: Mesh, topology: Topology) -> Mask:
    """(C,) which half-edges lie on one of the mesh's hard edges."""
    if not len(mesh.hard_edges):
        return np.zeros(mesh.n_corners, bool)
    wide = np.int64(mesh.n_vertices)
    keys = topology.edges[:, 0] * wide + topology.edges[:, 1]
    hard = np.sort(mesh.hard_edges, axis=1)
    return np.isin(keys, hard[:, 0] * wide + hard[:, 1])[topology.edge]


def smooth_by_groups(mesh: Mesh, topology: Topology) -> Mask:
    """(C,) which half-edges lie between faces of the same smoothing group, or within one polygon."""
    face = mesh.corner_face()
    smooth = np.zeros(mesh.n_corners, bool)
    paired = topology.twin >= 0
    mine, other = face[paired], face[topology.twin[paired]]
    group = mesh.face_smoothing
    same = (group[mine] == group[other]) & (group[mine] != 0)
    smooth[paired] = same | (mesh.face_polygon[mine] == mesh.face_polygon[other])
    return smooth & ~hard_half_edges(mesh, topology)


def normals_of_groups(
    mesh: Mesh, group: I32, n_groups: int, weights: Weights = BY_ANGLE, flats: Flats | None = None
) -> F32:
    """(C, 3) unit float32 normals of a triangle mesh whose corners share a normal with their group.

    Where a group's faces cancel out or have no area, the face's own normal is taken, and up where that is missing too.
    """
    face_normals = unit(face_vectors(mesh))
    sums = np.zeros((n_groups, 3))
    weight = corner_weights(mesh, group, n_groups, weights, flats)
    _accumulate(weight, face_normals, group, sums)
    largest = np.zeros(n_groups)
    np.maximum.at(largest, group, weight)
    weak = ~(np.linalg.norm(sums, axis=1) > 1e-9 * largest)[group]
    normals = unit(sums)[group]
    if weak.any():
        own = face_normals[mesh.corner_face()[weak]]
        own[np.abs(own).sum(axis=1) == 0] = (0.0, 1.0, 0.0)
        normals[weak] = own
    return normals.astype(np.float32)


def normals_by_angle(
    mesh: Mesh, threshold: float, topology: Topology | None = None, weights: Weights = BY_ANGLE
) -> F32:
    """(C, 3) normals of a triangle mesh, hard where an edge folds by more than ``threshold`` degrees."""
    topology = topology or build_topology(mesh)
    angles = fold_angles(mesh, topology)
    group, count = corner_fans(topology, smooth_by_angle(mesh, topology, angles, threshold))
    flats = None if weights.kind == "angle" else find_flats(mesh, topology, angles)
    return normals_of_groups(mesh, group, count, weights, flats)
