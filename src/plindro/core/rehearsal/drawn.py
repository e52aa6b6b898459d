"""What is drawn of a level: the arrays of all its primitives, one after the other."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plindro.core.numeric.single import without_area
from plindro.core.rehearsal.found import F64, I64, Primitive


@dataclass(frozen=True, slots=True)
class Drawn:
    """``positions`` (V, 3), ``triangles`` (T, 3), and what all primitives have of ``normals`` (V, 3) and ``uvs``
    (V, 2) by channel; ``cross`` (T, 3) twice the triangles' area vectors, ``flat`` (T,) those without area."""

    positions: F64
    triangles: I64
    normals: F64 | None
    uvs: dict[int, F64]
    cross: F64
    flat: NDArray[np.bool_]


def draw(primitives: Sequence[Primitive]) -> Drawn:
    """The primitives of a level as one."""
    positions = np.concatenate([p.positions for p in primitives]) if primitives else np.zeros((0, 3))
    offsets = np.cumsum([0, *(len(p.positions) for p in primitives)])
    rows = [p.triangles + offset for p, offset in zip(primitives, offsets, strict=False)]
    triangles = np.concatenate(rows) if rows else np.zeros((0, 3), np.int64)
    normals = [p.normals for p in primitives if p.normals is not None]
    channels = set.intersection(*(set(p.uvs) for p in primitives)) if primitives else set()
    with np.errstate(invalid="ignore"):
        a, b, c = (positions[triangles[:, k]] for k in range(3))
        cross = np.cross(b - a, c - a)
    return Drawn(
        positions=positions,
        triangles=triangles,
        normals=np.concatenate(normals) if normals and len(normals) == len(primitives) else None,
        uvs={k: np.concatenate([p.uvs[k] for p in primitives]) for k in sorted(channels)},
        cross=cross,
        flat=without_area(positions, triangles, cross),
    )
