"""Jobs: rows are the queue and the truth about what is being done."""

from typing import ClassVar

from django.db import models


class Job(models.Model):
    """One piece of work outside a request; ``subject`` is the row that it is about, as its kind numbers them."""

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    ACTIVE: ClassVar = (State.QUEUED, State.RUNNING)

    kind = models.CharField(max_length=16)
    subject = models.BigIntegerField(null=True)
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    key = models.CharField(max_length=64, blank=True)
    cancel_requested = models.BooleanField(default=False)
    fraction = models.FloatField(default=0.0)
    doing = models.CharField(max_length=200, blank=True)
    error = models.TextField(blank=True)
    created = models.DateTimeField(auto_now_add=True)
    finished = models.DateTimeField(null=True)

    @property
    def about(self) -> int:
        """The row that it is about; raises ``LookupError`` where it is about none."""
        if self.subject is None:
            raise LookupError(f"job {self.pk} is about nothing")
        return self.subject

    class Meta:
        ordering: ClassVar = ["pk"]
        indexes: ClassVar = [
            models.Index(fields=["state", "id"]),
            models.Index(fields=["kind", "subject"], name="work_job_kind_subject_idx"),
        ]
