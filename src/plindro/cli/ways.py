"""Lines and destinations by name: the house's, where there is a database of theirs here, or from a file."""

import os
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from plindro.core.destinations import DESTINATIONS, Destination, get_destination
from plindro.core.errors import InvalidSettings
from plindro.core.line import Line
from plindro.core.lines import LINES, get_line

if TYPE_CHECKING:
    from collections.abc import Mapping

    from plindro.web.catalogue.entries import Entry

_DATABASE = "plindro.sqlite3"


def line_of(name_or_file: str) -> Line:
    """A line by name as the house has it, or one from a JSON file; raises ``InvalidSettings``."""
    known = _entries("line")
    line: Line = known[name_or_file].value if name_or_file in known else get_line(name_or_file)
    return line


def destination_of(name_or_file: str) -> Destination:
    """A destination by name as the house has it, or one from a JSON file; raises ``InvalidSettings``."""
    known = _entries("destination")
    found: Destination = known[name_or_file].value if name_or_file in known else get_destination(name_or_file)
    return found


def line_version(name: str) -> int:
    """The house's version of a line; 0 as it came, and of one from a file."""
    entry = _entries("line").get(name)
    return entry.number if entry else 0


def destination_version(name: str) -> int:
    """The house's version of a destination; 0 as it came, and of one from a file."""
    entry = _entries("destination").get(name)
    return entry.number if entry else 0


def all_lines() -> Sequence[Line]:
    """All lines that can be chosen by name."""
    known = _entries("line")
    return [entry.value for entry in known.values()] if known else LINES


def all_destinations() -> Sequence[Destination]:
    """All destinations that can be chosen by name."""
    known = _entries("destination")
    return [entry.value for entry in known.values()] if known else DESTINATIONS


def _entries(kind: Literal["line", "destination"]) -> "Mapping[str, Entry]":
    """What the house has; nothing where it has no database."""
    if not (Path(os.environ.get("PLINDRO_HOME") or "var") / _DATABASE).is_file():
        return {}
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "plindro.web.settings")
    import django
    from django.db import DatabaseError, connection

    django.setup()
    from plindro.web.catalogue.entries import entries
    from plindro.web.catalogue.models import Version

    try:
        # One of an earlier version of the program holds none yet.
        return entries(kind) if Version._meta.db_table in connection.introspection.table_names() else {}
    except DatabaseError as error:
        text = f"the database of the house's lines and destinations cannot be read ({error}); put back a copy of it"
        raise InvalidSettings(text) from error
