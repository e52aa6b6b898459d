"""Decisions on a prop: the history behind undo and redo."""

from typing import ClassVar

from django.db import models


class Decision(models.Model):
    """One decision: what it was, and what was decided before and after it."""

    prop = models.ForeignKey("yard.Prop", on_delete=models.CASCADE, related_name="decisions")
    label = models.CharField(max_length=120)
    before = models.JSONField()
    after = models.JSONField()
    is_undone = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["pk"]
