"""Things that are faceted on purpose."""

from dataclasses import replace

import numpy as np

from plindro.core.mesh.mesh import F64, I64, Mesh
from plindro.core.mesh.numbering import weld_positions
from plindro.core.mesh.topology import Topology, build_topology
from plindro.core.shading.normals import fold_angles

FACETED_SHARE = 0.8
"""A mesh that is broken by more than this share of its gentle bends is faceted on purpose, and its levels are too."""
_FLAT, _GENTLE = 0.01, 45.0
"""Degrees up to which a fold is none, and up to which it may be part of something round. A column of 1 500 sides folds
by a quarter of a degree, a flat cone of as many by less than a tenth."""


def is_faceted(mesh: Mesh) -> bool:
    """Whether the normals break across nearly all of what bends gently, or across nearly all folds where nothing does.

    Folds count by their length times their angle, which does not depend on how finely something round is divided.
    """
    if mesh.normals is None or not mesh.n_faces:
        return False
    # Many files repeat points for each face; what matters here is where surfaces touch.
    welded = replace(mesh, corner_vertex=weld_positions(mesh.positions)[0][mesh.corner_vertex])
    topology = build_topology(welded)
    angles = fold_angles(mesh, topology)
    with np.errstate(invalid="ignore"):
        folded = np.flatnonzero(angles > _FLAT)
    if not len(folded):
        return False
    gentle = folded[angles[folded] <= _GENTLE]
    return _broken_share(mesh, topology, angles, gentle if len(gentle) else folded) > FACETED_SHARE


def _broken_share(mesh: Mesh, topology: Topology, angles: F64, folded: I64) -> float:
    """The share of what folds at some half-edges across which the normal breaks by more than half the fold."""
    start, end = mesh.corner_vertex[folded], mesh.corner_vertex[topology.next_corner[folded]]
    bend = np.linalg.norm(mesh.positions[end] - mesh.positions[start], axis=1) * angles[folded]
    other = topology.next_corner[topology.twin[folded]]
    normals = mesh.normals
    assert normals is not None
    chord = np.linalg.norm(normals[folded].astype(np.float64) - normals[other], axis=1)
    breaks = np.degrees(2.0 * np.arcsin(np.minimum(0.5 * chord, 1.0))) > 0.5 * angles[folded]
    return float(bend[breaks].sum() / bend.sum())
