"""The Yard's jobs: building a prop, and growing the demo's dense rock."""

from concurrent.futures import Executor, Future
from pathlib import Path
from typing import Any

from django.conf import settings

from plindro.web import store
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.work.registry import Handler, at_start, needs, register, settles
from plindro.web.work.services import is_active, subjects_at_work
from plindro.web.yard import tasks
from plindro.web.yard.building import build_order, submit_order, write_result
from plindro.web.yard.models import Built, Prop
from plindro.web.yard.services import BUILD, ROCK, build_outdated, import_bytes, request_build_or_say_why
from plindro.web.yard.tasks import BuildResult


def _submit_build(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return submit_order(job, build_order(Prop.objects.get(pk=job.about)), channel, executor)


def _finish_build(job: Job, result: BuildResult | Built) -> None:
    """Write the result down; it becomes the prop's where nothing was decided otherwise meanwhile."""
    built = write_result(job.key, result)
    prop = Prop.objects.get(pk=job.about)
    if build_order(prop).key != job.key:
        return
    prop.built, prop.state, prop.error = built, Prop.State.BUILT, ""
    prop.save(update_fields=["built", "state", "error", "changed"])


def _build_ended(job: Job) -> None:
    """A build that failed or was called off leaves the prop saying so, its last result in place.

    A prop that no longer waits for a build was decided otherwise meanwhile, and has the result of that.
    """
    prop = Prop.objects.filter(pk=job.about, state=Prop.State.WORKING).first()
    if prop is None or job.state == Job.State.DONE or is_active(BUILD, prop.pk):
        return
    prop.state = Prop.State.FAILED if job.state == Job.State.FAILED else Prop.State.WAITING
    prop.error = job.error
    prop.save(update_fields=["state", "error", "changed"])


def _submit_rock(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return executor.submit(tasks.grow_rock, channel)


def _finish_rock(job: Job, data: bytes) -> None:
    import_bytes({"skerry_rock.glb": data})


def _source_of(job: Job) -> str:
    return Prop.objects.get(pk=job.about).source_name


def settle_props() -> None:
    """A prop that waits for a build without a job gets its result, or a job."""
    building = subjects_at_work(BUILD)
    for prop in Prop.objects.filter(state=Prop.State.WORKING, is_removed=False).exclude(pk__in=building):
        request_build_or_say_why(prop)


def _remove_unfinished() -> None:
    for folder in (settings.FILES, settings.SHIPMENTS):
        store.Store(Path(folder)).remove_unfinished()


def register_jobs() -> None:
    """Tell the queue who does the Yard's jobs."""
    register(BUILD, Handler(_submit_build, _finish_build, _source_of, ended=_build_ended))
    register(ROCK, Handler(_submit_rock, _finish_rock, lambda job: "the rock", tells_failure=True))
    at_start(_remove_unfinished)
    at_start(build_outdated)
    settles(settle_props)
    needs("plindro.web.yard.tasks")
