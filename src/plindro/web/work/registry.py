"""Who does what kinds of jobs: apps register their handlers here when they are ready, and the queue asks."""

from collections.abc import Callable
from concurrent.futures import Executor, Future
from dataclasses import dataclass
from typing import Any

from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel


def _nothing(job: Job) -> None:
    """A kind of job whose end concerns no other row."""


def _as_it_is(job: Job, result: Any) -> Any:
    """A kind of job whose result needs no place on the disk."""
    return result


@dataclass(frozen=True, slots=True)
class Handler:
    """How one kind of job is done.

    ``submit`` starts it. ``keep`` puts what came of it on the disk, and may be called again where the rows could not
    be written; ``finish`` writes the rows of what was kept, and ``ended`` lets other rows know that the job came to its
    end, whatever that was: both in the transaction that ends the job. ``about`` names what it is about in messages. Of
    a kind with ``tells_failure`` no row shows why it failed, so everyone is told.
    """

    submit: Callable[[Job, JobChannel, Executor], Future[Any]]
    finish: Callable[[Job, Any], None]
    about: Callable[[Job], str]
    keep: Callable[[Job, Any], Any] = _as_it_is
    ended: Callable[[Job], None] = _nothing
    tells_failure: bool = False


_handlers: dict[str, Handler] = {}
_at_start: list[Callable[[], object]] = []
_settling: list[Callable[[], object]] = []
_modules: list[str] = []


def register(kind: str, handler: Handler) -> None:
    """Name who does a kind of job."""
    _handlers[kind] = handler


def at_start(call: Callable[[], object]) -> None:
    """Name what is due when the server starts."""
    if call not in _at_start:
        _at_start.append(call)


def settles(call: Callable[[], object]) -> None:
    """Name what gives every row a job, or an end, that waits for one which is not there."""
    if call not in _settling:
        _settling.append(call)


def settle() -> None:
    """Leave no row waiting for a job that is not there."""
    for call in _settling:
        call()


def needs(module: str) -> None:
    """Name a module that workers should have loaded before the first job."""
    if module not in _modules:
        _modules.append(module)


def needed_modules() -> list[str]:
    """What workers should have loaded."""
    return list(_modules)


def start() -> None:
    """Do what is due when the server starts."""
    for call in _at_start:
        call()


def handler_of(job: Job) -> Handler:
    """Who does this job; raises ``LookupError`` where nobody does its kind."""
    try:
        return _handlers[job.kind]
    except KeyError as error:
        raise LookupError(f"nobody does jobs of the kind '{job.kind}'") from error


def kinds_that_tell() -> list[str]:
    """The kinds whose failures everyone is told."""
    return [kind for kind, handler in _handlers.items() if handler.tells_failure]
