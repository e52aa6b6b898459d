"""Damaged files of every format: read, or refused in one sentence; what ends its process or never ends costs itself.

``PLINDRO_FUZZ=3000 pytest tests/core/test_fuzz.py`` tries that many of each.
"""

import io
import os
import random
import tempfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import Future
from pathlib import Path

import DracoPy
import numpy as np
import pytest
from PIL import Image

from plindro.core.errors import PlindroError
from plindro.core.executors import WorkStopped, result_of
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.worker_pool import WorkerLimits, WorkerPool
from tests.shapes import bumpy_sphere, make_glb

MUTANTS = int(os.environ.get("PLINDRO_FUZZ") or 40)
LIMITS = WorkerLimits(seconds=10.0, memory_mib=2048)
LIBRARY = b"newmtl paint\nKd 0.5 0.5 0.5\nmap_Kd paint.png\nmap_Bump -bm 0.5 paint.jpg\nNs 40\nd 0.5\n"
USD = """#usda 1.0
(
    metersPerUnit = 0.01
    upAxis = "Z"
)
def Xform "Root"
{
    double3 xformOp:translate = (1, 2, 3)
    uniform token[] xformOpOrder = ["xformOp:translate"]
    def Mesh "Plate" (prepend apiSchemas = ["MaterialBindingAPI"])
    {
        point3f[] points = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)]
        int[] faceVertexCounts = [4]
        int[] faceVertexIndices = [0, 1, 2, 3]
        texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1), (0, 1)] (interpolation = "faceVarying")
        normal3f[] normals = [(0, 0, 1), (0, 0, 1), (0, 0, 1), (0, 0, 1)]
        rel material:binding = </Root/Paint>
    }
    def Material "Paint"
    {
        token outputs:surface.connect = </Root/Paint/Shader.outputs:surface>
        def Shader "Shader"
        {
            uniform token info:id = "UsdPreviewSurface"
            color3f inputs:diffuseColor = (0.5, 0.5, 0.5)
            float inputs:roughness = 0.4
            token outputs:surface
        }
    }
}
"""


def _picture(kind: str) -> bytes:
    buffer = io.BytesIO()
    Image.fromarray((np.arange(16 * 16 * 3) % 255).astype(np.uint8).reshape(16, 16, 3)).save(buffer, kind)
    return buffer.getvalue()


def _obj() -> bytes:
    ball = bumpy_sphere(3)
    lines = ["mtllib paint.mtl", "o ball", *(f"v {x} {y} {z}" for x, y, z in ball.positions.round(4).tolist())]
    lines += ["vt 0 0", "vn 0 0 1", "usemtl paint", "s 1"]
    lines += ["f " + " ".join(f"{v + 1}/1/1" for v in face) for face in ball.triangles().tolist()]
    return "\n".join(lines).encode()


def _glb(*, draco: bool = False) -> bytes:
    ball = bumpy_sphere(3)
    points, faces = ball.positions.astype("<f4"), ball.triangles().astype("<u4")
    primitive = {"attributes": {"POSITION": 0}, "indices": 1, "material": 0}
    packed = DracoPy.encode(points, faces, preserve_order=True) if draco else points.tobytes() + faces.tobytes()
    views = [{"buffer": 0, "byteOffset": 0, "byteLength": points.nbytes}]
    views += [{"buffer": 0, "byteOffset": points.nbytes, "byteLength": faces.nbytes}]
    if draco:
        views = [{"buffer": 0, "byteOffset": 0, "byteLength": len(packed)}]
        unique = DracoPy.decode(packed).attributes[0]["unique_id"]
        primitive["extensions"] = {"KHR_draco_mesh_compression": {"bufferView": 0, "attributes": {"POSITION": unique}}}
    accessors = [
        {"componentType": 5126, "count": len(points), "type": "VEC3", "bufferView": 0},
        {"componentType": 5125, "count": faces.size, "type": "SCALAR", "bufferView": 1},
    ]
    image = _picture("PNG")
    views.append({"buffer": 0, "byteOffset": len(packed), "byteLength": len(image)})
    document = {
        "extensionsUsed": ["KHR_draco_mesh_compression"] if draco else [],
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": "ball", "scale": [1, 2, 1]}],
        "meshes": [{"primitives": [primitive]}],
        "materials": [{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}],
        "textures": [{"source": 0}],
        "images": [{"bufferView": len(views) - 1, "mimeType": "image/png"}],
        "accessors": [{k: v for k, v in a.items() if not draco or k != "bufferView"} for a in accessors],
        "bufferViews": views,
        "buffers": [{"byteLength": len(packed) + len(image)}],
    }
    return make_glb(document, packed + image)


def _ply(encoding: str) -> bytes:
    axes = "".join(f"property float {axis}\n" for axis in "xyz")
    head = f"ply\nformat {encoding} 1.0\nelement vertex 4\n{axes}element face 1\n"
    head += "property list uchar int vertex_indices\nend_header\n"
    if encoding == "ascii":
        return head.encode() + b"0 0 0\n1 0 0\n1 1 0\n0 1 0\n4 0 1 2 3\n"
    points = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], "<f4")
    return head.encode() + points.tobytes() + b"\4" + np.arange(4, dtype="<i4").tobytes()


def _stl() -> bytes:
    return bytes(80) + (2).to_bytes(4, "little") + np.arange(24, dtype="<f4").tobytes()[:48] + bytes(2) + bytes(50)


def _usd(suffix: str) -> bytes:
    from pxr import Sdf

    layer = Sdf.Layer.CreateAnonymous(".usda")
    assert layer.ImportFromString(USD)
    if suffix == "usda":
        return USD.encode()
    with tempfile.TemporaryDirectory() as folder:
        layer.Export(f"{folder}/a.usdc")
        if suffix == "usdc":
            return Path(folder, "a.usdc").read_bytes()
        from pxr import UsdUtils

        UsdUtils.CreateNewUsdzPackage(Sdf.AssetPath(f"{folder}/a.usdc"), f"{folder}/a.usdz")
        return Path(folder, "a.usdz").read_bytes()


SEEDS = {
    "a.obj": _obj,
    "a.ply": lambda: _ply("ascii"),
    "b.ply": lambda: _ply("binary_little_endian"),
    "a.stl": _stl,
    "a.glb": _glb,
    "draco.glb": lambda: _glb(draco=True),
    "a.usda": lambda: _usd("usda"),
    "a.usdc": lambda: _usd("usdc"),
    "a.usdz": lambda: _usd("usdz"),
    "paint.mtl": lambda: LIBRARY,
    "paint.png": lambda: _picture("PNG"),
    "paint.jpg": lambda: _picture("JPEG"),
}


def _mutant(data: bytes, seed: int) -> bytes:
    """The bytes with some of them changed, cut out, doubled, or made into odd numbers and text."""
    chance, made = random.Random(seed), bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 4, 16))):
        at = chance.randrange(len(made) or 1)
        kind = chance.randrange(6)
        if kind < 2 and made:
            made[at] = chance.randrange(256)
        elif kind == 2:
            del made[at : at + chance.randrange(1, 40)]
        elif kind == 3:
            made[at:at] = made[at : at + chance.randrange(1, 40)]
        elif kind == 4:
            made[at : at + 4] = chance.choice((b"\xff" * 4, b"\0\0\0\x80", b"\0" * 4, b"nan ", b"1e99", b"-999"))
        else:
            made[at:at] = chance.choice((b"\xff\xfe", "ä".encode(), b"\n", b"\0", b"99999999999", b"{[("))
    return bytes(made)


def _read(name: str, data: bytes, sound: dict[str, bytes]) -> int:
    """The faces of a file whose library or picture may be the damaged one."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), 2)
    files = {**sound, name: data}
    source = name if name in SEEDS and not name.startswith("paint") else "a.obj"
    return read_scene(files[source], source, MemoryFiles(files)).mesh.n_faces


@pytest.fixture(scope="module")
def pool() -> Iterator[WorkerPool]:
    with WorkerPool(2, LIMITS) as instance:
        yield instance
        instance.shutdown(cancel_futures=True)


@pytest.mark.parametrize("name", list(SEEDS))
def test_damaged_files_are_read_or_refused_in_a_sentence(pool: WorkerPool, name: str) -> None:
    sound = {"a.obj": _obj(), "paint.mtl": LIBRARY, "paint.png": _picture("PNG"), "paint.jpg": _picture("JPEG")}
    data = SEEDS[name]()
    assert pool.submit(_read, name, data, sound).result() > 0, "the file is sound before it is damaged"
    tried = [(seed, pool.submit(_read, name, _mutant(data, seed), sound)) for seed in range(MUTANTS)]
    ends: Counter[str] = Counter()
    for seed, future in tried:
        said = _end(future)
        ends[said.split(":")[0]] += 1
        if ".usd" not in name or not said.startswith("stopped"):
            assert said.startswith(("read", "refused")), f"mutant {seed} of {name} {said}"
            assert "\n" not in said
    assert ends["stopped"] <= 0.05 * MUTANTS + 1


def _end(future: Future[int]) -> str:
    """What became of a file."""
    try:
        return f"read: {result_of(future, LIMITS)} faces"
    except WorkStopped as error:
        return f"stopped: {error}"
    except PlindroError as error:
        return f"refused: {error}"
    except Exception as error:
        return f"raised: {error!r}"
