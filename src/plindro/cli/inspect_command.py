"""``plindro inspect``: what a source holds, and everything that is wrong with it."""

from pathlib import Path
from typing import Any

import click

from plindro.cli.output import DONE, HELD, grouped, print_findings, print_json
from plindro.cli.reading import read_source
from plindro.cli.uvs_of import judge_uvs
from plindro.core.findings import holds_back
from plindro.core.line import Facts, survey_scene
from plindro.core.stations.cleanup import CLEANUP
from plindro.core.stations.placement import PLACEMENT
from plindro.core.stations.source import SOURCE
from plindro.core.stations.triangulation import TRIANGULATION
from plindro.core.stations.triangulation.facts import EngineCutFacts


def inspect_file(file: str, as_json: bool) -> int:
    """Read ``file``, say what it holds; exit status 1 where a finding would hold it back."""
    scene = read_source(file)
    facts, findings, prop = survey_scene(scene)
    source = facts.of(SOURCE)
    sizes = [(texture.width, texture.height) for texture in source.textures] if source is not None else []
    pixels, channels, lines = judge_uvs(prop, sizes) if prop is not None else (0, [], [])
    if as_json:
        print_json(
            {
                "file": file,
                "bytes": Path(file).stat().st_size,
                **_document(facts),
                "uvs": {"pixels": pixels, "channels": channels} if prop is not None else None,
                "findings": [f.as_dict() for f in findings],
            }
        )
    else:
        _print(file, facts)
        for channel, line in enumerate(lines):
            click.echo(f"  {f'UVs {channel}':<12} {line}; at {grouped(pixels)} px")
        print_findings(findings)
    return HELD if holds_back(findings) else DONE


def _document(facts: Facts) -> dict[str, Any]:
    """The facts as one flat document: of the source, its size and pivot as it would ship, and what is wrong with it."""
    source, placed, cleaned, cut = facts.of(SOURCE), facts.of(PLACEMENT), facts.of(CLEANUP), facts.of(TRIANGULATION)
    document: dict[str, Any] = source.model_dump(mode="json") if source is not None else {}
    if placed is not None:
        row = placed.model_dump(mode="json")
        document |= {"size": row.pop("size"), "bounds": row.pop("bounds"), "placement": row}
    if cleaned is not None:
        document["cleanup"] = cleaned.model_dump(mode="json")
    if cut is not None:
        document |= {"overruled_quads": cut.overruled_quads, "engine_cut": cut.engine and cut.engine.model_dump()}
    return document


def _engine(cut: EngineCutFacts | None) -> str:
    """What an engine's own cut of the polygons would change."""
    if cut is None:
        return "nothing to cut"
    broken = f", {grouped(cut.flips)} broken" if cut.flips else ""
    return (
        f"{grouped(cut.quads_differ)} of {grouped(cut.quads)} quads and {grouped(cut.polygons_differ)} of "
        f"{grouped(cut.polygons)} larger polygons triangulated differently{broken}, up to {cut.surface_degrees:.3g}°"
    )


def _print(file: str, facts: Facts) -> None:
    source, placed, cleaned, cut = facts.of(SOURCE), facts.of(PLACEMENT), facts.of(CLEANUP), facts.of(TRIANGULATION)
    assert source is not None
    sides = ", ".join(f"{grouped(n)} of {k} sides" for k, n in source.sides.items())
    ships = [part for part in source.parts if part.ships]
    stays = len(source.parts) - len(ships)
    shown = ", ".join(part.path for part in ships[:12]) + (" ..." if len(ships) > 12 else "")
    says = "as the file says" if source.says_unit else "the file does not say"
    size = placed.size if placed is not None else source.size
    rows = [
        ("format", source.format),
        ("units", f"1 unit = {source.unit:g} m, {source.up.upper()} up ({says})"),
        ("size", " × ".join(f"{x:.3f}" for x in size) + " m"),
        ("polygons", f"{grouped(source.polygons)} ({sides or 'none'})"),
        ("engine's fan", _engine(cut.engine if cut is not None else None)),
        ("triangles", grouped(source.triangles)),
        ("points", f"{grouped(source.points)} → {grouped(source.engine_vertices)} engine vertices"),
        ("UV channels", str(source.uv_channels)),
        ("normals", "yes" if source.has_normals else "no"),
        ("materials", ", ".join(source.materials) or "none"),
        ("parts", f"{len(ships)}{f', {stays} excluded' if stays else ''}: {shown or 'none'}"),
        ("textures", ", ".join(f"{t.name} {t.width} × {t.height} px" for t in source.textures) or "none"),
        ("cleanup", cleaned.answer if cleaned is not None else "nothing to clean"),
    ]
    click.echo(file)
    for name, value in rows:
        click.echo(f"  {name:<12} {value}")
