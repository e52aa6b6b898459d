"""A line or a destination while it is edited: what is wrong with it, at which field, and what differs."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from plindro.core.settings import StationSettings
from plindro.web.catalogue.entries import MODELS, Kind
from plindro.web.errors import NotPossible


@dataclass(frozen=True, slots=True)
class Fault:
    """What is wrong with a field, by its path with dots; ``place`` is the character of a template, from 0."""

    field: str
    message: str
    place: int | None = None


@dataclass(frozen=True, slots=True)
class Difference:
    """A field that differs, by its path with dots; None where it was not there."""

    field: str
    before: Any
    after: Any


class Faulty(NotPossible):
    """A draft that cannot be saved, with its faults."""

    def __init__(self, faults: list[Fault]) -> None:
        first = faults[0]
        super().__init__(f"{first.field}: {first.message}")
        self.faults = faults


def read_draft(kind: Kind, data: dict[str, Any]) -> StationSettings:
    """The draft as a line or a destination; raises ``Faulty``."""
    try:
        return MODELS[kind].model_validate(data)
    except ValidationError as error:
        raise Faulty([_fault(row) for row in error.errors()]) from error


def _fault(row: Any) -> Fault:
    field = ".".join(str(part) for part in row["loc"])
    words = {"missing": "is missing", "extra_forbidden": "is not a setting"}
    message = words.get(row["type"], row["msg"].removeprefix("Value error, "))
    return Fault(field, message, row.get("ctx", {}).get("place"))


def differences(before: dict[str, Any], after: dict[str, Any]) -> list[Difference]:
    """The fields that differ between two saved ones, in the order of their settings."""
    return list(_differences(before, after, ""))


def _differences(before: dict[str, Any], after: dict[str, Any], path: str) -> Iterator[Difference]:
    for key in dict.fromkeys([*before, *after]):
        old, new = before.get(key), after.get(key)
        if isinstance(old, dict) and isinstance(new, dict) and (old or new):
            yield from _differences(old, new, f"{path}{key}.")
        elif old != new:
            yield Difference(f"{path}{key}", old, new)
