"""PLY and STL: every encoding gives the same surface; damaged files get one sentence."""

import io
import struct

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from plindro.core.errors import UnreadableFile
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.numeric.srgb import to_linear
from tests.shapes import bumpy_sphere

HEADER = """ply
format {encoding} 1.0
comment made for a test
element vertex {vertices}
property float x
property double y
property float z
property float nx
property float ny
property float nz
property uchar red
property uchar green
property uchar blue
property float s
property float t
element face {faces}
property uchar flags
property list {count_kind} int vertex_indices
element edge 1
property int vertex1
property int vertex2
end_header
"""


def _ply(
    encoding: str, faces: list[list[int]], n: int, seed: int, count_kind: str
) -> tuple[bytes, dict[str, np.ndarray]]:
    rng = np.random.default_rng(seed)
    values = {
        "points": rng.random((n, 3)).astype(np.float32).astype(float),
        "normals": rng.normal(size=(n, 3)),
        "colors": rng.integers(0, 256, (n, 3)),
        "uvs": rng.random((n, 2)).astype(np.float32),
    }
    values["normals"] /= np.linalg.norm(values["normals"], axis=1, keepdims=True)
    head = HEADER.format(encoding=encoding, vertices=n, faces=len(faces), count_kind=count_kind).encode()
    rows = zip(*(values[key].tolist() for key in ("points", "normals", "colors", "uvs")), strict=True)
    if encoding == "ascii":
        lines = [" ".join(map(repr, [*p, *nn, *c, *uv])) for p, nn, c, uv in rows]
        lines += [f"7 {len(face)} " + " ".join(map(str, face)) for face in faces] + ["0 1"]
        return head + "\n".join(lines).encode(), values
    order = "<" if "little" in encoding else ">"
    body = b"".join(struct.pack(f"{order}fdffffBBBff", *p, *nn, *c, *uv) for p, nn, c, uv in rows)
    letter = {"uchar": "B", "ushort": "H", "int": "i"}[count_kind]
    body += b"".join(struct.pack(f"{order}B{letter}{len(face)}i", 7, len(face), *face) for face in faces)
    return head + body + struct.pack(f"{order}ii", 0, 1), values


@given(
    sides=st.lists(st.integers(3, 8), min_size=1, max_size=9),
    seed=st.integers(0, 10_000),
    encoding=st.sampled_from(["ascii", "binary_little_endian", "binary_big_endian"]),
    count_kind=st.sampled_from(["uchar", "ushort", "int"]),
)
def test_ply_of_every_encoding_keeps_polygons_and_attributes(
    sides: list[int], seed: int, encoding: str, count_kind: str
) -> None:
    rng = np.random.default_rng(seed)
    faces = [rng.choice(12, n, replace=False).tolist() for n in sides]
    data, values = _ply(encoding, faces, 12, seed, count_kind)
    scene = read_scene(data, "thing.ply")
    mesh, flat = scene.mesh, [v for face in faces for v in face]
    assert mesh.face_sides.tolist() == sides
    np.testing.assert_allclose(mesh.positions[mesh.corner_vertex], values["points"][flat], atol=1e-7)
    np.testing.assert_allclose(mesh.normals, values["normals"][flat], atol=1e-6)
    np.testing.assert_allclose(mesh.colors[:, :3], to_linear(values["colors"][flat] / 255), atol=1e-6)
    np.testing.assert_allclose(mesh.uvs[0], values["uvs"][flat] * (1, -1) + (0, 1), atol=1e-6)
    assert len(scene.mesh.loose_edges) == 1


def _text_ply(elements: dict[str, tuple[list[str], list[str]]], comments: tuple[str, ...] = ()) -> bytes:
    """A PLY in text: by the name of each element its properties and its rows."""
    lines = ["ply", "format ascii 1.0", *(f"comment {text}" for text in comments)]
    for name, (properties, rows) in elements.items():
        lines += [f"element {name} {len(rows)}", *(f"property {text}" for text in properties)]
    rows = [row for _, (_, own) in elements.items() for row in own]
    return "\n".join([*lines, "end_header", *rows, ""]).encode()


XYZ = [f"float {axis}" for axis in "xyz"]
CORNERS = [f"{x} {y} 0" for y in range(3) for x in range(3)]


def test_textures_that_comments_name_are_materials_of_their_faces() -> None:
    png = io.BytesIO()
    Image.new("RGB", (4, 4), (200, 30, 30)).save(png, "PNG")
    face = ["list uchar int vertex_indices", "list uchar float texcoord", "int texnumber"]
    rows = [f"3 0 1 3 6 0 0 1 0 0 1 {k}" for k in (1, 0, -1)]
    colored = [f"{place} 9 9 9" for place in CORNERS]
    data = _text_ply(
        {"vertex": ([*XYZ, *(f"uchar {c}" for c in ("red", "green", "blue"))], colored), "face": (face, rows)},
        ("TextureFile gone.png", "TextureFile my scan.png"),
    )
    scene = read_scene(data, "a.ply", MemoryFiles({"my scan.png": png.getvalue()}))
    assert [scene.materials[m].name for m in scene.mesh.face_material] == ["my scan", "gone", "default"]
    assert [len(m.textures) for m in scene.materials] == [0, 1, 0]
    assert [f.code for f in scene.findings] == ["missing-texture"]
    assert scene.mesh.uvs[0].tolist()[:3] == [[0, 1], [1, 1], [0, 0]]
    assert scene.mesh.colors is None
    assert dict(scene.unused) == {"colours of vertices under textures": 9}
    without = read_scene(data, "a.ply")
    assert without.mesh.colors is not None, "without its textures it is seen in its colours"
    assert [f.code for f in without.findings] == ["missing-texture"] * 2
    bare = _text_ply({"vertex": (XYZ, CORNERS), "face": (face[:1], ["3 0 1 3"])}, ("TextureFile my scan.png",))
    assert dict(read_scene(bare, "a.ply").unused) == {"textures without UVs": 1}


def test_faces_have_colours_of_their_own() -> None:
    face = ["list uchar int vertex_indices", *(f"uchar {c}" for c in ("red", "green", "blue"))]
    data = _text_ply({"vertex": (XYZ, CORNERS), "face": (face, ["3 0 1 3 255 0 0", "4 1 2 5 4 0 0 255"])})
    mesh = read_scene(data, "a.ply").mesh
    assert mesh.colors is not None
    assert mesh.colors.tolist() == [[1, 0, 0, 1]] * 3 + [[0, 0, 1, 1]] * 4


@given(st.lists(st.lists(st.integers(-1, 8), min_size=1, max_size=12), min_size=1, max_size=4))
def test_strips_are_the_triangles_that_are_told_one_by_one(strips: list[list[int]]) -> None:
    expected = []
    for strip in strips:
        run: list[int] = []
        for vertex in strip:
            run = [] if vertex < 0 else [*run, vertex]
            if len(run) > 2 and len(set(run[-3:])) == 3:
                a, b, c = run[-3:]
                expected.append([a, b, c] if len(run) % 2 else [b, a, c])
    rows = [f"{len(strip)} {' '.join(map(str, strip))}" for strip in strips]
    none = (["list uchar int vertex_indices"], [])
    strip = (["list int int vertex_indices"], rows)
    data = _text_ply({"vertex": (XYZ, CORNERS), "face": none, "tristrips": strip})
    assert read_scene(data, "a.ply").mesh.triangles().tolist() == expected


def _binary_stl(triangles: np.ndarray, head: bytes = b"") -> bytes:
    rows = b"".join(struct.pack("<12fH", 0, 0, 0, *t.reshape(-1), 0) for t in triangles)
    return head.ljust(80, b" ") + struct.pack("<I", len(triangles)) + rows


@pytest.mark.parametrize("kind", ["binary", "binary that begins like text", "text"])
def test_stl_is_welded_into_a_closed_surface(kind: str) -> None:
    source = bumpy_sphere(8)
    triangles = source.positions[source.triangles()].astype(np.float32)
    if kind == "text":
        facets = "".join(
            "facet normal 0 0 0\n outer loop\n"
            + "".join(f"  vertex {x!r} {y!r} {z!r}\n" for x, y, z in t.astype(float).tolist())
            + " endloop\nendfacet\n"
            for t in triangles
        )
        data = f"solid thing\n{facets}endsolid thing\n".encode()
    else:
        data = _binary_stl(triangles, b"solid " if "text" in kind else b"")
    mesh = read_scene(data, "thing.stl").mesh
    assert mesh.n_vertices == source.n_vertices
    np.testing.assert_array_equal(mesh.positions[mesh.triangles()].astype(np.float32), triangles)


TRIANGLE = _ply("binary_little_endian", [[0, 1, 2]], 3, 0, "uchar")[0]
FACET = _binary_stl(np.eye(3)[None])


@pytest.mark.parametrize(
    ("name", "data", "message"),
    [
        ("a.ply", b"plain text", "does not begin with 'ply'"),
        ("a.ply", TRIANGLE[:-20], "the data ends before"),
        ("a.ply", TRIANGLE.replace(b"vertex 3", b"vertex 9"), "the data ends before"),
        ("a.ply", TRIANGLE.replace(b"vertex 3", b"vertex 99999"), "the data ends before"),
        ("a.ply", TRIANGLE.replace(b"vertex 3", b"vertex 99999999999"), "vertices; the limit is"),
        ("a.ply", TRIANGLE.replace(b"end_header", b"no_header!"), "header does not end"),
        ("a.ply", TRIANGLE.replace(b"property float x", b"property quark x"), "no known type"),
        ("a.ply", TRIANGLE.replace(b"float x", b"float w"), "no vertices with x, y and z"),
        ("a.ply", _ply("ascii", [[0, 1, 7]], 3, 0, "uchar")[0], "a face names vertex 7 of 3"),
        ("a.stl", FACET[:-10], "cut off or no STL"),
        ("a.stl", b"x" * 20, "cut off"),
        ("a.stl", b"solid a\nvertex 0 0 0\nvertex 1 0 0\n", "no multiple of three"),
        ("a.stl", b"solid a\nvertex 0 0 0\nvertex 1 0 0\nvertex 1 zero 0\n", "no number"),
    ],
)
def test_damaged_files_get_one_sentence(name: str, data: bytes, message: str) -> None:
    with pytest.raises(UnreadableFile, match=message) as caught:
        read_scene(data, name)
    assert "\n" not in str(caught.value)


@given(st.integers(0, len(TRIANGLE) - 1), st.integers(0, 255))
def test_ply_with_any_one_byte_changed_reads_or_refuses(position: int, value: int) -> None:
    message = "read"
    try:
        read_scene(TRIANGLE[:position] + bytes([value]) + TRIANGLE[position + 1 :], "a.ply")
    except UnreadableFile as error:
        message = str(error)
    assert "\n" not in message
