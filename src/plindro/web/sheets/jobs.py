"""The job that makes a shared sheet."""

from concurrent.futures import Executor, Future
from typing import Any

from plindro.web.sheets import services, tasks
from plindro.web.sheets.models import SharedSheet
from plindro.web.sheets.services import SHARE
from plindro.web.sheets.tasks import SheetResult
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.work.registry import Handler, register, settles


def _sheet(job: Job) -> SharedSheet:
    return SharedSheet.objects.get(pk=job.about)


def _submit(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return executor.submit(tasks.share, services.order_of(_sheet(job)), channel)


def _finish(job: Job, result: SheetResult) -> None:
    services.finish_sheet(_sheet(job), result)


def _ended(job: Job) -> None:
    services.sheet_ended(_sheet(job), job)


def register_jobs() -> None:
    """Tell the queue who makes sheets."""
    register(SHARE, Handler(_submit, _finish, lambda job: f"the sheet {_sheet(job).name}", ended=_ended))
    settles(services.settle_sheets)
