"""Up to where a run held every feature, and from where on it gave some up."""

import numpy as np
from numpy.typing import NDArray

_SOME = 0.05
"""How many vertices loose collapses took off features, as a share of those that are on some: from there on features
count as given up."""


class GivenUp:
    """What loose turns took off features.

    ``held_until`` : the step at which the first turn began that took any; ``steps`` : those from which on some hard
    edges, and some seams, were given up; shorter where it never came to that.
    """

    def __init__(self) -> None:
        self.held_until = np.iinfo(np.int32).max
        self.steps: list[int] = []
        self._began = 0
        self._before, self._lost = np.zeros((2, 2), np.int64)

    @property
    def is_known(self) -> bool:
        """Whether there is nothing more to find out."""
        return len(self.steps) == 2

    def begin(self, step: int, on_features: NDArray[np.int64]) -> None:
        """A loose turn begins: how many vertices are on features, and how many of them not only for their normals."""
        self._began, self._before = step, on_features

    def end(self, on_features: NDArray[np.int64]) -> None:
        """It ends with so many."""
        lost = np.maximum(self._before - on_features, 0)
        if lost.any():
            self.held_until = min(self.held_until, self._began)
        self._lost += lost
        some = self._lost > _SOME * self._before
        if some.any() and not self.steps:
            self.steps.append(self._began)
        if some[1]:
            self.steps.append(self._began)
