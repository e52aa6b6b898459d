"""Addresses of lines, destinations, rules and trials."""

from typing import Any

from django.http import HttpRequest
from ninja import Router

from plindro.web.bench.api import author_of
from plindro.web.bench.disputes import Seen
from plindro.web.catalogue import services
from plindro.web.catalogue.entries import MODELS, Entry, came_with, entries
from plindro.web.catalogue.queries import history
from plindro.web.catalogue.services import Rule, find_entry
from plindro.web.house import trials, users
from plindro.web.house.drafts import draft_out, told
from plindro.web.house.results import trial_out
from plindro.web.house.schemas import (
    ByIn,
    DraftIn,
    DraftOut,
    EntryOut,
    EntryRow,
    FaultyOut,
    FieldsIn,
    Kind,
    RestoreIn,
    RuleOut,
    RulesIn,
    SaveIn,
    TakeOverIn,
    TrialIn,
    TrialOut,
    UserOut,
    VersionOut,
)
from plindro.web.yard.models import Prop
from plindro.web.yard.schemas import Changed

router = Router(tags=["house"])
SAVED = {200: EntryOut, 422: FaultyOut}


@router.get("/catalogue/{kind}", operation_id="catalogue_list", response=list[EntryRow])
def list_entries(request: HttpRequest, kind: Kind) -> list[EntryRow]:
    """All lines, or all destinations."""
    counted = users.counts() if kind == "line" else {}
    rows = []
    for name, entry in entries(kind).items():
        n, stale = counted.get(name, (0, 0))
        rows.append(
            EntryRow(
                name=name, title=entry.value.title, number=entry.number, is_ours=entry.is_ours, users=n, stale=stale
            )
        )
    return rows


@router.get("/catalogue/{kind}/schema", operation_id="catalogue_schema", response=dict[str, Any])
def read_schema(request: HttpRequest, kind: Kind) -> dict[str, Any]:
    """The JSON Schema of a line or a destination, as files of them are."""
    return MODELS[kind].model_json_schema()


@router.post("/catalogue/{kind}/draft", operation_id="catalogue_draft", response=DraftOut)
def look_at_draft(request: HttpRequest, kind: Kind, body: DraftIn) -> DraftOut:
    """What is wrong with a draft, or what it does to the props of the board."""
    return draft_out(kind, body.data)


@router.post("/catalogue/{kind}/trial", operation_id="catalogue_trial", response={200: TrialOut, 422: FaultyOut})
def start_trial(request: HttpRequest, kind: Kind, body: TrialIn) -> TrialOut:
    """Try a draft on props."""
    return trial_out(trials.start_trial(kind, body.data, body.props))


@router.get("/trials/{trial_id}", operation_id="trials_read", response=TrialOut)
def read_trial(request: HttpRequest, trial_id: int) -> TrialOut:
    """What has come of a trial so far."""
    return trial_out(trials.find_trial(trial_id))


@router.post("/trials/{trial_id}/cancel", operation_id="trials_cancel", response=TrialOut)
def cancel_trial(request: HttpRequest, trial_id: int) -> TrialOut:
    """Call a trial off."""
    return trial_out(trials.cancel_trial(trial_id))


@router.get("/catalogue/{kind}/{name}", operation_id="catalogue_read", response=EntryOut)
def read_entry(request: HttpRequest, kind: Kind, name: str) -> EntryOut:
    """A line or a destination with its history and its users."""
    return _entry_out(kind, name, find_entry(kind, name))


@router.post("/catalogue/{kind}", operation_id="catalogue_save", response=SAVED)
def save_entry(request: HttpRequest, kind: Kind, body: SaveIn) -> EntryOut:
    """Save a line or a destination as its next version, or a new one."""
    return _saved(kind, services.save(kind, body.data, body.seen, body.by), body.seen)


@router.post("/catalogue/{kind}/{name}/restore", operation_id="catalogue_restore", response=SAVED)
def restore_entry(request: HttpRequest, kind: Kind, name: str, body: RestoreIn) -> EntryOut:
    """Go back to an older version."""
    return _saved(kind, services.restore(kind, name, body.number, body.seen, body.by), body.seen)


@router.post("/catalogue/{kind}/{name}/remove", operation_id="catalogue_remove", response=Changed)
def remove_entry(request: HttpRequest, kind: Kind, name: str, body: ByIn) -> Changed:
    """Take away one of the house's own."""
    services.remove(kind, name, body.by, [prop.name for prop in users.users_of(name)] if kind == "line" else [])
    return Changed(count=1)


def _saved(kind: Kind, entry: Entry, seen: int | None) -> EntryOut:
    """What was saved, after the props that it makes stale are marked; what was saved as it stood makes none."""
    name = entry.value.name
    if entry.number != seen:
        users.mark_stale_by(kind, name)
    return _entry_out(kind, name, entry)


def _entry_out(kind: Kind, name: str, entry: Entry) -> EntryOut:
    ours = came_with(kind, name)
    props = users.users_of(name) if kind == "line" else []
    return EntryOut(
        kind=kind,
        name=name,
        title=entry.value.title,
        number=entry.number,
        is_ours=entry.is_ours,
        data=entry.value.model_dump(mode="json"),
        came=ours.model_dump(mode="json") if ours else None,
        versions=[
            VersionOut(number=past.number, by=past.by, created=past.created, changes=told(past.changes))
            for past in history(kind, name)
        ],
        users=[_user_out(prop, entry) for prop in props],
    )


def _user_out(prop: Prop, entry: Entry) -> UserOut:
    own = told(users.overrides_of(prop, entry.value))
    return UserOut(id=prop.pk, name=prop.name, is_stale=prop.is_stale, overrides=own)


@router.post("/lines/build-stale", operation_id="lines_build_stale", response=Changed)
def build_stale(request: HttpRequest, line: str | None = None) -> Changed:
    """Build what the change of a line, or of any, made stale."""
    return Changed(count=users.build_stale(line))


@router.post("/lines/bring-back", operation_id="lines_bring_back", response=Changed)
def bring_back(request: HttpRequest, body: FieldsIn) -> Changed:
    """Give props their line's settings in the place of their own."""
    return Changed(count=users.bring_back(body.props, body.fields, author_of(request)))


@router.post("/lines/take-over", operation_id="lines_take_over", response=EntryOut)
def take_over(request: HttpRequest, body: TakeOverIn) -> EntryOut:
    """Make a prop's own settings those of its line."""
    entry = users.take_over(body.prop, body.fields, body.by, Seen(author_of(request), body.seen))
    return _entry_out("line", entry.value.name, entry)


@router.get("/line-rules", operation_id="line_rules_read", response=list[RuleOut])
def read_rules(request: HttpRequest) -> list[RuleOut]:
    """The rules that choose a line for new props."""
    return _rules_out()


@router.post("/line-rules", operation_id="line_rules_save", response=list[RuleOut])
def save_rules(request: HttpRequest, body: RulesIn) -> list[RuleOut]:
    """Put these rules in the place of those that are there."""
    services.save_rules(Rule(row.of, row.pattern, row.line) for row in body.rules)
    return _rules_out()


def _rules_out() -> list[RuleOut]:
    """The rules with the props whose name they fit; a folder is known only when a source comes."""
    names = dict(Prop.objects.filter(is_removed=False).values_list("name", "source_name"))
    found = services.rules()
    chosen = {name: services.first_fitting(found, source) for name, source in names.items()}
    return [
        RuleOut(of=rule.of, pattern=rule.pattern, line=rule.line, fits=[n for n, r in chosen.items() if r is rule])  # type: ignore[arg-type]
        for rule in found
    ]
