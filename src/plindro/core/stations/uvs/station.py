"""The station: channel 0 as the source has it or made, a light map where the line asks for one, and both in figures."""

from dataclasses import replace

from plindro.core.findings import Finding, Severity
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.stations.uvs.borders import with_filled_textures, with_inset
from plindro.core.stations.uvs.facts import ChannelMade, UvsFacts
from plindro.core.stations.uvs.judging import judge
from plindro.core.stations.uvs.light_maps import LIGHT_MAP, light_map_channel, with_light_map
from plindro.core.stations.uvs.making import make_channel
from plindro.core.stations.uvs.settings import UvsSettings
from plindro.core.uvs.judge import pixels_along


def run(prop: Prop, settings: UvsSettings, report: Report) -> Prop:
    """The prop with its channels; channel 0 is there afterwards."""
    report.step(0.0, "UVs")
    prop = _chosen(prop, settings, report)
    prop, made, parts = make_channel(prop, settings, report.span(0.0, 0.5))
    prop = with_inset(prop, settings, _pixels(prop, settings, made), report)
    prop = with_filled_textures(prop, settings, report.span(0.5, 0.6))
    prop, light = with_light_map(prop, settings, report.span(0.6, 0.8))
    report.step(0.8, "judging UVs")
    channels = []
    for channel in range(len(prop.mesh.uvs)):
        is_light = light is not None and channel == LIGHT_MAP
        pixels = light.resolution if light and is_light else _pixels(prop, settings, made)
        facts, findings = judge(prop, channel, made if channel == 0 else "source", pixels)
        channels.append(light_map_channel(facts, light) if light and is_light else facts)
        for finding in findings:
            report.find(finding)
    report.state(UvsFacts(channels=channels, unwrapped_parts=parts, light_map=light))
    report.step(1.0, "UVs")
    return prop


def _pixels(prop: Prop, settings: UvsSettings, made: ChannelMade) -> int:
    return pixels_along((i.width, i.height) for i in prop.images) if made == "source" else settings.resolution


def _chosen(prop: Prop, settings: UvsSettings, report: Report) -> Prop:
    """The prop with the channels that its settings name, in their order."""
    if settings.channels is None:
        return prop
    there = [channel for channel in settings.channels if 0 <= channel < len(prop.mesh.uvs)]
    if len(there) < len(settings.channels):
        missing = next(c for c in settings.channels if c not in there)
        text = f"the source has no UV channel {missing}, which its settings name; the others stand in their order"
        report.find(Finding("uv-channel-missing", Severity.WARNING, text))
    return replace(prop, mesh=replace(prop.mesh, uvs=tuple(prop.mesh.uvs[channel] for channel in there)))
