"""Props of one shipment that would overwrite each other's files."""

from collections.abc import Iterable, Mapping, Sequence

from plindro.core.findings import Finding, Severity
from plindro.core.stations.naming import NAMING

Owners = Mapping[str, Sequence[str]]
"""The props that write a file, by the file's name without case, as many file systems take it."""


def owners_of(files: Iterable[tuple[str, Iterable[str]]]) -> Owners:
    """Who writes what, from (prop, files)."""
    owners: dict[str, list[str]] = {}
    for prop, paths in files:
        for path in dict.fromkeys(path.casefold() for path in paths):
            owners.setdefault(path, []).append(prop)
    return owners


def find_clash(prop: str, files: Iterable[str], owners: Owners) -> Finding | None:
    """The finding that holds ``prop`` back where another writes a file of the same name; None where none does."""
    for path in files:
        others = [other for other in owners.get(path.casefold(), ()) if other != prop]
        if others:
            text = f"'{prop}' and '{others[0]}' both ship {path}; rename one of them, or its state"
            return Finding("file-name-taken", Severity.STOP, text, station=NAMING.name)
    return None
