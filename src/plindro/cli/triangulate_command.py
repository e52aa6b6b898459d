"""``plindro triangulate``: one file's polygons cut on purpose, and nothing else changed."""

from dataclasses import replace
from pathlib import Path

import click

from plindro.cli.output import DONE, grouped, print_findings
from plindro.cli.single_file import format_of, open_prop, with_normals, write_single
from plindro.core.findings import Finding, Severity
from plindro.core.polygons.triangulate import PolygonRule, QuadRule
from plindro.core.prop import Level
from plindro.core.report import Report
from plindro.core.stations.triangulation import TriangulationSettings, report_engine
from plindro.core.stations.triangulation import run as cut


def triangulate_file(
    file: str, out: str, quads: QuadRule, ngons: PolygonRule, min_sides: int, drop_normals: bool
) -> int:
    """Cut the polygons of ``file`` and write ``out``: metres, Y up, the pivot where it was."""
    kind, target, report = format_of(out), Path(out), Report()
    prop = open_prop(file, target.stem, report)
    settings = TriangulationSettings(quads=quads, ngons=ngons, min_sides=min_sides if kind != "glb" else 4)
    n_polygons = int((prop.mesh.face_sides > 3).sum())
    small = (prop.mesh.face_sides > 3) & (prop.mesh.face_sides < min_sides)
    prop = cut(prop, settings, report)
    if kind == "glb" and small.any():
        text = f"{int(small.sum())} polygons of fewer than {min_sides} sides were cut too: glTF holds triangles only"
        report.find(Finding("polygons-not-kept", Severity.WARNING, text, int(small.sum())))
    report_engine(prop, report)
    prop = replace(prop, mesh=with_normals(prop.mesh, drop_normals, report))
    prop = replace(prop, levels=(Level(0, prop.mesh, f"{prop.name}_LOD0" if kind == "glb" else prop.name),))
    write_single(prop, kind, target)
    left = int(small.sum()) if kind != "glb" else 0
    click.echo(f"{file}: {grouped(n_polygons - left)} polygons cut, {grouped(left)} left whole")
    click.echo(f"  → {out}  {grouped(prop.mesh.n_faces)} triangles by the cut")
    print_findings(report.findings)
    return DONE
