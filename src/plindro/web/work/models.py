"""Jobs: rows are the queue and the truth about what is being done."""

from typing import ClassVar

from django.db import models


class Job(models.Model):
    """One piece of work outside a request; ``subject`` is the row that it is about, as its kind numbers them.

    ``attempts`` counts how often it was begun.
    """

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    ACTIVE: ClassVar = (State.QUEUED, State.RUNNING)

    class Priority(models.IntegerChoices):
        """What somebody waits for at the Bench comes before what was dropped on the board, and that before a batch."""

        BENCH = 0
        BOARD = 1
        BATCH = 2

    kind = models.CharField(max_length=16)
    subject = models.BigIntegerField(null=True)
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    key = models.CharField(max_length=64, blank=True)
    priority = models.SmallIntegerField(choices=Priority.choices, default=Priority.BOARD)
    attempts = models.PositiveSmallIntegerField(default=0)
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
            models.Index(fields=["state", "priority", "id"], name="work_job_queue_idx"),
            models.Index(fields=["kind", "subject"], name="work_job_kind_subject_idx"),
        ]
