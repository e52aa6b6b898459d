"""The smallest rectangle around points: one of its sides lies along their hull (Freeman and Shapira 1975)."""

import numpy as np
from scipy.spatial import ConvexHull, QhullError

from plindro.core.mesh.mesh import F64


def smallest_rectangle(points: F64) -> tuple[float, float]:
    """Its area, and the angle of a side, in radians; 0, 0 where points (P, 2) lie on a line."""
    try:
        hull = points[ConvexHull(points).vertices]
    except (QhullError, ValueError):
        return 0.0, 0.0
    along = np.roll(hull, -1, axis=0) - hull
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    across = np.stack([-along[:, 1], along[:, 0]])
    areas = np.ptp(hull @ along.T, axis=0) * np.ptp(hull @ across, axis=0)
    x, y = along[int(np.argmin(areas))]
    return float(areas.min()), float(np.arctan2(y, x))
