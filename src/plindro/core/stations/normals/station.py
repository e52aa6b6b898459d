"""The station: corner normals by the chosen rule and the marks, with the evidence that the choice rests on."""

from dataclasses import replace
from typing import Literal, TypedDict

import numpy as np

from plindro.core.findings import Finding, Places, Severity, grouped
from plindro.core.mesh.mesh import F32, F64, NO_GROUP, Mask, Mesh
from plindro.core.mesh.numbering import number_pairs
from plindro.core.mesh.streams import attribute_classes, count_engine_vertices
from plindro.core.mesh.topology import Topology, build_topology, corner_fans
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.shading import ShadingRule, smooth_by_rule
from plindro.core.shading.facing import faces_against, own_normals
from plindro.core.shading.normals import Weights, find_flats, fold_angles, normals_of_groups
from plindro.core.shading.smoothing import smooth_by_normals
from plindro.core.stations.normals.facts import CostSample, MarkCounts, NormalsFacts, PartNormals
from plindro.core.stations.normals.marks import Marked, find_marks
from plindro.core.stations.normals.settings import NormalsSettings

_CURVE_LIMIT = 300_000
"""Up to this many triangles the cost curve is computed at every step; above it at a few."""


def run(prop: Prop, settings: NormalsSettings, report: Report) -> Prop:
    """The prop with a unit normal on every corner, and the rule they were made by."""
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
    inward = _inward(mesh, settings)
    _report_inward(mesh, inward, report)
    kept = _kept(prop, topology, marked, settings, inward)
    normals = _outward(mesh, _together(mesh, topology, angles, computed, kept, marked, rule))
    report.step(0.5, "normals: what each angle costs")
    final = replace(mesh, normals=normals)
    curve = _cost_curve(mesh, topology, angles, marked, report)
    hard_edges, hard_cost = _hard_cost(final, topology)
    report.state(
        NormalsFacts(
            **_decided(rule, kept, marked),
            parts=_by_part(prop, kept),
            marks=MarkCounts(hard=marked.n_hard, soft=marked.n_soft, patches=marked.n_patches),
            edge_angles=_edge_angles(mesh, topology, angles),
            cost=curve,
            hard_edges=hard_edges,
            hard_cost=hard_cost,
        )
    )
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
        weights=Weights(settings.weighting, settings.large_face_ratio, settings.large_face_strength),
        hard=topology.edges[marked.hard],
        soft=topology.edges[marked.soft & ~marked.hard],
        own_hard=settings.source not in ("smooth", "flat"),
    )


def _kept(prop: Prop, topology: Topology, marked: Marked, settings: NormalsSettings, inward: Mask) -> Mask:
    """(C,) corners that keep the source's normal: valid ones, not ``inward`` (F,), of parts that keep theirs, away from
    marks that change how their edges are."""
    mesh = prop.mesh
    if settings.source != "imported" or mesh.normals is None:
        return np.zeros(mesh.n_corners, bool)
    kept: Mask = np.asarray(np.abs(np.linalg.norm(mesh.normals, axis=1) - 1.0) < 1e-3)
    kept &= ~inward[mesh.corner_face()]
    out = [i for i, part in enumerate(prop.parts) if part.path in settings.recomputed_parts]
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


def _inward(mesh: Mesh, settings: NormalsSettings) -> Mask:
    """(F,) triangles whose own winding contradicts the source's normals, where those would be kept."""
    if settings.source != "imported" or mesh.normals is None:
        return np.zeros(mesh.n_faces, bool)
    return faces_against(mesh, mesh.normals)


def _outward(mesh: Mesh, normals: F32) -> F32:
    """The normals, with its own on a triangle that its neighbours' would turn away from the eye, as on a sliver in a
    fold."""
    away = faces_against(mesh, normals)
    return np.where(np.repeat(away, 3)[:, None], own_normals(mesh), normals) if away.any() else normals


def _report_inward(mesh: Mesh, inward: Mask, report: Report) -> None:
    """The triangles (F,) on which the source's normals point inward."""
    if not inward.any():
        return
    n = int(inward.sum())
    text = (
        f"the source's normals point inward on {grouped(n)} {'triangle' if n == 1 else 'triangles'} with the right "
        "winding; they were recomputed there"
    )
    places = Places.of(mesh.positions[mesh.triangles()[inward]])
    report.find(Finding("normals-inward", Severity.WARNING, text, n, places=places))


def _together(
    mesh: Mesh, topology: Topology, angles: F64, computed: F32, kept: Mask, marked: Marked, rule: ShadingRule
) -> F32:
    """The source's normals where they are kept, computed ones elsewhere."""
    if mesh.normals is None or not kept.any():
        return computed
    if kept.all():
        return mesh.normals
    if _has_marks(marked):
        # Around marks in imported shading, the edges that no mark touches stay as the source's normals have them.
        edge = topology.edge
        smooth = smooth_by_normals(mesh, topology) | (marked.soft[edge] & (topology.twin >= 0))
        group, count = corner_fans(topology, smooth & ~marked.hard[edge])
        around = normals_of_groups(mesh, group, count, rule.weights, find_flats(mesh, topology, angles))
        valid = np.abs(np.linalg.norm(mesh.normals, axis=1) - 1.0) < 1e-3
        computed = np.where(valid[:, None], around, computed)
    normals: F32 = np.where(kept[:, None], mesh.normals, computed)
    return normals


def _has_marks(marked: Marked) -> bool:
    return bool(marked.hard.any() or marked.soft.any())


class _Decided(TypedDict):
    rule: Literal["imported", "groups", "angle", "smooth", "flat"]
    angle: float | None
    computed: int
    has_marks: bool
    words: str


def _decided(rule: ShadingRule, kept: Mask, marked: Marked) -> _Decided:
    """What decided about the normals, as facts and in words."""
    has_marks = _has_marks(marked)
    angle: float | None = None
    made: Literal["groups", "angle", "smooth", "flat"]
    if rule.angle is None:
        made, words = "groups", "smoothing groups"
    elif not rule.own_hard:
        made, words = ("smooth", "all smooth") if rule.angle >= 180.0 else ("flat", "all flat")
    else:
        made, angle, words = "angle", rule.angle, f"by angle {rule.angle:g}°"
    words += " and marks" if has_marks else ""
    if not kept.any():
        return {"rule": made, "angle": angle, "computed": len(kept), "has_marks": has_marks, "words": words}
    n = int((~kept).sum())
    words = f"imported, {n} corners {words}" if n else "imported"
    return {"rule": "imported", "angle": angle, "computed": n, "has_marks": has_marks, "words": words}


def _by_part(prop: Prop, kept: Mask) -> list[PartNormals]:
    part = prop.mesh.face_part[prop.mesh.corner_face()]
    n = max(len(prop.parts), 1)
    all_of = np.bincount(part, minlength=n)
    kept_of = np.bincount(part[kept], minlength=n)
    return [
        PartNormals(path=p.path, kept=int(kept_of[i]), computed=int(all_of[i] - kept_of[i]))
        for i, p in enumerate(prop.parts[:200])
    ]


def _between_faces(mesh: Mesh, topology: Topology) -> Mask:
    """(C,) one half-edge of every edge between two polygons."""
    first_half: Mask = np.asarray(topology.twin > np.arange(mesh.n_corners))
    within = mesh.face_polygon[mesh.corner_face()]
    return first_half & (within != within[np.maximum(topology.twin, 0)])


def _edge_angles(mesh: Mesh, topology: Topology, angles: F64) -> list[int]:
    """Edges between faces by degree of fold, in 180 bins."""
    folds = angles[_between_faces(mesh, topology) & np.isfinite(angles)]
    return [int(n) for n in np.bincount(np.minimum(folds.astype(int), 179), minlength=180)]


def _hard_cost(mesh: Mesh, topology: Topology) -> tuple[int, int]:
    """How many edges between faces the normals break at, and the engine vertices that this adds."""
    smooth = smooth_by_normals(mesh, topology)
    classes = attribute_classes(mesh)
    total = count_engine_vertices(replace(mesh, tangents=None))
    n_hard = int((_between_faces(mesh, topology) & ~smooth).sum())
    return n_hard, total - int(classes.max(initial=-1)) - 1


def _cost_curve(mesh: Mesh, topology: Topology, angles: F64, marked: Marked, report: Report) -> list[CostSample]:
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
        curve.append(CostSample(angle=threshold, vertices=len(number_pairs(fans, classes)[1])))
    return curve
