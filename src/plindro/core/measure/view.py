"""A view of the game: what a length covers in it, and from where."""

import math
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class View:
    """``lines`` over ``angle`` degrees from top to bottom."""

    lines: int = 1080
    angle: float = 60.0

    @property
    def _height(self) -> float:
        """Metres that the view is high at a metre's distance."""
        return 2.0 * math.tan(math.radians(self.angle) / 2.0)

    def pixels(self, length: float, distance: float) -> float:
        """Pixels that a length covers at a distance, both in metres; infinite at none."""
        return self.lines * self.share(length, distance)

    def share(self, length: float, distance: float) -> float:
        """Share of the view's height that a length covers at a distance, both in metres; infinite at none."""
        if length <= 0.0:
            return 0.0
        return length / (self._height * distance) if distance > 0.0 else math.inf

    def distance(self, length: float, pixels: float) -> float:
        """Metres from which a length covers so many pixels and no more; infinite for no pixels."""
        if length <= 0.0:
            return 0.0
        return length * self.lines / (self._height * pixels) if pixels > 0.0 else math.inf

    def length(self, pixels: float, distance: float) -> float:
        """Metres that cover so many pixels at a distance in metres."""
        return pixels * self._height * distance / self.lines
