"""The runner: a thread that hands queued jobs to the executor and writes down what becomes of them."""

import logging
import threading
from concurrent.futures import CancelledError, Executor, Future
from concurrent.futures.process import BrokenProcessPool
from importlib import import_module
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import close_old_connections
from django.utils import timezone

from plindro.core.errors import Cancelled, PlindroError
from plindro.core.executors import make_executor
from plindro.web.work import registry
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.work.services import take_up_again

log = logging.getLogger(__name__)
TICK = 0.1
UNEXPECTED = "something went wrong; the server's log has the details"


class Runner:
    """Owns the executor. Only this thread moves jobs from waiting to running to their end."""

    def __init__(self) -> None:
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="plindro-runner", daemon=True)
        self._running: dict[int, tuple[Future[Any], JobChannel]] = {}

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        """Stop taking jobs and end the workers; running jobs wait again after the next start."""
        self._stop.set()
        self._thread.join(timeout=10)

    def _run(self) -> None:
        folder = Path(settings.RUN)
        folder.mkdir(parents=True, exist_ok=True)
        for left_over in folder.glob("*.*"):
            left_over.unlink(missing_ok=True)
        take_up_again()
        registry.start()
        while not self._stop.is_set():
            try:
                with make_executor(settings.WORKERS, settings.SCHEDULER) as executor:
                    # Workers start and load now, so that the first job need not wait for it.
                    for module in registry.needed_modules() * settings.WORKERS:
                        executor.submit(import_module, module)
                    self._serve(executor)
                    executor.shutdown(wait=False, cancel_futures=True)
            except BrokenProcessPool:
                log.exception("a worker died; its job is taken up again")
                self._running.clear()
                take_up_again()
            except Exception:
                log.exception("a pass of the runner failed; it goes on")
                self._running.clear()
                self._stop.wait(1.0)
                take_up_again()

    def _serve(self, executor: Executor) -> None:
        while not self._stop.is_set():
            for job_id in list(self._running):
                self._look_after(job_id)
            self.call_off_waiting()
            free = settings.WORKERS - len(self._running)
            if free > 0:
                for job in Job.objects.filter(state=Job.State.QUEUED)[:free]:
                    self._begin(job, executor)
            self._stop.wait(TICK)
        close_old_connections()

    def call_off_waiting(self) -> None:
        """End the jobs that were called off before they began."""
        for job in Job.objects.filter(state=Job.State.QUEUED, cancel_requested=True):
            self._end(job, Job.State.CANCELLED, "")

    def _begin(self, job: Job, executor: Executor) -> None:
        channel = JobChannel(str(settings.RUN), job.pk)
        Job.objects.filter(pk=job.pk).update(state=Job.State.RUNNING, fraction=0.0, doing="starting")
        try:
            future = registry.handler_of(job).submit(job, channel, executor)
        except PlindroError as error:
            self._end(job, Job.State.FAILED, str(error))
            return
        except LookupError:
            # Of a later version of the program: nobody here can end it either.
            job.state, job.error, job.finished = Job.State.FAILED, UNEXPECTED, timezone.now()
            job.save(update_fields=["state", "error", "finished"])
            return
        self._running[job.pk] = (future, channel)

    def _look_after(self, job_id: int) -> None:
        """Carry progress and cancellation over; write down the end."""
        future, channel = self._running[job_id]
        job = Job.objects.filter(pk=job_id).first()
        if not future.done():
            if job is None or job.cancel_requested:
                channel.cancel()
                future.cancel()
            progress = channel.read()
            if job is not None and progress is not None and progress != (job.fraction, job.doing):
                Job.objects.filter(pk=job_id).update(fraction=progress[0], doing=progress[1][:200])
            return
        del self._running[job_id]
        channel.close()
        if job is None:
            return
        try:
            registry.handler_of(job).finish(job, future.result())
        except (Cancelled, CancelledError):
            self._end(job, Job.State.CANCELLED, "")
        except PlindroError as error:
            self._end(job, Job.State.FAILED, str(error))
        except BrokenProcessPool:
            raise
        except Exception:
            log.exception("job %s (%s) failed", job.pk, job.kind)
            self._end(job, Job.State.FAILED, UNEXPECTED)
        else:
            self._end(job, Job.State.DONE, "")

    def _end(self, job: Job, state: Job.State, error: str) -> None:
        job.state, job.error, job.finished = state, error, timezone.now()
        job.fraction = 1.0 if state == Job.State.DONE else job.fraction
        job.save(update_fields=["state", "error", "finished", "fraction"])
        registry.handler_of(job).ended(job)
