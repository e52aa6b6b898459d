"""What a station reports while it works: findings, facts, progress; and whether it should stop."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import TypeVar

from plindro.core.errors import Cancelled
from plindro.core.findings import Finding
from plindro.core.settings import StationFacts

ProgressCallback = Callable[[float, str], None]
F = TypeVar("F", bound=StationFacts)


def _silent(fraction: float, doing: str) -> None:
    """Progress that nobody watches."""


def _never() -> bool:
    return False


@dataclass(slots=True)
class Collected:
    """What the reports of one station share: its findings, and its facts once it has stated them."""

    findings: list[Finding] = field(default_factory=list)
    facts: StationFacts | None = None


@dataclass(slots=True)
class Report:
    """Collects what a station has to say.

    ``on_progress`` receives a fraction in 0..1 and what is being done; ``is_cancelled`` is asked at every step.
    ``station`` is stamped on the findings that do not name one themselves.
    """

    on_progress: ProgressCallback = _silent
    is_cancelled: Callable[[], bool] = _never
    station: str | None = None
    collected: Collected = field(default_factory=Collected)

    @property
    def findings(self) -> list[Finding]:
        return self.collected.findings

    def step(self, fraction: float, doing: str) -> None:
        """Report progress; raises ``Cancelled`` where the user has called the work off."""
        if self.is_cancelled():
            raise Cancelled("the work was cancelled; nothing was written")
        self.on_progress(min(max(fraction, 0.0), 1.0), doing)

    def find(self, finding: Finding) -> None:
        """Add a finding."""
        if finding.station is None and self.station is not None:
            finding = replace(finding, station=self.station)
        self.collected.findings.append(finding)

    def state(self, facts: StationFacts) -> None:
        """State the station's facts; a later step of the station may state them anew."""
        self.collected.facts = facts

    def stated(self, kind: type[F]) -> F:
        """The facts stated so far; raises ``LookupError`` where there are none of this kind."""
        if not isinstance(self.collected.facts, kind):
            raise LookupError(f"no {kind.__name__} have been stated")
        return self.collected.facts

    def span(self, start: float, end: float) -> "Report":
        """A report for a part of the work: same findings and facts, progress mapped to ``start``..``end``."""

        def mapped(fraction: float, doing: str) -> None:
            self.on_progress(start + (end - start) * fraction, doing)

        return Report(mapped, self.is_cancelled, self.station, self.collected)

    def apart(self, start: float, end: float, station: str | None = None) -> "Report":
        """As ``span``, with findings and facts of its own, for a station."""
        inner = self.span(start, end)
        inner.station, inner.collected = station, Collected()
        return inner
