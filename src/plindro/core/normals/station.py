"""The station: corner normals by the chosen rule and the marks, with the evidence that the choice rests on."""

from dataclasses import replace

import numpy as np

from plindro.core.mesh.mesh import F32, F64, NO_GROUP, Mask, Mesh
from plindro.core.mesh.normals import Weights, find_flats, fold_angles, normals_of_groups
from plindro.core.mesh.numbering import number_pairs
from plindro.core.mesh.smoothing import smooth_by_normals
from plindro.core.mesh.streams import attribute_classes, count_engine_vertices
from plindro.core.mesh.topology import Topology, build_topology, corner_fans
from plindro.core.normals.marks import Marked, find_marks
from plindro.core.normals.settings import NormalsSettings
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.shading import ShadingRule, smooth_by_rule

VERSION = 4
_CURVE_LIMIT = 300_000
"""Up to this many triangles the cost curve is computed at every step; above it at a few."""


def run(prop: Prop, settings: NormalsSettings, report: Report) -> Prop:
    """The prop with a unit normal on every corner, and the rule they were made by.

    Facts: ``normals`` = the rule in words; ``edge_angles`` = edges between faces by degree of fold (180 bins);
    ``normal_cost`` = [threshold in degrees, engine vertices] pairs; ``normal_marks`` = edges marked hard and soft,
    patches; ``hard_edges`` and ``hard_cost`` = edges that are hard, and the engine vertices they add; ``normal_parts``
    = corners with normals kept and computed, a part.
    """
    report.step(0.0, "normals")
    mesh = prop.mesh
    topology = build_topology(mesh)
    angles = fold_angles(mesh, topology)
    marked = find_marks(prop, topology, angles, settings, report)
    rule = _rule(mesh, topology, marked, settings)
    smooth = smooth_by_rule(mesh, topology, angles, rule)
    group, count = corner_fans(topology, smooth)
    flats = None if rule.weights.kind == "angle" else find_flats(mesh, topology, angles)
    computed = normals_of_groups(mesh, group, count, rule.weights, flats)
    kept = _kept(prop, topology, marked, settings)
    normals, words = _together(mesh, topology, angles, computed, kept, marked, rule)
    report.facts["normals"] = words
    report.facts["normal_parts"] = _by_part(prop, kept)
    report.step(0.5, "normals: what each angle costs")
    _report_edges(mesh, topology, angles, report)
    final = replace(mesh, normals=normals)
    report.facts["normal_marks"] = {"hard": marked.n_hard, "soft": marked.n_soft, "patches": marked.n_patches}
    report.facts["normal_cost"] = _cost_curve(mesh, topology, angles, marked, report)
    report.facts.update(_hard_cost(final, topology))
    report.step(1.0, "normals")
    return replace(prop, mesh=final, shading=replace(rule, is_kept=bool(kept.any())))


def _rule(mesh: Mesh, topology: Topology, marked: Marked, settings: NormalsSettings) -> ShadingRule:
    has_groups = bool((mesh.face_smoothing != NO_GROUP).any())
    angle: float | None = settings.angle
    if settings.source in ("imported", "groups") and has_groups:
        angle = None
    elif settings.source == "smooth":
        angle = 180.0
    elif settings.source == "flat":
        angle = -1.0
    return ShadingRule(
        angle=angle,
        weights=Weights(settings.weights, settings.large_share, settings.strength),
        hard=topology.edges[marked.hard],
        soft=topology.edges[marked.soft & ~marked.hard],
        own_hard=settings.source not in ("smooth", "flat"),
    )


def _kept(prop: Prop, topology: Topology, marked: Marked, settings: NormalsSettings) -> Mask:
    """(C,) corners that keep the source's normal: valid ones, of parts that keep theirs, away from marks that change
    how their edges are."""
    mesh = prop.mesh
    if settings.source != "imported" or mesh.normals is None:
        return np.zeros(mesh.n_corners, bool)
    kept: Mask = np.asarray(np.abs(np.linalg.norm(mesh.normals, axis=1) - 1.0) < 1e-3)
    out = [i for i, part in enumerate(prop.parts) if part.path in settings.computed]
    if out:
        kept &= ~np.isin(mesh.face_part, out)[mesh.corner_face()]
    if marked.hard.any() or marked.soft.any():
        smooth = smooth_by_normals(mesh, topology)
        inner = np.flatnonzero(topology.twin >= 0)
        edge = topology.edge[inner]
        changed = np.where(smooth[inner], marked.hard[edge], marked.soft[edge] & ~marked.hard[edge])
        touched = np.zeros(mesh.n_vertices, bool)
        touched[topology.edges[edge[changed]].reshape(-1)] = True
        kept &= ~touched[mesh.corner_vertex]
    return kept


def _together(
    mesh: Mesh, topology: Topology, angles: F64, computed: F32, kept: Mask, marked: Marked, rule: ShadingRule
) -> tuple[F32, str]:
    """The source's normals where they are kept, computed ones elsewhere, and the words for what was done."""
    has_marks = bool(marked.hard.any() or marked.soft.any())
    words = _words(rule) + (" and marks" if has_marks else "")
    if mesh.normals is None or not kept.any():
        return computed, words
    if kept.all():
        return mesh.normals, "imported"
    if has_marks:
        # Around marks in imported shading, the edges that no mark touches stay as the source's normals have them.
        edge = topology.edge
        smooth = smooth_by_normals(mesh, topology) | (marked.soft[edge] & (topology.twin >= 0))
        group, count = corner_fans(topology, smooth & ~marked.hard[edge])
        around = normals_of_groups(mesh, group, count, rule.weights, find_flats(mesh, topology, angles))
        valid = np.abs(np.linalg.norm(mesh.normals, axis=1) - 1.0) < 1e-3
        computed = np.where(valid[:, None], around, computed)
    normals: F32 = np.where(kept[:, None], mesh.normals, computed)
    return normals, f"imported, {int((~kept).sum())} corners {words}"


def _words(rule: ShadingRule) -> str:
    if rule.angle is None:
        return "smoothing groups"
    if not rule.own_hard:
        return "all smooth" if rule.angle >= 180.0 else "all flat"
    return f"by angle {rule.angle:g}°"


def _by_part(prop: Prop, kept: Mask) -> list[dict[str, object]]:
    part = prop.mesh.face_part[prop.mesh.corner_face()]
    n = max(len(prop.parts), 1)
    all_of = np.bincount(part, minlength=n)
    kept_of = np.bincount(part[kept], minlength=n)
    return [
        {"path": p.path, "kept": int(kept_of[i]), "computed": int(all_of[i] - kept_of[i])}
        for i, p in enumerate(prop.parts[:200])
    ]


def _between_faces(mesh: Mesh, topology: Topology) -> Mask:
    """(C,) one half-edge of every edge between two polygons."""
    first_half: Mask = np.asarray(topology.twin > np.arange(mesh.n_corners))
    within = mesh.face_polygon[mesh.corner_face()]
    return first_half & (within != within[np.maximum(topology.twin, 0)])


def _report_edges(mesh: Mesh, topology: Topology, angles: F64, report: Report) -> None:
    folds = angles[_between_faces(mesh, topology) & np.isfinite(angles)]
    report.facts["edge_angles"] = np.bincount(np.minimum(folds.astype(int), 179), minlength=180).tolist()


def _hard_cost(mesh: Mesh, topology: Topology) -> dict[str, int]:
    """How many edges between faces the normals break at, and the engine vertices that this adds."""
    smooth = smooth_by_normals(mesh, topology)
    classes = attribute_classes(mesh)
    total = count_engine_vertices(replace(mesh, tangents=None))
    return {
        "hard_edges": int((_between_faces(mesh, topology) & ~smooth).sum()),
        "hard_cost": total - int(classes.max(initial=-1)) - 1,
    }


def _cost_curve(mesh: Mesh, topology: Topology, angles: F64, marked: Marked, report: Report) -> list[list[int]]:
    """Engine vertices at thresholds from 0 to 180 degrees, by how many fans each shared vertex falls into."""
    thresholds: tuple[int, ...] = (0, 5, 10, 15, 20, 25, 30, 35, 40, 45, 50, 60, 70, 80, 90, 105, 120, 150, 180)
    if mesh.n_faces > _CURVE_LIMIT:
        thresholds = (0, 30, 60, 90, 180)
    classes = attribute_classes(mesh)
    hard, soft = topology.edges[marked.hard], topology.edges[marked.soft & ~marked.hard]
    curve = []
    for i, threshold in enumerate(thresholds):
        report.step(0.5 + 0.5 * i / len(thresholds), "normals: what each angle costs")
        rule = ShadingRule(angle=float(threshold), hard=hard, soft=soft)
        fans, _ = corner_fans(topology, smooth_by_rule(mesh, topology, angles, rule))
        curve.append([threshold, len(number_pairs(fans, classes)[1])])
    return curve
