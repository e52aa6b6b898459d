"""Things that are faceted on purpose."""

from dataclasses import replace

import numpy as np

from plindro.core.mesh.mesh import Mesh
from plindro.core.mesh.numbering import weld_positions
from plindro.core.mesh.topology import build_topology
from plindro.core.shading.normals import fold_angles

FACETED_SHARE = 0.8
"""A mesh with more than this share of hard edges is faceted on purpose, and its levels are too."""


def is_faceted(mesh: Mesh) -> bool:
    """Whether the normals break across nearly all of the folded edges."""
    return _hard_share(mesh) > FACETED_SHARE


def _hard_share(mesh: Mesh) -> float:
    """Share of folded edges across which the normal breaks; 0 where nothing folds."""
    if mesh.normals is None or not mesh.n_faces:
        return 0.0
    # Many files repeat points for each face; what matters here is where surfaces touch.
    welded = replace(mesh, corner_vertex=weld_positions(mesh.positions)[0][mesh.corner_vertex])
    topology = build_topology(welded)
    angles = fold_angles(mesh, topology)
    with np.errstate(invalid="ignore"):
        folded = np.flatnonzero(angles > 1.0)
    if not len(folded):
        return 0.0
    other = topology.next_corner[topology.twin[folded]]
    same = np.einsum("ij,ij->i", mesh.normals[folded], mesh.normals[other]) > np.cos(np.radians(0.5))
    return float(1.0 - same.mean())
