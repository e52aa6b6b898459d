"""Waivers: a stop that a named person answers for, so that the prop ships all the same."""

from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass
from typing import Any

from plindro.core.errors import InvalidSettings
from plindro.core.findings import Finding, Severity

NEVER = frozenset({
    "file-name-taken", "name-reserved", "no-faces", "non-finite-positions", "non-finite-uvs", "nothing-chosen",
    "nothing-left", "part-gone", "source-unreadable", "levels-missing", "level-empty",
})  # fmt: skip
"""Codes of findings after which there is nothing to ship, or no place for it."""


@dataclass(frozen=True, slots=True)
class Waiver:
    """That findings of a code do not hold a prop back, who said so, and why."""

    code: str
    by: str
    reason: str

    def __post_init__(self) -> None:
        if self.code in NEVER:
            raise InvalidSettings(f"{self.code} cannot be waived: there would be nothing to ship; mend it")
        if not self.by.strip() or not self.reason.strip():
            raise InvalidSettings("a waiver needs a name and a reason")


def codes_of(waivers: Iterable[Waiver]) -> frozenset[str]:
    """The codes that are waived."""
    return frozenset(waiver.code for waiver in waivers)


def open_codes(findings: Iterable[Mapping[str, Any]], waivers: Iterable[Waiver]) -> set[str]:
    """The codes of stops, as a record has them, that are not waived and may be."""
    stops = {str(finding["code"]) for finding in findings if finding["severity"] == Severity.STOP.value}
    return stops - NEVER - codes_of(waivers)


def applied(waivers: Iterable[Waiver], findings: Iterable[Finding]) -> list[dict[str, Any]]:
    """The waivers without which a prop would be held back, as its record tells them."""
    stops = {finding.code for finding in findings if finding.severity is Severity.STOP}
    return [asdict(waiver) for waiver in waivers if waiver.code in stops]
