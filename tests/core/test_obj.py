"""OBJ: polygons, names, indices of every kind, numbers as exact as Python's own."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.errors import UnreadableFile
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.mesh.mesh import NO_GROUP

PNG = bytes.fromhex(
    "89504e470d0a1a0a0000000d49484452000000010000000108020000009077"
    "53de0000000c4944415408d763f8cfc0000003010100c9fe92ef0000000049454e44ae426082"
)


def _read(text: str, **side_files: bytes):
    files = {name.replace("__", "."): data for name, data in side_files.items()}
    return read_scene(text.encode(), "thing.obj", MemoryFiles(files))


@given(st.lists(st.tuples(*[st.floats(-1e6, 1e6, allow_nan=False)] * 3), min_size=3, max_size=30))
def test_numbers_are_read_as_python_reads_them(points: list[tuple[float, float, float]]) -> None:
    lines = [f"v {x!r} {y!r} {z!r}" for x, y, z in points]
    face = "f " + " ".join(str(i + 1) for i in range(len(points)))
    mesh = _read("\n".join([*lines, face])).mesh
    np.testing.assert_allclose(mesh.positions, np.array(points), rtol=2e-15, atol=1e-300)


@given(
    sides=st.lists(st.integers(3, 9), min_size=1, max_size=8),
    seed=st.integers(0, 10_000),
    negative=st.booleans(),
    style=st.sampled_from(["v", "v/t", "v//n", "v/t/n"]),
)
def test_faces_of_every_style_come_back(sides: list[int], seed: int, negative: bool, style: str) -> None:
    rng = np.random.default_rng(seed)
    points, uvs = rng.random((20, 3)), rng.random((15, 2))
    normals = rng.normal(size=(10, 3))
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    corners = [[(rng.integers(20), rng.integers(15), rng.integers(10)) for _ in range(n)] for n in sides]

    def index(value: int, total: int) -> str:
        return str(value - total if negative else value + 1)

    def corner(v: int, t: int, n: int) -> str:
        texts = {"v": index(v, 20), "t": index(t, 15), "n": index(n, 10)}
        return "".join(texts.get(letter, letter) for letter in style)

    lines = [f"v {x} {y} {z}" for x, y, z in points.tolist()] + [f"vt {u} {v}" for u, v in uvs.tolist()]
    lines += [f"vn {x} {y} {z}" for x, y, z in normals.tolist()]
    lines += ["f " + " ".join(corner(*c) for c in face) for face in corners]
    mesh = _read("\n".join(lines)).mesh
    flat = np.array([c for face in corners for c in face])
    assert mesh.face_sides.tolist() == sides
    np.testing.assert_allclose(mesh.positions[mesh.corner_vertex], points[flat[:, 0]], rtol=1e-15)
    if "t" in style:
        np.testing.assert_allclose(mesh.uvs[0], np.stack([uvs[flat[:, 1], 0], 1 - uvs[flat[:, 1], 1]], 1), atol=1e-6)
    if "n" in style:
        np.testing.assert_allclose(mesh.normals, normals[flat[:, 2]], atol=1e-6)


def test_names_materials_and_smoothing_spread_over_the_faces_that_follow() -> None:
    scene = _read(
        """mtllib two.mtl
# a comment
o lid
v 0 0 0
v 1 0 0 # trailing
v 1 1 \\
 0
v 0 1 0
usemtl red
s 1
f 1 2 3 4
g rim
usemtl blue paint
s off
f -4 -3 -2
l 1 2
""",
        two__mtl=b"newmtl red\nKd 1 0 0\nPm 0.5\n\nnewmtl blue paint\nmap_Kd -bm 2 my picture.png\nd 0.5\n",
        **{"my picture__png": PNG},
    )
    assert [part.path for part in scene.parts] == ["lid", "lid/rim"]
    assert scene.mesh.face_part.tolist() == [0, 1]
    assert scene.mesh.face_smoothing.tolist() == [1, 0]
    assert [m.name for m in scene.materials] == ["red", "blue paint"]
    assert scene.materials[0].base_color == (1, 0, 0, 1)
    assert scene.materials[0].metallic == 0.5
    assert scene.materials[1].alpha_mode == "BLEND"
    assert scene.images[0].name == "my picture.png"
    assert len(scene.mesh.loose_edges) == 1
    assert not scene.findings


def test_what_is_missing_is_said_and_the_rest_is_read() -> None:
    scene = _read("mtllib gone.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl a\nf 1 2 3\n")
    assert [finding.code for finding in scene.findings] == ["missing-material-library"]
    assert "gone.mtl" in scene.findings[0].message
    assert scene.mesh.face_smoothing.tolist() == [NO_GROUP]
    scene = _read(
        "mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl a\nf 1 2 3\n",
        a__mtl=b"newmtl a\nmap_Kd C:\\art\\gone.png\nnorm broken.png",
        **{"broken__png": b"no picture"},
    )
    assert sorted(finding.code for finding in scene.findings) == ["missing-texture", "unreadable-texture"]


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ("f 1 2 9", "line 5: a face there names a vertex that the file does not hold"),
        ("f 1 2 -9", "line 5: a face there names a vertex"),
        ("f 0 1 2", "line 5: a face there names a vertex"),
        ("f 1 2 99999999999999999999", "line 5: a face there names a vertex"),
        ("f 1/7 2 3", "line 5: a face there names a vertex"),
        ("f 1 2 x", "line 5: a value there is no number"),
        ("v 1 2", "line 5: there are too few numbers"),
        ("v 1 2 drei", "line 5: a value there is no number"),
    ],
)
def test_bad_lines_are_named(line: str, message: str) -> None:
    with pytest.raises(UnreadableFile, match=message):
        _read(f"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n{line}\n")


def test_side_files_are_never_taken_from_outside_the_folder(tmp_path) -> None:
    from plindro.core.files import FolderFiles

    (tmp_path / "secret.mtl").write_text("newmtl a\n")
    inner = tmp_path / "inner"
    inner.mkdir()
    assert FolderFiles(inner).get("../secret.mtl") is None
    assert FolderFiles(inner).get(str(tmp_path / "secret.mtl")) is None
