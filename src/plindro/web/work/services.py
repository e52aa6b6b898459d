"""Putting jobs in the queue, calling them off, and taking up what a stopped server left."""

import threading
from collections.abc import Iterable

from django.db import transaction
from django.db.models import QuerySet

from plindro.web.errors import NotFound
from plindro.web.work.models import Job

wake = threading.Event()
"""Set whenever there is something new for the runner, which sleeps while there is nothing to do."""


def _wake_after_this() -> None:
    transaction.on_commit(wake.set)


def enqueue(kind: str, subject: int | None = None, priority: Job.Priority = Job.Priority.BOARD) -> Job:
    """A new job behind those of its priority, about a row of the kind's own."""
    _wake_after_this()
    return Job.objects.create(kind=kind, subject=subject, priority=priority)


def waiting() -> QuerySet[Job]:
    """The queue, in the order in which it is worked off."""
    return Job.objects.filter(state=Job.State.QUEUED).order_by("priority", "pk")


def cancel_job(job_id: int) -> Job:
    """Ask a job to stop; the runner calls it off at its next look."""
    job = Job.objects.filter(pk=job_id).first()
    if job is None:
        raise NotFound(f"there is no job {job_id}")
    job.cancel_requested = True
    job.save(update_fields=["cancel_requested"])
    _wake_after_this()
    return job


def cancel_about(kind: str, subjects: Iterable[int]) -> None:
    """Ask all jobs of a kind about these rows to stop."""
    _wake_after_this()
    Job.objects.filter(kind=kind, subject__in=list(subjects), state__in=Job.ACTIVE).update(cancel_requested=True)


def is_active(kind: str, subject: int) -> bool:
    """Whether a job of a kind about a row waits or runs."""
    return Job.objects.filter(kind=kind, subject=subject, state__in=Job.ACTIVE).exists()


def subjects_at_work(kind: str) -> set[int]:
    """The rows that jobs of a kind are about which wait or run."""
    subjects = Job.objects.filter(kind=kind, state__in=Job.ACTIVE).values_list("subject", flat=True)
    return {subject for subject in subjects if subject is not None}


def supersede(kind: str, subject: int) -> None:
    """A newer job takes the place of those about the same row: one that waits goes, one that runs is asked to stop."""
    about = Job.objects.filter(kind=kind, subject=subject)
    about.filter(state=Job.State.QUEUED).update(state=Job.State.CANCELLED)
    about.filter(state=Job.State.RUNNING).update(cancel_requested=True)


def take_up_again(besides: Iterable[int] = ()) -> int:
    """What is said to run and is not among those that do waits again, as after a stop; returns how many."""
    return (
        Job.objects.filter(state=Job.State.RUNNING)
        .exclude(pk__in=list(besides))
        .update(state=Job.State.QUEUED, fraction=0.0, doing="")
    )
