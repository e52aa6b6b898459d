"""Channel 1 as a light map: of LOD0, and of each level after it was made."""

from dataclasses import replace

import numpy as np

from plindro.core.errors import InvalidSettings
from plindro.core.findings import Finding, Severity, counted
from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F32, Mesh
from plindro.core.prop import Level, Prop
from plindro.core.report import Report
from plindro.core.stations.uvs.facts import ChannelFacts, LevelLightMap, LightMapFacts, UvsFacts
from plindro.core.stations.uvs.judging import judge_levels
from plindro.core.stations.uvs.settings import UvsSettings
from plindro.core.unwrap.light_map import LightMap, choose_resolution, is_light_map, lay_light_map
from plindro.core.uvs.sheet import lay_out

_LEAST = 32
LIGHT_MAP = 1
"""The channel of the light map."""


def resolution_for(mesh: Mesh, settings: UvsSettings) -> int:
    """Pixels along a side at which the mesh gets the density that is asked for."""
    area = float(np.linalg.norm(face_vectors(mesh), axis=1).sum())
    return choose_resolution(
        area, settings.light_map_density, min(_LEAST, settings.light_map_max), settings.light_map_max
    )


def with_light_map(prop: Prop, settings: UvsSettings, report: Report) -> tuple[Prop, LightMapFacts | None]:
    """The prop with a light map on channel 1, as its line asks."""
    mesh = prop.mesh
    if settings.light_map == "off":
        return prop, None
    resolution = resolution_for(mesh, settings)
    channel = LIGHT_MAP if len(mesh.uvs) > LIGHT_MAP else 0
    if mesh.uvs and is_light_map(mesh, channel, resolution, 1):
        laid = lay_out(mesh, channel)
        density = resolution * float((abs(laid.areas).sum() / max(laid.surface.sum(), 1e-300)) ** 0.5)
        if channel == 0:
            prop = replace(prop, mesh=_with_channel(mesh, mesh.uvs[0]))
        first = LevelLightMap(level=0, made="first", islands=int(laid.covers.sum()))
        _say_coarse(density, resolution, settings, report)
        return prop, LightMapFacts(made="source", resolution=resolution, pixels_per_metre=density, levels=[first])
    if settings.light_map == "source":
        what = f"channel {channel} overlaps, leaves the square or has islands without a pixel between them"
        has = "and there is no channel 1" if channel == 0 else "so light would bleed from one place to another"
        text = f"no light map: {what}, {has}; let UVs make one"
        report.find(Finding("light-map-missing", Severity.STOP, text))
        return prop, None
    made = _laid(mesh, resolution, settings, report)
    if made is None:
        text = (
            f"no light map: its islands, {settings.light_map_padding} pixels apart, do not fit into "
            f"{settings.light_map_max} × {settings.light_map_max} pixels; allow more, or less padding"
        )
        report.find(Finding("light-map-missing", Severity.STOP, text))
        return prop, None
    first = LevelLightMap(level=0, made="first", islands=made.islands)
    facts = LightMapFacts(
        made=made.made, resolution=made.resolution, pixels_per_metre=made.pixels_per_metre, levels=[first]
    )
    _say(made, settings, report)
    return replace(prop, mesh=_with_channel(mesh, made.uvs)), facts


def _laid(mesh: Mesh, resolution: int, settings: UvsSettings, report: Report) -> LightMap | None:
    """A light map on so many pixels, or as many more as its islands need; None where the most are too few."""
    while True:
        try:
            return lay_light_map(mesh, resolution, settings.light_map_padding, report.step)
        except InvalidSettings:
            if resolution >= settings.light_map_max:
                return None
            resolution = min(2 * resolution, settings.light_map_max)


def _say(made: LightMap, settings: UvsSettings, report: Report) -> None:
    how = "of channel 0's islands" if made.made == "islands" else "of an unwrap of its own"
    text = (
        f"a light map was made on channel 1, {how}: {counted(made.islands, 'island')} on {made.resolution} × "
        f"{made.resolution} pixels, {made.pixels_per_metre:.3g} per metre"
    )
    report.find(Finding("light-map-made", Severity.INFO, text))
    _say_coarse(made.pixels_per_metre, made.resolution, settings, report)


def _say_coarse(density: float, resolution: int, settings: UvsSettings, report: Report) -> None:
    """Say where a light map has less than half the density asked for, and why."""
    if density >= 0.5 * settings.light_map_density:
        return
    is_limited = resolution >= settings.light_map_max
    why = f"its side is limited to {settings.light_map_max} pixels" if is_limited else "its islands fill little of it"
    text = f"the light map has {density:.3g} pixels per metre of {settings.light_map_density:.3g} asked: {why}"
    report.find(Finding("light-map-coarse", Severity.WARNING, text))


def _with_channel(mesh: Mesh, uvs: F32) -> Mesh:
    """The mesh with a light map on its channel; what else there was stays."""
    channels = [*mesh.uvs]
    # A prop without any channel cannot be: channel 0 was made before.
    channels[LIGHT_MAP : LIGHT_MAP + 1] = [uvs]
    return replace(mesh, uvs=tuple(channels))


def finish_levels(prop: Prop, settings: UvsSettings, report: Report) -> Prop:
    """The prop with a light map that holds on each level, where it has one; and each level's channels in figures."""
    facts = report.collected.facts
    if not isinstance(facts, UvsFacts) or len(prop.levels) < 2:
        return prop
    if facts.light_map is not None:
        prop, light = _lay_levels(prop, facts.light_map, settings, report)
        facts = facts.model_copy(update={"light_map": light})
    report.step(0.9, "judging UVs of levels")
    report.state(facts.model_copy(update={"levels": judge_levels(prop, facts.channels)}))
    return prop


def _lay_levels(prop: Prop, light: LightMapFacts, settings: UvsSettings, report: Report) -> tuple[Prop, LightMapFacts]:
    """Each level's light map carried over where it holds, else laid anew."""
    padding = 1 if light.made == "source" else settings.light_map_padding
    levels, told = [prop.levels[0]], light.levels[:1]
    for number, level in enumerate(prop.levels[1:], 1):
        report.step(0.9 * number / len(prop.levels), f"light map of LOD{level.index}")
        laid, row = _of_level(level, light.resolution, padding, settings, report)
        levels.append(laid)
        told.append(row)
    return replace(prop, levels=tuple(levels)), light.model_copy(update={"levels": told})


def _of_level(
    level: Level, resolution: int, padding: int, settings: UvsSettings, report: Report
) -> tuple[Level, LevelLightMap]:
    mesh = level.mesh
    # What a collapse moves along a rim takes from the gap; one pixel is what keeps light apart.
    if len(mesh.uvs) > LIGHT_MAP and is_light_map(mesh, LIGHT_MAP, resolution, min(padding, 1)):
        islands = int(lay_out(mesh, LIGHT_MAP).covers.sum())
        return level, LevelLightMap(level=level.index, made="carried", islands=islands)
    try:
        made = lay_light_map(mesh, resolution, settings.light_map_padding, lambda done, doing: report.step(0.0, doing))
    except InvalidSettings as error:
        text = f"LOD{level.index} has no light map that holds: {error}"
        report.find(Finding("light-map-missing", Severity.WARNING, text, level=level.index))
        return level, LevelLightMap(level=level.index, made="none", islands=0)
    return (
        replace(level, mesh=_with_channel(mesh, made.uvs)),
        LevelLightMap(level=level.index, made="anew", islands=made.islands),
    )


def light_map_channel(facts: ChannelFacts, made: LightMapFacts) -> ChannelFacts:
    """The facts of channel 1 where it is the light map: how it was made."""
    return facts.model_copy(update={"made": made.made})
