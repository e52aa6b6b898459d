"""Channel 0: as the source has it, its islands packed anew, or made."""

from dataclasses import replace

import numpy as np

from plindro.core.errors import InvalidSettings
from plindro.core.findings import Finding, Places, Severity, counted, grouped
from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F32, I32, Mask, Mesh
from plindro.core.packing import Sheet
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.shading.smoothing import hard_edges
from plindro.core.stations.uvs.facts import ChannelMade
from plindro.core.stations.uvs.judging import parts_without
from plindro.core.stations.uvs.marks import NO_EDGES, Asked, find_asked
from plindro.core.stations.uvs.settings import UvsSettings
from plindro.core.unwrap.projections import Projection
from plindro.core.unwrap.repacking import repack
from plindro.core.unwrap.unwrap import unwrap_mesh
from plindro.core.unwrap.wishes import NOTHING

_MOST = 300_000
"""Triangles up to which a source without UVs is unwrapped by itself; more take minutes."""
_SHORT = 0.98
"""Share of the density asked for, below which it is said that the sheet is too small."""


def make_channel(prop: Prop, settings: UvsSettings, report: Report) -> tuple[Prop, ChannelMade, list[str]]:
    """The prop with channel 0, how it was made, and paths of the parts that had none."""
    mesh = prop.mesh
    if settings.method == "repack" and mesh.uvs:
        prop, _, parts = _parts_made(prop, settings, report)
        packed = _repacked(prop, settings, report)
        return (prop, "source", parts) if packed is None else (_with_first(prop, packed), "repack", parts)
    if settings.method not in ("source", "repack"):
        made = _made(prop, settings, report, Severity.STOP)
        return (prop, "source", []) if made is None else (_with_first(prop, made[0]), settings.method, [])
    if mesh.uvs:
        return _parts_made(prop, settings, report)
    if mesh.n_faces > _MOST:
        text = f"the source has no UVs; of {grouped(mesh.n_faces)} triangles they are made when its method says so"
        report.find(Finding("uvs-missing", Severity.WARNING, text))
        return prop, "source", []
    made = _made(prop, settings, report, Severity.WARNING)
    if made is None:
        return prop, "source", []
    text = f"the source has no UVs; channel 0 was unwrapped into {counted(made[1], 'island')}"
    report.find(Finding("uvs-missing", Severity.WARNING, text))
    return _with_first(prop, made[0]), "unwrap", []


def _parts_made(prop: Prop, settings: UvsSettings, report: Report) -> tuple[Prop, ChannelMade, list[str]]:
    """The prop whose parts without UVs have some, as ``make_channel`` tells it."""
    mesh = prop.mesh
    without = parts_without(prop)
    chosen = np.isin(mesh.face_part, without)
    # What has no area cannot be unwrapped, nor has it to be.
    has_area = bool(face_vectors(mesh)[chosen].any())
    made = _made(prop, settings, report, Severity.WARNING, chosen) if has_area else None
    if made is None:
        return prop, "source", []
    uvs = mesh.uvs[0].copy()
    uvs[np.repeat(chosen, mesh.face_sides)] = made[0]
    paths = [prop.parts[i].path for i in without]
    names = ", ".join(prop.parts[i].name for i in without[:3]) + (" …" if len(without) > 3 else "")
    text = f"{names} had no UVs; they were unwrapped into {counted(made[1], 'island')} over the whole square"
    only = paths[0] if len(paths) == 1 else None
    report.find(Finding("uvs-missing", Severity.WARNING, text, len(without), part=only))
    return _with_first(prop, uvs), "source", paths


def _with_first(prop: Prop, uvs: F32) -> Prop:
    return replace(prop, mesh=replace(prop.mesh, uvs=(uvs, *prop.mesh.uvs[1:])))


def _sheet(settings: UvsSettings) -> Sheet:
    return Sheet(settings.resolution, settings.resolution, settings.padding, (settings.padding + 1) // 2)


def _made(
    prop: Prop, settings: UvsSettings, report: Report, severity: Severity, chosen: Mask | None = None
) -> tuple[F32, int] | None:
    """UVs of the mesh, or of chosen triangles, made anew, and how many islands; None, and a finding of that severity,
    where they cannot be."""
    mesh, method = prop.mesh, settings.method
    is_projected = method not in ("source", "repack", "unwrap")
    # Marks are of the whole prop; parts alone come out as they do.
    asked = find_asked(prop, settings, report) if chosen is None else Asked(NO_EDGES, NO_EDGES, NOTHING)
    hard = hard_edges(mesh) if settings.hard_edge_seams else NO_EDGES
    part = mesh if chosen is None else mesh.with_faces(chosen)
    try:
        made = unwrap_mesh(
            part,
            _sheet(settings),
            report.step,
            seams=np.concatenate([hard, asked.seams]) if chosen is None else None,
            rungs=asked.rungs,
            wishes=asked.wishes,
            n_turns=settings.rotations,
            projection=Projection(method, settings.axis) if is_projected else None,  # type: ignore[arg-type]
        )
    except InvalidSettings as error:
        report.find(Finding("uvs-not-made", severity, f"channel 0 was not made: {error}"))
        return None
    if made.no_strips.any():
        say_no_strips(mesh, asked.rungs[made.no_strips], report)
    _say_density(made.pixels_per_metre, settings, report)
    return made.uvs, made.islands


def _repacked(prop: Prop, settings: UvsSettings, report: Report) -> F32 | None:
    """The source's islands side by side; None, and a finding that stops, where they do not fit."""
    wishes = find_asked(prop, settings, report).wishes
    try:
        packed = repack(prop.mesh, 0, _sheet(settings), report.step, n_turns=settings.rotations, wishes=wishes)
    except InvalidSettings as error:
        report.find(Finding("uvs-not-made", Severity.STOP, f"channel 0 was not packed anew: {error}"))
        return None
    if packed.anew:
        text = f"{counted(packed.anew, 'island')} of channel 0 could not stay as they were and were unwrapped anew"
        report.find(Finding("uvs-cut-anew", Severity.INFO, text, packed.anew))
    _say_density(packed.pixels_per_metre, settings, report)
    return packed.corners


def _say_density(got: float, settings: UvsSettings, report: Report) -> None:
    if settings.density is not None and got < _SHORT * settings.density:
        text = (
            f"channel 0 has {got:.4g} pixels per metre of {settings.density:.4g} asked: more do not fit into "
            f"{settings.resolution} × {settings.resolution} pixels"
        )
        report.find(Finding("uv-density-short", Severity.WARNING, text))


def say_no_strips(mesh: Mesh, edges: I32, report: Report) -> None:
    """Tell of edges (R, 2) that were marked straight and across which no strip of quads lies."""
    n = len(edges)
    text = (
        f"no strip of quads lies across {counted(n, 'edge')} marked straight; mark one between two quads, or clear it"
    )
    report.find(Finding("uv-no-strip", Severity.WARNING, text, n, places=Places.of(mesh.positions[edges])))
