"""No source reads a file that is not its own: a secret beside its folder never comes into a scene."""

import base64
import io
import json
import zipfile
from pathlib import Path

import numpy as np
import pytest

from plindro.core.errors import PlindroError
from plindro.core.files import FolderFiles, read_scene
from tests.shapes import make_glb

PNG = base64.b64decode(
    "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg=="
)
SECRET_USD = (
    '#usda 1.0\ndef Mesh "Secret" {\n point3f[] points = [(0,0,0), (1,0,0), (0,1,0)]\n int[] faceVertexCounts = [3]\n'
    " int[] faceVertexIndices = [0, 1, 2]\n}\n"
)
OWN_USD = SECRET_USD.replace("Secret", "Own")
CORNERS = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], "<f4").tobytes()
TRIANGLE = "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A source's folder; secrets lie in the one above it, which is the working directory too."""
    (tmp_path / "secret.usda").write_text(SECRET_USD)
    (tmp_path / "secret.png").write_bytes(PNG)
    (tmp_path / "secret.mtl").write_text(f"newmtl paint\nmap_Kd {tmp_path}/secret.png\n")
    (tmp_path / "secret.bin").write_bytes(bytes(36))
    with zipfile.ZipFile(tmp_path / "secret.usdz", "w") as archive:
        archive.writestr("secret.usda", SECRET_USD)
        archive.writestr("secret.png", PNG)
    monkeypatch.chdir(tmp_path)
    own = tmp_path / "own"
    own.mkdir()
    return own


def _ways(secret: Path) -> tuple[str, ...]:
    return (str(secret), f"file://{secret}", f"../{secret.name}", f"./../own/../{secret.name}", secret.name)


def _usd(way: str) -> dict[str, str]:
    """Every way in which a layer names another."""
    variants = (
        'def "V" (\n variants = { string v = "one" }\n prepend variantSets = "v"\n) {\n variantSet "v" = {\n'
        f'  "one" (\n   references = @{way}@</Secret>\n  ) {{\n  }}\n }}\n}}\n'
    )
    clips = (
        f'def "C" (\n clips = {{\n  dictionary default = {{\n   asset[] assetPaths = [@{way}@]\n'
        f'   asset manifestAssetPath = @{way}@\n   string primPath = "/Secret"\n  }}\n }}\n) {{\n}}\n'
    )
    return {
        "sublayer": f"#usda 1.0\n(\n subLayers = [@{way}@]\n)\n" + OWN_USD[10:],
        "reference": f'{OWN_USD}def "R" (\n references = @{way}@</Secret>\n) {{\n}}\n',
        "payload": f'{OWN_USD}def "R" (\n payload = @{way}@</Secret>\n) {{\n}}\n',
        "variant": OWN_USD + variants,
        "clips": OWN_USD + clips,
    }


@pytest.mark.parametrize("arc", list(_usd("")))
@pytest.mark.parametrize("packed", [False, True])
def test_usd_composes_its_own_layers_alone(folder: Path, arc: str, packed: bool) -> None:
    secret = folder.parent / "secret.usda"
    for way in (*_ways(secret), f"{folder.parent}/secret.usdz", f"{folder.parent}/secret.usdz[secret.usda]"):
        data, name = _usd(way)[arc].encode(), "prop.usda"
        if packed:
            buffer = io.BytesIO()
            with zipfile.ZipFile(buffer, "w") as archive:
                archive.writestr("prop.usda", data)
            data, name = buffer.getvalue(), "prop.usdz"
        scene = read_scene(data, name, FolderFiles(folder))
        assert [part.name for part in scene.parts] == ["Own"], way
    # What lies in its folder is its own.
    (folder / "part.usda").write_text(SECRET_USD)
    if arc in ("sublayer", "reference", "payload", "variant"):
        scene = read_scene(_usd("./part.usda")[arc].encode(), "prop.usda", FolderFiles(folder))
        assert len(scene.parts) == 2


def _textured_usd(way: str) -> bytes:
    return (
        '#usda 1.0\ndef Material "M" {\n token outputs:surface.connect = </M/S.outputs:surface>\n def Shader "S" {\n'
        '  uniform token info:id = "UsdPreviewSurface"\n  color3f inputs:diffuseColor.connect = </M/T.outputs:rgb>\n'
        '  token outputs:surface\n }\n def Shader "T" {\n  uniform token info:id = "UsdUVTexture"\n'
        f"  asset inputs:file = @{way}@\n  float3 outputs:rgb\n }}\n}}\n"
        + OWN_USD[10:-2]
        + " rel material:binding = </M>\n}\n"
    ).encode()


def test_no_format_takes_a_texture_library_or_buffer_from_outside(folder: Path) -> None:
    ways = [way for name in ("secret.png", "secret.usdz[secret.png]") for way in _ways(folder.parent / name)]
    ways = [way for way in ways if "/" in way]
    for way in ways:
        assert not read_scene(_textured_usd(way), "prop.usda", FolderFiles(folder)).images, way
        (folder / "prop.mtl").write_text(f"newmtl paint\nmap_Kd {way}\nmap_Bump {way}\n")
        obj = f"mtllib prop.mtl\nmtllib {folder.parent}/secret.mtl\nusemtl paint\n{TRIANGLE}".encode()
        assert not read_scene(obj, "prop.obj", FolderFiles(folder)).images, way
        document = {
            "nodes": [{"mesh": 0}],
            "scenes": [{"nodes": [0]}],
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "material": 0}]}],
            "accessors": [{"componentType": 5126, "count": 3, "type": "VEC3", "bufferView": 0}],
            "bufferViews": [{"buffer": 0, "byteLength": 36}],
            "buffers": [{"byteLength": 36}],
            "images": [{"uri": way}],
            "textures": [{"source": 0}],
            "materials": [{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}],
        }
        scene = read_scene(make_glb(document, CORNERS), "prop.glb", FolderFiles(folder))
        assert not scene.images, way
        assert "missing-texture" in {finding.code for finding in scene.findings}
        outside = {**document, "asset": {"version": "2.0"}, "buffers": [{"byteLength": 36, "uri": way[:-3] + "bin"}]}
        with pytest.raises(PlindroError):
            read_scene(json.dumps(outside).encode(), "prop.gltf", FolderFiles(folder))
