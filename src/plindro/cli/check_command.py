"""``plindro check``: the rehearsal of files already written."""

from pathlib import Path
from typing import Any

import click

from plindro.cli.output import DONE, HELD, INPUT_UNUSABLE, grouped, print_findings, print_json, read_bytes
from plindro.cli.ways import destination_of
from plindro.core.errors import PlindroError, UnreadableFile
from plindro.core.findings import Severity
from plindro.core.rehearsal import rehearse


def check_paths(paths: tuple[str, ...], destination: str, as_json: bool) -> int:
    """Rehearse every GLB and glTF; 1 where a finding is a stop, 2 where a file could not be read at all."""
    profile = destination_of(destination)
    files = _expand(paths)
    rows: list[dict[str, Any]] = []
    unreadable = 0
    for file in files:
        try:
            seen = rehearse(read_bytes(file), file.name, profile, _beside(file))
        except PlindroError as error:
            unreadable += 1
            click.echo(f"plindro: {error}", err=True)
            rows.append({"path": str(file), "prop": None, "levels": [], "error": str(error), "findings": []})
            continue
        rows.append(
            {
                "path": str(file),
                "prop": seen.prop,
                "levels": list(seen.levels),
                "findings": [finding.as_dict() for finding in seen.findings],
            }
        )
    stops = sum(any(f["severity"] == Severity.STOP.value for f in row["findings"]) for row in rows)
    if as_json:
        print_json({"files": rows, "totals": {"files": len(rows), "stopped": stops, "unreadable": unreadable}})
    else:
        for row in rows:
            _print(row)
    return INPUT_UNUSABLE if unreadable else HELD if stops else DONE


def _expand(paths: tuple[str, ...]) -> list[Path]:
    """Files as given, and every GLB and glTF below folders."""
    files: list[Path] = []
    for text in paths:
        path = Path(text)
        found = [path]
        if path.is_dir():
            found = sorted(file for file in path.rglob("*") if file.suffix in (".glb", ".gltf") and file.is_file())
        if not found:
            raise UnreadableFile(f"{path}: holds no GLB or glTF file to check")
        files += found
    return files


def _beside(file: Path) -> dict[str, bytes]:
    """The buffers in a glTF's folder, by name."""
    if file.suffix != ".gltf":
        return {}
    return {buffer.name: read_bytes(buffer) for buffer in sorted(file.parent.glob("*.bin"))}


def _print(row: dict[str, Any]) -> None:
    click.echo(row["path"])
    for level in row["levels"]:
        counts = f"{grouped(level['triangles'])} triangles, {grouped(level['vertices'])} vertices"
        click.echo(f"  {level['name']:<32} {counts}")
    if "error" in row:
        click.echo("  could not be read")
    elif not row["findings"]:
        click.echo("  no findings")
    print_findings(row["findings"])
