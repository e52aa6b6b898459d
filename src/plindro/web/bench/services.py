"""All writes of the Bench: deciding, undoing, redoing."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction

from plindro.core.line import Line, override
from plindro.core.names import clean_name, is_reserved
from plindro.core.settings_versions import CURRENT
from plindro.web.bench.changes import DECIDED, OVERRIDES, Decided, changed_keys, holds, moved, settings_of
from plindro.web.bench.disputes import Seen, refuse_stale
from plindro.web.bench.models import Decision
from plindro.web.bench.words import label_of
from plindro.web.catalogue.entries import line_named
from plindro.web.errors import NotPossible
from plindro.web.work.models import Job
from plindro.web.yard.building import fits
from plindro.web.yard.models import Prop
from plindro.web.yard.services import find_prop, request_build


def snapshot(prop: Prop) -> Decided:
    """Everything decided about a prop, and the result it had then."""
    decided = {key: getattr(prop, key) for key in DECIDED}
    return {**decided, OVERRIDES: prop.own_settings, "settings_version": CURRENT, "built": prop.built_id}


def _apply(prop: Prop, decided: Decided, author: str) -> None:
    """Carry a decision out; what it changes is from then on of a version of its own, and of its author."""
    prop.version += 1
    changed = changed_keys(snapshot(prop), decided)
    prop.revisions = {**prop.revisions, **{key: [prop.version, author] for key in changed}}
    for key in DECIDED:
        if key in decided:
            setattr(prop, key, decided[key])
    prop.overrides, prop.settings_version = settings_of(decided), CURRENT
    prop.save(update_fields=[*DECIDED, "settings_version", "version", "revisions", "changed"])
    request_build(prop, Job.Priority.BENCH)


def decide(prop_id: int, changes: dict[str, dict[str, Any]], seen: Seen) -> Prop:
    """Change settings of stations on one prop; raises ``InvalidSettings`` where they do not validate, and ``Stale``.

    A setting that equals the line's own is no override and is dropped.
    """
    with transaction.atomic():
        prop = find_prop(prop_id)
        line = line_named(prop.line)
        # Settings that do not fit this version are decided anew by this decision; undo brings them back.
        merged = {station: dict(values) for station, values in prop.own_settings.items() if fits(line, station, values)}
        for station, values in changes.items():
            merged.setdefault(station, {}).update(values)
        valid = override(line, merged)
        kept = _differences(line, valid, merged)
        if kept == prop.own_settings:
            return prop
        written = valid.model_dump(mode="json")
        keys = [(station, setting) for station, values in changes.items() for setting in values]
        refuse_stale(prop, {f"{station}.{setting}": written[station][setting] for station, setting in keys}, seen)
        record(prop, label_of(changes), {**snapshot(prop), "overrides": kept}, seen.author)
    return prop


def _differences(line: Line, valid: Line, merged: dict[str, dict[str, Any]]) -> dict[str, dict[str, Any]]:
    own, base = valid.model_dump(mode="json"), line.model_dump(mode="json")
    result = {}
    for station, values in merged.items():
        kept = {key: own[station][key] for key in values if own[station][key] != base[station][key]}
        if kept:
            result[station] = kept
    return result


def rename(prop_id: int, name: str, seen: Seen) -> Prop:
    """Give a prop another name; raises ``NotPossible`` where it is taken or not a name, and ``Stale``."""
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
        refuse_stale(prop, {"name": name}, seen)
        record(prop, f"Naming: {name}", {**snapshot(prop), "name": name}, seen.author)
    return prop


def change_line(prop_id: int, line: str, seen: Seen) -> Prop:
    """Put a prop on another line; its own settings stay. Raises ``Stale``."""
    with transaction.atomic():
        prop = find_prop(prop_id)
        override(line_named(line), prop.own_settings)
        if line != prop.line:
            refuse_stale(prop, {"line": line}, seen)
            record(prop, f"Line: {line_named(line).title}", {**snapshot(prop), "line": line}, seen.author)
    return prop


def record(prop: Prop, label: str, after: Decided, author: str) -> None:
    """Write a decision down and carry it out; what its author undid before cannot be redone any more."""
    prop.decisions.filter(is_undone=True, undone_by=author).delete()
    Decision.objects.create(prop=prop, label=label, before=snapshot(prop), after=after, author=author)
    _apply(prop, after, author)


@dataclass(frozen=True, slots=True)
class Step:
    """A decision that undo or redo would turn; ``is_own``: it is the author's own."""

    pk: int
    label: str
    is_own: bool


@dataclass(frozen=True, slots=True)
class NextSteps:
    """What undo and redo would turn next."""

    undo: Step | None
    redo: Step | None


def next_steps(prop_id: int, author: str) -> NextSteps:
    """What undo and redo would turn in the browser of ``author``: undo their own last decision, else the very last."""
    # Without what was decided, which can be long.
    rows = Decision.objects.filter(prop_id=prop_id).order_by("pk")
    made: list[Step] = []
    undone: list[Step] = []
    for pk, label, by, is_undone, undone_by in rows.values_list("pk", "label", "author", "is_undone", "undone_by"):
        # Of decisions from before their authors were known everyone may take back the last.
        if not is_undone:
            made.append(Step(pk, label, by in {author, ""}))
        elif undone_by == author:
            undone.append(Step(pk, label, is_own=True))
    own = [step for step in made if step.is_own] or made
    return NextSteps(own[-1] if own else None, undone[0] if undone else None)


def undo(prop_id: int, author: str, *, of_anyone: bool = False) -> Prop:
    """Take the author's own last decision back, or the last of another where that is meant.

    What others decided since stays. Raises ``NotPossible`` where there is none, where another decided over it since,
    and where only others' are left.
    """
    with transaction.atomic():
        prop = find_prop(prop_id)
        step = next_steps(prop_id, author).undo
        if step is None:
            raise NotPossible("there is nothing to undo")
        if not (step.is_own or of_anyone):
            raise NotPossible(f"the last decision, '{step.label}', was made in another browser; undo it there")
        row = prop.decisions.get(pk=step.pk)
        _move(prop, row, row.after, row.before, author)
        row.is_undone, row.undone_by = True, author
        row.save(update_fields=["is_undone", "undone_by"])
    return prop


def redo(prop_id: int, author: str) -> Prop:
    """Make the decision again that the author took back last; raises ``NotPossible``."""
    with transaction.atomic():
        prop = find_prop(prop_id)
        step = next_steps(prop_id, author).redo
        if step is None:
            raise NotPossible("there is nothing to redo")
        row = prop.decisions.get(pk=step.pk)
        _move(prop, row, row.before, row.after, author)
        row.is_undone = False
        row.save(update_fields=["is_undone"])
    return prop


def _move(prop: Prop, row: Decision, now: Decided, target: Decided, author: str) -> None:
    """Lead what a decision changed from one of its sides to the other."""
    current = snapshot(prop)
    if not holds(current, target, now):
        raise NotPossible(f"'{row.label}' was decided over in another browser since; decide it anew")
    decided = moved(current, now, target)
    others = Prop.objects.filter(name__iexact=decided["name"], is_removed=False).exclude(pk=prop.pk)
    if others.exists():
        raise NotPossible(f"another prop is named '{decided['name']}' by now; rename that one first")
    _apply(prop, decided, author)
