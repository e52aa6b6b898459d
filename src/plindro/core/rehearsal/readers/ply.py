"""Binary PLY as an engine reads it."""

from collections.abc import Mapping
from pathlib import PurePosixPath
from typing import Any

import numpy as np

from plindro.core.rehearsal.axes import Axes
from plindro.core.rehearsal.found import Found, FoundNode, Primitive

_KINDS = {
    "char": "<i1", "uchar": "<u1", "short": "<i2", "ushort": "<u2", "int": "<i4", "uint": "<u4", "float": "<f4",
    "double": "<f8", "int8": "<i1", "uint8": "<u1", "int16": "<i2", "uint16": "<u2", "int32": "<i4", "uint32": "<u4",
    "float32": "<f4", "float64": "<f8",
}  # fmt: skip


def read_ply(path: str, files: Mapping[str, bytes], axes: Axes) -> Found:
    """The mesh of a PLY under the name of its file; faces become triangles by a fan."""
    data = files[path]
    head, _, body = data.partition(b"end_header\n")
    lines = head.decode("ascii", "replace").split("\n")
    if lines[0] != "ply" or "format binary_little_endian 1.0" not in lines:
        raise ValueError("it is no binary PLY")
    elements = _elements(lines)
    kind = np.dtype([(words[1], _KINDS[words[0]]) for words in elements["vertex"][1]])
    count = elements["vertex"][0]
    vertices = np.frombuffer(body, kind, count)
    (face,) = elements["face"][1]
    triangles = _fans(body[count * kind.itemsize :], elements["face"][0], _KINDS[face[1]], _KINDS[face[2]])
    names = kind.names or ()

    def columns(*wanted: str) -> Any:
        if not set(wanted) <= set(names):
            return None
        return np.stack([vertices[name] for name in wanted], axis=1).astype(np.float64)

    normals, uv = columns("nx", "ny", "nz"), columns("s", "t")
    primitive = Primitive(
        positions=axes.points(columns("x", "y", "z")),
        triangles=axes.triangles(np.minimum(triangles, max(count - 1, 0))),
        normals=None if normals is None else axes.directions(normals),
        uvs={} if uv is None else {0: uv * (1.0, -1.0) + (0.0, 1.0)},
        beyond=bool(len(triangles)) and int(triangles.max()) >= count,
    )
    return Found([FoundNode(PurePosixPath(path).stem, primitives=[primitive])], is_flat=True)


def _elements(lines: list[str]) -> dict[str, tuple[int, list[list[str]]]]:
    """How many of each element there are, and its properties."""
    found: dict[str, tuple[int, list[list[str]]]] = {}
    name = ""
    for line in lines:
        words = line.split()
        if words[:1] == ["element"]:
            name = words[1]
            found[name] = (int(words[2]), [])
        elif words[:1] == ["property"]:
            found[name][1].append(words[1:])
    return found


def _fans(data: bytes, count: int, size: str, index: str) -> Any:
    """(T, 3) triangles of faces, each a number of corners and their vertices."""
    head, step, at = np.dtype(size), np.dtype(index), 0
    found: list[tuple[int, int, int]] = []
    if count and len(data) == count * (head.itemsize + 3 * step.itemsize):
        rows = np.frombuffer(data, [("n", head), ("v", step, 3)], count)
        if (rows["n"] == 3).all():
            return rows["v"].astype(np.int64)
    for _ in range(count):
        sides = int(np.frombuffer(data, head, 1, at)[0])
        corners = np.frombuffer(data, step, sides, at + head.itemsize).tolist()
        at += head.itemsize + sides * step.itemsize
        found += [(corners[0], corners[k], corners[k + 1]) for k in range(1, sides - 1)]
    return np.array(found, np.int64).reshape(-1, 3)
