"""Binary STL as an engine reads it."""

from collections.abc import Mapping
from pathlib import PurePosixPath

import numpy as np

from plindro.core.rehearsal.axes import Axes
from plindro.core.rehearsal.found import Found, FoundNode
from plindro.core.rehearsal.readers.corners import primitive_of

_HEADER = 84
_ROW = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])


def read_stl(path: str, files: Mapping[str, bytes], axes: Axes) -> Found:
    """The mesh of an STL under the name of its file; corners in one place are one vertex."""
    data = files[path]
    count = int.from_bytes(data[80:_HEADER], "little")
    if len(data) != _HEADER + count * _ROW.itemsize:
        raise ValueError(f"its header says {count} triangles, and there is room for others")
    rows = np.frombuffer(data, _ROW, count, _HEADER)
    points = axes.points(rows["corners"].reshape(-1, 3).astype(np.float64))
    return Found([FoundNode(PurePosixPath(path).stem, primitives=[primitive_of(points, None, {}, axes)])], is_flat=True)
