"""The job that tries a draft on one prop."""

from concurrent.futures import Executor, Future
from typing import Any

from plindro.web.house import trials
from plindro.web.house.models import TrialItem
from plindro.web.house.trials import TRY
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.work.registry import Handler, register, settles
from plindro.web.yard.building import submit_order, write_result
from plindro.web.yard.models import Built
from plindro.web.yard.tasks import BuildResult


def _submit(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return submit_order(job, trials.order_of(TrialItem.objects.get(pk=job.about)), channel, executor)


def _finish(job: Job, result: BuildResult | Built) -> None:
    write_result(job.key, result)
    item = TrialItem.objects.filter(pk=job.about).first()
    if item is not None:
        trials.finish_item(item, job.key)


def _ended(job: Job) -> None:
    item = TrialItem.objects.filter(pk=job.about).first()
    if item is not None:
        trials.item_ended(item, job)


def _about(job: Job) -> str:
    item = TrialItem.objects.select_related("prop").filter(pk=job.about).first()
    return item.prop.source_name if item else "a trial"


def register_jobs() -> None:
    """Tell the queue who tries drafts."""
    register(TRY, Handler(_submit, _finish, _about, ended=_ended))
    settles(trials.settle_trials)
