"""Decisions on a prop: the history behind undo and redo."""

from typing import ClassVar

from django.db import models


class Decision(models.Model):
    """One decision: what it was, what was decided before and after it, and which browsers made it and took it back."""

    prop = models.ForeignKey("yard.Prop", on_delete=models.CASCADE, related_name="decisions")
    label = models.CharField(max_length=120)
    before = models.JSONField()
    after = models.JSONField()
    author = models.CharField(max_length=64, blank=True)
    is_undone = models.BooleanField(default=False)
    undone_by = models.CharField(max_length=64, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["pk"]
