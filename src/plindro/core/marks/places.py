"""What marks are made of, and taking them from the source's units and axes to the mesh in hand."""

from typing import Any

import numpy as np

from plindro.core.findings import Finding, Places, Severity
from plindro.core.mesh.mesh import F64, Mesh
from plindro.core.prop import Prop
from plindro.core.settings import StationSettings

Place = tuple[float, float, float]
Edge = tuple[Place, Place]
NEAR = 0.01
"""Share of the prop's diagonal within which a marked place must still be there."""
NEAR_OF_EDGE = 0.25
"""Share of a marked edge's length that its ends may have moved."""


class Spot(StationSettings):
    """A place on a face: the mean of the face's corners, and the side it faced when it was marked."""

    point: Place
    facing: Place


def to_mesh(prop: Prop, places: Any, *, directions: bool = False) -> F64:
    """(..., 3) places of the source, or unit directions, as they are in the prop's mesh."""
    matrix = np.array(prop.from_source).reshape(4, 4)
    moved: F64 = np.asarray(places, np.float64) @ matrix[:3, :3].T
    if not directions:
        return moved + matrix[:3, 3]
    length = np.linalg.norm(moved, axis=-1, keepdims=True)
    return moved / np.where(length > 0, length, 1.0)


def mark_tolerance(mesh: Mesh) -> float:
    """How far from its place a mark may be found, in the mesh's lengths."""
    low, high = mesh.bounds()
    return max(NEAR * float(np.linalg.norm(high - low)), 1e-9)


def unfitting(what: str, places: F64) -> Finding:
    """Marks that found no place in this source any more: said, kept, without effect."""
    n = len(places)
    text = (
        f"{n} {what}{'' if n == 1 else 's'} set by hand {'does' if n == 1 else 'do'} not fit this source any more and "
        f"had no effect; set {'it' if n == 1 else 'them'} again or clear {'it' if n == 1 else 'them'}"
    )
    shaped = places if places.ndim == 2 else places.reshape(n, -1, 3)
    return Finding("mark-lost", Severity.WARNING, text, n, places=Places.of(shaped))
