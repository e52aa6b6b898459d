"""The lines and destinations that stand now: those that come with the product, as they were changed, and others."""

import logging
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Any, Literal

from django.db.models import Count, Max
from pydantic import ValidationError

from plindro.core.destinations import DESTINATIONS, Destination
from plindro.core.errors import InvalidSettings
from plindro.core.line import Line, StationLine
from plindro.core.lines import LINES
from plindro.core.settings import StationSettings
from plindro.web.catalogue.models import Version

log = logging.getLogger(__name__)
Kind = Literal["line", "destination"]
MODELS: dict[Kind, type[StationSettings]] = {"line": StationLine, "destination": Destination}
_OURS: dict[Kind, dict[str, Any]] = {
    "line": {line.name: line for line in LINES},
    "destination": {destination.name: destination for destination in DESTINATIONS},
}


@dataclass(frozen=True, slots=True)
class Entry:
    """A line or a destination. ``number`` is its version, 0 as it came with the product; ``is_ours``: it came so."""

    value: Any
    number: int
    is_ours: bool


_known: dict[Kind, tuple[object, dict[str, Entry]]] = {}


_moment: ContextVar[dict[Kind, Mapping[str, Entry]] | None] = ContextVar("moment", default=None)


@contextmanager
def one_moment() -> Iterator[None]:
    """What stands is asked for once, however often it is needed within."""
    token = _moment.set({})
    try:
        yield
    finally:
        _moment.reset(token)


def entries(kind: Kind) -> Mapping[str, Entry]:
    """All of a kind by name, those that come with the product first."""
    moment = _moment.get()
    if moment is None:
        return _standing(kind)
    if kind not in moment:
        moment[kind] = _standing(kind)
    return moment[kind]


def _standing(kind: Kind) -> Mapping[str, Entry]:
    rows = Version.objects.filter(kind=kind)
    mark = rows.aggregate(Max("pk"), Max("created"), Count("pk"))
    if kind not in _known or _known[kind][0] != mark:
        _known[kind] = mark, _read(kind)
    return _known[kind][1]


def _read(kind: Kind) -> dict[str, Entry]:
    found = {name: Entry(value, 0, is_ours=True) for name, value in _OURS[kind].items()}
    for row in Version.objects.filter(kind=kind).order_by("pk"):
        if row.is_gone:
            found.pop(row.name, None)
            continue
        try:
            value = MODELS[kind].model_validate(row.data)
        except ValidationError as error:
            log.warning("%s %s, version %s, does not fit this version: %s", kind, row.name, row.number, error)
            continue
        found[row.name] = Entry(value, row.number, is_ours=row.name in _OURS[kind])
    return found


def entry_named(kind: Kind, name: str) -> Entry:
    """A line or a destination with its version; raises ``InvalidSettings``."""
    known = entries(kind)
    if name not in known:
        raise InvalidSettings(f"there is no {kind} '{name}'; give one of {', '.join(known)}")
    return known[name]


def line_named(name: str) -> Line:
    """A line as it stands; raises ``InvalidSettings``."""
    line: Line = entry_named("line", name).value
    return line


def destination_named(name: str) -> Destination:
    """A destination as it stands; raises ``InvalidSettings``."""
    destination: Destination = entry_named("destination", name).value
    return destination


def came_with(kind: Kind, name: str) -> Any | None:
    """A line or a destination as it came with the product; None where it is the house's own."""
    return _OURS[kind].get(name)
