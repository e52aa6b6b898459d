"""The station: from a scene to one prop, and to the list of all props that the scene gives."""

from collections import Counter
from dataclasses import replace

import numpy as np

from plindro.core.findings import Finding, Severity, counted
from plindro.core.mesh.mesh import Mesh, drop_unused_vertices
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.prop import Prop, prop_from_scene
from plindro.core.report import Report
from plindro.core.scene import Material, Scene
from plindro.core.stations.source.choice import ZERO_SCALE, Choice, PropPlan, choose, plan_props
from plindro.core.stations.source.facts import BystanderFact, PartFact, PlanFact, SourceFacts, TextureFact
from plindro.core.stations.source.materials import order_materials
from plindro.core.stations.source.settings import SourceSettings


def run(scene: Scene, settings: SourceSettings, report: Report) -> Prop:
    """The prop that ``settings`` name of the scene; with no faces where nothing is left of it."""
    report.step(0.0, "choosing what ships")
    for finding in _of_reading(scene):
        report.find(finding)
    choices = choose(scene.parts, settings)
    plans = plan_props(scene.parts, [choice.ships for choice in choices], settings, scene.name)
    _report_choice(scene, [choice.reason for choice in choices if not choice.ships], settings, report)
    chosen = _own_parts(scene, settings, plans, report)
    prop = _take(scene, chosen)
    if prop.mesh.n_faces:
        prop = _with_own_materials(prop, settings, report)
    else:
        report.find(_nothing(scene))
    report.state(_facts(scene, prop, choices, plans, chosen))
    report.step(1.0, "choosing what ships")
    return prop


def _of_reading(scene: Scene) -> list[Finding]:
    """Findings about the source as it came, those of reading it included."""
    findings = list(scene.findings)
    if scene.mesh.n_faces and not scene.mesh.uvs:
        findings.append(Finding("uvs-missing", Severity.INFO, "no UVs; textures need them"))
    for channel, uv in enumerate(scene.mesh.uvs):
        if len(uv) > 3 and np.isfinite(uv).all() and not np.ptp(uv, axis=0).any():
            text = f"all UVs of channel {channel} lie in one point; unwrap it"
            findings.append(Finding("uvs-collapsed", Severity.WARNING, text, len(uv)))
    for what, number in scene.unused:
        findings.append(Finding("not-used", Severity.INFO, f"{number} {what} in the source are not used", number))
    return findings


def _with_own_materials(prop: Prop, settings: SourceSettings, report: Report) -> Prop:
    """The prop with its materials in order, equal ones merged, and only the images that they use."""
    ordered = order_materials(
        prop.mesh, prop.materials, prop.images, merge=settings.merge_materials, letters=settings.letter_materials
    )
    if merged := ordered.merged:
        shown = ", ".join(f"{gone} into {stayed}" for gone, stayed in merged[:3]) + (" ..." if len(merged) > 3 else "")
        text = f"{counted(len(merged), 'material')} merged into others of the same values and images ({shown})"
        report.find(Finding("materials-merged", Severity.INFO, text, len(merged)))
    for material in ordered.materials:
        if material.is_invisible:
            report.find(_invisible(material))
    used = sorted({t.image for m in ordered.materials for t in m.all_textures()})
    place = {image: i for i, image in enumerate(used)}
    materials = tuple(m.with_textures(lambda t: replace(t, image=place[t.image])) for m in ordered.materials)
    return replace(
        prop,
        mesh=ordered.mesh,
        materials=materials,
        images=prop.images if len(used) == len(prop.images) else tuple(prop.images[i] for i in used),
        keeps_parts=not settings.join,
        material_slots=tuple(ordered.slots.items()),
    )


def _invisible(material: Material) -> Finding:
    alpha = f"its alpha is {material.base_color[3]:g}"
    if material.alpha_mode == "MASK":
        alpha += f", below its cutoff of {material.alpha_cutoff:g}"
    text = (
        f"material '{material.name}': hardly seen or not at all, as {alpha}; give it an alpha, or leave its parts out"
    )
    return Finding("invisible-material", Severity.WARNING, text)


def _facts(
    scene: Scene, prop: Prop, choices: list[Choice], plans: list[PropPlan], chosen: tuple[int, ...]
) -> SourceFacts:
    counts = part_triangles(scene).tolist()
    mesh = prop.mesh
    sides, numbers = np.unique(mesh.face_sides, return_counts=True)
    low, high = mesh.bounds() * prop.unit
    return SourceFacts(
        format=scene.format,
        unit=scene.unit,
        up=scene.up,
        says_unit=scene.says_unit,
        unused=dict(scene.unused),
        parts=[
            PartFact(
                name=part.name,
                path=part.path,
                object=part.object,
                parent=part.parent,
                group=part.group,
                source_mesh=part.source_mesh,
                hidden=part.is_hidden,
                flattened=part.is_flattened,
                triangles=int(count),
                ships=choice.ships,
                reason=choice.reason,
            )
            for part, count, choice in zip(scene.parts, counts, choices, strict=True)
        ],
        bystanders=[BystanderFact(name=b.name, path=b.path, kind=b.kind) for b in scene.bystanders],
        plan=[_plan_fact(plan, counts) for plan in plans],
        own=list(chosen),
        polygons=mesh.n_faces,
        triangles=mesh.n_triangles,
        points=mesh.n_vertices,
        engine_vertices=count_engine_vertices(mesh) if mesh.n_corners else 0,
        sides={int(side): int(number) for side, number in zip(sides, numbers, strict=True)},
        size=(high - low).tolist(),
        uv_channels=len(mesh.uvs),
        has_normals=mesh.normals is not None,
        has_colors=mesh.colors is not None,
        materials=[material.name for material in prop.materials],
        textures=[
            TextureFact(name=i.name, width=i.width, height=i.height, bytes=len(i.data), digest=i.digest)
            for i in prop.images
        ],
    )


def _plan_fact(plan: PropPlan, counts: list[int]) -> PlanFact:
    return PlanFact(
        key=plan.key,
        name=plan.name,
        parts=len(plan.parts),
        triangles=sum(counts[i] for i in plan.parts),
        instances=plan.instances,
    )


def part_triangles(scene: Scene) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    """(P,) triangles of each part."""
    fans = np.maximum(scene.mesh.face_sides - 2, 0)
    return np.bincount(scene.mesh.face_part, fans, minlength=len(scene.parts)).astype(np.int64)


def _report_choice(scene: Scene, reasons: list[str], settings: SourceSettings, report: Report) -> None:
    for reason, number in sorted(Counter(reasons).items()):
        text = f"{number} {'part is' if number == 1 else 'parts are'} excluded: {reason}"
        if reason == ZERO_SCALE:
            names = ", ".join(f"'{part.name}'" for part in scene.parts if part.is_flattened)
            text = f"{text} ({names}); give {'it' if number == 1 else 'them'} a scale in the source"
            report.find(Finding("zero-scale", Severity.WARNING, text, number))
            continue
        report.find(Finding("parts-excluded", Severity.INFO, text, number))
    for kind, number in sorted(Counter(b.kind for b in scene.bystanders).items()):
        verb = "has no faces and is" if number == 1 else "have no faces and are"
        text = f"{number} {kind if number == 1 else _plural(kind)} in the source {verb} not used"
        report.find(Finding("not-used", Severity.INFO, text, number))
    paths = {part.path for part in scene.parts}
    gone = [path for path in (*settings.excluded_parts, *settings.included_parts) if path not in paths]
    if gone:
        text = (
            f"{counted(len(gone), 'choice')} by hand no longer fit this source ('{gone[0]}'"
            f"{' ...' if len(gone) > 1 else ''}); undo or rename the part in the source"
        )
        report.find(Finding("choice-lost", Severity.WARNING, text, len(gone)))


def _plural(kind: str) -> str:
    return f"{kind[:-1]}ies" if kind.endswith("y") else f"{kind}s"


def _own_parts(scene: Scene, settings: SourceSettings, plans: list[PropPlan], report: Report) -> tuple[int, ...]:
    """Numbers of the parts of this prop."""
    if settings.prop is None or settings.split == "file":
        return tuple(i for plan in plans for i in plan.parts) if settings.split == "file" else _all(scene, settings)
    for plan in plans:
        if plan.key == settings.prop:
            return plan.parts
    text = f"the source holds no '{settings.prop}' any more, or nothing of it ships; choose another part or source"
    report.find(Finding("part-gone", Severity.STOP, text))
    return ()


def _all(scene: Scene, settings: SourceSettings) -> tuple[int, ...]:
    return tuple(i for i, choice in enumerate(choose(scene.parts, settings)) if choice.ships)


def _take(scene: Scene, chosen: tuple[int, ...]) -> Prop:
    """The scene's prop with these parts only; loose vertices belong to the file and come along with the whole of it."""
    prop = prop_from_scene(scene)
    if len(chosen) == len(scene.parts):
        return prop
    number = np.full(len(scene.parts), -1, np.int32)
    number[list(chosen)] = np.arange(len(chosen), dtype=np.int32)
    mesh: Mesh = scene.mesh.with_faces(number[scene.mesh.face_part] >= 0)
    mesh = drop_unused_vertices(replace(mesh, face_part=number[mesh.face_part]))
    return replace(prop, mesh=mesh, parts=tuple(scene.parts[i] for i in chosen))


def _nothing(scene: Scene) -> Finding:
    if not scene.mesh.n_faces:
        return Finding("no-faces", Severity.STOP, f"'{scene.name}' holds no faces; export it with its mesh", 0)
    return Finding("nothing-chosen", Severity.STOP, "every part is excluded; include one at the Source station", 0)
