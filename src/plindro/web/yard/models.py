"""Props of the project and what was built of them."""

from functools import cached_property
from typing import Any, ClassVar

from django.db import models
from django.db.models.functions import Lower
from django.utils import timezone
from pydantic import ValidationError

from plindro.core.line import Facts, StationsFacts
from plindro.core.lines import DEFAULT_LINE
from plindro.core.settings_versions import CURRENT, brought_up


class Project(models.Model):
    """The one project of this installation. ``has_demo``: the demo's props were loaded into it."""

    name = models.CharField(max_length=80)
    has_demo = models.BooleanField(default=False)


class Built(models.Model):
    """The result of one source with one set of settings for one destination; found again by its key.

    ``record`` is its entry in a shipment's manifest, ``severities`` how many findings there are of each severity;
    ``used`` is when somebody last asked for it.
    """

    key = models.CharField(max_length=64, unique=True)
    name = models.CharField(max_length=100)
    status = models.CharField(max_length=8)
    facts = models.JSONField()
    findings = models.JSONField()
    severities = models.JSONField(default=dict)
    record = models.JSONField(default=dict)
    seconds = models.FloatField()
    used = models.DateTimeField(default=timezone.now)

    @cached_property
    def known_facts(self) -> Facts | None:
        """The facts; None where they are of a version whose facts are not known any more."""
        try:
            return StationsFacts.model_validate(self.facts)
        except ValidationError:
            return None


class KeptFile(models.Model):
    """A file that a build left behind, by the key of the build or of the source.

    ``digest`` is empty where it is known that there can be none.
    """

    key = models.CharField(max_length=64)
    kind = models.CharField(max_length=16)
    name = models.CharField(max_length=255, blank=True)
    digest = models.CharField(max_length=64, blank=True)

    class Meta:
        constraints: ClassVar = [models.UniqueConstraint(fields=["key", "kind", "name"], name="one_file_of_a_name")]


class Prop(models.Model):
    """One deliverable: its source files by digest, what was decided about it, and the latest result.

    ``overrides`` are its own settings by station, in the words of ``settings_version``.

    ``is_stale``: its line was changed since it was built; it is built anew when somebody asks for that.

    ``version`` counts the decisions; ``revisions`` says of each decided value in which one it was decided, and by whom.
    """

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
    line = models.CharField(max_length=64, default=DEFAULT_LINE)
    overrides = models.JSONField(default=dict)
    settings_version = models.PositiveSmallIntegerField(default=CURRENT)
    version = models.PositiveIntegerField(default=0)
    revisions = models.JSONField(default=dict)
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    error = models.TextField(blank=True)
    built = models.ForeignKey(Built, null=True, on_delete=models.SET_NULL)
    is_removed = models.BooleanField(default=False)
    is_stale = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    @property
    def own_settings(self) -> dict[str, Any]:
        """Its settings that are not its line's, as the current version has them."""
        return brought_up(self.overrides, self.settings_version)

    class Meta:
        ordering: ClassVar = [Lower("name"), "pk"]


class PropWaiver(models.Model):
    """That findings of a code do not hold a prop back, who said so, and why."""

    prop = models.ForeignKey(Prop, on_delete=models.CASCADE, related_name="waivers")
    code = models.CharField(max_length=64)
    by = models.CharField(max_length=80)
    reason = models.CharField(max_length=400)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["code"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["prop", "code"], name="one_waiver_of_a_code")]
