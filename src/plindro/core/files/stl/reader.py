"""STL: triangles without shared points; equal points are welded, so that surfaces hang together.

A binary file may begin with "solid" like a text file; what tells them apart is that a binary file's size agrees with
its triangle count. Facet normals are left to the Normals station, which makes them from the corners.
"""

import re
from pathlib import PurePosixPath

import numpy as np
from numpy.typing import NDArray

from plindro.core.errors import UnreadableFile
from plindro.core.files.limits import Census
from plindro.core.files.plain import plain_scene
from plindro.core.mesh.mesh import make_triangles
from plindro.core.mesh.numbering import weld_positions
from plindro.core.scene import Scene

HEADER_SIZE = 84
FACET = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])
_VERTEX = re.compile(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)", re.IGNORECASE)


def read_stl(data: bytes, name: str, census: Census) -> Scene:
    """Read STL bytes into a scene; raises ``UnreadableFile``."""
    is_binary = _is_binary(data)
    census.add(faces=(len(data) - HEADER_SIZE) // FACET.itemsize if is_binary else data.lower().count(b"endfacet"))
    corners = _binary_corners(data, name) if is_binary else _text_corners(data, name)
    points = corners.reshape(-1, 3).astype(np.float64)
    ids, firsts = weld_positions(points)
    mesh = make_triangles(points[firsts], ids.reshape(-1, 3))
    return plain_scene(PurePosixPath(name).stem, "STL", mesh)


def _is_binary(data: bytes) -> bool:
    if len(data) >= HEADER_SIZE:
        count = int.from_bytes(data[80:84], "little")
        if len(data) == HEADER_SIZE + FACET.itemsize * count:
            return True
    return data.lstrip()[:5].lower() != b"solid" or b"\0" in data[:512]


def _binary_corners(data: bytes, name: str) -> NDArray[np.float32]:
    if len(data) < HEADER_SIZE:
        raise UnreadableFile(f"{name}: is cut off after {len(data)} bytes; export it again")
    count = int.from_bytes(data[80:84], "little")
    needed = HEADER_SIZE + FACET.itemsize * count
    if len(data) < needed:
        raise UnreadableFile(
            f"{name}: should hold {count} triangles in {needed} bytes and has {len(data)}; it is cut off or no STL file"
        )
    corners: NDArray[np.float32] = np.frombuffer(data, FACET, count, HEADER_SIZE)["corners"]
    return corners


def _text_corners(data: bytes, name: str) -> NDArray[np.float64]:
    rows = _VERTEX.findall(data)
    try:
        corners = np.array(rows, "S32").astype(np.float64) if rows else np.zeros((0, 3))
    except ValueError as error:
        raise UnreadableFile(f"{name}: a vertex holds something that is no number; export it again") from error
    if len(corners) % 3:
        raise UnreadableFile(f"{name}: holds {len(corners)} vertices, no multiple of three; it is cut off")
    return corners
