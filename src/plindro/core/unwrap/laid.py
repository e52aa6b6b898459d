"""How triangles lie once they are laid flat: how bent, how they fill a rectangle, and whether on themselves."""

from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64
from plindro.core.numeric.heap import pop, push
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
def _overlap(corners, keys, order, low, high):  # type: ignore[no-untyped-def]
    """Whether two of some triangles (N, 3, 2) that turn left overlap. ``keys``, ``order`` (N,) and ``low``, ``high``
    (N, 2) are for it."""
    count = len(corners)
    for t in range(count):
        for axis in range(2):
            a, b, c = corners[t, 0, axis], corners[t, 1, axis], corners[t, 2, axis]
            low[t, axis], high[t, axis] = min(a, b, c), max(a, b, c)
        push(keys, order, t, low[t, 0], t)
    # Taken off the heap from the least on, those that are off it lie sorted behind it, the least last.
    for left in range(count, 0, -1):
        least = order[0]
        pop(keys, order, left)
        order[left - 1] = least
    for i in range(count - 1, 0, -1):
        t = order[i]
        for j in range(i - 1, -1, -1):
            u = order[j]
            if low[u, 0] >= high[t, 0]:
                break
            if low[u, 1] < high[t, 1] and high[u, 1] > low[t, 1] and triangles_overlap(corners, t, 1, u, 1):
                return True
    return False


def lies_on_itself(corners: F64) -> bool:
    """Whether two of some triangles (N, 3, 2) that turn left overlap."""
    count = len(corners)
    low, high = np.empty((2, count, 2))
    return bool(_overlap(corners, np.empty(count), np.empty(count, np.int64), low, high))
