"""What a station reports while it works: findings, facts, progress; and whether it should stop."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from plindro.core.errors import Cancelled
from plindro.core.findings import Finding

ProgressCallback = Callable[[float, str], None]


def _silent(fraction: float, doing: str) -> None:
    """Progress that nobody watches."""


def _never() -> bool:
    return False


@dataclass(slots=True)
class Report:
    """Collects what the stations have to say.

    ``on_progress`` receives a fraction in 0..1 and what is being done; ``is_cancelled`` is asked at every step.
    """

    on_progress: ProgressCallback = _silent
    is_cancelled: Callable[[], bool] = _never
    findings: list[Finding] = field(default_factory=list)
    facts: dict[str, Any] = field(default_factory=dict)

    def step(self, fraction: float, doing: str) -> None:
        """Report progress; raises ``Cancelled`` where the user has called the work off."""
        if self.is_cancelled():
            raise Cancelled("the work was cancelled; nothing was written")
        self.on_progress(min(max(fraction, 0.0), 1.0), doing)

    def find(self, finding: Finding) -> None:
        """Add a finding."""
        self.findings.append(finding)

    def span(self, start: float, end: float) -> "Report":
        """A report for a part of the work: same findings and facts, progress mapped to ``start``..``end``."""

        def mapped(fraction: float, doing: str) -> None:
            self.on_progress(start + (end - start) * fraction, doing)

        return Report(mapped, self.is_cancelled, self.findings, self.facts)
