"""The runner: a thread that hands queued jobs to the executor and writes down what becomes of them."""

import logging
import threading
import time
from collections.abc import Callable
from concurrent.futures import CancelledError, Executor, Future
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.exceptions import ObjectDoesNotExist
from django.db import DatabaseError, IntegrityError, close_old_connections, transaction
from django.db.models import F
from django.utils import timezone

from plindro.core.errors import Cancelled, PlindroError
from plindro.core.executors import WorkStopped, make_executor, result_of
from plindro.core.worker_pool import WorkerLimits
from plindro.web.errors import UNEXPECTED, storage_words
from plindro.web.work import registry
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.work.services import take_up_again, waiting, wake

log = logging.getLogger(__name__)
TICK = 0.1
REST = 5.0
"""Seconds between two looks at a queue that nobody has put anything into."""
PAUSE = 1.0
"""Seconds to wait after something failed that is not a job's doing, as a disk that is full."""
SETTLE = 30.0
"""Seconds between two looks for rows that wait for a job which is not there."""
GRACE = 1.0
"""Seconds for work that was called off to stop of itself, before its process is ended."""
GONE = "what it was about is not there any more"


@dataclass(slots=True)
class _Running:
    future: Future[Any]
    channel: JobChannel
    called_off: float | None = None


@dataclass(frozen=True, slots=True)
class _End:
    """How a job ends: with what was kept of its result, or with a sentence why there is none."""

    state: Job.State
    error: str = ""
    kept: Any = None


class Runner:
    """Owns the executor. Only this thread moves jobs from waiting to running to their end."""

    def __init__(self) -> None:
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="plindro-runner", daemon=True)
        self._running: dict[int, _Running] = {}
        self._settled = 0.0
        self._limits = WorkerLimits(settings.JOB_SECONDS, settings.WORKER_MEMORY, settings.WORKER_NICENESS)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        """Stop taking jobs and end the workers; running jobs wait again after the next start."""
        self._stop.set()
        wake.set()
        self._thread.join(timeout=10)

    def _run(self) -> None:
        while not self._stop.is_set() and not self._does(self._take_over):
            self._stop.wait(PAUSE)
        while not self._stop.is_set():
            self._does(self._with_executor)
            self._running.clear()
            self._does(take_up_again)
            self._stop.wait(PAUSE)
        close_old_connections()

    def _take_over(self) -> None:
        """Begin with what a stopped server left."""
        folder = Path(settings.RUN)
        folder.mkdir(parents=True, exist_ok=True)
        for left_over in folder.glob("*.*"):
            left_over.unlink(missing_ok=True)
        take_up_again()
        registry.start()

    def _with_executor(self) -> None:
        modules = registry.needed_modules()
        with make_executor(settings.WORKERS, settings.SCHEDULER, limits=self._limits, modules=modules) as executor:
            steps = (self._look_after_running, self.call_off_waiting, partial(self._fill, executor), self._settle)
            try:
                while not self._stop.is_set():
                    went_well = [self._does(step) for step in steps]
                    if not all(went_well):
                        self._stop.wait(PAUSE)
                    elif self._running:
                        self._stop.wait(TICK)
                    else:
                        self._rest()
            finally:
                executor.shutdown(wait=False, cancel_futures=True)

    def _rest(self) -> None:
        """Until there is something to do; a job of another process is seen a little later."""
        wake.wait(REST)
        wake.clear()

    @staticmethod
    def _does(step: Callable[[], object]) -> bool:
        """Take a step; what fails in it is logged and never ends the runner."""
        try:
            step()
        except (OSError, DatabaseError) as error:
            log.error("%s: %s", storage_words(error) or UNEXPECTED, error)
        except Exception:
            log.exception("a step of the runner failed; it goes on")
        else:
            return True
        return False

    def _settle(self) -> None:
        if time.monotonic() - self._settled > SETTLE:
            # Begun, but the database failed before anything ran.
            take_up_again(besides=self._running)
            registry.settle()
            self._settled = time.monotonic()

    def _look_after_running(self) -> None:
        for job_id in list(self._running):
            self._look_after(job_id)

    def call_off_waiting(self) -> None:
        """End the jobs that were called off before they began."""
        for job in waiting().filter(cancel_requested=True):
            self._end(job, _End(Job.State.CANCELLED))

    def _fill(self, executor: Executor) -> None:
        free = settings.WORKERS - len(self._running)
        for job in waiting()[: max(free, 0)]:
            self._begin(job, executor)

    def _begin(self, job: Job, executor: Executor) -> None:
        channel = JobChannel(str(settings.RUN), job.pk)
        Job.objects.filter(pk=job.pk).update(
            state=Job.State.RUNNING, fraction=0.0, doing="starting", attempts=F("attempts") + 1
        )
        job.refresh_from_db()
        try:
            future = registry.handler_of(job).submit(job, channel, executor)
        except Exception as error:
            self._end(job, _ended_by(error, job))
            return
        self._running[job.pk] = _Running(future, channel)

    def _look_after(self, job_id: int) -> None:
        """Carry progress and cancellation over; write down the end."""
        running = self._running[job_id]
        job = Job.objects.filter(pk=job_id).first()
        if not running.future.done():
            if job is None or job.cancel_requested:
                self._call_off(running)
            progress = running.channel.read()
            if job is not None and progress is not None and progress != (job.fraction, job.doing):
                Job.objects.filter(pk=job_id).update(fraction=progress[0], doing=progress[1][:200])
            return
        if job is not None:
            # Where the rows cannot be written now this raises, and is done again at the next look.
            self._end(job, self._outcome(job, running.future))
        del self._running[job_id]
        running.channel.close()

    @staticmethod
    def _call_off(running: _Running) -> None:
        """Ask the work to stop, and after a while stop it."""
        if running.called_off is None:
            running.called_off = time.monotonic()
            running.channel.cancel()
        if not running.future.running() or time.monotonic() - running.called_off > GRACE:
            running.future.cancel()

    def _outcome(self, job: Job, future: Future[Any]) -> _End:
        """How a job ended; what came of it is on the disk by then."""
        try:
            return _End(Job.State.DONE, kept=registry.handler_of(job).keep(job, result_of(future, self._limits)))
        except Exception as error:
            return _ended_by(error, job)

    def _end(self, job: Job, end: _End) -> None:
        """Write a job's end and everything that follows from it, all or nothing."""
        try:
            with transaction.atomic():
                if end.state == Job.State.DONE:
                    registry.handler_of(job).finish(job, end.kept)
                is_over = end.state != Job.State.QUEUED
                job.state, job.error, job.finished = end.state, end.error, timezone.now() if is_over else None
                job.fraction = 1.0 if end.state == Job.State.DONE else job.fraction
                job.save(update_fields=["state", "error", "finished", "fraction"])
                if is_over:
                    registry.handler_of(job).ended(job)
        except IntegrityError:
            # No room is made by trying again: what it gave does not go together with the rows.
            if end.state != Job.State.DONE:
                raise
            log.exception("job %s (%s) gave what cannot be written down", job.pk, job.kind)
            self._end(job, _End(Job.State.FAILED, UNEXPECTED))
        except DatabaseError:
            raise
        except Exception as error:
            if end.state == Job.State.DONE:
                self._end(job, _ended_by(error, job))
                return
            log.exception("the end of job %s (%s) concerns rows that are not there", job.pk, job.kind)
            Job.objects.filter(pk=job.pk).update(state=end.state, error=end.error, finished=timezone.now())


def _ended_by(error: Exception, job: Job) -> _End:
    """What an error makes of a job."""
    if isinstance(error, DatabaseError):
        raise error
    if isinstance(error, Cancelled | CancelledError):
        return _End(Job.State.CANCELLED)
    if isinstance(error, WorkStopped):
        if job.cancel_requested:
            return _End(Job.State.CANCELLED)
        if error.may_be_tried_again and job.attempts < settings.ATTEMPTS:
            return _End(Job.State.QUEUED)
        return _End(Job.State.FAILED, f"{_about(job)}: {error}")
    if isinstance(error, PlindroError):
        return _End(Job.State.FAILED, str(error))
    if isinstance(error, ObjectDoesNotExist):
        return _End(Job.State.FAILED, GONE)
    if words := storage_words(error):
        return _End(Job.State.FAILED, words)
    log.error("job %s (%s) failed", job.pk, job.kind, exc_info=error)
    return _End(Job.State.FAILED, UNEXPECTED)


def _about(job: Job) -> str:
    try:
        return registry.handler_of(job).about(job)
    except (LookupError, ObjectDoesNotExist):
        return f"job {job.pk}"
