"""Props of the project and what was built of them."""

from typing import ClassVar

from django.db import models


class Built(models.Model):
    """The result of one source with one set of settings for one destination; found again by its key."""

    key = models.CharField(max_length=64, unique=True)
    name = models.CharField(max_length=100)
    status = models.CharField(max_length=8)
    facts = models.JSONField()
    findings = models.JSONField()
    view = models.CharField(max_length=64, blank=True)
    picture = models.CharField(max_length=64)
    files = models.JSONField(default=dict)
    sheet = models.CharField(max_length=64, blank=True)
    descent = models.CharField(max_length=64, blank=True)
    state_views = models.JSONField(default=dict)
    seconds = models.FloatField()


class SourceView(models.Model):
    """A source as it came, to look at; found by the digest of its files."""

    key = models.CharField(max_length=64, unique=True)
    view = models.CharField(max_length=64, blank=True)


class Prop(models.Model):
    """One deliverable: its source files by digest, what was decided about it, and the latest result."""

    class State(models.TextChoices):
        WAITING = "waiting"
        WORKING = "working"
        BUILT = "built"
        FAILED = "failed"

    name = models.CharField(max_length=64)
    source_name = models.CharField(max_length=255)
    source = models.CharField(max_length=64)
    source_bytes = models.BigIntegerField()
    side_files = models.JSONField(default=dict)
    line = models.CharField(max_length=64, default="standing")
    overrides = models.JSONField(default=dict)
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    error = models.TextField(blank=True)
    built = models.ForeignKey(Built, null=True, on_delete=models.SET_NULL)
    is_removed = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering: ClassVar = ["name", "pk"]
