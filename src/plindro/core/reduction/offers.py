"""One order for collapses that keep features and those that give them up.

Each edge makes two offers. The strict one keeps every feature: what lies on one goes along it. The loose one is free of
all but open borders; what it does to UVs, normals and the line of a feature is in its price. A loose collapse must cost
``PRICE`` times less than a strict one to go before it. Strict and loose passes take turns, up to a level of cost that
rises with each round.
"""

import numpy as np
from numpy.typing import NDArray

PRICE = 4.0
"""How many times more a loose collapse counts than it costs."""
RISE = 4.0
"""How many times more the collapses of a round may cost than those of the one before."""


class Offers:
    """Whose turn it is, and up to which cost. Without features inside the surface there are only loose offers."""

    def __init__(self, *, has_features: bool) -> None:
        self.is_loose = not has_features
        self.takes_turns = has_features
        self._level = 0.0
        self._next = {False: 0.0, True: 0.0}

    @property
    def cap(self) -> float:
        """What a collapse may cost in this turn."""
        if not self.takes_turns:
            return np.inf
        return self._level / PRICE if self.is_loose else self._level

    def in_order(self, cost: float) -> float:
        """What a cost of this turn counts in the one order."""
        return cost * PRICE if self.takes_turns and self.is_loose else cost

    def within(self, order: NDArray[np.int32], costs: NDArray[np.float32], limit: float) -> NDArray[np.int32]:
        """The vertices of ``order`` whose collapses this turn allows; ``limit`` is the highest cost among them."""
        if not self.takes_turns:
            return order
        if self._level == 0.0:
            self._level = limit
        least = float(costs[order].min()) if len(order) else np.inf
        self._next[self.is_loose] = least * (PRICE if self.is_loose else 1.0)
        return order if limit <= self.cap else np.ascontiguousarray(order[costs[order] <= self.cap])

    def turn(self) -> bool:
        """Go on to the other offers, or to the next round; False where there are none left."""
        if not self.takes_turns:
            return False
        if self.is_loose:
            least = min(self._next.values())
            if np.isinf(least):
                return False
            self._level = max(self._level * RISE, least)
        self.is_loose = not self.is_loose
        return True
