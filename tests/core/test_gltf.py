"""glTF: every kind of accessor and primitive in, the same chain out and in again."""

import base64
import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.errors import UnreadableFile, UnsupportedFile
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.files.gltf.writer import write_glb
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.polygons import triangulate
from plindro.core.prop import Level, Prop
from plindro.core.scene import Material
from plindro.core.shading.normals import normals_by_angle
from tests.shapes import areas, make_glb, wavy_sheet

SQUARE = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], np.float32)


def _document(indices: np.ndarray, component: int, mode: int = 4, **node) -> bytes:
    index_bytes = indices.tobytes() + b"\0" * (-len(indices.tobytes()) % 4)
    return make_glb(
        {
            "scenes": [{"nodes": [0]}],
            "nodes": [{"mesh": 0, "name": "thing", **node}],
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1, "mode": mode}]}],
            "accessors": [
                {"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3"},
                {"bufferView": 1, "componentType": component, "count": len(indices), "type": "SCALAR"},
            ],
            "bufferViews": [
                {"buffer": 0, "byteLength": 48},
                {"buffer": 0, "byteOffset": 48, "byteLength": indices.nbytes},
            ],
            "buffers": [{"byteLength": 48 + len(index_bytes)}],
        },
        SQUARE.tobytes() + index_bytes,
    )


@pytest.mark.parametrize(("dtype", "component"), [(np.uint8, 5121), (np.uint16, 5123), (np.uint32, 5125)])
def test_index_widths(dtype, component: int) -> None:
    mesh = read_scene(_document(np.array([0, 1, 2, 0, 2, 3], dtype), component), "a.glb").mesh
    assert mesh.triangles().tolist() == [[0, 1, 2], [0, 2, 3]]


@pytest.mark.parametrize(("mode", "indices"), [(5, [0, 1, 3, 2]), (6, [0, 1, 2, 3])])
def test_strips_and_fans_keep_their_winding(mode: int, indices: list[int]) -> None:
    mesh = read_scene(_document(np.array(indices, np.uint8), 5121, mode), "a.glb").mesh
    np.testing.assert_allclose(areas(mesh)[:, 2], [0.5, 0.5])


def test_mirrored_node_turns_the_winding_and_bakes_the_place() -> None:
    data = _document(np.array([0, 1, 2, 0, 2, 3], np.uint8), 5121, scale=[-2, 1, 1], translation=[0, 5, 0])
    mesh = read_scene(data, "a.glb").mesh
    np.testing.assert_allclose(mesh.bounds(), [[-2, 5, 0], [0, 6, 0]])
    np.testing.assert_allclose(areas(mesh)[:, 2], [1.0, 1.0])


def test_parents_normalised_strided_and_sparse_accessors_and_data_uris() -> None:
    stride = np.zeros((4, 8), np.uint8)
    stride[:, :4] = np.array([[0, 0], [65535, 0], [65535, 65535], [0, 65535]], np.uint16).view(np.uint8)
    replaced = np.array([[5.0, 0, 0]], np.float32).tobytes()
    data = SQUARE.tobytes() + stride.tobytes() + np.array([1], np.uint16).tobytes() + b"\0\0" + replaced
    uri = "data:application/octet-stream;base64," + base64.b64encode(data).decode()
    fan = {"attributes": {"POSITION": 0, "TEXCOORD_0": 1}, "mode": 6}
    sparse = {"count": 1, "indices": {"bufferView": 2, "componentType": 5123}, "values": {"bufferView": 3}}
    document = {
        "asset": {"version": "2.0"},
        "nodes": [
            {"children": [1], "translation": [0, 0, 3], "name": "parent"},
            {"mesh": 0, "name": "child", "rotation": [0, 0, np.sqrt(0.5), np.sqrt(0.5)]},
            {"camera": 0},
        ],
        "cameras": [{"type": "perspective"}],
        "meshes": [{"primitives": [fan, {"attributes": {}, "mode": 1}]}],
        "accessors": [
            {
                "bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3",
                "sparse": sparse,
            },
            {"bufferView": 1, "componentType": 5123, "normalized": True, "count": 4, "type": "VEC2"},
        ],
        "bufferViews": [
            {"buffer": 0, "byteLength": 48}, {"buffer": 0, "byteOffset": 48, "byteLength": 32, "byteStride": 8},
            {"buffer": 0, "byteOffset": 80, "byteLength": 2}, {"buffer": 0, "byteOffset": 84, "byteLength": 12},
        ],
        "buffers": [{"byteLength": len(data), "uri": uri}],
    }  # fmt: skip
    scene = read_scene(json.dumps(document).encode(), "a.gltf")
    mesh = scene.mesh
    assert scene.parts[0].path == "parent/child"
    # The quarter turn about z takes (5, 0) to (0, 5); the parent lifts all by 3.
    np.testing.assert_allclose(mesh.positions[1], [0, 5, 3], atol=1e-12)
    np.testing.assert_allclose(np.unique(mesh.uvs[0], axis=0), [[0, 0], [0, 1], [1, 0], [1, 1]])
    assert dict(scene.unused) == {"lines": 1}
    assert [b.kind for b in scene.bystanders] == ["camera"]


@given(
    n=st.integers(1, 9),
    islands=st.integers(1, 3),
    materials=st.integers(1, 3),
    seed=st.integers(0, 500),
    angle=st.floats(0, 90),
)
def test_chain_written_and_read_again_is_the_same_surface(
    n: int, islands: int, materials: int, seed: int, angle: float
) -> None:
    mesh = triangulate(wavy_sheet(n, islands=min(islands, n), materials=min(materials, n), seed=seed)).mesh
    mesh = replace(
        mesh, positions=mesh.positions.astype(np.float32).astype(float), normals=normals_by_angle(mesh, angle)
    )
    stuff = tuple(Material(f"m{i}", roughness=0.25 * i) for i in range(materials))
    prop = Prop(
        "sheet",
        mesh,
        (),
        stuff,
        levels=(Level(0, mesh, "sheet_LOD0"), Level(1, mesh.with_faces(np.arange(1)), "sheet_LOD1")),
    )
    data = write_glb(prop)
    assert data == write_glb(prop)
    scene = read_scene(data, "sheet.glb")
    assert [part.path for part in scene.parts] == ["sheet/sheet_LOD0", "sheet/sheet_LOD1"]
    back = scene.mesh.with_faces(scene.mesh.face_part == 0)

    def rows(m, materials) -> list[tuple]:
        per_corner = np.concatenate([m.positions[m.corner_vertex], m.normals, m.uvs[0]], axis=1).reshape(m.n_faces, -1)
        names = [materials[i].name for i in m.face_material]
        return sorted(zip(names, map(tuple, per_corner.tolist()), strict=True))

    assert rows(back, scene.materials) == rows(mesh, stuff)
    assert count_engine_vertices(back) == count_engine_vertices(mesh)


GOOD = _document(np.array([0, 1, 2], np.uint8), 5121)


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"", "the file is empty"),
        (b"\n \n", "the file is empty"),
        (GOOD[:40], "cut off"),
        (GOOD[:11], "cut off"),
        (GOOD[:8] + (10_000_000).to_bytes(4, "little") + GOOD[12:], "header says 10000000 bytes"),
        (GOOD[:8] + (13).to_bytes(4, "little") + GOOD[12:], "cannot be"),
        (GOOD[:12] + (2**31).to_bytes(4, "little") + GOOD[16:], "reaches past the end"),
        (b"just some notes, renamed", "is not a GLB file"),
        (GOOD.replace(b'"count": 4', b'"count": 9'), "reaches to byte"),
        (GOOD.replace(b'"count": 4', b'"count":-4'), "whole number"),
        (GOOD.replace(b'"meshes"', b'"mashes"'), r"names meshes\[0\]"),
        (_document(np.array([0, 1, 9], np.uint8), 5121), "an index names vertex 9 of 4"),
        (_document(np.array([0, 1], np.uint8), 5121), "no multiple of three"),
        (_document(np.array([0, 1, 2], np.uint8), 5121, children=[0]), "below itself"),
        (make_glb({"nodes": [{"mesh": 0}], "buffers": 3}), "names meshes"),
        (make_glb({"asset": {"version": "1.0"}}), "is glTF 1.0"),
        (make_glb({"extensionsRequired": ["KHR_texture_basisu"]}), "needs the extension KHR_texture_basisu"),
    ],
)
def test_damaged_files_get_one_sentence(data: bytes, message: str) -> None:
    with pytest.raises((UnreadableFile, UnsupportedFile), match=message) as caught:
        read_scene(data, "a.glb")
    assert "\n" not in str(caught.value)
    assert str(caught.value).startswith("a.glb: ")


@given(st.integers(0, len(GOOD) - 1), st.integers(0, 255))
def test_any_one_byte_changed_reads_or_refuses(position: int, value: int) -> None:
    damaged = GOOD[:position] + bytes([value]) + GOOD[position + 1 :]
    message = "read"
    try:
        read_scene(damaged, "a.glb", MemoryFiles({}))
    except UnreadableFile as error:
        message = str(error)
    assert "\n" not in message
