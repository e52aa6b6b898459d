"""``plindro unwrap``: a UV channel made anew, and nothing else changed."""

import sys
from dataclasses import replace
from pathlib import Path
from typing import Literal

import click
import numpy as np
from pydantic import ValidationError

from plindro.cli.output import DONE, grouped, print_findings
from plindro.cli.single_file import format_of, open_prop, with_normals, write_single
from plindro.cli.uvs_of import in_words
from plindro.cli.ways import line_of
from plindro.core.destinations import describe
from plindro.core.errors import InvalidSettings
from plindro.core.findings import Finding, Severity
from plindro.core.mesh.mesh import F32, I32, Mesh
from plindro.core.packing import Sheet
from plindro.core.prop import Level, Prop
from plindro.core.report import Report
from plindro.core.shading.smoothing import hard_edges
from plindro.core.stations.normals import NormalsSettings
from plindro.core.stations.normals import run as shade
from plindro.core.stations.triangulation import TriangulationSettings
from plindro.core.stations.triangulation import run as cut
from plindro.core.stations.uvs import UVS, UvsSettings, find_asked, say_no_strips
from plindro.core.unwrap.light_map import lay_light_map
from plindro.core.unwrap.projections import Kind, Projection
from plindro.core.unwrap.repacking import repack
from plindro.core.unwrap.unwrap import unwrap_mesh
from plindro.core.uvs.judge import judge_channel

_MARKS = {"seams", "straight", "weights", "locked"}
"""What of a line's station UVs is marked by hand."""


def unwrap_file(
    file: str,
    out: str,
    channel: int,
    resolution: int,
    padding: int,
    method: Literal["unwrap", "repack"] | Kind,
    axis: Literal["x", "y", "z"],
    rotations: int,
    density: float | None,
    stack: bool,
    hard_edge_seams: bool,
    marks: str | None,
) -> int:
    """Make a channel of ``file`` anew and write ``out``: metres, Y up, pivot where it was.

    Channel 1 is a light map: channel 0's islands side by side where they are sound, else an unwrap. ``marks`` names a
    line, or a file of one, whose seams, strips, weights and locked islands hold.
    """
    if channel == 1 and marks is not None:
        raise InvalidSettings("unwrap: --marks is for channel 0; channel 1 is a light map")
    if channel == 1 and method != "unwrap":
        raise InvalidSettings(f"unwrap: --method {method} is for channel 0; channel 1 is a light map")
    kind, target, report = format_of(out), Path(out), Report()
    if channel == 1 and kind == "obj":
        raise InvalidSettings(f"{out}: OBJ holds one UV channel; write channel 1 to .glb or .usda")
    prop = cut(open_prop(file, target.stem, report), TriangulationSettings(), report)
    mesh = with_normals(prop.mesh, False, report)
    sheet = Sheet(resolution, resolution, padding, (padding + 1) // 2)
    if density is not None and not density > 0:
        raise InvalidSettings(f"unwrap: --density {density:g} is no density; give pixels per metre above 0")
    if method == "repack" and not mesh.uvs:
        raise InvalidSettings(f"{file}: has no UVs to pack anew; leave --method out to unwrap it")
    by_hand = {} if marks is None else line_of(marks).of(UVS).model_dump(include=_MARKS)
    try:
        settings = UvsSettings(method=method, density=density, stack_equal=stack, **by_hand)
    except ValidationError as error:
        raise InvalidSettings(f"unwrap: {describe(error)}") from error
    asked = find_asked(replace(prop, mesh=mesh), settings, report)
    with click.progressbar(length=1000, label="unwrapping", file=sys.stderr) as bar:

        def say(done: float, doing: str) -> None:
            bar.update(int(1000 * done) - bar.pos)

        if channel == 0 and method == "repack":
            uvs = repack(mesh, 0, sheet, say, n_turns=rotations, wishes=asked.wishes).corners
        elif channel == 0:
            projection = None if method == "unwrap" or method == "repack" else Projection(method, axis)
            hard = _hard_edges(prop) if hard_edge_seams else asked.seams[:0]
            made = unwrap_mesh(
                mesh, sheet, say, seams=np.concatenate([hard, asked.seams]), rungs=asked.rungs, wishes=asked.wishes,
                n_turns=rotations, projection=projection,
            )  # fmt: skip
            uvs = made.uvs
            if made.no_strips.any():
                say_no_strips(mesh, asked.rungs[made.no_strips], report)
        else:
            laid = lay_light_map(mesh, resolution, padding, say)
            uvs = laid.uvs
            how = "channel 0's islands, packed anew" if laid.made == "islands" else "an unwrap of its own"
            report.find(Finding("light-map-made", Severity.INFO, f"the light map is {how}"))
    mesh = _with_channel(mesh, channel, uvs)
    prop = replace(prop, mesh=mesh)
    prop = replace(prop, levels=(Level(0, mesh, f"{prop.name}_LOD0" if kind == "glb" else prop.name),))
    write_single(prop, kind, target)
    figures = judge_channel(mesh, channel, resolution, len(prop.parts)).whole
    click.echo(f"{file}: channel {channel} of {grouped(mesh.n_faces)} triangles")
    click.echo(f"  → {out}  {in_words(figures)}")
    print_findings(report.findings)
    return DONE


def _hard_edges(prop: Prop) -> I32:
    """(E, 2) vertices: where the file's normals break, else between its smoothing groups, else by the angle."""
    return hard_edges(shade(prop, NormalsSettings(), Report()).mesh)


def _with_channel(mesh: Mesh, channel: int, uvs: F32) -> Mesh:
    """The mesh with a channel replaced; a mesh without channel 0 gets the same on both."""
    channels = list(mesh.uvs) or [uvs]
    channels[channel : channel + 1] = [uvs]
    return replace(mesh, uvs=tuple(channels))
