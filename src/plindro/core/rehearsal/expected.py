"""What a manifest beside the files says of a prop."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Expected:
    """A prop's size and lowest corner in metres, Y up, and the triangles and the parts of its levels."""

    size: tuple[float, float, float] | None = None
    lowest: tuple[float, float, float] | None = None
    triangles: tuple[int, ...] = ()
    parts: tuple[tuple[str, ...], ...] = ()

    @property
    def bounds(self) -> list[list[float]] | None:
        """The lowest and the highest corner, as a manifest has them, in micrometres at the finest."""
        if self.size is None or self.lowest is None:
            return None
        high = [round(low + side, 6) for low, side in zip(self.lowest, self.size, strict=True)]
        return [[round(low, 6) for low in self.lowest], high]

    @classmethod
    def of(cls, record: Mapping[str, Any]) -> "Expected":
        """From a prop's entry in a manifest; what it lacks is not looked at."""
        box, levels = record.get("bounds"), record.get("levels", ())
        parts = tuple(tuple(level.get("parts", ())) for level in levels)
        triangles = tuple(int(level["triangles"]) for level in levels)
        if not box:
            return cls(triangles=triangles, parts=parts)
        low, high = box
        size = (high[0] - low[0], high[1] - low[1], high[2] - low[2])
        return cls(size, (low[0], low[1], low[2]), triangles, parts)
