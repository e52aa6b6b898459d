"""Colours of vertices: light inside, sRGB where a format has it, and seen as they are where no material is known."""

from dataclasses import replace

import numpy as np
import pytest

from plindro.core.destinations import Destination
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.polygons import triangulate
from plindro.core.prop import Level, Prop
from plindro.core.scene import Material
from plindro.core.shipping.writing import write_prop
from tests.shapes import make_glb, wavy_sheet

# Bytes of sRGB, and the light that they stand for.
BYTES, LIGHT = (255, 188, 55), (1.0, 0.5029, 0.0382)
POINTS = ((0, 0, 0), (1, 0, 0), (0, 1, 0))


def _obj(colors: bool) -> bytes:
    more = " ".join(f"{byte / 255:.6f}" for byte in BYTES) if colors else ""
    return "".join(f"v {x} {y} {z} {more}\n" for x, y, z in POINTS).encode() + b"f 1 2 3\n"


def _ply(colors: bool) -> bytes:
    names = "".join(f"property uchar {name}\n" for name in ("red", "green", "blue")) if colors else ""
    axes = "".join(f"property float {axis}\n" for axis in "xyz")
    head = f"PLY\nformat ascii 1.0\nelement vertex 3\n{axes}{names}element face 1\n"
    rows = [" ".join(map(str, (*point, *(BYTES if colors else ())))) for point in POINTS]
    return (head + "property list uchar int vertex_indices\nend_header\n" + "\n".join(rows) + "\n3 0 1 2\n").encode()


def _glb(colors: bool) -> bytes:
    buffers = [np.array(POINTS, np.float32), *([np.array([LIGHT] * 3, np.float32)] if colors else [])]
    names = ("POSITION", "COLOR_0")
    return make_glb(
        {
            "scenes": [{"nodes": [0]}],
            "nodes": [{"mesh": 0}],
            "meshes": [{"primitives": [{"attributes": {names[i]: i for i in range(len(buffers))}}]}],
            "accessors": [
                {"bufferView": i, "componentType": 5126, "count": 3, "type": "VEC3"} for i in range(len(buffers))
            ],
            "bufferViews": [{"buffer": 0, "byteOffset": 36 * i, "byteLength": 36} for i in range(len(buffers))],
            "buffers": [{"byteLength": 36 * len(buffers)}],
        },
        b"".join(values.tobytes() for values in buffers),
    )


def _usda(colors: bool) -> bytes:
    color = f"color3f[] primvars:displayColor = [{LIGHT}, {LIGHT}, {LIGHT}] (interpolation = 'vertex')"
    return f"""#usda 1.0
def Mesh "thing" {{
    int[] faceVertexCounts = [3]
    int[] faceVertexIndices = [0, 1, 2]
    point3f[] points = {list(POINTS)}
    {color if colors else ""}
}}
""".encode()


@pytest.mark.parametrize(("make", "name"), [(_obj, "a.obj"), (_ply, "a.ply"), (_glb, "a.glb"), (_usda, "a.usda")])
def test_colors_are_read_as_light_and_a_material_that_is_not_known_lets_them_through(make, name: str) -> None:
    scene = read_scene(make(True), name)
    assert scene.mesh.colors is not None
    np.testing.assert_allclose(scene.mesh.colors, [(*LIGHT, 1.0)] * 3, atol=2e-4)
    assert scene.materials[0].base_color == (1.0, 1.0, 1.0, 1.0)
    plain = read_scene(make(False), name)
    assert plain.mesh.colors is None
    assert plain.materials[0].base_color[:3] == (0.55, 0.55, 0.55)


@pytest.mark.parametrize("kind", ["obj", "ply", "glb", "usd"])
def test_colors_are_written_as_they_were_read_where_corners_of_one_point_differ_too(kind: str) -> None:
    mesh = triangulate(wavy_sheet(5)).mesh
    rng = np.random.default_rng(4)
    by_vertex = rng.random((mesh.n_vertices, 4), np.float32)[mesh.corner_vertex]
    by_vertex[:3] = rng.random((3, 4), np.float32)
    by_vertex[:, 3] = 1.0
    mesh = replace(mesh, colors=by_vertex)
    prop = Prop("sheet", mesh, (), (Material("paint"),), levels=(Level(0, mesh, "sheet_LOD0"),))
    written = write_prop(prop, Destination(name="a", title="A", format=kind))  # type: ignore[arg-type]
    files = {file.path: file.data for file in written}
    back = read_scene(written[0].data, written[0].path, MemoryFiles(files)).mesh
    assert back.n_faces == mesh.n_faces
    assert back.colors is not None
    # A byte of sRGB near white is most light.
    np.testing.assert_allclose(back.colors, by_vertex, atol=5e-3 if kind == "ply" else 1e-6)
