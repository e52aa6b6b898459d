"""The station: corner normals by the chosen rule, with the evidence that the choice rests on."""

from dataclasses import replace

import numpy as np

from plindro.core.mesh.mesh import F32, F64, NO_GROUP, Mesh
from plindro.core.mesh.normals import (
    fold_angles,
    normals_of_groups,
    smooth_by_angle,
    smooth_by_groups,
)
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.mesh.topology import Topology, build_topology, corner_fans
from plindro.core.normals.settings import NormalsSettings
from plindro.core.prop import Prop
from plindro.core.report import Report

VERSION = 3
_CURVE_LIMIT = 150_000
"""Up to this many triangles the cost curve is computed at every step; above it at a few."""


def run(prop: Prop, settings: NormalsSettings, report: Report) -> Prop:
    """The prop with a unit normal on every corner.

    Facts: ``normals`` = the rule that was used; ``edge_angles`` = interior edges by degree of fold (180 bins);
    ``normal_cost`` = [threshold in degrees, engine vertices] pairs.
    """
    report.step(0.0, "normals")
    mesh = prop.mesh
    topology = build_topology(mesh)
    angles = fold_angles(mesh, topology)
    normals, rule = _choose(mesh, topology, angles, settings)
    report.step(0.5, "normals: what each angle costs")
    first_half = topology.twin > np.arange(mesh.n_corners)
    within = mesh.face_polygon[mesh.corner_face()]
    between = first_half & (within != within[np.maximum(topology.twin, 0)])
    folds = angles[between & np.isfinite(angles)]
    report.facts["edge_angles"] = np.bincount(np.minimum(folds.astype(int), 179), minlength=180).tolist()
    report.facts["normals"] = rule
    report.facts["normal_cost"] = _cost_curve(mesh, topology, angles, report)
    report.step(1.0, "normals")
    return replace(prop, mesh=replace(mesh, normals=normals))


def _choose(mesh: Mesh, topology: Topology, angles: F64, settings: NormalsSettings) -> tuple[F32, str]:
    """Normals by the settings, and the words for what was done."""
    by_angle = f"by angle {settings.angle:g}°"
    if settings.source == "angle":
        return _by_angle(mesh, topology, angles, settings.angle), by_angle
    if mesh.normals is None:
        if (mesh.face_smoothing != NO_GROUP).any():
            group, count = corner_fans(topology, smooth_by_groups(mesh, topology))
            return normals_of_groups(mesh, group, count), "smoothing groups"
        return _by_angle(mesh, topology, angles, settings.angle), by_angle
    lengths = np.linalg.norm(mesh.normals, axis=1)
    missing = ~(np.abs(lengths - 1.0) < 1e-3)
    if not missing.any():
        return mesh.normals, "imported"
    computed = _by_angle(mesh, topology, angles, settings.angle)
    return np.where(missing[:, None], computed, mesh.normals), f"imported, {int(missing.sum())} corners {by_angle}"


def _by_angle(mesh: Mesh, topology: Topology, angles: F64, threshold: float) -> F32:
    group, count = corner_fans(topology, smooth_by_angle(mesh, topology, angles, threshold))
    return normals_of_groups(mesh, group, count)


def _cost_curve(mesh: Mesh, topology: Topology, angles: F64, report: Report) -> list[list[int]]:
    """Engine vertices at thresholds from 0 to 180 degrees."""
    thresholds: tuple[int, ...] = (0, 5, 10, 15, 20, 25, 30, 35, 40, 45, 50, 60, 70, 80, 90, 105, 120, 150, 180)
    if mesh.n_faces > _CURVE_LIMIT:
        thresholds = (0, 30, 60, 90, 180)
    curve = []
    bare = replace(mesh, tangents=None)
    for i, threshold in enumerate(thresholds):
        report.step(0.5 + 0.5 * i / len(thresholds), "normals: what each angle costs")
        trial = replace(bare, normals=_by_angle(mesh, topology, angles, threshold))
        curve.append([threshold, count_engine_vertices(trial)])
    return curve
