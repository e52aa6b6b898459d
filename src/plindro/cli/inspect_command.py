"""``plindro inspect``: what a source holds, and everything that is wrong with it."""

from pathlib import Path
from typing import Any

import click

from plindro.cli.output import DONE, HELD, grouped, print_findings, print_json, read_bytes
from plindro.core.files import FolderFiles, read_scene
from plindro.core.findings import holds_back
from plindro.core.line import survey_scene


def inspect_file(file: str, as_json: bool) -> int:
    """Read ``file``, say what it holds; exit status 1 where a finding would hold it back."""
    path = Path(file)
    data = read_bytes(path)
    scene = read_scene(data, path.name, FolderFiles(path.parent))
    facts, findings = survey_scene(scene)
    if as_json:
        print_json({"file": file, "bytes": len(data), **facts, "findings": [f.as_dict() for f in findings]})
    else:
        _print(file, facts)
        print_findings([finding.as_dict() for finding in findings])
    return HELD if holds_back(findings) else DONE


def _engine(cut: dict[str, Any] | None) -> str:
    """What an engine's own cut of the polygons would change."""
    if cut is None:
        return "nothing to cut"
    broken = f", {grouped(cut['flips'])} broken" if cut["flips"] else ""
    return (
        f"{grouped(cut['quads_differ'])} of {grouped(cut['quads'])} quads and {grouped(cut['polygons_differ'])} of "
        f"{grouped(cut['polygons'])} larger polygons cut otherwise{broken}, up to {cut['surface_degrees']:.3g}°"
    )


def _print(file: str, facts: dict[str, Any]) -> None:
    sides = ", ".join(f"{grouped(n)} of {k} sides" for k, n in facts["sides"].items())
    ships = [part for part in facts["parts"] if part["ships"]]
    stays = len(facts["parts"]) - len(ships)
    shown = ", ".join(part["path"] for part in ships[:12]) + (" ..." if len(ships) > 12 else "")
    says = "as the file says" if facts["says_unit"] else "the file does not say"
    rows = [
        ("format", facts["format"]),
        ("units", f"1 unit = {facts['unit']:g} m, {facts['up'].upper()} up ({says})"),
        ("size", " × ".join(f"{x:.3f}" for x in facts["size"]) + " m"),
        ("polygons", f"{grouped(facts['polygons'])} ({sides or 'none'})"),
        ("engine's fan", _engine(facts.get("engine_cut"))),
        ("triangles", grouped(facts["triangles"])),
        ("points", f"{grouped(facts['points'])} → {grouped(facts['engine_vertices'])} engine vertices"),
        ("UV channels", str(facts["uv_channels"])),
        ("normals", "yes" if facts["has_normals"] else "no"),
        ("materials", ", ".join(facts["materials"]) or "none"),
        ("parts", f"{len(ships)}{f', {stays} left behind' if stays else ''}: {shown or 'none'}"),
        ("textures", ", ".join(f"{t['name']} {t['width']} × {t['height']} px" for t in facts["textures"]) or "none"),
        ("cleanup", facts["cleanup"]["answer"] if "cleanup" in facts else "nothing to clean"),
    ]
    click.echo(file)
    for name, value in rows:
        click.echo(f"  {name:<12} {value}")
