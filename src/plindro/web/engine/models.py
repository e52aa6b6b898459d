"""What the simulated engine has imported, and where that stands."""

from typing import ClassVar

from django.db import models


class EngineProject(models.Model):
    """A project of the simulated engine: the folder that it watches, the destination that it reads as, the bits of its
    indices. ``last`` says how many assets the last import took, ``error`` why it failed."""

    folder = models.CharField(max_length=200, unique=True)
    destination = models.CharField(max_length=64)
    indices = models.PositiveSmallIntegerField(default=16)
    is_importing = models.BooleanField(default=False)
    imports = models.PositiveIntegerField(default=0)
    error = models.TextField(blank=True)


class Asset(models.Model):
    """An imported prop: its file with that file's digest, what was seen of it, and where it stands in the scene.

    The place is kept when it is imported again. ``stamp`` counts its imports.
    """

    project = models.ForeignKey(EngineProject, on_delete=models.CASCADE, related_name="assets")
    path = models.CharField(max_length=400)
    digest = models.CharField(max_length=64)
    seen = models.JSONField(null=True)
    findings = models.JSONField(default=list)
    distances = models.JSONField(default=list)
    error = models.TextField(blank=True)
    x = models.FloatField()
    z = models.FloatField()
    turn = models.FloatField(default=0.0)
    stamp = models.PositiveIntegerField(default=1)

    class Meta:
        ordering: ClassVar = ["path"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["project", "path"], name="one_asset_of_a_path")]
