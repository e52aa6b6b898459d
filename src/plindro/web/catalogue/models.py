"""Versions of lines and destinations, and the rules that choose a line."""

from typing import ClassVar

from django.db import models


class Version(models.Model):
    """A line or a destination as it was saved once. The last of a name is the one that stands, unless it ``is_gone``.

    Those that come with the product have no row until somebody changes them.
    """

    class Kind(models.TextChoices):
        LINE = "line"
        DESTINATION = "destination"

    kind = models.CharField(max_length=11, choices=Kind.choices)
    name = models.CharField(max_length=64)
    number = models.PositiveIntegerField()
    data = models.JSONField()
    by = models.CharField(max_length=40, blank=True)
    is_gone = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["kind", "name", "number"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["kind", "name", "number"], name="one_version_a_number")
        ]


class LineRule(models.Model):
    """Chooses the line of a new prop: the first whose pattern fits the name or the folder of its source."""

    class Of(models.TextChoices):
        NAME = "name"
        FOLDER = "folder"

    place = models.PositiveIntegerField()
    of = models.CharField(max_length=6, choices=Of.choices, default=Of.NAME)
    pattern = models.CharField(max_length=120)
    line = models.CharField(max_length=64)

    class Meta:
        ordering: ClassVar = ["place", "pk"]
