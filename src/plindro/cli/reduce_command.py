"""``plindro reduce``: one file with fewer triangles, and nothing else changed."""

import sys
from dataclasses import replace
from pathlib import Path
from typing import Literal

import click
import numpy as np

from plindro.cli.output import DONE, grouped, print_findings
from plindro.cli.single_file import format_of, open_prop, with_normals, write_single
from plindro.core.errors import InvalidSettings
from plindro.core.findings import Finding, Severity
from plindro.core.measure.deviation import DeviationFrom
from plindro.core.mesh.mesh import Mesh
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.prop import Level, Prop
from plindro.core.reduction import (
    Limits,
    Placement,
    Plane,
    Reduced,
    Sequence,
    Topology,
    collapse,
    diagonal,
    find_mirror,
    mirrored_sequence,
    take_level,
    what_holds,
)
from plindro.core.reduction.reduce import Options
from plindro.core.report import Report
from plindro.core.shading.faceted import is_faceted
from plindro.core.shading.normals import normals_by_angle
from plindro.core.stations.triangulation import TriangulationSettings
from plindro.core.stations.triangulation import run as cut

Mirror = Literal["x", "y", "z", "found"]


def reduce_file(
    file: str,
    out: str,
    placement: Placement,
    mirror: Mirror | None,
    lock_borders: bool,
    keep_shells: bool,
    keep_holes: bool,
    **limits: float | None,
) -> int:
    """Reduce ``file`` until the first of the limits stops it and write ``out``: metres, Y up, pivot where it was."""
    try:
        wanted = Limits(**limits)  # type: ignore[arg-type]
    except ValueError as error:
        raise InvalidSettings(f"reduce: {error}") from error
    kind, target, report = format_of(out), Path(out), Report()
    prop = cut(open_prop(file, target.stem, report), TriangulationSettings(), report)
    mesh = with_normals(prop.mesh, False, report)
    faceted = is_faceted(mesh)
    plane = _plane(mesh, mirror)
    with click.progressbar(length=1000, label="reducing", file=sys.stderr) as bar:

        def say(done: float) -> None:
            bar.update(int(1000 * done) - bar.pos)

        options = Options(
            placement=placement,
            lock_borders=lock_borders,
            keep_shells=keep_shells,
            keep_holes=keep_holes,
            hold_hard_edges=not faceted,
            on_step=say,
        )
        sequence = collapse(mesh, **options) if plane is None else mirrored_sequence(mesh, plane, options)
    level = take_level(sequence, wanted.of_whole(mesh.n_faces), DeviationFrom(mesh), diagonal(mesh))
    reduced = level.mesh
    if faceted and level.step:
        reduced = replace(reduced, normals=normals_by_angle(reduced, 0.0))
    if not level.reached:
        why = what_holds(mesh, keep_shells=keep_shells, keep_holes=keep_holes)
        text = f"stops at {grouped(reduced.n_faces)} triangles: {why}"
        report.find(Finding("target-not-reached", Severity.WARNING, text))
    _tell_features(sequence, level, report)
    if gone := Topology(sequence.source).tell(sequence, level.step):
        report.find(gone)
    name = f"{prop.name}_LOD0" if kind == "glb" else prop.name
    write_single(replace(prop, mesh=reduced, polygons=None, levels=(Level(0, reduced, name),)), kind, target)
    _print(file, out, prop, mesh, level, reduced)
    print_findings(report.findings)
    return DONE


def _plane(mesh: Mesh, mirror: Mirror | None) -> Plane | None:
    """The mirror that was asked for; raises ``InvalidSettings`` where there is none, or nothing on its model side."""
    if mirror is None:
        return None
    plane = find_mirror(mesh) if mirror == "found" else Plane(np.eye(3)["xyz".index(mirror)], 0.0)
    if plane is None:
        raise InvalidSettings("reduce: no plane was found across which it is symmetric; name an axis, --mirror x")
    if not (mesh.positions @ plane.normal > plane.offset).any():
        raise InvalidSettings(
            f"reduce: nothing lies on the positive side of {mirror}, which is the model; move its pivot"
        )
    return plane


def _tell_features(sequence: Sequence, level: Reduced, report: Report) -> None:
    """Say what had to be given up to come this far."""
    given_up = sum(level.step > step for step in sequence.phase_steps)
    if given_up == 1:
        text = "some hard edges were released, which would have kept it heavier"
        report.find(Finding("hard-edges-released", Severity.INFO, text))
    elif given_up > 1:
        text = "some UV seams and material borders were crossed, which would have kept it heavier"
        report.find(Finding("seams-released", Severity.INFO, text))


def _print(file: str, out: str, prop: Prop, mesh: Mesh, level: Reduced, reduced: Mesh) -> None:
    size = diagonal(mesh)
    largest, mean = level.deviation.largest, level.deviation.mean
    click.echo(
        f"{file}: {grouped(mesh.n_faces)} → {grouped(reduced.n_faces)} triangles, "
        f"{grouped(count_engine_vertices(mesh))} → {grouped(count_engine_vertices(reduced))} engine vertices"
    )
    click.echo(
        f"  → {out}  maximum deviation {_millimetres(largest)} mm "
        f"({largest / size if size else 0:.3%} of the diagonal), mean {_millimetres(mean)} mm"
    )


def _millimetres(metres: float) -> str:
    """Three figures; what only rounding leaves is nothing."""
    return f"{1000 * metres:.3g}" if metres > 1e-10 else "0"
