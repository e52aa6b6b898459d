"""The smallest ball around points, in the plane or in space.

Only the points that it touches matter (Welzl 1991, "Smallest enclosing disks"): the farthest one outside is taken in,
and the smallest ball of those few is found among all that two to four of them span.
"""

from itertools import combinations

import numpy as np

from plindro.core.mesh.mesh import F64

_WITHIN = 1e-9
_MOST_STEPS = 1000


def smallest_ball(points: F64) -> tuple[F64, float]:
    """Middle (D,) and radius of the smallest ball that holds points (N, D)."""
    middle = points.mean(axis=0)
    touching = [int(np.linalg.norm(points - middle, axis=1).argmax())]
    middle, radius = points[touching[0]], 0.0
    for _ in range(_MOST_STEPS):
        away = np.linalg.norm(points - middle, axis=1)
        far = int(away.argmax())
        if away[far] <= radius * (1.0 + _WITHIN) + 1e-300:
            break
        touching, middle, radius = _smallest_of(points, [*touching, far])
    return middle, float(np.linalg.norm(points - middle, axis=1).max())


def _smallest_of(points: F64, few: list[int]) -> tuple[list[int], F64, float]:
    """The smallest ball around a few points, and those of them that it touches."""
    best: tuple[list[int], F64, float] | None = None
    dimensions = points.shape[1]
    for count in range(1, min(len(few), dimensions + 1) + 1):
        for chosen in combinations(few, count):
            middle, radius = _through(points[list(chosen)])
            away = np.linalg.norm(points[few] - middle, axis=1).max()
            if away <= radius * (1.0 + _WITHIN) + 1e-300 and (best is None or radius < best[2]):
                best = list(chosen), middle, radius
    if best is None:
        middle = points[few].mean(axis=0)
        return few, middle, float(np.linalg.norm(points[few] - middle, axis=1).max())
    return best


def _through(points: F64) -> tuple[F64, float]:
    """The smallest ball whose surface goes through all points, of which there are few."""
    first, rest = points[0], points[1:] - points[0]
    if not len(rest):
        return first, 0.0
    gram = rest @ rest.T
    weights = np.linalg.lstsq(2.0 * gram, np.diag(gram), rcond=None)[0]
    middle = first + weights @ rest
    return middle, float(np.linalg.norm(points - middle, axis=1).max())
