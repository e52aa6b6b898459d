"""Sources that hold more than they may are refused in one sentence, and before they are built up."""

import json
import struct
import tracemalloc
from collections.abc import Callable

import numpy as np
import pytest

from plindro.core.errors import UnreadableFile
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.files.gltf.writer import write_glb
from plindro.core.files.images import encode_png, read_image
from plindro.core.files.limits import LIMITS, Census, SourceLimits
from plindro.core.mesh.mesh import make_triangles
from plindro.core.names import unique_names
from plindro.core.prop import Level, Prop
from plindro.core.scene import Material


def glb(change: Callable[[dict], None], more: bytes = b"") -> bytes:
    """One triangle as GLB, its document changed, with ``more`` after its binary part."""
    mesh = make_triangles(np.eye(3), [[0, 1, 2]])
    data = write_glb(Prop("one", mesh, (), (Material("grey"),), levels=(Level(0, mesh, "one_LOD0"),)))
    length = struct.unpack_from("<I", data, 12)[0]
    document, binary = json.loads(data[20 : 20 + length]), data[28 + length :] + more
    document["buffers"][0]["byteLength"] = len(binary)
    change(document)
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    size = 28 + len(text) + len(binary)
    head = struct.pack("<4sII", b"glTF", 2, size) + struct.pack("<I4s", len(text), b"JSON")
    return head + text + struct.pack("<I4s", len(binary), b"BIN\0") + binary


def deep(document: dict) -> None:
    """Fifty thousand nodes, each below the one before."""
    count = 50_000
    document["nodes"] = [{"children": [i + 1]} for i in range(count - 1)] + [{"mesh": 0}]
    document["scenes"] = [{"nodes": [0]}]


def many(document: dict) -> None:
    document["nodes"] = [{"mesh": 0, "name": "twig"}] * (LIMITS.nodes + 1)
    document["scenes"] = [{"nodes": list(range(LIMITS.nodes + 1))}]


def instanced(document: dict) -> None:
    """A million instances of one node."""
    views, accessors = document["bufferViews"], document["accessors"]
    start = max(view["byteOffset"] + view["byteLength"] for view in views)
    views.append({"buffer": 0, "byteOffset": start, "byteLength": 12_000_000})
    accessors.append({"bufferView": len(views) - 1, "componentType": 5126, "count": 1_000_000, "type": "VEC3"})
    instancing = {"attributes": {"TRANSLATION": len(accessors) - 1}}
    document["nodes"] = [{"mesh": 0, "extensions": {"EXT_mesh_gpu_instancing": instancing}}]
    document["scenes"] = [{"nodes": [0]}]


def polygon(sides: int) -> bytes:
    angles = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    points = "\n".join(f"v {x:.6f} {y:.6f} 0" for x, y in zip(np.cos(angles), np.sin(angles), strict=True))
    return f"{points}\nf {' '.join(map(str, range(1, sides + 1)))}\n".encode()


def groups(count: int) -> bytes:
    return b"v 0 0 0\nv 1 0 0\nv 0 1 0\n" + b"".join(b"g part%d\nf 1 2 3\n" % i for i in range(count))


THIN = "\u202f"
PLY = b"ply\nformat ascii 1.0\nelement vertex 90000000\nproperty float x\nelement face 1\nend_header\n"
LARGE = {
    "deep.glb": (lambda: glb(deep), "50_000 nodes"),
    "many.glb": (lambda: glb(many), "10_001 nodes"),
    "instances.glb": (lambda: glb(instanced, bytes(12_000_000)), "1_000_000 nodes"),
    "polygon.obj": (lambda: polygon(100_000), "a polygon of 100_000 sides"),
    "groups.obj": (lambda: groups(LIMITS.nodes + 1), "10_001 nodes"),
    "points.ply": (lambda: PLY, "90_000_000 vertices"),
}


@pytest.mark.parametrize("name", LARGE)
def test_what_is_too_large_is_refused_in_one_sentence_and_without_its_memory(name: str) -> None:
    make, what = LARGE[name]
    data = make()
    tracemalloc.start()
    with pytest.raises(UnreadableFile) as refused:
        read_scene(data, name, MemoryFiles({}))
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    said = str(refused.value).replace(THIN, "_")
    assert said.startswith(f"{name}: has {what}; the limit is ")
    assert said.endswith(" higher")
    assert peak < 40 * len(data) + 64 * 2**20


def test_a_chain_of_nodes_is_limited_by_its_depth() -> None:
    def chain(count: int) -> bytes:
        def change(document: dict) -> None:
            document["nodes"] = [{"children": [i + 1]} for i in range(count - 1)] + [{"mesh": 0}]
            document["scenes"] = [{"nodes": [0]}]

        return glb(change)

    assert read_scene(chain(LIMITS.depth), "chain.glb").mesh.n_faces == 1
    with pytest.raises(UnreadableFile, match="nodes 257 deep; the limit is 256; flatten its hierarchy"):
        read_scene(chain(LIMITS.depth + 1), "chain.glb")


def test_what_is_just_not_too_large_is_read() -> None:
    limits = SourceLimits(faces=4, nodes=2)
    census = Census("x.obj", limits)
    census.add(faces=3, nodes=2)
    census.add(faces=1)
    with pytest.raises(UnreadableFile, match="has 5 faces; the limit is 4; give it in several files"):
        census.add(faces=1)
    assert len(read_scene(groups(300), "groups.obj").parts) == 300


def test_images_are_limited_one_by_one_and_together(monkeypatch: pytest.MonkeyPatch) -> None:
    from PIL import Image as Pillow

    data = encode_png(Pillow.new("L", (100, 50)))
    small = SourceLimits(image_pixels=5_000, all_image_pixels=12_000)
    monkeypatch.setattr("plindro.core.files.limits.Census.__init__.__defaults__", (small,))
    first = read_image(data, "paint.png")
    second = read_image(data, "more.png", [first])
    with pytest.raises(UnreadableFile, match="pixels in all images together; the limit is"):
        read_image(data, "last.png", [first, second])
    with pytest.raises(UnreadableFile, match="make the image smaller"):
        read_image(encode_png(Pillow.new("L", (5_001, 1))), "wide.png")


def test_as_many_equal_names_as_there_may_be_nodes_are_parted_at_once() -> None:
    names = unique_names(["twig"] * 50_000 + ["Twig_7", "twig_50001"])
    assert len({name.lower() for name in names}) == len(names)
    assert names[:3] == ["twig", "twig_2", "twig_3"]
