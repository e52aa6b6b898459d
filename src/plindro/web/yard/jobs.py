"""The Yard's jobs: building a prop, and growing the demo's dense rock."""

from concurrent.futures import Executor, Future
from typing import Any

from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.work.registry import Handler, at_start, needs, register
from plindro.web.work.services import is_active
from plindro.web.yard.building import build_order, keep_result, submit_order
from plindro.web.yard.models import Built, Prop
from plindro.web.yard.services import BUILD, ROCK, build_outdated, import_upload
from plindro.web.yard.tasks import BuildResult
from plindro.web.yard.uploads import SortedUpload


def _submit_build(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return submit_order(job, build_order(Prop.objects.get(pk=job.about)), channel, executor)


def _finish_build(job: Job, result: BuildResult | Built) -> None:
    """Keep the result; it becomes the prop's where nothing was decided otherwise meanwhile."""
    prop = Prop.objects.get(pk=job.about)
    built = keep_result(job.key, prop, result)
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


def grow_rock(channel: JobChannel) -> bytes:
    """The dense rock of the demo as GLB bytes."""
    from plindro.demo import build_rock

    channel.report().step(0.1, "growing a rock of a million triangles")
    return build_rock()


def _submit_rock(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return executor.submit(grow_rock, channel)


def _finish_rock(job: Job, data: bytes) -> None:
    import_upload(SortedUpload(sources={"skerry_rock.glb": data}))


def register_jobs() -> None:
    """Tell the queue who does the Yard's jobs."""
    register(BUILD, Handler(_submit_build, _finish_build, _build_ended))
    register(ROCK, Handler(_submit_rock, _finish_rock, tells_failure=True))
    at_start(build_outdated)
    needs("plindro.web.yard.tasks")
