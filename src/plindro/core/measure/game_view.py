"""A view of the game: what a length on a prop covers in it, and from where."""

import math
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class View:
    """``lines`` over ``angle`` degrees from top to bottom.

    Distances are metres from the eye to the middle of a prop, as engines take them; ``radius`` is how far the prop
    reaches from there. What counts is its nearest place, which is seen largest.
    """

    lines: int = 1080
    angle: float = 60.0
    radius: float = 0.0

    @property
    def _height(self) -> float:
        """Metres that the view is high at a metre's distance."""
        return 2.0 * math.tan(math.radians(self.angle) / 2.0)

    def pixels(self, length: float, distance: float) -> float:
        """Pixels that a length in metres covers at most; infinite where the eye may be at it."""
        if length <= 0.0:
            return 0.0
        nearest = distance - self.radius
        return length * self.lines / (self._height * nearest) if nearest > 0.0 else math.inf

    def distance(self, length: float, pixels: float) -> float:
        """Metres from which a length covers so many pixels and no more; infinite for no pixels, none for no length."""
        if length <= 0.0:
            return 0.0
        return self.radius + length * self.lines / (self._height * pixels) if pixels > 0.0 else math.inf

    def length(self, pixels: float, distance: float) -> float:
        """Metres that cover so many pixels at most; none where the eye may be at them."""
        return pixels * self._height * max(distance - self.radius, 0.0) / self.lines

    def share(self, diameter: float, distance: float) -> float:
        """Share of the view's height that a sphere around the prop's middle covers; infinite at no distance."""
        if diameter <= 0.0:
            return 0.0
        return diameter / (self._height * distance) if distance > 0.0 else math.inf

    def distance_of_share(self, diameter: float, share: float) -> float:
        """Metres from which a sphere around the prop covers so much of the view's height; infinite for none."""
        return diameter / (self._height * share) if share > 0.0 else math.inf
