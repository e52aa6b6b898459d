"""Formats that are read through other libraries: USD, Draco and meshopt compression; extensions carried through."""

import io
import json
import zipfile

import DracoPy
import numpy as np
import pytest

from plindro.core.destinations import get_destination
from plindro.core.errors import UnreadableFile
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.lines import get_line
from plindro.core.shipping import prepare
from tests.shapes import bumpy_sphere, make_glb

PNG = bytes.fromhex(
    "89504e470d0a1a0a0000000d4948445200000001000000010802000000907753de0000000c4944415408d763f8cfc0000003010100c9fe92ef"
    "0000000049454e44ae426082"
)
USDA = """#usda 1.0
(
    defaultPrim = "World"
    metersPerUnit = 0.01
    upAxis = "Z"
    subLayers = [@more.usda@]
)
def Xform "World" {
    def Mesh "plate" {
        uniform token orientation = "leftHanded"
        int[] faceVertexCounts = [4, 3]
        int[] faceVertexIndices = [3, 2, 1, 0, 1, 2, 4]
        point3f[] points = [(0, 0, 0), (100, 0, 0), (100, 100, 0), (0, 100, 0), (200, 50, 0)]
        texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1), (0, 1), (2, 0.5)] ( interpolation = "vertex" )
        texCoord2f[] primvars:bake = [(0, 0), (0, 1), (1, 1), (1, 0), (0, 0), (0, 1), (1, 1)] (
            interpolation = "faceVarying"
        )
        double3 xformOp:translate = (0, 0, 50)
        uniform token[] xformOpOrder = ["xformOp:translate"]
        def GeomSubset "tip" ( prepend apiSchemas = ["MaterialBindingAPI"] ) {
            uniform token elementType = "face"
            uniform token familyName = "materialBind"
            int[] indices = [1]
            rel material:binding = </World/red>
        }
    }
    def BasisCurves "rope" { }
    def Material "red" {
        token outputs:surface.connect = </World/red/s.outputs:surface>
        def Shader "s" {
            uniform token info:id = "UsdPreviewSurface"
            color3f inputs:diffuseColor.connect = </World/red/t.outputs:rgb>
            float inputs:roughness = 0.25
            token outputs:surface
        }
        def Shader "t" {
            uniform token info:id = "UsdUVTexture"
            asset inputs:file = @maps/red.png@
            float3 outputs:rgb
        }
    }
}
"""
MORE = """#usda 1.0
def Mesh "from_a_sublayer" {
    int[] faceVertexCounts = [3]
    int[] faceVertexIndices = [0, 1, 2]
    point3f[] points = [(0, 0, 0), (1, 0, 0), (0, 1, 0)]
}
"""


def test_usd_text_with_subsets_uv_sets_sublayer_and_texture() -> None:
    files = MemoryFiles({"more.usda": MORE.encode(), "maps/red.png": PNG})
    scene = read_scene(USDA.encode(), "plate.usda", files)
    mesh = scene.mesh
    assert [part.path for part in scene.parts] == ["from_a_sublayer", "World/plate"]
    assert mesh.face_sides.tolist() == [3, 4, 3]
    assert mesh.positions[mesh.corner_vertex[3]].tolist() == [0, 100, 50]
    assert mesh.corner_vertex[3:7].tolist() == [6, 3, 4, 5], "left-handed faces are turned"
    assert len(mesh.uvs) == 2
    assert mesh.uvs[0][3].tolist() == [0, 0], "st of vertex 3 is (0, 1), upside down"
    assert [scene.materials[m].name for m in mesh.face_material] == ["default", "default", "red"]
    assert scene.materials[mesh.face_material[2]].roughness == 0.25
    assert scene.images[0].width == 1
    assert [(b.name, b.kind) for b in scene.bystanders] == [("rope", "curve")]
    assert (scene.unit, scene.up) == (0.01, "z")


@pytest.mark.parametrize("suffix", ["usdc", "usdz", "usd"])
def test_usd_binary_and_packed_hold_the_same(suffix: str, tmp_path) -> None:
    from pxr import Usd

    (tmp_path / "a.usda").write_text(USDA.replace("    subLayers = [@more.usda@]\n", ""))
    stage = Usd.Stage.Open(str(tmp_path / "a.usda"))
    stage.Export(str(tmp_path / "a.usdc"))
    data = (tmp_path / "a.usdc").read_bytes()
    if suffix == "usdz":
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w", zipfile.ZIP_STORED) as archive:
            archive.writestr(zipfile.ZipInfo("a.usdc"), data)
        data = buffer.getvalue()
    scene = read_scene(data, f"a.{suffix}", MemoryFiles({"maps/red.png": PNG}))
    assert scene.mesh.face_sides.tolist() == [4, 3]
    assert len(scene.images) == 1


@pytest.mark.parametrize("data", [b"#usda 1.0\ndef Mesh {{{", b"PXR-USDC" + bytes(80), b"PK\3\4broken", b"hello"])
@pytest.mark.parametrize("name", ["a.usda", "a.usdc", "a.usdz"])
def test_damaged_usd_gets_one_sentence(name: str, data: bytes) -> None:
    with pytest.raises(UnreadableFile) as caught:
        read_scene(data, name)
    assert name in str(caught.value)
    assert "\n" not in str(caught.value)
    assert "/tmp" not in str(caught.value)


def _document(count: int, indices: int) -> dict:
    return {
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": "ball"}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
        "accessors": [
            {"componentType": 5126, "count": count, "type": "VEC3"},
            {"componentType": 5125, "count": indices, "type": "SCALAR"},
        ],
    }


def test_draco_is_read_as_what_was_packed() -> None:
    ball = bumpy_sphere(6)
    points, faces = ball.positions.astype(np.float32), ball.triangles().astype(np.uint32)
    packed = DracoPy.encode(points, faces, quantization_bits=0, preserve_order=True)
    kind = {a["attribute_type"]: a["unique_id"] for a in DracoPy.decode(packed).attributes}
    document = _document(len(points), faces.size)
    document["meshes"][0]["primitives"][0]["extensions"] = {
        "KHR_draco_mesh_compression": {"bufferView": 0, "attributes": {"POSITION": kind[0]}}
    }
    document |= {
        "extensionsRequired": ["KHR_draco_mesh_compression"],
        "buffers": [{"byteLength": len(packed)}],
        "bufferViews": [{"buffer": 0, "byteLength": len(packed)}],
    }
    mesh = read_scene(make_glb(document, packed), "ball.glb").mesh
    assert np.sort(mesh.positions[mesh.triangles()].sum(axis=1), axis=0) == pytest.approx(
        np.sort(points[faces].astype(np.float64).sum(axis=1), axis=0), abs=1e-5
    )
    assert mesh.n_faces == len(faces)
    with pytest.raises(UnreadableFile, match="Draco data cannot be decoded"):
        read_scene(make_glb(document, bytes(len(packed))), "ball.glb")


def test_meshopt_views_are_read_as_what_was_packed() -> None:
    ball = bumpy_sphere(6)
    points, faces = ball.positions.astype(np.float32), ball.triangles().astype(np.uint32)
    # The extension has the first version of the codec.
    meshoptimizer = pytest.importorskip(
        "meshoptimizer", reason="glTF compressed by EXT_meshopt_compression is left out: no C++ compiler here"
    )
    meshoptimizer.encode_vertex_version(0)
    vertices = bytes(meshoptimizer.encode_vertex_buffer(points, len(points), 12))
    indices = bytes(meshoptimizer.encode_index_buffer(faces.reshape(-1), faces.size, len(points)))
    binary = vertices + b"\0" * (-len(vertices) % 4)
    document = _document(len(points), faces.size)
    for i in range(2):
        document["accessors"][i]["bufferView"] = i
    packed = []
    for at, size, stride, count, mode in (
        (0, len(vertices), 12, len(points), "ATTRIBUTES"),
        (len(binary), len(indices), 4, faces.size, "TRIANGLES"),
    ):
        packed.append(
            {"buffer": 0, "byteOffset": at, "byteLength": size, "byteStride": stride, "count": count, "mode": mode}
        )
    document |= {
        "extensionsRequired": ["EXT_meshopt_compression"],
        "buffers": [{"byteLength": len(binary) + len(indices)}],
        "bufferViews": [
            {"buffer": 0, "byteLength": p["count"] * p["byteStride"], "extensions": {"EXT_meshopt_compression": p}}
            for p in packed
        ],
    }
    mesh = read_scene(make_glb(document, binary + indices), "ball.glb").mesh
    assert mesh.positions == pytest.approx(points)
    assert mesh.n_faces == len(faces)
    packed[0]["byteLength"] //= 2
    with pytest.raises(UnreadableFile, match="cannot be decoded"):
        read_scene(make_glb(document, binary + indices), "ball.glb")


def test_material_extensions_are_carried_through_with_their_textures() -> None:
    ball = bumpy_sphere(6)
    points, faces = ball.positions.astype("<f4").tobytes(), ball.triangles().astype("<u4").tobytes()
    uvs = np.zeros((ball.n_vertices, 2), "<f4").tobytes()
    document = _document(ball.n_vertices, 3 * ball.n_faces)
    document["accessors"] += [{"componentType": 5126, "count": ball.n_vertices, "type": "VEC2", "bufferView": 2}]
    document["accessors"][0]["bufferView"], document["accessors"][1]["bufferView"] = 0, 1
    document["meshes"][0]["primitives"][0] |= {"material": 0}
    document["meshes"][0]["primitives"][0]["attributes"]["TEXCOORD_0"] = 2
    coat = {"clearcoatFactor": 0.75, "clearcoatTexture": {"index": 0}}
    document |= {
        "materials": [{"name": "lacquer", "extensions": {"KHR_materials_clearcoat": coat}}, {"name": "spare"}],
        "textures": [{"source": 0}],
        "images": [{"bufferView": 3, "mimeType": "image/png"}],
        "buffers": [{"byteLength": len(points) + len(faces) + len(uvs) + len(PNG)}],
        "bufferViews": [],
    }
    at = 0
    for part in (points, faces, uvs, PNG):
        document["bufferViews"].append({"buffer": 0, "byteOffset": at, "byteLength": len(part)})
        at += len(part)
    result = prepare(
        make_glb(document, points + faces + uvs + PNG),
        "ball.glb",
        MemoryFiles({}),
        get_line("held"),
        get_destination("plain"),
    )
    data = result.files[0].data
    shipped = json.loads(data[20 : 20 + int.from_bytes(data[12:16], "little")])
    assert shipped["extensionsUsed"] == ["KHR_materials_clearcoat"]
    written = shipped["materials"][0]["extensions"]["KHR_materials_clearcoat"]
    assert written == {"clearcoatFactor": 0.75, "clearcoatTexture": {"index": 0}}
    assert len(shipped["images"]) == 1
    assert "unused-materials" in {finding.code for finding in result.findings}
