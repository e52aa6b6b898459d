"""What rounding to single precision has spoilt: triangles that lost their area, turned over or lie on others."""

import numpy as np

from plindro.core.mesh.mesh import F32, F64, I32, Mask
from plindro.core.uvs.overlap import measure_overlap
from plindro.core.uvs.sheet import UvSheet, find_turns, signed_areas


def find_spoilt(uv: F32, island: I32, count: int, surface: F64) -> Mask:
    """(T,) which of triangles (T, 3, 2) that should all turn right, since V runs down, are not sound."""
    corners = np.ascontiguousarray(uv, np.float64)
    turns = find_turns(corners)
    nothing = np.zeros(0, np.int64)
    sheet = UvSheet(corners, signed_areas(corners), turns, surface, island, count, nothing.astype(np.int32), nothing)
    overlap = measure_overlap(sheet)
    spoilt: Mask = (turns >= 0) | (overlap.any > 0)
    return spoilt
