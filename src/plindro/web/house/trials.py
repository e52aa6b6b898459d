"""All writes of trials."""

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from django.db import transaction

from plindro.core.destinations import DEFAULT_DESTINATION, Destination
from plindro.core.line import Line, StationLine, override
from plindro.core.stations.naming import NAMING
from plindro.web.catalogue.drafts import read_draft
from plindro.web.catalogue.entries import Kind, destination_named
from plindro.web.errors import NotFound, NotPossible
from plindro.web.house.models import Trial, TrialItem
from plindro.web.work.models import Job
from plindro.web.work.services import cancel_about, enqueue, subjects_at_work
from plindro.web.yard.building import KeyedOrder, SourceFiles, line_of, source_of
from plindro.web.yard.models import Prop

TRY = "try"
"""Kind of the jobs that try one prop."""
MOST = 12
"""Props that a trial takes."""
_KEPT = 20
"""Trials that are kept."""


def find_trial(trial_id: int) -> Trial:
    """A trial; raises ``NotFound``."""
    trial = Trial.objects.filter(pk=trial_id).first()
    if trial is None:
        raise NotFound("this trial is not there any more; try again")
    return trial


def start_trial(kind: Kind, data: dict[str, Any], prop_ids: Sequence[int]) -> Trial:
    """Try a draft on props, with their own settings; raises ``Faulty``, ``NotPossible``, ``InvalidSettings``."""
    draft = read_draft(kind, data)
    props = list(Prop.objects.filter(pk__in=prop_ids, is_removed=False).select_related("built"))
    if not props:
        raise NotPossible("choose at least one prop to try it on")
    if len(props) > MOST:
        raise NotPossible(f"a trial takes {MOST} props at most; choose fewer")
    with transaction.atomic():
        trial = Trial.objects.create(kind=kind, data=data)
        for prop in props:
            line, destination = _of_draft(draft, prop)
            item = TrialItem.objects.create(
                trial=trial,
                prop=prop,
                line=line.model_dump(mode="json"),
                destination=destination.model_dump(mode="json"),
                source=asdict(source_of(prop)),
                before=prop.built.key if prop.built else "",
            )
            enqueue(TRY, item.pk, Job.Priority.BENCH)
        old = Trial.objects.order_by("-pk").values_list("pk", flat=True)[_KEPT:]
        Trial.objects.filter(pk__in=list(old)).delete()
    return trial


def _of_draft(draft: Any, prop: Prop) -> tuple[Line, Destination]:
    """The line and the destination that a prop is tried with."""
    if isinstance(draft, Destination):
        return line_of(prop), draft
    line = override(draft, prop.own_settings).with_settings(NAMING, name=prop.name)
    return line, destination_named(DEFAULT_DESTINATION)


def order_of(item: TrialItem) -> KeyedOrder:
    """The order that builds an item."""
    line, destination = StationLine.model_validate(item.line), Destination.model_validate(item.destination)
    return KeyedOrder(SourceFiles(**item.source), line, destination)


def finish_item(item: TrialItem, key: str) -> None:
    """Note where the result is."""
    item.key, item.state = key, TrialItem.State.DONE
    item.save(update_fields=["key", "state"])


def item_ended(item: TrialItem, job: Job) -> None:
    """Note a failure or a call-off."""
    if job.state == Job.State.DONE:
        return
    item.state = TrialItem.State.FAILED if job.state == Job.State.FAILED else TrialItem.State.CANCELLED
    item.error = job.error
    item.save(update_fields=["state", "error"])


def cancel_trial(trial_id: int) -> Trial:
    """Call off what has not been tried."""
    trial = find_trial(trial_id)
    cancel_about(TRY, trial.items.values_list("pk", flat=True))
    return trial


def settle_trials() -> None:
    """An item that waits without a job gets one."""
    trying = subjects_at_work(TRY)
    for item in TrialItem.objects.filter(state=TrialItem.State.WAITING).exclude(pk__in=trying):
        enqueue(TRY, item.pk, Job.Priority.BENCH)
