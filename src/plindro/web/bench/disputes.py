"""Decisions made in view of values that another browser has changed since."""

from dataclasses import dataclass
from typing import Any

from plindro.web.bench.words import shown, words_of
from plindro.web.errors import Stale, StaleRow
from plindro.web.yard.building import fitting_line
from plindro.web.yard.models import Prop


@dataclass(frozen=True, slots=True)
class Seen:
    """Who decides, and the version of the prop that was looked at; without one nothing is held against the decision.

    Without an ``author`` nobody knows who it is, and everything is decided by another.
    """

    author: str = ""
    version: int | None = None


def refuse_stale(prop: Prop, wanted: dict[str, Any], seen: Seen) -> None:
    """Raise ``Stale`` where one of these values was decided otherwise by another since the version that was seen."""
    if seen.version is None or seen.version >= prop.version:
        return
    line = fitting_line(prop)[0].model_dump(mode="json")
    rows = []
    for key, mine in wanted.items():
        station, _, setting = key.partition(".")
        theirs = line[station][setting] if setting else getattr(prop, key)
        if _is_anothers(prop, key, seen) and theirs != mine:
            rows.append(StaleRow(key, words_of(key), shown(key, theirs), shown(key, mine)))
    if rows:
        raise Stale(prop.version, rows)


def refuse_stale_source(prop: Prop, name: str, digest: str, seen: Seen) -> None:
    """Raise ``Stale`` where another has replaced the source by another one since the version that was seen."""
    if seen.version is None or not _is_anothers(prop, "source", seen) or prop.source == digest:
        return
    theirs, mine = f"{prop.source_name} ({prop.source[:8]})", f"{name} ({digest[:8]})"
    raise Stale(prop.version, [StaleRow("source", words_of("source"), theirs, mine)])


def _is_anothers(prop: Prop, key: str, seen: Seen) -> bool:
    """Whether a value was decided since by another than who decides now."""
    version, author = prop.revisions.get(key, (0, ""))
    return version > (seen.version or 0) and (author != seen.author or not author)
