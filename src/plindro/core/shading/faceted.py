"""Things that are faceted on purpose."""

from dataclasses import replace

import numpy as np

from plindro.core.mesh.mesh import F64, I64, Mesh
from plindro.core.mesh.numbering import weld_positions
from plindro.core.mesh.topology import build_topology
from plindro.core.shading.normals import fold_angles

FACETED_SHARE = 0.8
"""A mesh that is broken by more than this share of its gentle bends is faceted on purpose, and its levels are too."""
_FLAT, _GENTLE, _BACK = 0.01, 45.0, 179.9
"""Degrees up to which a fold is none, up to which it may be part of something round, and from which on a face meets its
own back. A column of 1 500 sides folds by a quarter of a degree, a flat cone of as many by less than a tenth."""


def is_faceted(mesh: Mesh) -> bool:
    """Whether the normals break across nearly all of what bends gently, or across nearly all folds where nothing does.

    Folds count by their length times their angle, which does not depend on how finely something round is divided; and
    by their number: a bent tube of eight sides breaks along its length only, and is not shaded flat.
    """
    if mesh.normals is None or not mesh.n_faces:
        return False
    angles, beside = _folds(mesh)
    with np.errstate(invalid="ignore"):
        folded = np.flatnonzero((angles > _FLAT) & (angles < _BACK))
    if not len(folded):
        return False
    gentle = folded[angles[folded] <= _GENTLE]
    chosen = gentle if len(gentle) else folded
    return _broken_share(mesh, angles[chosen], chosen, beside[chosen]) > FACETED_SHARE


def _folds(mesh: Mesh) -> tuple[F64, I64]:
    """(C,) fold in degrees at the edge of each half-edge, NaN where nothing lies across, and the corner at the same
    vertex across it.

    Many files repeat points for each face; what matters here is where surfaces touch. What shares points goes before
    that, since a front and its back touch everywhere.
    """
    own = build_topology(mesh)
    welded = build_topology(replace(mesh, corner_vertex=weld_positions(mesh.positions)[0][mesh.corner_vertex]))
    angles, touching = fold_angles(mesh, own), fold_angles(mesh, welded)
    alone = np.isnan(angles)
    twin = np.where(alone, welded.twin, own.twin)
    return np.where(alone, touching, angles), own.next_corner[twin]


def _broken_share(mesh: Mesh, angles: F64, folded: I64, beside: I64) -> float:
    """The share of what folds at some half-edges, by angles in degrees, across which the normal breaks by more than
    half the fold, by bend or by number, whichever is less; ``beside`` are the corners across."""
    normals = mesh.normals
    assert normals is not None
    after = folded - folded % 3 + (folded + 1) % 3
    start, end = mesh.corner_vertex[folded], mesh.corner_vertex[after]
    bend = np.linalg.norm(mesh.positions[end] - mesh.positions[start], axis=1) * angles
    chord = np.linalg.norm(normals[folded].astype(np.float64) - normals[beside], axis=1)
    breaks = np.degrees(2.0 * np.arcsin(np.minimum(0.5 * chord, 1.0))) > 0.5 * angles
    return float(min(bend[breaks].sum() / bend.sum(), breaks.mean()))
