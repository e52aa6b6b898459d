"""Orders of shared sheets."""

from typing import ClassVar

from django.db import models


class SharedSheet(models.Model):
    """Props whose textures go onto one sheet, as they were decided when it was ordered.

    ``members`` holds for each its name, its line, the name of that, and its ``SourceFiles`` as plain values;
    ``options`` are those of the sheet; ``outcome`` tells what they cost before and after, what was found, and the props
    that came of it; ``picture`` is the digest of its colour map.
    """

    class State(models.TextChoices):
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    name = models.CharField(max_length=100)
    members = models.JSONField()
    options = models.JSONField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.RUNNING)
    error = models.TextField(blank=True)
    outcome = models.JSONField(default=dict)
    picture = models.CharField(max_length=64, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["-pk"]
