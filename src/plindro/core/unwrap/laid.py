"""How triangles lie once they are laid flat: how bent, how they fill a rectangle, and whether on themselves."""

from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64
from plindro.core.numeric.bounds import corner_bounds
from plindro.core.numeric.kernels import kernel
from plindro.core.unwrap.rectangles import smallest_rectangle
from plindro.core.uvs.covering import triangles_overlap


class Laid(NamedTuple):
    """Of triangles laid flat: their area on the surface and laid flat, the sum of what Sander's L2 sums, and the
    largest stretch."""

    area: float
    flat: float
    sum_: float
    largest: float

    @property
    def bent(self) -> float:
        """How much its L2, squared, has over one, times its area."""
        return self.flat / self.area * self.sum_ - self.area if self.area > 0.0 else 0.0

    @property
    def stretch(self) -> float:
        return float(np.sqrt(self.flat / self.area) * self.largest)


class Fill(NamedTuple):
    """The share of its smallest rectangle that a chart covers, and how long that is."""

    share: float
    long: float


def fill_of(points: F64, area: float) -> Fill:
    """Of points (P, 2) around an area."""
    around = smallest_rectangle(points)
    return Fill(area / around.area if around.area > 0 else 1.0, around.long)


@kernel
def _overlap(corners, order, low, high):  # type: ignore[no-untyped-def]
    """Whether two of some triangles (N, 3, 2) that turn left overlap; ``order`` (N,) by their lowest x."""
    for i in range(len(order)):
        t = order[i]
        for j in range(i + 1, len(order)):
            u = order[j]
            if low[u, 0] >= high[t, 0]:
                break
            if low[u, 1] < high[t, 1] and high[u, 1] > low[t, 1] and triangles_overlap(corners, t, 1, u, 1):
                return True
    return False


def lies_on_itself(corners: F64) -> bool:
    """Whether two of some triangles (N, 3, 2) that turn left overlap."""
    low, high = corner_bounds(corners)
    return bool(_overlap(corners, np.argsort(low[:, 0]), low, high))
