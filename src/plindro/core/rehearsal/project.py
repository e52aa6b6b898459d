"""A simulated engine project: a folder whose files are imported, noticed when they change, and missed when they go."""

import hashlib
from collections import defaultdict
from collections.abc import Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path, PurePosixPath
from typing import Any, Literal

from plindro.core.destinations import Destination
from plindro.core.errors import PlindroError
from plindro.core.rehearsal.checks import rehearse
from plindro.core.rehearsal.disk import DiskFiles
from plindro.core.rehearsal.folder import expected_of, meshes_in, props_in, read_manifest

Change = Literal["new", "changed", "vanished", "same"]


@dataclass(frozen=True, slots=True)
class Noticed:
    """An asset of the folder: its first file, all of its mesh files, its digest, and how it stands to what was
    imported."""

    path: str
    mains: tuple[str, ...]
    digest: str
    change: Change


@dataclass(frozen=True, slots=True)
class Imported:
    """What came of importing an asset: what is seen of it, its findings, the metres from which its levels are drawn;
    or why it could not be read."""

    path: str
    mains: tuple[str, ...]
    digest: str
    seen: dict[str, Any] | None
    findings: tuple[dict[str, Any], ...]
    distances: tuple[float, ...]
    error: str = ""


def notice(folder: Path, known: Mapping[str, str], destination: Destination) -> list[Noticed]:
    """Every asset of the folder, and those ``known``, by path with the digest that was imported, that are gone.

    A file that has the time and size of before is not read again.
    """
    paths = list(DiskFiles(folder))
    named = defaultdict(list)
    for path in paths:
        named[_stem(path)].append(path)
    found = []
    for mains in props_in(meshes_in(paths), destination):
        digest = _digest(folder, sorted({path for main in mains for path in named[_stem(main)]}))
        before = known.get(mains[0])
        change: Change = "new" if before is None else "same" if before == digest else "changed"
        found.append(Noticed(mains[0], mains, digest, change))
    there = {asset.path for asset in found}
    gone = [Noticed(path, (path,), digest, "vanished") for path, digest in known.items() if path not in there]
    return sorted([*found, *gone], key=lambda asset: asset.path)


def _stem(path: str) -> str:
    return str(PurePosixPath(path).with_suffix(""))


def _digest(folder: Path, paths: list[str]) -> str:
    """Of an asset's mesh files and of all that lie beside them under its name, as libraries and buffers."""
    digest = hashlib.sha256()
    for path in paths:
        # One that goes while the folder is looked at is missed at the next look.
        with suppress(FileNotFoundError):
            status = (folder / path).stat()
            own = _file_digest(str(folder / path), status.st_mtime_ns, status.st_size)
            digest.update(f"{path} {own}\n".encode())
    return digest.hexdigest()


@lru_cache(maxsize=20_000)
def _file_digest(path: str, changed: int, size: int) -> str:
    with open(path, "rb") as data:
        return hashlib.file_digest(data, "sha256").hexdigest()


def import_assets(folder: Path, wanted: list[Noticed], destination: Destination) -> Iterator[Imported]:
    """Read these assets as the engine that the destination is for, with the manifest of the folder where it has one."""
    files = DiskFiles(folder)
    try:
        manifest = read_manifest(files)
    except PlindroError:
        manifest = None
    for asset in wanted:
        try:
            done = rehearse(asset.mains, files, destination, expected_of(asset.path, manifest, destination))
        except PlindroError as error:
            yield Imported(asset.path, asset.mains, asset.digest, None, (), (), str(error))
            continue
        seen = done.seen.model_dump(mode="json")
        findings = tuple(finding.as_dict(with_places=True) for finding in done.findings)
        distances = _distances(seen["prop"], len(seen["levels"]), max(seen["size"]), manifest)
        yield Imported(asset.path, asset.mains, asset.digest, seen, findings, distances)


def _distances(prop: str, n_levels: int, size: float, manifest: Mapping[str, Any] | None) -> tuple[float, ...]:
    """Metres from which each level is drawn: the manifest's, else each from twice as far as the one before."""
    for record in manifest["props"] if manifest else ():
        chains = [(record["name"], record["levels"])]
        chains += [(state["prop"], state["levels"]) for state in record.get("states", ())]
        for name, levels in chains:
            if name == prop and len(levels) == n_levels:
                return tuple(float(level.get("distance", 0.0)) for level in levels)
    return tuple(0.0 if k == 0 else size * 4.0 * 2.0**k for k in range(n_levels))
