"""The station: channel 0 as the source has it or made, a light map where the line asks for one, and both in figures."""

from dataclasses import replace

import numpy as np

from plindro.core.errors import InvalidSettings
from plindro.core.findings import Finding, Severity, counted, grouped
from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F32, I32, Mesh
from plindro.core.mesh.topology import build_topology
from plindro.core.packing import Sheet
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.shading.smoothing import smooth_by_normals
from plindro.core.stations.uvs.facts import ChannelMade, UvsFacts
from plindro.core.stations.uvs.judging import judge, parts_without
from plindro.core.stations.uvs.light_maps import LIGHT_MAP, light_map_channel, with_light_map
from plindro.core.stations.uvs.settings import UvsSettings
from plindro.core.unwrap.projections import Projection
from plindro.core.unwrap.unwrap import Unwrapped, unwrap_mesh
from plindro.core.uvs.judge import pixels_along

_MOST = 300_000
"""Triangles up to which a source without UVs is unwrapped by itself; more take minutes."""


def run(prop: Prop, settings: UvsSettings, report: Report) -> Prop:
    """The prop with its channels; channel 0 is there afterwards."""
    report.step(0.0, "UVs")
    prop = _chosen(prop, settings, report)
    prop, made, parts = _channel_0(prop, settings, report.span(0.0, 0.5))
    prop, light = with_light_map(prop, settings, report.span(0.5, 0.8))
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


def _channel_0(prop: Prop, settings: UvsSettings, report: Report) -> tuple[Prop, ChannelMade, list[str]]:
    """The prop with channel 0, how it was made, and paths of the parts that had none."""
    mesh = prop.mesh
    if settings.method != "source":
        made = _make(mesh, settings, report, Severity.STOP)
        return (prop, "source", []) if made is None else (_with_first(prop, made.uvs), settings.method, [])
    if mesh.uvs:
        return _parts_made(prop, settings, report)
    if mesh.n_faces > _MOST:
        text = f"the source has no UVs; of {grouped(mesh.n_faces)} triangles they are made when its method says so"
        report.find(Finding("uvs-missing", Severity.WARNING, text))
        return prop, "source", []
    made = _make(mesh, settings, report, Severity.WARNING)
    if made is None:
        return prop, "source", []
    text = f"the source has no UVs; channel 0 was unwrapped into {counted(made.islands, 'island')}"
    report.find(Finding("uvs-missing", Severity.WARNING, text))
    return _with_first(prop, made.uvs), "unwrap", []


def _parts_made(prop: Prop, settings: UvsSettings, report: Report) -> tuple[Prop, ChannelMade, list[str]]:
    """The prop whose parts without UVs have some, as ``_channel_0`` tells it."""
    mesh = prop.mesh
    without = parts_without(prop)
    chosen = np.isin(mesh.face_part, without)
    # What has no area cannot be unwrapped, nor has it to be.
    has_area = bool(face_vectors(mesh)[chosen].any())
    made = _make(mesh.with_faces(chosen), settings, report, Severity.WARNING) if has_area else None
    if made is None:
        return prop, "source", []
    uvs = mesh.uvs[0].copy()
    uvs[np.repeat(chosen, mesh.face_sides)] = made.uvs
    paths = [prop.parts[i].path for i in without]
    names = ", ".join(prop.parts[i].name for i in without[:3]) + (" …" if len(without) > 3 else "")
    text = f"{names} had no UVs; they were unwrapped into {counted(made.islands, 'island')} over the whole square"
    only = paths[0] if len(paths) == 1 else None
    report.find(Finding("uvs-missing", Severity.WARNING, text, len(without), part=only))
    return _with_first(prop, uvs), "source", paths


def _with_first(prop: Prop, uvs: F32) -> Prop:
    return replace(prop, mesh=replace(prop.mesh, uvs=(uvs, *prop.mesh.uvs[1:])))


def _make(mesh: Mesh, settings: UvsSettings, report: Report, severity: Severity) -> Unwrapped | None:
    """The mesh's channel made anew; None, and a finding of that severity, where it cannot be."""
    method = settings.method
    projection = None if method == "source" or method == "unwrap" else Projection(method, settings.axis)
    border = (settings.padding + 1) // 2
    try:
        return unwrap_mesh(
            mesh,
            Sheet(settings.resolution, settings.resolution, settings.padding, border),
            report.step,
            seams=_hard_edges(mesh) if settings.hard_edge_seams else None,
            n_turns=settings.rotations,
            projection=projection,
        )
    except InvalidSettings as error:
        report.find(Finding("uvs-not-made", severity, f"channel 0 was not made: {error}"))
        return None


def _hard_edges(mesh: Mesh) -> I32:
    """(S, 2) edges at which the normals break."""
    topology = build_topology(mesh)
    hard = ~smooth_by_normals(mesh, topology) & (topology.twin >= 0)
    return topology.edges[np.unique(topology.edge[hard])]
