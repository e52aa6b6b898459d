"""The job that imports."""

from concurrent.futures import Executor, Future
from typing import Any

from plindro.core.rehearsal.project import Imported
from plindro.web.engine import services, tasks
from plindro.web.engine.models import EngineProject
from plindro.web.engine.services import IMPORT
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.work.registry import Handler, register, settles


def _project(job: Job) -> EngineProject:
    return EngineProject.objects.get(pk=job.about)


def _submit(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return executor.submit(tasks.import_noticed, services.order_of(_project(job)), channel)


def _finish(job: Job, results: list[Imported]) -> None:
    services.imported(_project(job), results)


def _ended(job: Job) -> None:
    services.import_ended(_project(job), job)


def register_jobs() -> None:
    """Tell the queue who imports."""
    register(IMPORT, Handler(_submit, _finish, lambda job: f"the folder {_project(job).folder}", ended=_ended))
    settles(services.settle_imports)
