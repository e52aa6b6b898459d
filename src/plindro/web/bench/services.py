"""All writes of the Bench: deciding, undoing, redoing."""

from typing import Any

from django.db import transaction

from plindro.core.line import Line, override
from plindro.core.lines import line_named
from plindro.core.names import clean_name, is_reserved
from plindro.core.stations.levels import LevelTarget
from plindro.core.stations.registry import STATIONS
from plindro.web.bench.models import Decision
from plindro.web.errors import NotPossible
from plindro.web.work.models import Job
from plindro.web.yard.building import fits
from plindro.web.yard.models import Prop
from plindro.web.yard.services import find_prop, request_build

STATION_WORDS = {station.name: station.title for station in STATIONS} | {"budget": "Budget"}
DECIDED = ("name", "line", "overrides", "source_name", "source", "source_bytes", "side_files")
"""What a decision may change on a prop."""


def snapshot(prop: Prop) -> dict[str, Any]:
    """Everything decided about a prop, and the result it had then."""
    return {**{key: getattr(prop, key) for key in DECIDED}, "built": prop.built_id}


def _apply(prop: Prop, decided: dict[str, Any]) -> None:
    for key in DECIDED:
        if key in decided:
            setattr(prop, key, decided[key])
    prop.save(update_fields=[*DECIDED, "changed"])
    request_build(prop, Job.Priority.BENCH)


def decide(prop_id: int, changes: dict[str, dict[str, Any]]) -> Prop:
    """Change settings of stations on one prop; raises ``InvalidSettings`` where they do not validate.

    A setting that equals the line's own is no override and is dropped.
    """
    with transaction.atomic():
        prop = find_prop(prop_id)
        line = line_named(prop.line)
        # Settings that do not fit this version are decided anew by this decision; undo brings them back.
        merged = {station: dict(values) for station, values in prop.overrides.items() if fits(line, station, values)}
        for station, values in changes.items():
            merged.setdefault(station, {}).update(values)
        valid = override(line, merged)
        kept = _differences(line, valid, merged)
        if kept == prop.overrides:
            return prop
        record(prop, _label(changes), {**snapshot(prop), "overrides": kept})
    return prop


def _differences(line: Line, valid: Line, merged: dict[str, dict[str, Any]]) -> dict[str, dict[str, Any]]:
    own, base = valid.model_dump(mode="json"), line.model_dump(mode="json")
    result = {}
    for station, values in merged.items():
        kept = {key: own[station][key] for key in values if own[station][key] != base[station][key]}
        if kept:
            result[station] = kept
    return result


def _label(changes: dict[str, dict[str, Any]]) -> str:
    parts = [
        f"{STATION_WORDS.get(station, station)}: {key.replace('_', ' ')} {_shown(station, key, value)}"
        for station, values in changes.items()
        for key, value in values.items()
    ]
    return ", ".join(parts)[:120]


def _shown(station: str, key: str, value: Any) -> str:
    if (station, key) == ("levels", "levels"):
        return " / ".join(LevelTarget(**target).in_words() for target in value) or "none"
    if (station, key) == ("levels", "first") and value is not None:
        return LevelTarget(**value).in_words()
    if isinstance(value, list) and value and isinstance(value[0], list | dict):
        return f"marks, {len(value)}"
    if isinstance(value, list):
        return " / ".join(f"{x:.0%}" if isinstance(x, float) else str(x) for x in value) or "none"
    return "none" if value is None else str(value)


def rename(prop_id: int, name: str) -> Prop:
    """Give a prop another name; raises ``NotPossible`` where it is taken or not a name."""
    with transaction.atomic():
        prop = find_prop(prop_id)
        if is_reserved(name):
            raise NotPossible(f"'{name}' is a device on Windows, so no file can be called so; choose another name")
        if clean_name(name) != name:
            raise NotPossible(f"'{name}' is no name for an engine; use letters, digits and underscores")
        if name == prop.name:
            return prop
        if Prop.objects.filter(name__iexact=name, is_removed=False).exclude(pk=prop.pk).exists():
            raise NotPossible(f"another prop is named '{name}' already; choose another name")
        record(prop, f"Naming: {name}", {**snapshot(prop), "name": name})
    return prop


def change_line(prop_id: int, line: str) -> Prop:
    """Put a prop on another line; its own settings stay."""
    with transaction.atomic():
        prop = find_prop(prop_id)
        override(line_named(line), prop.overrides)
        if line != prop.line:
            record(prop, f"Line: {line_named(line).title}", {**snapshot(prop), "line": line})
    return prop


def record(prop: Prop, label: str, after: dict[str, Any]) -> None:
    """Write a decision down and carry it out; what was undone before it cannot be redone any more."""
    prop.decisions.filter(is_undone=True).delete()
    Decision.objects.create(prop=prop, label=label, before=snapshot(prop), after=after)
    _apply(prop, after)


def undo_label(prop: Prop) -> str | None:
    """The decision that undo would take back."""
    row = prop.decisions.filter(is_undone=False).last()
    return row.label if row else None


def redo_label(prop: Prop) -> str | None:
    """The decision that redo would make again."""
    row = prop.decisions.filter(is_undone=True).first()
    return row.label if row else None


def undo(prop_id: int) -> Prop:
    """Take the last decision back; raises ``NotPossible`` where there is none."""
    return _step(prop_id, undone=False)


def redo(prop_id: int) -> Prop:
    """Make the last decision that was taken back again."""
    return _step(prop_id, undone=True)


def _step(prop_id: int, *, undone: bool) -> Prop:
    with transaction.atomic():
        prop = find_prop(prop_id)
        rows = prop.decisions.filter(is_undone=undone)
        row = rows.first() if undone else rows.last()
        if row is None:
            raise NotPossible("there is nothing to redo" if undone else "there is nothing to undo")
        target = row.after if undone else row.before
        name = target["name"]
        if Prop.objects.filter(name__iexact=name, is_removed=False).exclude(pk=prop.pk).exists():
            raise NotPossible(f"another prop is named '{name}' by now; rename that one first")
        row.is_undone = not undone
        row.save(update_fields=["is_undone"])
        _apply(prop, target)
    return prop
