"""Putting jobs in the queue, calling them off, and taking up what a stopped server left."""

from plindro.web.errors import NotThere
from plindro.web.work.models import Job


def enqueue(kind: Job.Kind, *, prop_id: int | None = None, item_id: int | None = None) -> Job:
    """A new job at the end of the queue."""
    return Job.objects.create(kind=kind, prop_id=prop_id, item_id=item_id)


def cancel_job(job_id: int) -> Job:
    """Ask a job to stop; the runner calls it off at its next look."""
    job = Job.objects.filter(pk=job_id).first()
    if job is None:
        raise NotThere(f"there is no job {job_id}")
    job.cancel_requested = True
    job.save(update_fields=["cancel_requested"])
    return job


def take_up_again() -> int:
    """After a start: what was running when the server stopped waits again; returns how many."""
    return Job.objects.filter(state=Job.State.RUNNING).update(state=Job.State.QUEUED, fraction=0.0, doing="")
