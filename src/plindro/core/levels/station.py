"""The station: reduce LOD0 to its levels, say how far each is from LOD0."""

from dataclasses import replace

import numpy as np

from plindro.core.findings import Finding, Severity, grouped
from plindro.core.levels.settings import LevelsSettings
from plindro.core.levels.shading import LevelShader
from plindro.core.mesh.mesh import Mesh
from plindro.core.mesh.normals import fold_angles, normals_by_angle
from plindro.core.mesh.numbering import weld_positions
from plindro.core.mesh.topology import build_topology
from plindro.core.prop import Level, Prop
from plindro.core.reduction import Reduced, reduce_mesh
from plindro.core.report import Report

VERSION = 3
VIEW_HEIGHT = 1080
"""Lines of the view for which a level's screen size is proposed: its deviation is then one line high."""
MIN_FALL = 0.98
"""A level with more than this share of the triangles above it saves nothing and is left out."""
FAR_OFF = 0.05
"""A level further from LOD0 than this share of the prop's diagonal is seen to be another shape."""
BROKEN = 0.15
"""A level further off than this share is left out: a wrong prop is worse than a heavier one."""
FACETED_SHARE = 0.8
"""A mesh with more than this share of hard edges is faceted on purpose, and its levels are too."""


def run(prop: Prop, settings: LevelsSettings, report: Report) -> Prop:
    """The prop with its chain; names are given where the destination is known."""
    mesh = prop.mesh
    targets = _targets(mesh.n_faces, settings.ratios)
    report.step(0.0, "building levels")
    is_faceted = _hard_share(mesh) > FACETED_SHARE
    reduced = _reduce(mesh, targets, settings, report, faceted=is_faceted)
    levels = [Level(0, mesh)]
    choice = "kept" if is_faceted else settings.normals
    shader = LevelShader(prop, choice, lambda: report.step(0.9 + 0.02 * len(levels), "shading levels"))
    diameter = _diameter(mesh)
    for wanted, result in zip(targets, reduced, strict=True):
        index, above = len(levels), levels[-1]
        n_faces = result.mesh.n_faces
        deviation = max(result.max_deviation, above.deviation)
        why = ""
        if n_faces > MIN_FALL * above.mesh.n_faces:
            why = f"seams and corners keep it at {grouped(n_faces)}, hardly fewer than LOD{index - 1}"
        elif deviation > BROKEN * diameter:
            why = f"it would be up to {deviation / diameter:.0%} of the prop's size off and another shape"
        if why:
            text = f"a level of {grouped(wanted)} triangles was left out: {why}"
            report.find(Finding("level-left-out", Severity.WATCH, text, level=index))
            continue
        if deviation > FAR_OFF * diameter:
            report.find(_far_off(index, deviation, diameter))
        if not result.reached:
            report.find(
                Finding(
                    "level-not-reached",
                    Severity.WATCH,
                    f"LOD{index} stops at {grouped(n_faces)} triangles instead of {grouped(wanted)}: "
                    "seams, borders and corners hold it",
                    level=index,
                )
            )
        size = diameter / (VIEW_HEIGHT * deviation) if deviation > 0 else 1.0
        report.step(0.9 + 0.02 * index, "shading levels")
        shaded = shader.shade(result.mesh)
        levels.append(
            Level(
                index=index,
                mesh=shaded.mesh,
                normal_angle=shaded.angle,
                normals=shaded.choice,
                deviation=deviation,
                mean_deviation=result.mean_deviation,
                screen_size=min(size, above.screen_size),
            )
        )
    report.step(1.0, "building levels")
    return replace(prop, levels=tuple(levels))


def _targets(n_faces: int, ratios: tuple[float, ...]) -> list[int]:
    """Falling triangle counts, at least one triangle each."""
    targets: list[int] = []
    for ratio in ratios:
        target = max(round(n_faces * ratio), 1)
        if target < (targets[-1] if targets else n_faces):
            targets.append(target)
    return targets


def _far_off(index: int, deviation: float, diameter: float) -> Finding:
    return Finding(
        "level-far-off",
        Severity.WATCH,
        f"LOD{index} is up to {1000 * deviation:.3g} mm off LOD0, {deviation / diameter:.0%} of the prop's size; "
        "look at its silhouette or keep more triangles",
        level=index,
    )


def _reduce(
    mesh: Mesh, targets: list[int], settings: LevelsSettings, report: Report, *, faceted: bool
) -> list[Reduced]:
    """The levels with hard edges held; those that cannot be reached so are reduced again without holding them."""
    held: list[Reduced] = []
    if not faceted:
        held = reduce_mesh(mesh, targets, on_step=lambda done: report.step(0.7 * done, "building levels"))
    short = [i for i, target in enumerate(targets) if faceted or not held[i].reached]
    if not short:
        return held
    freed = reduce_mesh(
        mesh,
        [targets[i] for i in short],
        hold_hard_edges=False,
        on_step=lambda done: report.step(0.7 + 0.2 * done, "building levels without their hard edges"),
    )
    diameter = _diameter(mesh)
    result = dict(enumerate(held))
    angle = 0.0 if faceted else settings.smooth_angle
    for i, level in zip(short, freed, strict=True):
        if faceted or _is_better(level, held[i], FAR_OFF * diameter):
            shaded = replace(level.mesh, normals=normals_by_angle(level.mesh, angle))
            result[i] = replace(level, mesh=shaded)
            if not faceted:
                report.find(_freed(i + 1, angle))
    return [result[i] for i in range(len(targets))]


def _is_better(freed: Reduced, held: Reduced, tolerable: float) -> bool:
    """Whether fewer triangles were bought without a worse shape."""
    return freed.mesh.n_faces < held.mesh.n_faces and freed.max_deviation <= max(held.max_deviation, tolerable)


def _diameter(mesh: Mesh) -> float:
    """Diagonal of the bounds in metres."""
    return float(np.linalg.norm(np.diff(mesh.bounds(), axis=0)))


def _freed(level: int, angle: float) -> Finding:
    return Finding(
        "hard-edges-given-up",
        Severity.INFO,
        f"LOD{level}: its hard edges would have kept it too heavy; they were given up and normals made by {angle:g}°",
        level=level,
    )


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
