"""Reading lines and destinations with their history."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from plindro.web.catalogue.drafts import Difference, differences
from plindro.web.catalogue.entries import Kind, came_with
from plindro.web.catalogue.models import Version


@dataclass(frozen=True, slots=True)
class Past:
    """A version and what it changed; number 0 is as it came with the product, at no known time."""

    number: int
    by: str
    created: datetime | None
    changes: list[Difference]


def history(kind: Kind, name: str) -> list[Past]:
    """The versions of one, the latest first."""
    ours = came_with(kind, name)
    before: Mapping[str, Any] = ours.model_dump(mode="json") if ours else {}
    found = [Past(0, "", None, [])] if ours else []
    for row in Version.objects.filter(kind=kind, name=name):
        changes = differences(dict(before), row.data) if before else []
        found.append(Past(row.number, row.by, row.created, changes))
        before = row.data
    return found[::-1]
