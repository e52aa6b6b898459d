"""Trials: a line or a destination that is not saved yet, on a handful of props."""

from typing import ClassVar

from django.db import models


class Trial(models.Model):
    """One draft and the props that it is tried on."""

    kind = models.CharField(max_length=11)
    data = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)


class TrialItem(models.Model):
    """A prop of a trial, with what it had before and the key of what comes of it."""

    class State(models.TextChoices):
        WAITING = "waiting"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="items")
    prop = models.ForeignKey("yard.Prop", on_delete=models.CASCADE)
    line = models.JSONField()
    destination = models.JSONField()
    source = models.JSONField()
    before = models.CharField(max_length=64, blank=True)
    key = models.CharField(max_length=64, blank=True)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    error = models.TextField(blank=True)

    class Meta:
        ordering: ClassVar = ["pk"]
