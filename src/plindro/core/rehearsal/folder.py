"""A folder of shipped files: which of them belong together, and what its manifest says of them."""

import hashlib
import json
from collections.abc import Iterable, Iterator, Mapping
from pathlib import PurePosixPath
from typing import Any

from plindro.core.destinations import Destination
from plindro.core.errors import UnreadableFile
from plindro.core.findings import Finding, Severity
from plindro.core.rehearsal.chain import is_one_level, owner_of_file
from plindro.core.rehearsal.expected import Expected
from plindro.core.rehearsal.readers import ENDINGS

MANIFEST, REPORT, CONTACT_SHEET = "manifest.json", "report.html", "contact-sheet.png"
"""Files of a shipment that are no prop's."""


def meshes_in(paths: Iterable[str]) -> list[str]:
    """Those of the files that hold meshes."""
    return [path for path in paths if PurePosixPath(path).suffix.lower() in ENDINGS]


def props_in(paths: Iterable[str], destination: Destination) -> list[tuple[str, ...]]:
    """Mesh files by the prop that they are of: most are one alone, those of one level are put together."""
    found: dict[tuple[str, str], list[str]] = {}
    for path in sorted(paths):
        folder = str(PurePosixPath(path).parent)
        owner = owner_of_file(path, destination) if is_one_level(path) else path
        found.setdefault((folder, owner), []).append(path)
    return [tuple(mains) for mains in found.values()]


def read_manifest(files: Mapping[str, bytes]) -> dict[str, Any] | None:
    """The manifest beside the files; None where there is none. Raises ``UnreadableFile``."""
    if MANIFEST not in files:
        return None
    try:
        manifest = json.loads(files[MANIFEST])
        for row in manifest["props"]:
            _ = row["name"], [(file["path"], file["sha256"]) for file in row["files"]]
    except (ValueError, KeyError, TypeError) as error:
        raise UnreadableFile(f"{MANIFEST}: is no manifest of a shipment; remove it, or ship again") from error
    told: dict[str, Any] = manifest
    return told


def expected_of(path: str, manifest: Mapping[str, Any] | None, destination: Destination) -> Expected:
    """What a manifest says of the prop that a file is of; of states it says no bounds."""
    owner = owner_of_file(path, destination)
    for record in manifest["props"] if manifest else ():
        if owner == record["name"] and any(path == file["path"] for file in record["files"]):
            return Expected.of(record)
    return Expected()


def check_files(files: Mapping[str, bytes], manifest: Mapping[str, Any]) -> Iterator[Finding]:
    """Findings about files that are missing, are other than they were, or that nothing tells of."""
    told = {file["path"]: file["sha256"] for record in manifest["props"] for file in record["files"]}
    for path, digest in told.items():
        if path not in files:
            yield Finding("file-missing", Severity.STOP, f"{path} is missing; the manifest names it")
        elif hashlib.sha256(files[path]).hexdigest() != digest:
            yield Finding("file-changed", Severity.STOP, f"{path} is other than the manifest says; ship it again")
    for path in files:
        if path not in told and path not in (MANIFEST, REPORT, CONTACT_SHEET):
            yield Finding("file-stale", Severity.WARNING, f"{path} is not of this shipment; remove it if it is old")
