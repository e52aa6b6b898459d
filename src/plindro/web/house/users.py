"""Which props are on a line, what they have of their own, and bringing them back or taking that over."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.db import transaction
from django.db.models import Count, Q
from django.utils import timezone

from plindro.core.destinations import DEFAULT_DESTINATION
from plindro.core.line import Line
from plindro.web.bench.disputes import Seen
from plindro.web.bench.services import record, snapshot
from plindro.web.catalogue.drafts import Difference
from plindro.web.catalogue.entries import Entry, Kind, line_named, one_moment
from plindro.web.catalogue.services import save
from plindro.web.errors import NotPossible
from plindro.web.yard.models import Prop
from plindro.web.yard.services import find_prop, is_up_to_date, request_build_or_say_why


def counts() -> dict[str, tuple[int, int]]:
    """How many props are on each line, and how many of those are stale."""
    rows = Prop.objects.filter(is_removed=False).values("line")
    found = rows.annotate(users=Count("pk"), stale=Count("pk", filter=Q(is_stale=True)))
    return {row["line"]: (row["users"], row["stale"]) for row in found}


def users_of(line: str) -> list[Prop]:
    """The props on a line, by name."""
    return list(Prop.objects.filter(is_removed=False, line=line))


def overrides_of(prop: Prop, line: Line) -> list[Difference]:
    """The settings of a prop's own beside its line's."""
    base = line.model_dump(mode="json")
    return [
        Difference(f"{station}.{setting}", base.get(station, {}).get(setting), value)
        for station, values in prop.own_settings.items()
        for setting, value in values.items()
    ]


def mark_stale(line: str | None = None) -> int:
    """Say of the props on a line, or of all, whether what they were built by has changed; returns how many are."""
    props = Prop.objects.filter(is_removed=False, state=Prop.State.BUILT).select_related("built")
    props = props.prefetch_related("waivers")
    if line is not None:
        props = props.filter(line=line)
    with one_moment():
        now = {prop.pk: not is_up_to_date(prop) for prop in props}
    for stale in (True, False):
        turned = [prop.pk for prop in props if now[prop.pk] is stale and prop.is_stale is not stale]
        Prop.objects.filter(pk__in=turned).update(is_stale=stale, changed=timezone.now())
    return sum(now.values())


def mark_stale_by(kind: Kind, name: str) -> int:
    """Mark the props that are built by what was saved: those on a line, or all where it is the board's destination."""
    if kind == "line":
        return mark_stale(name)
    return mark_stale() if name == DEFAULT_DESTINATION else 0


def build_stale(line: str | None = None) -> int:
    """Build the props that are stale, of one line or of all; returns how many."""
    props = Prop.objects.filter(is_removed=False, is_stale=True)
    if line is not None:
        props = props.filter(line=line)
    with transaction.atomic():
        return sum(request_build_or_say_why(prop) for prop in props)


def bring_back(prop_ids: Sequence[int], fields: Sequence[str], author: str) -> int:
    """Take settings of their own, ``station.setting``, from props, which then have their line's; returns how many
    props changed. Each is a decision that can be undone at the Bench."""
    changed = 0
    with transaction.atomic():
        for prop in Prop.objects.filter(pk__in=prop_ids, is_removed=False):
            kept = _without(prop.own_settings, fields)
            if kept != prop.own_settings:
                record(prop, f"Back to the line: {', '.join(fields)}", {**snapshot(prop), "overrides": kept}, author)
                changed += 1
    return changed


def take_over(prop_id: int, fields: Sequence[str], by: str, seen: Seen) -> Entry:
    """Make a prop's own settings those of its line, for all props on it; raises ``NotPossible``."""
    prop = find_prop(prop_id)
    if seen.version is None:
        raise NotPossible("look at the line before it is changed")
    data = line_named(prop.line).model_dump(mode="json")
    for field in fields:
        station, _, setting = field.partition(".")
        if setting not in prop.own_settings.get(station, {}):
            raise NotPossible(f"'{prop.name}' has no {field} of its own any more")
        data[station][setting] = prop.own_settings[station][setting]
    with transaction.atomic():
        entry = save("line", data, seen.version, by)
        mark_stale(prop.line)
        bring_back([prop_id], fields, seen.author)
    return entry


def _without(settings: Mapping[str, Mapping[str, Any]], fields: Sequence[str]) -> dict[str, dict[str, Any]]:
    kept = {
        station: {setting: value for setting, value in values.items() if f"{station}.{setting}" not in fields}
        for station, values in settings.items()
    }
    return {station: values for station, values in kept.items() if values}
