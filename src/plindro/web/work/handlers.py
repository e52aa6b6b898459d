"""What each kind of job submits to the executor, and what its end means for the rows."""

from collections.abc import Callable
from concurrent.futures import Executor, Future
from dataclasses import dataclass
from typing import Any

from plindro.web.shipping import services as shipping
from plindro.web.work import tasks
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.yard import services as yard


@dataclass(frozen=True, slots=True)
class _Handler:
    submit: Callable[[Job, JobChannel, Executor], Future[Any]]
    finish: Callable[[Job, Any], None]
    ended: Callable[[Job], None]


def _submit_build(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    assert job.prop is not None
    return _built_or_submit(job, yard.build_order(job.prop), channel, executor)


def _submit_ship(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    assert job.item is not None
    return _built_or_submit(job, shipping.build_order(job.item), channel, executor)


def _built_or_submit(job: Job, order: yard.KeyedOrder, channel: JobChannel, executor: Executor) -> Future[Any]:
    """A result that is already there is taken; everything else is built. The job remembers whose result it is."""
    job.key = order.key
    job.save(update_fields=["key"])
    known = yard.find_built(order.key)
    if known is None:
        return executor.submit(tasks.build, order.order(), channel)
    ready: Future[Any] = Future()
    ready.set_result(known)
    return ready


def _submit_rock(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return executor.submit(tasks.rock, channel)


def _nothing(job: Job) -> None:
    """A kind of job whose end concerns no other row."""


_HANDLERS = {
    Job.Kind.BUILD: _Handler(_submit_build, yard.finish_build, yard.build_ended),
    Job.Kind.SHIP: _Handler(_submit_ship, shipping.finish_item, shipping.item_ended),
    Job.Kind.ROCK: _Handler(_submit_rock, yard.finish_rock, _nothing),
}


def begin() -> None:
    """What is due when the server starts."""
    yard.build_outdated()


def submit(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    """Start a job's work."""
    return _HANDLERS[Job.Kind(job.kind)].submit(job, channel, executor)


def finish(job: Job, result: Any) -> None:
    """Write down a job's result."""
    _HANDLERS[Job.Kind(job.kind)].finish(job, result)


def ended(job: Job) -> None:
    """Let other rows know that a job has come to its end, whatever it was."""
    _HANDLERS[Job.Kind(job.kind)].ended(job)
