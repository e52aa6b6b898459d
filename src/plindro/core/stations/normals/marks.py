"""Marks of the Normals station: which edges of this mesh they make hard or soft."""

from dataclasses import dataclass

import numpy as np

from plindro.core.marks import find_edges, find_faces, share_patch, to_mesh, unfitting
from plindro.core.mesh.mesh import F64, Mask
from plindro.core.mesh.topology import Topology
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.stations.normals.settings import NormalsSettings


@dataclass(frozen=True, slots=True)
class Marked:
    """(E,) edges that marks make hard and soft, hard before soft; and how many marks took hold."""

    hard: Mask
    soft: Mask
    n_hard: int
    n_soft: int
    n_patches: int


def find_marks(prop: Prop, topology: Topology, angles: F64, settings: NormalsSettings, report: Report) -> Marked:
    """Bring the marks to the mesh: patches first, single edges over them. Those without a place are said."""
    mesh = prop.mesh
    n = len(topology.edges)
    hard, soft = np.zeros(n, bool), np.zeros(n, bool)
    n_patches = 0
    if settings.patches:
        points = to_mesh(prop, [patch.point for patch in settings.patches])
        facings = to_mesh(prop, [patch.facing for patch in settings.patches], directions=True)
        faces = find_faces(mesh, points, facings)
        if (faces < 0).any():
            report.find(unfitting("patch", points[faces < 0]))
        face = mesh.corner_face()
        inner = np.flatnonzero(topology.twin >= 0)
        grown: dict[tuple[str, float], np.ndarray[tuple[int], np.dtype[np.int64]]] = {}
        for patch, seed in zip(settings.patches, faces.tolist(), strict=True):
            if seed < 0:
                continue
            key = (patch.by, patch.angle if patch.by == "angle" else 0.0)
            if key not in grown:
                grown[key] = share_patch(mesh, topology, angles, patch.by, patch.angle)
            own = grown[key] == grown[key][seed]
            edges = topology.edge[inner[own[face[inner]] & own[face[topology.twin[inner]]]]]
            (soft if patch.inside == "soft" else hard)[edges] = True
            (hard if patch.inside == "soft" else soft)[edges] = False
            n_patches += 1
    counts = []
    for ends, makes_hard in ((settings.soft, False), (settings.hard, True)):
        if not ends:
            counts.append(0)
            continue
        places = to_mesh(prop, ends).reshape(-1, 2, 3)
        edges, found = find_edges(mesh, topology, places)
        hard[edges], soft[edges] = makes_hard, not makes_hard
        counts.append(int(found.sum()))
        if not found.all():
            report.find(unfitting("edge", places[~found]))
    return Marked(hard, soft, counts[1], counts[0], n_patches)
