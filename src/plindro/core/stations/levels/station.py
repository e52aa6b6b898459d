"""The station: LOD0 and the levels below it, what each changes and from where it is drawn."""

import math
from collections.abc import Mapping
from dataclasses import replace
from itertools import pairwise
from types import MappingProxyType

import numpy as np

from plindro.core.findings import Finding, Severity, grouped, length
from plindro.core.mesh.streams import count_engine_vertices, stream_bytes
from plindro.core.prop import Level, Prop
from plindro.core.reduction import diagonal
from plindro.core.report import Report
from plindro.core.station import Context
from plindro.core.stations.levels.chain import MEASURING, ChainMaker
from plindro.core.stations.levels.facts import ChainFacts, ChangeFacts, DenseSource, LevelFacts, LevelsFacts
from plindro.core.stations.levels.hand_made import HandMade
from plindro.core.stations.levels.hand_made_files import hand_made_digest, read_hand_made
from plindro.core.stations.levels.settings import LevelsSettings, LevelTarget
from plindro.core.stations.levels.switching import check_switches, with_switches
from plindro.core.stations.levels.texture_steps import with_texture_steps

TINY = 100
"""Up to this many triangles a prop whose levels are all skipped is one that needs none."""


def run(prop: Prop, settings: LevelsSettings, report: Report) -> Prop:
    """The prop with its chain and its switches; names are given where the destination is known."""
    return place(build(prop, settings.of_shapes(), report), settings, report)


def build_of(prop: Prop, settings: LevelsSettings, report: Report, context: Context) -> Prop:
    """The prop with its chain, levels modelled by hand among it; only what decides about shapes is asked."""
    return build(prop, settings.of_shapes(), report, read_hand_made(settings, prop, context.scene, context.side_files))


def inputs(settings: LevelsSettings, context: Context) -> str:
    """The settings that decide about shapes, and the meshes modelled by hand."""
    return settings.of_shapes().model_dump_json() + hand_made_digest(settings, context.side_files)


def finish(prop: Prop, settings: LevelsSettings, report: Report) -> Prop:
    """The prop with the distances from which its levels are drawn and their smaller textures; takes no time."""
    prop = with_texture_steps(place(prop, settings, report), settings)
    facts = report.collected.facts
    lod0 = facts.lod0 if isinstance(facts, LevelsFacts) else None
    chain = chain_facts(prop)
    for above, level in pairwise(chain.levels):
        if level.vertices > above.vertices:
            text = (
                f"LOD{level.index} has {grouped(level.vertices)} engine vertices, more than LOD{above.index} with "
                f"{grouped(above.vertices)}; its hard edges or seams split more of them"
            )
            report.find(Finding("vertices-not-decreasing", Severity.WARNING, text, level=level.index))
    report.state(LevelsFacts(**dict(chain), lod0=lod0))
    return prop


def place(prop: Prop, settings: LevelsSettings, report: Report) -> Prop:
    """The prop with the distances from which its levels are drawn; takes no time."""
    diameter = diagonal(prop.mesh) if prop.mesh.n_faces else 0.0
    placed, last = with_switches(list(prop.levels), settings, diameter)
    for finding in check_switches(placed, last, settings, diameter):
        report.find(finding)
    return replace(prop, levels=tuple(placed), last_distance=last)


def build(
    prop: Prop, settings: LevelsSettings, report: Report, by_hand: Mapping[str, HandMade] = MappingProxyType({})
) -> Prop:
    """The prop with its chain; of the settings only what decides about shapes is asked.

    ``by_hand`` are the meshes that levels name as modelled by hand.
    """
    report.step(0.0, "building levels")
    if settings.lod0 is not None and prop.mesh.n_faces:
        prop = _first_reduced(prop, settings, settings.lod0, report)
    mesh = prop.mesh
    first = Level(0, mesh)
    if not settings.has_levels or not settings.levels or not mesh.n_faces:
        report.step(1.0, "building levels")
        return replace(prop, levels=(first,))
    maker = ChainMaker(prop, settings, report)
    levels = [first]
    for number, wanted in enumerate(settings.levels):
        report.step(0.6 + 0.4 * number / len(settings.levels), MEASURING)
        if wanted.hand_made is None:
            maker.add(levels, number, wanted)
        else:
            made = by_hand.get(wanted.hand_made) or HandMade(wanted.hand_made, problem="it was not read")
            maker.add_by_hand(levels, number, wanted, made)
    if len(levels) == 1 and mesh.n_faces <= TINY:
        _say_once(report, mesh.n_faces)
    report.step(1.0, "building levels")
    sequence, measured = maker.main
    return replace(prop, levels=tuple(levels), sequence=sequence, measured=measured)


def _say_once(report: Report, n_faces: int) -> None:
    """Of a prop too small to have levels one thing is said instead of one a level."""
    skipped = [finding for finding in report.findings if finding.code == "level-skipped"]
    for finding in skipped:
        report.findings.remove(finding)
    text = f"no level is worth having: LOD0 has {grouped(n_faces)} triangles and could lose hardly any"
    report.find(Finding("level-skipped", Severity.INFO, text, len(skipped)))


def _first_reduced(prop: Prop, settings: LevelsSettings, wanted: LevelTarget, report: Report) -> Prop:
    """The prop with its LOD0 reduced from the source's density; marks have done their work on the source."""
    maker = ChainMaker(prop, settings, report)
    try:
        mesh, deviation = maker.first(wanted)
    except ValueError as error:
        text = f"LOD0 was not reduced to {wanted.in_words()}: {error}"
        report.find(Finding("level-skipped", Severity.WARNING, text, level=0))
        return prop
    if mesh is prop.mesh:
        return prop
    dense = DenseSource(triangles=prop.mesh.n_faces, deviation=deviation)
    report.state(LevelsFacts(levels=[], cull_distance=None, radius=0.0, lod0=dense))
    text = (
        f"LOD0 was reduced from {grouped(prop.mesh.n_faces)} to {grouped(mesh.n_faces)} triangles, maximum deviation "
        f"{length(deviation)} from the source"
    )
    report.find(Finding("lod0-reduced", Severity.INFO, text, level=0))
    rule = prop.shading and replace(prop.shading, hard=prop.shading.hard[:0], soft=prop.shading.soft[:0])
    return replace(prop, mesh=mesh, polygons=None, shading=rule)


def chain_facts(prop: Prop) -> ChainFacts:
    """What is said of a finished chain."""
    counts = [count_engine_vertices(level.mesh) for level in prop.levels]
    return ChainFacts(
        levels=[_level_facts(level, count, prop) for level, count in zip(prop.levels, counts, strict=True)],
        cull_distance=prop.last_distance if math.isfinite(prop.last_distance) else None,
        radius=diagonal(prop.levels[0].mesh) / 2 if prop.levels[0].mesh.n_faces else 0.0,
    )


def _level_facts(level: Level, n_vertices: int, prop: Prop) -> LevelFacts:
    return LevelFacts(
        index=level.index,
        name=level.name,
        triangles=level.mesh.n_faces,
        vertices=n_vertices,
        deviation=level.deviation,
        mean_deviation=level.mean_deviation,
        screen_size=level.screen_size,
        distance=level.distance,
        proposed=level.proposed,
        change=ChangeFacts.of(level.change),
        step=ChangeFacts.of(level.step),
        materials=len(np.unique(level.mesh.face_material)),
        bytes=stream_bytes(level.mesh, n_vertices),
        texture_bytes=_texture_bytes(level, prop),
        normal_angle=level.normal_angle,
        normals=level.normals,
        dropped=list(level.dropped),
        vanished=list(level.vanished),
        target=level.target,
    )


def _texture_bytes(level: Level, prop: Prop) -> int:
    """Bytes of the images that a level's materials show."""
    used = {
        texture.image
        for material in np.unique(level.mesh.face_material)
        if material < len(prop.materials)
        for texture in prop.materials[material].all_textures()
    }
    return sum(len(prop.images[image].data) for image in used)
