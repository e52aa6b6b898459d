"""All writes of shared sheets: ordering, the props that come of one, calling off."""

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from django.db import transaction

from plindro.core.names import clean_name, unique_names
from plindro.web import store
from plindro.web.errors import NotFound, NotPossible
from plindro.web.sheets.models import SharedSheet
from plindro.web.sheets.tasks import SPLIT, Member, SheetOrder, SheetResult
from plindro.web.work.models import Job
from plindro.web.work.services import cancel_about, enqueue, subjects_at_work
from plindro.web.yard.building import line_of, source_of
from plindro.web.yard.models import Prop
from plindro.web.yard.services import request_build

SHARE = "sheet"
"""Kind of the job that makes a sheet."""


def find_sheet(sheet_id: int) -> SharedSheet:
    """A shared sheet; raises ``NotFound``."""
    sheet = SharedSheet.objects.filter(pk=sheet_id).first()
    if sheet is None:
        raise NotFound(f"there is no sheet {sheet_id}")
    return sheet


def order_sheet(prop_ids: Sequence[int], name: str, options: dict[str, Any]) -> SharedSheet:
    """Order a sheet for props of the board; what is decided about them later does not change it.

    Raises ``NotPossible`` where none is there, and ``InvalidSettings`` where a prop's settings do not fit its line.
    """
    with transaction.atomic():
        props = list(Prop.objects.filter(pk__in=prop_ids, is_removed=False))
        if not props:
            raise NotPossible("choose at least one prop for the sheet")
        members = [
            {
                "name": prop.name,
                "line_name": prop.line,
                "line": line_of(prop).model_dump(mode="json"),
                "source": asdict(source_of(prop)),
            }
            for prop in props
        ]
        sheet = SharedSheet.objects.create(name=clean_name(name), members=members, options=options)
        enqueue(SHARE, sheet.pk)
    return sheet


def order_of(sheet: SharedSheet) -> SheetOrder:
    """The order as it travels to a worker."""
    members = [
        Member(
            member["name"], member["source"]["name"], member["source"]["digest"], member["source"]["side_files"],
            member["line"],
        )
        for member in sheet.members
    ]  # fmt: skip
    return SheetOrder(store.files(), sheet.name, members, **sheet.options)


def finish_sheet(sheet: SharedSheet, result: SheetResult) -> None:
    """Put the props that came of a sheet on the board; those that they were made from stay as they are."""
    taken = list(Prop.objects.filter(is_removed=False).order_by("pk").values_list("name", flat=True))
    wanted = [clean_name(f"{member['name']}_{sheet.name}") for member in sheet.members]
    names = unique_names([*taken, *wanted])[len(taken) :]
    made = []
    for member, key, name in zip(sheet.members, result.keys, names, strict=True):
        prop = Prop.objects.create(
            name=name,
            source_name=f"{sheet.name}.glb",
            source=result.digest,
            source_bytes=result.size,
            side_files={},
            line=member["line_name"],
            # It stands where its source stood, whose pivot was set already.
            overrides={"source": {"split": SPLIT, "prop": key}, "placement": {"pivot": "source"}},
        )
        request_build(prop)
        made.append(prop.pk)
    sheet.state = SharedSheet.State.DONE
    sheet.picture = result.picture
    sheet.outcome = {"before": result.before, "after": result.after, "findings": result.findings, "props": made}
    sheet.save(update_fields=["state", "outcome", "picture"])


def cancel_sheet(sheet: SharedSheet) -> None:
    """Call a sheet off that is not made yet."""
    cancel_about(SHARE, [sheet.pk])


def sheet_ended(sheet: SharedSheet, job: Job) -> None:
    """A sheet whose job failed or was called off says so."""
    if job.state == Job.State.DONE:
        return
    failed = job.state == Job.State.FAILED
    sheet.state = SharedSheet.State.FAILED if failed else SharedSheet.State.CANCELLED
    sheet.error = job.error
    sheet.save(update_fields=["state", "error"])


def settle_sheets() -> None:
    """A sheet that waits for a job which is not there gets one."""
    for sheet in SharedSheet.objects.filter(state=SharedSheet.State.RUNNING).exclude(pk__in=subjects_at_work(SHARE)):
        enqueue(SHARE, sheet.pk)
