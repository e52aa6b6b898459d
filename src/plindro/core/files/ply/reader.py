"""PLY into a scene: polygons stay polygons; normals, colours and UVs of points or of face corners come along."""

from dataclasses import dataclass, replace
from pathlib import PurePosixPath
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.errors import UnreadableFile
from plindro.core.files.limits import Census
from plindro.core.files.plain import plain_scene
from plindro.core.files.ply.header import Element, Header, item_size, read_header
from plindro.core.files.ply.lists import walk_bytes, walk_tokens
from plindro.core.mesh.geometry import unit
from plindro.core.mesh.mesh import F32, F64, make_mesh
from plindro.core.numeric.srgb import to_linear
from plindro.core.scene import Scene

_UVS = (("s", "t"), ("u", "v"), ("texture_u", "texture_v"), ("texture_s", "texture_t"))


@dataclass(slots=True)
class _Rows:
    """One element's values: where each property of each row starts (in bytes or tokens), and how many it has."""

    element: Element
    starts: NDArray[np.int64]
    lengths: NDArray[np.int64]


class _Body:
    """The data behind the header, read element by element."""

    def __init__(self, data: bytes, header: Header, name: str) -> None:
        self._header = header
        self._name = name
        self._is_text = header.encoding == "ascii"
        self._at = 0 if self._is_text else header.size
        self._bytes = np.frombuffer(data, np.uint8)
        self._tokens = np.zeros(0)
        if self._is_text:
            try:
                self._tokens = np.array(data[header.size :].split(), "S40").astype(np.float64)
            except ValueError as error:
                raise UnreadableFile(f"{name}: holds something that is no number; export it again") from error

    def walk(self, element: Element) -> _Rows:
        """Step over an element's rows; raises ``UnreadableFile`` where the data ends too early."""
        width = len(element.properties)
        limit = len(self._tokens) if self._is_text else len(self._bytes)
        if element.count > limit:
            raise self._cut_off(element)
        starts = np.empty((element.count, width), np.int64)
        lengths = np.empty((element.count, width), np.int64)
        if self._is_text:
            is_list = np.array([p.count_kind is not None for p in element.properties], np.bool_)
            self._at = walk_tokens(self._tokens, self._at, element.count, is_list, starts, lengths)
        else:
            counts = [p.count_kind for p in element.properties]
            self._at = walk_bytes(
                self._bytes,
                self._at,
                element.count,
                np.array([item_size(p.kind) for p in element.properties], np.int64),
                np.array([item_size(kind) if kind else 0 for kind in counts], np.int64),
                np.array([bool(kind) and str(kind).startswith("i") for kind in counts], np.bool_),
                self._header.byte_order == ">",
                starts,
                lengths,
            )
        if self._at < 0:
            raise self._cut_off(element)
        return _Rows(element, starts, lengths)

    def _cut_off(self, element: Element) -> UnreadableFile:
        text = f"the data ends before its {element.count} '{element.name}' rows; it is cut off, export it again"
        return UnreadableFile(f"{self._name}: {text}")

    def values(self, rows: _Rows, p: int) -> NDArray[Any]:
        """All values of property ``p``, row after row."""
        starts, lengths = rows.starts[:, p], rows.lengths[:, p]
        total = int(lengths.sum())
        within = np.arange(total) - np.repeat(np.cumsum(lengths) - lengths, lengths)
        kind = rows.element.properties[p].kind
        if self._is_text:
            found: NDArray[Any] = self._tokens[np.repeat(starts, lengths) + within]
            return found
        size = item_size(kind)
        first = np.repeat(starts, lengths) + within * size
        raw = self._bytes[first[:, None] + np.arange(size)]
        return np.ascontiguousarray(raw).view(self._header.byte_order + kind).reshape(-1)


def read_ply(data: bytes, name: str, census: Census) -> Scene:
    """Read PLY bytes into a scene; raises ``UnreadableFile``."""
    header = read_header(data, name)
    sizes = {element.name: element.count for element in header.elements}
    census.add(vertices=sizes.get("vertex", 0), faces=sizes.get("face", 0) + sizes.get("tristrips", 0))
    body = _Body(data, header, name)
    vertex: _Rows | None = None
    faces: _Rows | None = None
    edges: _Rows | None = None
    unused: dict[str, int] = {}
    for element in header.elements:
        rows = body.walk(element)
        if element.name == "vertex":
            vertex = rows
        elif element.name == "face":
            faces = rows
        elif element.name == "edge":
            edges = rows
        elif element.count:
            unused[f"'{element.name}' elements"] = element.count
    if vertex is None or min(vertex.element.index(axis) for axis in "xyz") < 0:
        raise UnreadableFile(f"{name}: holds no vertices with x, y and z; export it again")
    return _scene(PurePosixPath(name).stem, name, body, vertex, faces, edges, unused)


def _scene(
    stem: str,
    name: str,
    body: _Body,
    vertex: _Rows,
    faces: _Rows | None,
    edges: _Rows | None,
    unused: dict[str, int],
) -> Scene:
    positions = _columns(body, vertex, ("x",), ("y",), ("z",))
    assert positions is not None
    sides: NDArray[np.int64] = np.zeros(0, np.int64)
    corners: NDArray[np.int64] = np.zeros(0, np.int64)
    uvs: F32 | None = None
    p = faces.element.index("vertex_indices", "vertex_index") if faces else -1
    if faces is not None and p >= 0:
        sides = faces.lengths[:, p]
        corners = body.values(faces, p).astype(np.int64)
        uvs = _corner_uvs(body, faces, sides)
    if len(corners) and (corners.min() < 0 or corners.max() >= len(positions)):
        bad = int(corners.max() if corners.max() >= len(positions) else corners.min())
        raise UnreadableFile(f"{name}: a face names vertex {bad} of {len(positions)}; export it again")
    point_uvs = next((uv for pair in _UVS if (uv := _columns(body, vertex, *((n,) for n in pair))) is not None), None)
    if uvs is None and point_uvs is not None:
        uvs = point_uvs[corners].astype(np.float32)
    if uvs is not None:
        uvs = (uvs * np.array([1, -1]) + np.array([0, 1])).astype(np.float32)
    normals = _columns(body, vertex, ("nx",), ("ny",), ("nz",))
    mesh = make_mesh(
        positions,
        np.concatenate([[0], np.cumsum(sides)]),
        corners,
        normals=None if normals is None else unit(normals)[corners],
        uvs=() if uvs is None else (uvs,),
        colors=_colors(body, vertex, corners),
    )
    if edges is not None:
        pairs = _columns(body, edges, ("vertex1",), ("vertex2",))
        if pairs is not None and ((pairs >= 0) & (pairs < len(positions))).all():
            mesh = replace(mesh, loose_edges=pairs.astype(np.int32))
        else:
            unused = {**unused, "'edge' elements": edges.element.count}
    return plain_scene(stem, "PLY", mesh, unused=unused)


def _columns(body: _Body, rows: _Rows, *names: tuple[str, ...]) -> F64 | None:
    """(n, k) scalars of these properties; None where one is missing."""
    found = [rows.element.index(*alternatives) for alternatives in names]
    if min(found) < 0 or any(rows.element.properties[p].count_kind for p in found):
        return None
    return np.stack([body.values(rows, p).astype(np.float64) for p in found], axis=1)


def _corner_uvs(body: _Body, faces: _Rows, sides: NDArray[np.int64]) -> F32 | None:
    """(C, 2) UVs that lie as a list with each face; None where they do not fit the corners."""
    p = faces.element.index("texcoord")
    if p < 0 or not (faces.lengths[:, p] == 2 * sides).all():
        return None
    return body.values(faces, p).astype(np.float32).reshape(-1, 2)


def _colors(body: _Body, vertex: _Rows, corners: NDArray[np.int64]) -> F32 | None:
    """(C, 4) colours of points, sRGB in bytes or floats, as linear light 0..1, with their alpha."""
    names = (("red", "r", "diffuse_red"), ("green", "g", "diffuse_green"), ("blue", "b", "diffuse_blue"))
    colors = _columns(body, vertex, *names)
    if colors is None:
        return None
    alpha = _columns(body, vertex, ("alpha", "a"))
    rgba = np.concatenate([colors, np.ones((len(colors), 1)) if alpha is None else alpha], axis=1)
    for k, alternatives in enumerate((*names, ("alpha", "a"))):
        p = vertex.element.index(*alternatives)
        if p >= 0 and not vertex.element.properties[p].kind.startswith("f"):
            rgba[:, k] /= np.iinfo(vertex.element.properties[p].kind).max
    rgba[:, :3] = to_linear(rgba[:, :3])
    return rgba[corners].astype(np.float32)
