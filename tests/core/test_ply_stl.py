"""PLY and STL: every encoding gives the same surface; damaged files get one sentence."""

import struct

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.errors import UnreadableFile
from plindro.core.files import read_scene
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
