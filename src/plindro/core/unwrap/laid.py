"""How triangles lie once they are laid flat: how bent, how they fill a rectangle, and whether on themselves."""

from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, Mask
from plindro.core.numeric.heap import pop, push
from plindro.core.numeric.kernels import kernel
from plindro.core.unwrap.distortion import measure_chart
from plindro.core.unwrap.growing import Members
from plindro.core.unwrap.rectangles import rectangle_of, smallest_rectangle
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
def _measure(order, first, uv, flat, areas, points, at, outer, hull, out, laid, fills):  # type: ignore[no-untyped-def]
    """Into ``laid`` (N, 4) and ``fills`` (N, 2) what ``Laid`` and ``Fill`` hold of each chart; the rest is for it."""
    for i in range(len(first) - 1):
        chart = order[first[i] : first[i + 1]]
        measure_chart(chart, uv, flat, areas, out)
        for k in range(4):
            laid[i, k] = out[k]
        covered = 0.0
        for j in range(len(chart)):
            t = chart[j]
            for k in range(3):
                points[3 * j + k, 0], points[3 * j + k, 1] = uv[t, k, 0], uv[t, k, 1]
            x, y = uv[t, 1, 0] - uv[t, 0, 0], uv[t, 1, 1] - uv[t, 0, 1]
            covered += 0.5 * abs(x * (uv[t, 2, 1] - uv[t, 0, 1]) - y * (uv[t, 2, 0] - uv[t, 0, 0]))
        rectangle_of(points[: 3 * len(chart)], at, outer, hull, out)
        fills[i, 0], fills[i, 1] = covered / out[0] if out[0] > 0.0 else 1.0, out[2]


def measure_charts(members: Members, uv: F64, flat: F64, areas: F64) -> tuple[list[Laid], list[Fill]]:
    """How charts lie where ``uv`` (T, 3, 2) has them; ``flat`` and ``areas`` are those of their surface."""
    count, most = len(members.first) - 1, 3 * int(np.diff(members.first).max(initial=0))
    laid, fills = np.empty((count, 4)), np.empty((count, 2))
    _measure(
        members.order, members.first, uv, flat, areas, np.empty((most, 2)), np.empty(8, np.int64), np.empty((most, 2)),
        np.empty((2 * most + 1, 2)), np.empty(5), laid, fills,
    )  # fmt: skip
    return [Laid(*one) for one in laid.tolist()], [Fill(*one) for one in fills.tolist()]


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


@kernel
def _find_overlapping(order, first, uv, corners, keys, values, low, high, found):  # type: ignore[no-untyped-def]
    for chart in range(len(found)):
        count = first[chart + 1] - first[chart]
        if count > 1:
            for i in range(count):
                for k in range(3):
                    corners[i, k, 0], corners[i, k, 1] = (
                        uv[order[first[chart] + i], k, 0],
                        uv[order[first[chart] + i], k, 1],
                    )
            found[chart] = _overlap(corners[:count], keys[:count], values[:count], low[:count], high[:count])


def find_overlapping(members: Members, uv: F64) -> Mask:
    """(N,) which charts lie on themselves where ``uv`` (T, 3, 2) has them, all turning left."""
    found = np.zeros(len(members.first) - 1, bool)
    most = int(np.diff(members.first).max(initial=0))
    low, high = np.empty((2, most, 2))
    _find_overlapping(
        members.order, members.first, uv, np.empty((most, 3, 2)), np.empty(most), np.empty(most, np.int64), low, high,
        found,
    )  # fmt: skip
    return found


def lies_on_itself(corners: F64) -> bool:
    """Whether two of some triangles (N, 3, 2) that turn left overlap."""
    count = len(corners)
    low, high = np.empty((2, count, 2))
    return bool(_overlap(corners, np.empty(count), np.empty(count, np.int64), low, high))
