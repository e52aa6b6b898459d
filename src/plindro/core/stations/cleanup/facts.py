"""What Cleanup found out: what was repaired, what is left, and whether that is anything to clean."""

from pydantic import Field

from plindro.core.settings import StationFacts


class FaultCount(StationFacts):
    """How many faults of a kind, by the code of its finding."""

    code: str
    count: int


class CleanupFacts(StationFacts):
    """The faults met, and the answer of the checks after the last repair."""

    repaired: list[FaultCount]
    left: list[FaultCount]
    is_clean: bool = Field(description="nothing is left but what may be meant")
    answer: str = Field(description="one sentence")
