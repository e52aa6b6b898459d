"""All writes of lines, destinations and rules."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fnmatch import fnmatchcase
from pathlib import PurePosixPath
from typing import Any

from django.db import transaction

from plindro.core.lines import DEFAULT_LINE
from plindro.web.catalogue.drafts import read_draft
from plindro.web.catalogue.entries import Entry, Kind, came_with, entries, line_named
from plindro.web.catalogue.models import LineRule, Version
from plindro.web.errors import NotFound, NotPossible


def find_entry(kind: Kind, name: str) -> Entry:
    """A line or a destination; raises ``NotFound``."""
    entry = entries(kind).get(name)
    if entry is None:
        raise NotFound(f"there is no {kind} '{name}' any more")
    return entry


def save(kind: Kind, data: dict[str, Any], seen: int | None, by: str) -> Entry:
    """Save a line or a destination as its next version, or a new one.

    ``seen`` is the version that was edited, None for a new one. Raises ``Faulty``, and ``NotPossible`` where another
    saved it meanwhile or a new one has a name that is taken.
    """
    value = read_draft(kind, data)
    name = str(value.model_dump()["name"])
    with transaction.atomic():
        known = entries(kind).get(name)
        if seen is None and known is not None:
            raise NotPossible(f"there is a {kind} '{name}' already; choose another name")
        if known is not None and seen != known.number:
            raise NotPossible(f"'{name}' was saved by another meanwhile; look at its history, then decide again")
        if known is not None and known.value == value:
            return known
        _append(kind, name, value.model_dump(mode="json"), by)
    return find_entry(kind, name)


def _append(kind: Kind, name: str, data: dict[str, Any], by: str, *, is_gone: bool = False) -> None:
    last = Version.objects.filter(kind=kind, name=name).order_by("number").last()
    number = last.number + 1 if last else 1
    Version.objects.create(kind=kind, name=name, number=number, data=data, by=by[:40], is_gone=is_gone)


def restore(kind: Kind, name: str, number: int, seen: int, by: str) -> Entry:
    """Save an older version as the next one; 0 is as it came with the product. Raises ``NotFound``, ``NotPossible``."""
    ours = came_with(kind, name)
    row = Version.objects.filter(kind=kind, name=name, number=number, is_gone=False).first()
    if number == 0 and ours is not None:
        return save(kind, ours.model_dump(mode="json"), seen, by)
    if row is None:
        raise NotFound(f"'{name}' has no version {number}")
    return save(kind, row.data, seen, by)


def remove(kind: Kind, name: str, by: str, users: Sequence[str]) -> None:
    """Take away one of the house's own that none of ``users``, named, needs; raises ``NotFound``, ``NotPossible``."""
    entry = find_entry(kind, name)
    if entry.is_ours:
        raise NotPossible(f"'{name}' came with Plindro and stays; its history has it as it came")
    if users:
        raise NotPossible(
            f"'{name}' is used by {users[0]}{' and others' if len(users) > 1 else ''}; put those on another"
        )
    with transaction.atomic():
        _append(kind, name, entry.value.model_dump(mode="json"), by, is_gone=True)
        LineRule.objects.filter(line=name).delete()


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule as it is written: a pattern with * and ? for the name or the folder of a source, and the line."""

    of: str
    pattern: str
    line: str


def rules() -> list[Rule]:
    """The rules in their order."""
    return [Rule(row.of, row.pattern, row.line) for row in LineRule.objects.all()]


def save_rules(wanted: Iterable[Rule]) -> list[Rule]:
    """Put these rules in the place of those that are there; raises ``InvalidSettings``, ``NotPossible``."""
    kept = list(wanted)
    for rule in kept:
        line_named(rule.line)
        if not rule.pattern.strip():
            raise NotPossible("a rule needs a pattern, as 'door_*'")
    with transaction.atomic():
        LineRule.objects.all().delete()
        LineRule.objects.bulk_create(
            LineRule(place=place, of=rule.of, pattern=rule.pattern.strip(), line=rule.line)
            for place, rule in enumerate(kept)
        )
    return rules()


def first_fitting(known: Iterable[Rule], path: str) -> Rule | None:
    """The first of these rules that fits a source of this path, whatever its case."""
    lies = PurePosixPath(path.lower())
    texts = {"name": lies.stem, "folder": str(lies.parent)}
    return next((rule for rule in known if fnmatchcase(texts[rule.of], rule.pattern.lower())), None)


def line_for(path: str) -> str:
    """The name of the line for a new source of this path."""
    rule = first_fitting((rule for rule in rules() if rule.line in entries("line")), path)
    return rule.line if rule else DEFAULT_LINE
