"""How a receiving engine takes numbers of a file: its axes, unit and winding."""

from dataclasses import dataclass

import numpy as np

from plindro.core.destinations import METRES, Destination
from plindro.core.rehearsal.found import F64, I64


@dataclass(frozen=True, slots=True)
class Axes:
    """``up`` y or z, ``left``-handed or not, ``metres`` of a unit, the ``scale`` besides it that is taken
    back, faces ``clockwise`` or not."""

    up: str = "y"
    left: bool = False
    metres: float = 1.0
    scale: float = 1.0
    clockwise: bool = False

    def directions(self, rows: F64) -> F64:
        """(n, 3) directions, Y up and right-handed."""
        x, y, z = rows.T
        if self.up == "z":
            return np.stack([x, z, y if self.left else -y], axis=1)
        return np.stack([x, y, -z if self.left else z], axis=1)

    def points(self, rows: F64) -> F64:
        """(n, 3) places in metres, Y up and right-handed."""
        return self.directions(rows) * (self.metres / self.scale)

    def triangles(self, rows: I64) -> I64:
        """(n, 3) triangles, counterclockwise seen from outside."""
        return rows[:, ::-1] if self.clockwise else rows


def axes_of(destination: Destination) -> Axes:
    """Those in which an engine that a destination is for takes a file which does not say them."""
    return Axes(
        destination.up,
        destination.hand == "left",
        METRES[destination.unit],
        destination.scale,
        destination.winding == "clockwise",
    )
