"""PLY into a scene: polygons stay polygons; normals, colours, UVs and textures come along, of points or of faces."""

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
from plindro.core.files.ply.strips import strip_triangles
from plindro.core.files.ply.textures import Textured, read_textures
from plindro.core.files.sidefiles import SideFiles
from plindro.core.mesh.geometry import unit
from plindro.core.mesh.mesh import F32, F64, I64, Mesh, make_mesh
from plindro.core.numeric.srgb import to_linear
from plindro.core.scene import Scene

_USED = ("vertex", "face", "tristrips", "edge")
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


@dataclass(slots=True)
class _Surface:
    """The faces: how many sides each has, the vertices of its corners one after the other; UVs (C, 2) that lie with
    them, colours (C, 4) of whole faces, and which texture each has."""

    sides: I64
    corners: I64
    uvs: F32 | None = None
    colors: F32 | None = None
    texture: I64 | None = None


def read_ply(data: bytes, name: str, side_files: SideFiles, census: Census) -> Scene:
    """Read PLY bytes into a scene; raises ``UnreadableFile``."""
    header = read_header(data, name)
    sizes = {element.name: element.count for element in header.elements}
    census.add(vertices=sizes.get("vertex", 0), faces=sizes.get("face", 0) + sizes.get("tristrips", 0))
    body = _Body(data, header, name)
    known: dict[str, _Rows] = {}
    unused: dict[str, int] = {}
    for element in header.elements:
        rows = body.walk(element)
        if element.name in _USED:
            known[element.name] = rows
        elif element.count:
            unused[f"'{element.name}' elements"] = element.count
    vertex = known.get("vertex")
    if vertex is None or min(vertex.element.index(axis) for axis in "xyz") < 0:
        raise UnreadableFile(f"{name}: holds no vertices with x, y and z; export it again")
    surface = _surface(body, known)
    mesh = _mesh(name, body, vertex, surface)
    edges = known.get("edge")
    if edges is not None:
        pairs = _columns(body, edges, ("vertex1",), ("vertex2",))
        if pairs is not None and ((pairs >= 0) & (pairs < len(mesh.positions))).all():
            mesh = replace(mesh, loose_edges=pairs.astype(np.int32))
        else:
            unused["'edge' elements"] = edges.element.count
    scene = plain_scene(PurePosixPath(name).stem, "PLY", mesh)
    if header.textures and not mesh.uvs:
        unused["textures without UVs"] = len(header.textures)
    elif header.textures:
        textured = read_textures(header.textures, side_files)
        if mesh.colors is not None and textured.images:
            unused["colours of vertices under textures"] = len(mesh.positions)
        scene = _with_textures(scene, textured, surface.texture)
    return replace(scene, unused=tuple(sorted(unused.items())))


def _with_textures(scene: Scene, textured: Textured, texture: I64 | None) -> Scene:
    """The scene with each face on the material of its texture, (F,) by number; a plain one where it has none.

    The colours of the same scan would darken its textures, and are what is seen of it without them.
    """
    if scene.mesh.colors is not None and not textured.images:
        return replace(scene, findings=textured.findings)
    count = len(textured.materials)
    materials, number = textured.materials, np.zeros(scene.mesh.n_faces, np.int64) if texture is None else texture
    is_bare = (number < 0) | (number >= count)
    if is_bare.any():
        materials = (*materials, *scene.materials)
    return replace(
        scene,
        mesh=replace(scene.mesh, face_material=np.where(is_bare, count, number).astype(np.int32), colors=None),
        materials=materials,
        images=textured.images,
        findings=textured.findings,
    )


def _surface(body: _Body, known: dict[str, _Rows]) -> _Surface:
    """The faces, or the triangles of strips where there are no faces."""
    faces, strips = known.get("face"), known.get("tristrips")
    p = faces.element.index("vertex_indices", "vertex_index") if faces else -1
    if faces is not None and p >= 0 and faces.element.count:
        sides, corners = faces.lengths[:, p], body.values(faces, p).astype(np.int64)
        rgba, texture = _colors(body, faces), _columns(body, faces, ("texnumber",))
        return _Surface(
            sides,
            corners,
            _corner_uvs(body, faces, sides),
            None if rgba is None else np.repeat(rgba, sides, axis=0),
            None if texture is None else texture[:, 0].astype(np.int64),
        )
    p = strips.element.index("vertex_indices", "vertex_index") if strips else -1
    if strips is not None and p >= 0:
        triangles = strip_triangles(body.values(strips, p).astype(np.int64), strips.lengths[:, p])
        return _Surface(np.full(len(triangles), 3), triangles.reshape(-1))
    return _Surface(np.zeros(0, np.int64), np.zeros(0, np.int64))


def _mesh(name: str, body: _Body, vertex: _Rows, surface: _Surface) -> Mesh:
    """The faces with what lies with them and with their points."""
    positions = _columns(body, vertex, ("x",), ("y",), ("z",))
    assert positions is not None
    corners, uvs = surface.corners, surface.uvs
    if len(corners) and (corners.min() < 0 or corners.max() >= len(positions)):
        bad = int(corners.max() if corners.max() >= len(positions) else corners.min())
        raise UnreadableFile(f"{name}: a face names vertex {bad} of {len(positions)}; export it again")
    point_uvs = next((uv for pair in _UVS if (uv := _columns(body, vertex, *((n,) for n in pair))) is not None), None)
    if uvs is None and point_uvs is not None:
        uvs = point_uvs[corners].astype(np.float32)
    if uvs is not None:
        uvs = (uvs * np.array([1, -1]) + np.array([0, 1])).astype(np.float32)
    normals = _columns(body, vertex, ("nx",), ("ny",), ("nz",))
    point_colors = _colors(body, vertex)
    return make_mesh(
        positions,
        np.concatenate([[0], np.cumsum(surface.sides)]),
        corners,
        normals=None if normals is None else unit(normals)[corners],
        uvs=() if uvs is None else (uvs,),
        colors=surface.colors if point_colors is None else point_colors[corners],
    )


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


def _colors(body: _Body, rows: _Rows) -> F32 | None:
    """(n, 4) colours of points or faces, sRGB in bytes or floats, as linear light 0..1, with their alpha."""
    names = (("red", "r", "diffuse_red"), ("green", "g", "diffuse_green"), ("blue", "b", "diffuse_blue"))
    colors = _columns(body, rows, *names)
    if colors is None:
        return None
    alpha = _columns(body, rows, ("alpha", "a"))
    rgba = np.concatenate([colors, np.ones((len(colors), 1)) if alpha is None else alpha], axis=1)
    for k, alternatives in enumerate((*names, ("alpha", "a"))):
        p = rows.element.index(*alternatives)
        if p >= 0 and not rows.element.properties[p].kind.startswith("f"):
            rgba[:, k] /= np.iinfo(rows.element.properties[p].kind).max
    rgba[:, :3] = to_linear(rgba[:, :3])
    return rgba.astype(np.float32)
