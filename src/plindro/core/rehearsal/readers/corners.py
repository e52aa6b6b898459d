"""Engine vertices of formats that keep places, UVs and normals by corner."""

import numpy as np

from plindro.core.rehearsal.axes import Axes
from plindro.core.rehearsal.found import F64, I64, Primitive


def primitive_of(
    points: F64, normals: F64 | None, uvs: dict[int, F64], axes: Axes, material: int | None = None
) -> Primitive:
    """Triangles from their corners in turns, (3 T, 3) points and as many normals and UVs; corners that are alike in all
    are one vertex, as an engine counts them."""
    columns = [points, *([] if normals is None else [normals]), *uvs.values()]
    rows = np.ascontiguousarray(np.concatenate(columns, axis=1)) + 0.0
    keys = rows.view(np.dtype((np.void, rows.dtype.itemsize * rows.shape[1]))).reshape(-1)
    _, first, number = np.unique(keys, return_index=True, return_inverse=True)
    return Primitive(
        positions=points[first],
        triangles=axes.triangles(number.reshape(-1, 3)),
        normals=None if normals is None else normals[first],
        uvs={channel: uv[first] for channel, uv in uvs.items()},
        material=material,
    )


def fan(sides: I64) -> tuple[I64, I64]:
    """(T, 3) corners of triangles, each face cut from its first corner, and (T,) the face of each; ``sides`` (F,)."""
    face = np.repeat(np.arange(len(sides)), np.maximum(sides - 2, 0))
    within = np.arange(len(face)) - np.searchsorted(face, face) + 1
    first = (np.cumsum(sides) - sides)[face]
    return np.stack([first, first + within, first + within + 1], axis=1).reshape(-1, 3), face
