"""A finding: one result of a check, with its severity, count and the places where it is."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

PLACE_LIMIT = 200
"""At most this many places of one finding are kept; its count stays the true one."""
_NEXT_UNIT = 999.5
"""What rounds to a thousand has four digits."""
_NO_LENGTH = 5e-8
"""Metres below which a length is none: a ten-thousandth of a millimetre would be the last digit."""


class Severity(StrEnum):
    """How much a finding matters: ``stop`` holds a prop back, ``warning`` wants a look, ``info`` informs."""

    STOP = "stop"
    WARNING = "warning"
    INFO = "info"


@dataclass(frozen=True, slots=True)
class Places:
    """Where a finding is: ``points`` is (n, k, 3) float32 metres, k = 1 vertices, 2 edges, 3 triangles."""

    kind: Literal["vertices", "edges", "triangles"]
    points: NDArray[np.float32]

    @classmethod
    def of(cls, points: NDArray[Any]) -> "Places":
        """Places from (n, 3) vertices, (n, 2, 3) edges or (n, 3, 3) triangles, cut at ``PLACE_LIMIT``."""
        shaped = points[:, None, :] if points.ndim == 2 else points
        kinds: dict[int, Literal["vertices", "edges", "triangles"]] = {1: "vertices", 2: "edges", 3: "triangles"}
        finite = np.isfinite(shaped).all(axis=(1, 2))
        return cls(kinds[shaped.shape[1]], np.ascontiguousarray(shaped[finite][:PLACE_LIMIT], np.float32))


@dataclass(frozen=True, slots=True)
class Finding:
    """One result of a check. ``level`` and ``part`` are None where the finding is about the whole prop.

    ``station`` is the one that found it or that can repair it; None where it is about the shipped file.
    """

    code: str
    severity: Severity
    message: str
    count: int = 1
    level: int | None = None
    part: str | None = None
    places: Places | None = None
    station: str | None = None

    def as_dict(self, *, with_places: bool = False) -> dict[str, Any]:
        """The finding as plain JSON values; places only when asked for."""
        row: dict[str, Any] = {
            "station": self.station,
            "code": self.code,
            "severity": self.severity.value,
            "message": self.message,
            "count": self.count,
            "level": self.level,
            "part": self.part,
        }
        if with_places:
            row["places"] = (
                None
                if self.places is None
                else {"kind": self.places.kind, "points": self.places.points.round(5).tolist()}
            )
        return row


def grouped(number: int) -> str:
    """A count as it is read: 12345 → "12 345" with thin spaces."""
    return f"{number:,}".replace(",", "\u202f")


def counted(number: int, one: str, many: str = "") -> str:
    """How many of what, in the number that it has: 1 hole, 3 holes."""
    return f"{grouped(number)} {one if number == 1 else many or one + 's'}"


def metres(value: float) -> str:
    """A distance as it is read, with three digits: 0.123 m, 12.3 m, 12.3 km."""
    return f"{value:.3g} m" if value < _NEXT_UNIT else f"{value / 1000:.3g} km"


def length(value: float) -> str:
    """A length in the unit that suits it, with three digits: 0.42 mm, 17 mm, 0.62 m, 1.3 km."""
    if value >= _NEXT_UNIT:
        return f"{value / 1000:.3g} km"
    if value < _NO_LENGTH:
        return "0 mm"
    return f"{value:.3g} m" if value >= 0.1 else f"{1000 * value:.3g} mm"


def holds_back(findings: Iterable[Finding], waived: frozenset[str] = frozenset()) -> bool:
    """Whether a finding among these keeps the prop from shipping; those of ``waived`` codes do not."""
    return any(finding.severity is Severity.STOP and finding.code not in waived for finding in findings)
