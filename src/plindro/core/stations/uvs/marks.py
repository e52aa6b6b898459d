"""Marks of the UVs station, brought to the mesh: seams, strips, weights and locked islands."""

from dataclasses import dataclass

import numpy as np

from plindro.core.marks import Edge, Spot, find_edges, find_faces, to_mesh, unfitting
from plindro.core.mesh.mesh import F64, I32, I64
from plindro.core.mesh.topology import build_topology
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.stations.uvs.settings import UvsSettings
from plindro.core.unwrap.wishes import Wishes

NO_EDGES = np.zeros((0, 2), np.int32)


@dataclass(frozen=True, slots=True)
class Asked:
    """``seams`` (S, 2) and ``rungs`` (R, 2) as pairs of vertices; what is wished of islands."""

    seams: I32
    rungs: I32
    wishes: Wishes


def find_asked(prop: Prop, settings: UvsSettings, report: Report) -> Asked:
    """What marks and settings ask of the prop's mesh. Marks without a place are said."""
    mesh = prop.mesh
    weights = np.ones(mesh.n_faces)
    faces = _faces(prop, settings.weights, report)
    for face, mark in zip(faces.tolist(), settings.weights, strict=True):
        if face >= 0:
            weights[face] = mark.weight
    locked = np.zeros(mesh.n_faces, bool)
    if settings.method == "repack":
        at = _faces(prop, settings.locked, report)
        locked[at[at >= 0]] = True
    wishes = Wishes(
        density=settings.density,
        weights=weights if settings.weights else None,
        stack=settings.stack_equal,
        locked=locked if locked.any() else None,
    )
    return Asked(_edges(prop, settings.seams, report), _edges(prop, settings.straight, report), wishes)


def _faces(prop: Prop, spots: tuple[Spot, ...], report: Report) -> I64:
    if not spots:
        return np.zeros(0, np.int64)
    points = to_mesh(prop, [spot.point for spot in spots])
    facings = to_mesh(prop, [spot.facing for spot in spots], directions=True)
    faces = find_faces(prop.mesh, points, facings)
    if (faces < 0).any():
        report.find(unfitting("island mark", points[faces < 0]))
    return faces


def _edges(prop: Prop, edges: tuple[Edge, ...], report: Report) -> I32:
    """(S, 2) the vertices of marked edges."""
    if not edges:
        return NO_EDGES
    topology = build_topology(prop.mesh)
    ends: F64 = to_mesh(prop, edges).reshape(-1, 2, 3)
    marked, found = find_edges(prop.mesh, topology, ends)
    if not found.all():
        report.find(unfitting("edge", ends[~found]))
    return topology.edges[marked].astype(np.int32)
