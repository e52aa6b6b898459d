"""Decisions on a prop, the history behind undo and redo; and what is looked at before it is decided."""

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


class LevelPreview(models.Model):
    """The level that a prop is being looked at with: its triangles, and why it could not be made, if it could not."""

    prop = models.OneToOneField("yard.Prop", on_delete=models.CASCADE, related_name="level_preview")
    triangles = models.PositiveIntegerField()
    key = models.CharField(max_length=64)
    error = models.TextField(blank=True)
