"""Jobs: rows are the queue and the truth about what is being done."""

from typing import ClassVar

from django.db import models


class Job(models.Model):
    """One piece of work outside a request."""

    class Kind(models.TextChoices):
        BUILD = "build"
        SHIP = "ship"
        ROCK = "rock"

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    ACTIVE: ClassVar = (State.QUEUED, State.RUNNING)

    kind = models.CharField(max_length=8, choices=Kind.choices)
    prop = models.ForeignKey("yard.Prop", null=True, on_delete=models.CASCADE, related_name="jobs")
    item = models.ForeignKey("shipping.ShipmentItem", null=True, on_delete=models.CASCADE, related_name="jobs")
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    key = models.CharField(max_length=64, blank=True)
    cancel_requested = models.BooleanField(default=False)
    fraction = models.FloatField(default=0.0)
    doing = models.CharField(max_length=200, blank=True)
    error = models.TextField(blank=True)
    created = models.DateTimeField(auto_now_add=True)
    finished = models.DateTimeField(null=True)

    class Meta:
        ordering: ClassVar = ["pk"]
        indexes: ClassVar = [models.Index(fields=["state", "id"])]
