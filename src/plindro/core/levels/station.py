"""The station: take the levels from LOD0's collapse sequence, say how far each is from LOD0."""

from dataclasses import replace

from plindro.core.findings import Finding, Severity, grouped
from plindro.core.levels.reducing import make_sequence
from plindro.core.levels.settings import LevelsSettings, LevelTarget
from plindro.core.levels.shading import LevelShader
from plindro.core.measure.deviation import DeviationFrom
from plindro.core.mesh.mesh import Mesh
from plindro.core.mesh.normals import normals_by_angle
from plindro.core.prop import Level, Prop
from plindro.core.reduction import Reduced, Sequence, diagonal, restated, take_level
from plindro.core.report import Report
from plindro.core.shading.faceted import is_faceted

VERSION = 5
VIEW_HEIGHT = 1080
"""Lines of the view for which a level's screen size is proposed: its deviation is then one line high."""
MIN_FALL = 0.98
"""A level with more than this share of the triangles above it saves nothing and is left out."""
FAR_OFF = 0.05
"""A level further from LOD0 than this share of the prop's diagonal is seen to be another shape."""
BROKEN = 0.15
"""A level further off than this share is left out: a wrong prop is worse than a heavier one."""
MEASURING = "measuring and shading levels"


def run(prop: Prop, settings: LevelsSettings, report: Report) -> Prop:
    """The prop with its chain; names are given where the destination is known."""
    mesh = prop.mesh
    report.step(0.0, "building levels")
    if not settings.levels or not mesh.n_faces:
        report.step(1.0, "building levels")
        return replace(prop, levels=(Level(0, mesh),))
    faceted = is_faceted(mesh)
    sequence = make_sequence(prop, settings, report, hold_hard_edges=not faceted)
    levels = [Level(0, mesh)]
    ruler = DeviationFrom(mesh, on_share=lambda: report.step(0.6, MEASURING))
    sequence = restated(sequence, ruler)
    shader = LevelShader(
        prop,
        "kept" if faceted else settings.normals,
        lambda: report.step(0.8, MEASURING),
        moves=settings.placement == "optimal",
    )
    diameter = diagonal(mesh)
    for number, wanted in enumerate(settings.levels, 1):
        report.step(0.6 + 0.4 * (number - 1) / len(settings.levels), MEASURING)
        result = take_level(sequence, wanted.how_far(), ruler, diameter)
        index, above = len(levels), levels[-1]
        why = _why_not(result, above, diameter)
        if why:
            text = f"a level of {wanted.in_words()} was left out: {why}"
            report.find(Finding("level-left-out", Severity.WATCH, text, level=index))
            continue
        deviation = max(result.deviation.largest, above.deviation)
        for finding in _tell(result, sequence, wanted, index, deviation, diameter, settings, faceted):
            report.find(finding)
        size = diameter / (VIEW_HEIGHT * deviation) if deviation > 0 else 1.0
        shaded = shader.shade(_reshaded(result, sequence, settings, faceted))
        levels.append(
            Level(
                index=index,
                mesh=shaded.mesh,
                normal_angle=shaded.angle,
                normals=shaded.choice,
                deviation=deviation,
                mean_deviation=result.deviation.mean,
                screen_size=min(size, above.screen_size),
            )
        )
    report.step(1.0, "building levels")
    return replace(prop, levels=tuple(levels), sequence=sequence)


def _why_not(result: Reduced, above: Level, diameter: float) -> str:
    """Why a level is not worth having; empty where it is."""
    n_faces = result.mesh.n_faces
    if not n_faces:
        return "nothing is left of it"
    if n_faces > MIN_FALL * above.mesh.n_faces:
        what = "its tolerance stops" if result.stopped_by_deviation else "seams and corners keep"
        return f"{what} it at {grouped(n_faces)}, hardly fewer than LOD{above.index}"
    if result.deviation.largest > BROKEN * diameter:
        return f"it would be up to {result.deviation.largest / diameter:.0%} of the prop's size off and another shape"
    return ""


def _tell(
    result: Reduced,
    sequence: Sequence,
    wanted: LevelTarget,
    index: int,
    deviation: float,
    diameter: float,
    settings: LevelsSettings,
    faceted: bool,
) -> list[Finding]:
    """What the maker of a level has to know about it."""
    findings = []
    if deviation > FAR_OFF * diameter:
        findings.append(_far_off(index, deviation, diameter))
    if not result.reached:
        text = (
            f"LOD{index} stops at {grouped(result.mesh.n_faces)} triangles instead of {wanted.in_words()}: "
            "borders and corners hold it"
        )
        findings.append(Finding("level-not-reached", Severity.WATCH, text, level=index))
    if len(sequence.phase_steps) > 1 and result.step > sequence.phase_steps[1] and sequence.crosses_seams:
        text = (
            f"LOD{index}: its UV seams and material borders would have kept it too heavy; some were crossed, and its "
            "texture shifts there"
        )
        findings.append(Finding("seams-given-up", Severity.INFO, text, level=index))
    elif not faceted and _gives_up_hard_edges(result, sequence):
        findings.append(_freed(index, settings.smooth_angle))
    return findings


def _gives_up_hard_edges(result: Reduced, sequence: Sequence) -> bool:
    return bool(sequence.phase_steps) and result.step > sequence.phase_steps[0]


def _reshaded(result: Reduced, sequence: Sequence, settings: LevelsSettings, faceted: bool) -> Mesh:
    """The level with normals made anew where its own no longer say which edges are hard."""
    mesh = result.mesh
    if mesh.normals is None or not (faceted or _gives_up_hard_edges(result, sequence)):
        return mesh
    return replace(mesh, normals=normals_by_angle(mesh, 0.0 if faceted else settings.smooth_angle))


def _far_off(index: int, deviation: float, diameter: float) -> Finding:
    return Finding(
        "level-far-off",
        Severity.WATCH,
        f"LOD{index} is up to {1000 * deviation:.3g} mm off LOD0, {deviation / diameter:.0%} of the prop's size; "
        "look at its silhouette or keep more triangles",
        level=index,
    )


def _freed(level: int, angle: float) -> Finding:
    return Finding(
        "hard-edges-given-up",
        Severity.INFO,
        f"LOD{level}: its hard edges would have kept it too heavy; they were given up and normals made by {angle:g}°",
        level=level,
    )
