"""``plindro inspect``: what a source holds."""

from pathlib import Path
from typing import Any

import click

from plindro.cli.output import DONE, HELD, grouped, print_findings, print_json, read_bytes
from plindro.core.checks import check_source
from plindro.core.files import FolderFiles, read_scene
from plindro.core.findings import holds_back
from plindro.core.line import source_facts
from plindro.core.prop import prop_from_scene
from plindro.core.report import Report
from plindro.core.triangulation import TriangulationSettings
from plindro.core.triangulation import run as triangulate


def inspect_file(file: str, as_json: bool) -> int:
    """Read ``file``, say what it holds; exit status 1 where a finding would hold it back."""
    path = Path(file)
    data = read_bytes(path)
    scene = read_scene(data, path.name, FolderFiles(path.parent))
    findings = check_source(scene)
    facts = source_facts(scene)
    if not holds_back(findings):
        report = Report()
        triangulate(prop_from_scene(scene), TriangulationSettings(), report)
        findings += report.findings
    if as_json:
        print_json({"file": file, "bytes": len(data), **facts, "findings": [f.as_dict() for f in findings]})
    else:
        _print(file, facts)
        print_findings(findings)
    return HELD if holds_back(findings) else DONE


def _print(file: str, facts: dict[str, Any]) -> None:
    sides = ", ".join(f"{grouped(n)} of {k} sides" for k, n in facts["sides"].items())
    rows = [
        ("format", facts["format"]),
        ("size", " × ".join(f"{x:.3f}" for x in facts["size"]) + " m"),
        ("polygons", f"{grouped(facts['polygons'])} ({sides or 'none'})"),
        ("triangles", grouped(facts["triangles"])),
        ("points", f"{grouped(facts['points'])} → {grouped(facts['engine_vertices'])} engine vertices"),
        ("UV channels", str(facts["uv_channels"])),
        ("normals", "yes" if facts["has_normals"] else "no"),
        ("materials", ", ".join(facts["materials"]) or "none"),
        ("parts", ", ".join(part["path"] for part in facts["parts"][:12]) or "none"),
        ("textures", ", ".join(f"{t['name']} {t['width']} × {t['height']} px" for t in facts["textures"]) or "none"),
    ]
    click.echo(file)
    for name, value in rows:
        click.echo(f"  {name:<12} {value}")
