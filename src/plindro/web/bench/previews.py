"""Levels as they would ship, before they are decided: where the slider rests, its level is built like any other."""

from concurrent.futures import Executor, Future
from dataclasses import replace
from typing import Any

from django.db import transaction

from plindro.core.stations.levels import LEVELS, LevelsFacts, LevelTarget
from plindro.web.bench.models import LevelPreview
from plindro.web.bench.schemas import PreviewOut
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.work.registry import Handler, register
from plindro.web.work.services import enqueue, is_active, supersede
from plindro.web.yard.building import (
    KeyedOrder,
    address_of,
    build_order,
    facts_of,
    files_of,
    find_built,
    submit_order,
    write_result,
)
from plindro.web.yard.models import Built, Prop
from plindro.web.yard.services import find_prop
from plindro.web.yard.tasks import BuildResult

PREVIEW = "preview"
CALLED_OFF = "it was called off"


def preview_order(prop: Prop, triangles: int) -> KeyedOrder:
    """The order of a prop whose only level below LOD0 has so many triangles; all else is as it is decided."""
    whole = build_order(prop)
    line = whole.line.with_settings(LEVELS, levels=(LevelTarget(triangles=triangles),), has_levels=True, states=())
    return replace(whole, line=line, is_preview=True)


def look(prop_id: int, triangles: int) -> PreviewOut:
    """The level of so many triangles where it is there; else it is being made, or cannot be and says why.

    A prop is looked at with one level at a time: another count takes the place of the one before.
    """
    prop = find_prop(prop_id)
    order = preview_order(prop, triangles)
    built = find_built(order.key)
    if built is not None:
        return _made(built)
    row = LevelPreview.objects.filter(prop=prop, key=order.key).first()
    if row is not None and row.error:
        return PreviewOut(state="failed", error=row.error)
    if row is None or not is_active(PREVIEW, prop.pk):
        with transaction.atomic():
            supersede(PREVIEW, prop.pk)
            wanted = {"triangles": triangles, "key": order.key, "error": ""}
            LevelPreview.objects.update_or_create(prop=prop, defaults=wanted)
            enqueue(PREVIEW, prop.pk, Job.Priority.BENCH)
    return PreviewOut(state="working")


def _made(built: Built) -> PreviewOut:
    facts = facts_of(built)
    chain: LevelsFacts | None = facts.of(LEVELS) if facts else None
    model = address_of(files_of(built).get(("model", "")), "glb")
    if chain is None or len(chain.levels) < 2 or model is None:
        return PreviewOut(state="failed", error="a level of so many triangles is not worth having")
    return PreviewOut(state="ready", model=model, level=chain.levels[-1])


def _submit(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    row = LevelPreview.objects.select_related("prop").get(prop=job.about)
    return submit_order(job, preview_order(row.prop, row.triangles), channel, executor)


def _finish(job: Job, result: BuildResult | Built) -> None:
    write_result(job.key, result)


def _ended(job: Job) -> None:
    """One that failed, or that its user called off, is not begun again by whoever still asks for it."""
    if job.state != Job.State.DONE and not is_active(PREVIEW, job.about):
        LevelPreview.objects.filter(prop=job.about).update(error=job.error or CALLED_OFF)


def _about(job: Job) -> str:
    return Prop.objects.get(pk=job.about).source_name


def register_jobs() -> None:
    """Tell the queue who makes previews."""
    register(PREVIEW, Handler(_submit, _finish, _about, ended=_ended))
