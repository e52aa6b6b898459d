"""``plindro check``: the rehearsal of files already written, whoever wrote them."""

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

import click

from plindro.cli.output import DONE, HELD, INPUT_UNUSABLE, grouped, print_findings, print_json
from plindro.cli.ways import destination_of
from plindro.core.destinations import DEFAULT_DESTINATION, Destination
from plindro.core.errors import InvalidSettings, PlindroError, UnreadableFile
from plindro.core.findings import Severity
from plindro.core.rehearsal import rehearse
from plindro.core.rehearsal.disk import DiskFiles
from plindro.core.rehearsal.folder import MANIFEST, check_files, expected_of, meshes_in, props_in, read_manifest


def check_paths(paths: tuple[str, ...], destination: str | None, as_json: bool) -> int:
    """Rehearse files, and every prop below folders; 1 where a finding is a stop, 2 where one could not be read at all.

    Without a destination that of the manifest in the folder is taken.
    """
    rows = [row for path in paths for row in _rows(Path(path), destination)]
    unreadable = [row["error"] for row in rows if "error" in row]
    for message in unreadable:
        click.echo(f"plindro: {message}", err=True)
    stops = sum(any(f["severity"] == Severity.STOP.value for f in row["findings"]) for row in rows)
    if as_json:
        print_json({"files": rows, "totals": {"files": len(rows), "stopped": stops, "unreadable": len(unreadable)}})
    else:
        for row in rows:
            _print(row)
    return INPUT_UNUSABLE if unreadable else HELD if stops else DONE


def _rows(path: Path, destination: str | None) -> Iterator[dict[str, Any]]:
    """What is seen of each prop of a file or a folder, and of the folder as its manifest has it."""
    if not path.exists():
        raise UnreadableFile(f"{path}: does not exist; give a file or a folder")
    folder = path if path.is_dir() else _root_of(path.absolute())
    files = DiskFiles(folder)
    mains = meshes_in(files) if path.is_dir() else [path.absolute().relative_to(folder).as_posix()]
    if not mains:
        raise UnreadableFile(f"{path}: holds no file with meshes to check; give GLB, glTF, OBJ, PLY, STL or USD")
    manifest = read_manifest(files)
    profile = _profile(destination, manifest)
    for prop in props_in(mains, profile):
        yield {"path": str(path / prop[0] if path.is_dir() else path), **_row(prop, files, profile, manifest)}
    if manifest is not None and path.is_dir():
        found = [finding.as_dict() for finding in check_files(files, manifest)]
        yield {"path": str(folder / MANIFEST), "prop": None, "levels": [], "findings": found}


def _root_of(file: Path) -> Path:
    """The folder that a file's names are told from: its own, or the one above where it shares textures with others."""
    if (file.parent / MANIFEST).is_file():
        return file.parent
    return file.parent.parent


def _profile(name: str | None, manifest: Mapping[str, Any] | None) -> Destination:
    if name is not None:
        return destination_of(name)
    told = str(manifest["destination"]) if manifest and manifest.get("destination") else DEFAULT_DESTINATION
    try:
        return destination_of(told)
    except InvalidSettings as error:
        raise InvalidSettings(f"{MANIFEST}: {error}") from error


def _row(
    mains: tuple[str, ...], files: DiskFiles, profile: Destination, manifest: Mapping[str, Any] | None
) -> dict[str, Any]:
    try:
        done = rehearse(mains, files, profile, expected_of(mains[0], manifest, profile))
    except PlindroError as error:
        return {"prop": None, "levels": [], "error": str(error), "findings": []}
    except OSError as error:
        message = f"{error.filename or mains[0]}: cannot be read ({error.strerror}); look at its rights"
        return {"prop": None, "levels": [], "error": message, "findings": []}
    seen = done.seen.model_dump(mode="json")
    levels = [
        {"index": index, **{key: level[key] for key in ("name", "triangles", "vertices")}}
        for index, level in enumerate(seen["levels"])
    ]
    findings = [finding.as_dict() for finding in done.findings]
    return {"prop": seen["prop"], "levels": levels, "seen": seen, "findings": findings}


def _print(row: dict[str, Any]) -> None:
    click.echo(row["path"])
    if "error" in row:
        click.echo("  could not be read")
        return
    for level in row["levels"]:
        counts = f"{grouped(level['triangles'])} triangles, {grouped(level['vertices'])} vertices"
        click.echo(f"  {level['name']:<32} {counts}")
    if "seen" in row:
        _print_seen(row["seen"])
    if not row["findings"]:
        click.echo("  no findings")
    print_findings(row["findings"])


def _print_seen(seen: dict[str, Any]) -> None:
    size = " x ".join(f"{side:.3g}" for side in seen["size"])
    lit = seen["light_map"]
    click.echo(f"  {size} m, {seen['up'].upper()} up; tangents {seen['tangents']}; light map {lit['state']}")
    for material in seen["materials"]:
        maps = ", ".join(f"{row['slot'].replace('_', ' ')} {row['state']}" for row in material["maps"])
        click.echo(f"  material {material['name']}: {maps or 'no maps'}")
    for proxy in seen["proxies"]:
        click.echo(f"  proxy {proxy['name']}: {grouped(proxy['triangles'])} triangles {proxy['fault']}".rstrip())
