"""Destinations: names by their templates, and every form read by other libraries and brought back."""

import io
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from pxr import Usd, UsdGeom
from pydantic import ValidationError

from plindro.core.destinations import DESTINATIONS, Destination, TextureRules, get_destination
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.line import override
from plindro.core.lines import get_line
from plindro.core.measure.occlusion import vertex_occlusion
from plindro.core.mesh.mesh import Mesh, make_mesh
from plindro.core.mesh.streams import count_engine_vertices, vertex_stream
from plindro.core.polygons import triangulate
from plindro.core.scene import Material, Texture
from plindro.core.shipping import PrepareResult, prepare, prop_record
from plindro.core.shipping.destined import destined
from plindro.core.shipping.splitting import split_faces
from plindro.core.templates import TemplateError, read_template
from tests.painted import painted_glb
from tests.shapes import cube, wavy_sheet

LINE = override(get_line("standing"), {"levels": {"levels": [{"ratio": 0.5}, {"ratio": 0.2}]}})
BACK = {
    "z-up-obj": (np.array([[1, 0, 0], [0, 0, 1], [0, -1, 0]]), 0.01, False),
    "z-up-usdz": (np.array([[1, 0, 0], [0, 0, 1], [0, -1, 0]]), 0.01, False),
    "print-stl": (np.array([[1, 0, 0], [0, 0, 1], [0, -1, 0]]), 0.001, False),
    "left-hand-ply": (np.array([[1, 0, 0], [0, 1, 0], [0, 0, -1]]), 1.0, True),
}
"""How a destination's axes, unit and winding are brought back, by hand; others are ours."""


def _shipped(destination: Destination, **settings: Any) -> PrepareResult:
    return prepare(painted_glb(), "painted.glb", MemoryFiles({}), override(LINE, settings), destination)


def _asked(**changes: Any) -> Destination:
    return Destination.model_validate({"name": "asked", "title": "Asked", **changes})


class Read:
    """A level as another library reads it: corners, their normals and their UVs, or None."""

    def __init__(self, corners: Any, normals: Any = None, uvs: Any = None) -> None:
        self.corners, self.normals, self.uvs = corners, normals, uvs


def _of_trimesh(found: trimesh.Trimesh, *, is_turned: bool) -> Read:
    uv = getattr(found.visual, "uv", None)
    if uv is not None:
        # The library keeps UVs as their formats have them, and turns those of glTF.
        uv = np.stack([uv[:, 0], 1 - uv[:, 1]], axis=1)[found.faces]
    elif "_ply_raw" in found.metadata:
        data = found.metadata["_ply_raw"]["vertex"]["data"]
        uv = np.stack([data["s"], 1 - data["t"]], axis=1).reshape(-1, 2)[found.faces]
    normals = found.vertex_normals[found.faces] if is_turned else None
    return Read(found.vertices[found.faces], normals, uv)


def _read_scene(path: Path, name: str) -> Read:
    scene = trimesh.load(path, process=False, maintain_order=True)
    if isinstance(scene, trimesh.Trimesh):
        return _of_trimesh(scene, is_turned=path.suffix == ".ply")
    known = scene.graph.transforms.node_data
    below = [node for node in known if node == name or node.startswith(f"{name}_painted")]
    parts = [scene.geometry[mesh] for node in below if (mesh := known[node].get("geometry")) in scene.geometry]
    read = [_of_trimesh(part, is_turned=True) for part in parts]
    return Read(*(np.concatenate([getattr(r, key) for r in read]) for key in ("corners", "normals", "uvs")))


def _read_obj(path: Path, name: str) -> Read:
    """Written for the test: positions, normals and UVs of the faces of one object."""
    rows: dict[str, list[list[float]]] = {"v": [], "vt": [], "vn": []}
    faces: dict[str, list[list[list[int]]]] = {}
    for words in (line.split() for line in path.read_text().splitlines()):
        if words[0] in rows:
            rows[words[0]].append([float(word) for word in words[1:]])
        elif words[0] == "o":
            faces[words[1]] = []
        elif words[0] == "f":
            faces[list(faces)[-1]].append([[int(n) - 1 for n in word.split("/")] for word in words[1:]])
    corner = np.array(faces[name])
    uvs = np.array(rows["vt"])[corner[..., 1]] * (1, -1) + (0, 1)
    return Read(np.array(rows["v"])[corner[..., 0]], np.array(rows["vn"])[corner[..., 2]], uvs)


def _read_usd(path: Path, name: str) -> Read:
    stage = Usd.Stage.Open(str(path))
    mesh = next(UsdGeom.Mesh(p) for p in stage.Traverse() if p.GetName() == name and p.IsA(UsdGeom.Mesh))
    corner = np.array(mesh.GetFaceVertexIndicesAttr().Get()).reshape(-1, 3)
    uvs = np.array(UsdGeom.PrimvarsAPI(mesh).GetPrimvar("st").Get()) * (1, -1) + (0, 1)
    assert UsdGeom.GetStageMetersPerUnit(stage) in (1.0, 0.01)
    return Read(
        np.array(mesh.GetPointsAttr().Get())[corner],
        np.array(mesh.GetNormalsAttr().Get()).reshape(-1, 3, 3),
        uvs.reshape(-1, 3, 2),
    )


def _keys(corners: Any, *others: Any) -> list[tuple[float, ...]]:
    """Triangles with what their corners carry, each from its least corner on, in one order."""
    whole = np.concatenate([np.asarray(values, np.float64) for values in (corners, *others)], axis=2)
    rows = []
    for triangle in np.round(whole, 4) + 0.0:
        turns = [tuple(np.roll(triangle, -k, axis=0).reshape(-1).tolist()) for k in range(3)]
        rows.append(min(turns))
    return sorted(rows)


def _of_mesh(mesh: Mesh) -> tuple[Any, Any, Any]:
    assert mesh.normals is not None
    return mesh.positions[mesh.triangles()], mesh.normals.reshape(-1, 3, 3), mesh.uvs[0].reshape(-1, 3, 2)


@pytest.mark.parametrize("destination", DESTINATIONS, ids=lambda d: d.name)
def test_every_destination_is_read_by_another_library_and_brought_back(
    destination: Destination, tmp_path: Path
) -> None:
    result = _shipped(destination)
    assert result.status == "shipped", [f.message for f in result.findings if f.severity == "stop"]
    for file in result.files:
        (tmp_path / file.path).parent.mkdir(exist_ok=True)
        (tmp_path / file.path).write_bytes(file.data)
    matrix, unit, is_clockwise = BACK.get(destination.name, (np.eye(3), 1.0, False))
    mains = [
        f.path for f in result.files if f.path.split(".")[-1] in ("glb", "gltf", "obj", "ply", "stl", "usdc", "usdz")
    ]
    for index, level in enumerate(result.built.prop.levels):
        main = tmp_path / mains[index if destination.format in ("ply", "stl") else 0]
        name = destination.level_name(result.name, index)
        reader = {"obj": _read_obj, "usdc": _read_usd, "usdz": _read_usd}.get(main.suffix[1:], _read_scene)
        read = reader(main, name)
        order = [0, 2, 1] if is_clockwise else [0, 1, 2]
        came = [(read.corners @ matrix.T * unit)[:, order]]
        wanted, normals, uvs = _of_mesh(level.mesh)
        expected = [wanted]
        if read.normals is not None and destination.normals:
            came.append((read.normals @ matrix.T)[:, order])
            expected.append(normals)
        if read.uvs is not None:
            came.append(read.uvs[:, order])
            expected.append(uvs)
        assert len(came) == (1 if destination.format == "stl" else 3)
        assert np.allclose(_keys(*came), _keys(*expected), atol=2e-4)


def _gltf_tangents(main: Path, name: str) -> Read:
    """Written for the test, since the library has none: corners with their tangents, of a node with one primitive."""
    data = main.read_bytes()
    size = int.from_bytes(data[12:16], "little")
    is_glb = main.suffix == ".glb"
    document = json.loads(data[20 : 20 + size] if is_glb else data)
    binary = data[28 + size :] if is_glb else main.with_suffix(".bin").read_bytes()

    def values(index: int) -> Any:
        row = document["accessors"][index]
        view = document["bufferViews"][row["bufferView"]]
        kind = {5123: "<u2", 5125: "<u4", 5126: "<f4"}[row["componentType"]]
        width = {"SCALAR": 1, "VEC3": 3, "VEC4": 4}[row["type"]]
        return np.frombuffer(binary, kind, row["count"] * width, view["byteOffset"]).reshape(-1, width)

    # Where LOD0 has no suffix the root may have its name too.
    node = next(n for n in document["nodes"] if n["name"] == name and "mesh" in n)
    (primitive,) = document["meshes"][node["mesh"]]["primitives"]
    corner = values(primitive["indices"]).reshape(-1, 3)
    attributes = {key: values(primitive["attributes"][key])[corner] for key in ("POSITION", "TANGENT")}
    return Read(attributes["POSITION"], attributes["TANGENT"])


@pytest.mark.parametrize("destination", [d for d in DESTINATIONS if d.tangents], ids=lambda d: d.name)
def test_tangents_arrive_as_they_were_made(destination: Destination, tmp_path: Path) -> None:
    result = _shipped(destination)
    for file in result.files:
        (tmp_path / file.path).parent.mkdir(exist_ok=True)
        (tmp_path / file.path).write_bytes(file.data)
    for index, level in enumerate(result.built.prop.levels):
        read = _gltf_tangents(tmp_path / result.files[0].path, destination.level_name(result.name, index))
        assert level.mesh.tangents is not None
        made = level.mesh.positions[level.mesh.triangles()], level.mesh.tangents.reshape(-1, 3, 4)
        assert np.allclose(_keys(read.corners, read.normals), _keys(*made), atol=2e-4)


NAMES = st.text("abcXYZ019_", min_size=1, max_size=12)


@given(NAMES, st.integers(0, 99), st.sampled_from(["{prop}_LOD{level}", "L{level}.{prop}", "{prop}-d{level}x"]))
def test_what_a_template_makes_it_finds_again(prop: str, level: int, text: str) -> None:
    template = read_template(text, ("prop", "level"), ("prop", "level"))
    found = template.pattern().match(template.fill({"prop": prop, "level": level}))
    assert found is not None
    assert (found["prop"], int(found["level"])) == (prop, level)


@pytest.mark.parametrize(
    ("text", "place", "word"),
    [
        ("{prop}_LOD{lvl}", 10, "{lvl}"), ("{prop}_LOD", 10, "{level}"), ("{prop}_{level", 7, "not closed"),
        ("{prop}_ {level}", 7, "' '"), ("{prop}}_{level}", 6, "not opened"), ("{prop}_{level}_{level}", 15, "second"),
        ("{prop}{level}", 6, "beside"), ("{prop}_4{level}", 8, "beside"),
    ],
)  # fmt: skip
def test_a_wrong_template_is_told_at_its_place(text: str, place: int, word: str) -> None:
    with pytest.raises(TemplateError, match=word.replace("{", r"\{")) as told:
        read_template(text, ("prop", "level"), ("prop", "level"))
    assert told.value.place == place
    with pytest.raises(ValidationError) as error:
        _asked(level_template=text)
    (first,) = error.value.errors()
    assert (first["loc"], first["ctx"]["place"]) == (("level_template",), place)


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"up": "z"}, "up"), ({"format": "usd", "hand": "left"}, "hand"), ({"format": "gltf", "unit": "cm"}, "unit"),
        ({"format": "obj", "past_limit": "split"}, "past_limit"),
        ({"format": "stl", "hierarchy": "nested"}, "hierarchy"),
        ({"max_triangles": [0]}, "max_triangles"), ({"scale": 0}, "scale"),
    ],
)  # fmt: skip
def test_what_a_format_cannot_hold_is_told_at_its_field(changes: dict[str, Any], field: str) -> None:
    with pytest.raises(ValidationError) as error:
        _asked(**changes)
    assert error.value.errors()[0]["loc"] == (field,)


def test_names_follow_the_destination() -> None:
    asked = _asked(
        file_template="P_{prop}",
        level_template="{prop}.d{level}",
        first_level=1,
        lod0_suffix=False,
        proxy_template="{kind}_{index}_{prop}",
        material_template="M_{prop}_{material}",
        textures={"output": "dds", "template": "{image}{suffix}_{digest}", "suffixes": {"color": "_C"}},
    )
    result = _shipped(asked, collision={"kind": "box"})
    assert result.status == "shipped"
    assert result.files[0].path == "P_painted.glb"
    names = [level["name"] for level in prop_record(result, "a")["levels"]]
    assert names == ["painted", "painted.d2", "painted.d3"]
    scene = trimesh.load(trimesh.util.wrap_as_stream(result.files[0].data), "glb")
    assert set(scene.graph.nodes) >= {*names, "box_0_painted"}
    materials = {name for row in prop_record(result, "a")["textures"] for name in row["materials"]}
    assert all(name.startswith("M_painted_") for name in materials)
    assert materials == {mesh.visual.material.name for mesh in scene.geometry.values() if hasattr(mesh.visual, "uv")}
    assert any(file.path.startswith("textures/color_C_") for file in result.files)


def test_levels_nest_with_their_parts_and_pieces_and_are_rehearsed_so() -> None:
    asked = _asked(hierarchy="nested", past_limit="split", max_engine_vertices=30)
    result = _shipped(asked, collision={"kind": "box"})
    assert result.status == "shipped", [f.message for f in result.findings if f.severity == "stop"]
    assert {f.code for f in result.findings} >= {"level-split"}
    scene = trimesh.load(trimesh.util.wrap_as_stream(result.files[0].data), "glb")
    parents = scene.graph.transforms.parents
    assert parents["painted_LOD1"] == parents["painted_collision_0"] == "painted_LOD0"
    assert "engine-vertices-over-limit" not in {f.code for f in result.findings}
    over = _shipped(_asked(past_limit="stop", max_engine_vertices=30))
    assert over.status == "held"
    told = _shipped(_asked(stops=["level-over-budget"], max_triangles=[1]))
    assert told.status == "held"


@given(st.integers(4, 14), st.integers(12, 90))
def test_pieces_hold_what_they_may_and_all_faces_are_in_one(size: int, limit: int) -> None:
    mesh = triangulate(wavy_sheet(size)).mesh
    pieces = split_faces(mesh, limit)
    counts = [count_engine_vertices(mesh.with_faces(pieces == piece)) for piece in range(int(pieces.max()) + 1)]
    assert max(counts) <= limit
    assert min(counts) >= 3
    assert np.array_equal(pieces, split_faces(mesh, limit))


def test_a_long_strip_is_cut_across_where_that_costs_least() -> None:
    """A sheet of 4 by 64 quads has rows of 5 vertices: three cuts into four pieces cost 5 each."""
    across, along = np.meshgrid(np.arange(5), np.arange(65))
    points = np.stack([across, np.zeros_like(across), along], axis=-1).reshape(-1, 3).astype(float)
    first = (np.arange(64)[:, None] * 5 + np.arange(4)).reshape(-1)
    quads = np.stack([first, first + 1, first + 6, first + 5], axis=1)
    mesh = triangulate(make_mesh(points, np.arange(0, 4 * 256 + 1, 4), quads.reshape(-1))).mesh
    pieces = split_faces(mesh, 90)
    ids = vertex_stream(mesh).corner_index
    shipped = len(np.unique(np.stack([ids, np.repeat(pieces, 3)], axis=1), axis=0))
    assert int(pieces.max()) + 1 == 4
    assert shipped - len(np.unique(ids)) == 15


def test_a_light_map_is_written_as_the_channel_that_is_asked_for() -> None:
    made = {"uvs": {"light_map": "make", "light_map_max": 128}}
    plain = _shipped(_asked(), **made).built.prop.levels[0].mesh
    result = _shipped(_asked(light_map_channel=3), **made)
    assert result.status == "shipped"
    document = json.loads(result.files[0].data[20 : 20 + int.from_bytes(result.files[0].data[12:16], "little")])
    keys = set(document["meshes"][0]["primitives"][0]["attributes"])
    assert {f"TEXCOORD_{k}" for k in range(4)} <= keys
    assert "TEXCOORD_4" not in keys
    moved = destined(result.built.prop, _asked(light_map_channel=3)).levels[0].mesh
    assert [np.array_equal(uv, plain.uvs[k]) for uv, k in zip(moved.uvs, (0, 0, 0, 1), strict=True)] == [True] * 4
    third = replace(result.built.prop, materials=(Material("a", textures=(("base_color", Texture(0, channel=1)),)),))
    assert destined(third, _asked(light_map_channel=3)).materials[0].textures[0][1].channel == 3


def test_textures_are_named_by_their_suffix() -> None:
    rules = TextureRules(template="{image}{suffix}_{digest}", suffixes={"normal": "_N"}, folder="")
    assert rules.path("wood", "normal", "0123456789", "dds") == "wood_N_01234567.dds"
    assert rules.path("wood", "color", "0123456789", "dds") == "woodcolor_01234567.dds"
    with pytest.raises(ValidationError, match="no suffix"):
        TextureRules(suffixes={"normal": "a b"})
    assert get_destination("nested-split").textures.suffixes["packed"] == "P"


def test_a_folder_a_prop_names_the_shared_textures_from_where_it_lies() -> None:
    for kind, textures in (("glb", {"output": "dds"}), ("gltf", {"beside": True}), ("obj", {}), ("usd", {})):
        result = _shipped(_asked(format=kind, folders="prop", textures=textures))
        assert result.status == "shipped", [f.message for f in result.findings if f.severity == "stop"]
        paths = [file.path for file in result.files]
        assert {path.split("/")[0] for path in paths} <= {"painted", "textures"}
        assert paths[0].startswith("painted/painted.")
        assert result.seen is not None
        maps = [row for material in result.seen.materials for row in material.maps]
        assert maps
        assert {row.state for row in maps} == {"found"}
        if kind in ("glb", "gltf"):
            assert maps[0].path.startswith("../textures/")


def test_the_data_file_has_what_the_model_has() -> None:
    asked = _asked(data_file=True)
    result = _shipped(asked, collision={"kind": "box"})
    files = {file.path: file.data for file in result.files}
    assert set(files) == {"painted.glb", "painted.npz"} == set(asked.files("painted", ()))
    assert files == {file.path: file.data for file in _shipped(asked, collision={"kind": "box"}).files}
    with np.load(io.BytesIO(files["painted.npz"]), allow_pickle=False) as data:
        about = json.loads(str(data["about"]))
        assert [level["name"] for level in about["levels"]] == [f"painted_LOD{i}" for i in range(3)]
        assert about["levels"][0]["drawn_from"] == 0.0
        scene = trimesh.load(trimesh.util.wrap_as_stream(files["painted.glb"]), "glb", process=False)
        for index in range(3):
            mesh = scene.geometry[f"painted_LOD{index}"]
            corners = data[f"lod{index}_positions"][data[f"lod{index}_triangles"]]
            np.testing.assert_allclose(corners, mesh.vertices[mesh.faces], atol=1e-6)
            assert {f"lod{index}_{key}" for key in ("normals", "tangents", "uv0", "occlusion")} <= set(data.files)
        assert data["proxy0_triangles"].shape == (12, 3)


def test_occlusion_is_what_an_even_sky_would_give() -> None:
    floor = [(x, 0.0, z) for x in (-20, 0, 20) for z in (-20, 0, 20)]
    quads = [(0, 1, 4, 3), (1, 2, 5, 4), (3, 4, 7, 6), (4, 5, 8, 7)]

    def mesh_of(points: list[tuple[float, float, float]], faces: list[tuple[int, ...]]) -> Mesh:
        made = make_mesh(np.array(points, float), np.arange(0, 4 * len(faces) + 1, 4), np.array(faces).reshape(-1))
        return triangulate(made).mesh

    plane = mesh_of(floor, quads)
    assert vertex_occlusion(plane, 100.0).min() == 1.0
    # A long wall beside the middle takes half of its sky.
    wall = [(0.5, 0.0, -400.0), (0.5, 0.0, 400.0), (0.5, 400.0, 400.0), (0.5, 400.0, -400.0)]
    both = mesh_of(floor + wall, [*quads, (9, 10, 11, 12)])
    seen = vertex_occlusion(both, 1e5)[both.corner_vertex == 4]
    assert seen == pytest.approx(0.5, abs=0.04)
    assert vertex_occlusion(both, 0.4)[both.corner_vertex == 4].min() == 1.0, "what is beyond the reach covers nothing"
    box = triangulate(cube()).mesh
    inward = box.with_corners(
        np.arange(box.n_corners).reshape(-1, 3)[:, ::-1].reshape(-1), box.face_start, np.arange(12)
    )
    assert vertex_occlusion(inward, 10.0).max() < 0.1


@pytest.mark.parametrize(("kind", "channel"), [("glb", "rgb"), ("glb", "alpha"), ("ply", "rgb"), ("obj", "rgb")])
def test_occlusion_ships_among_the_colours_of_vertices(kind: str, channel: str) -> None:
    result = _shipped(_asked(format=kind, occlusion=channel))
    scene = read_scene(result.files[0].data, result.files[0].path, MemoryFiles({}))
    colors = scene.mesh.colors
    assert colors is not None
    own = vertex_occlusion(result.built.prop.levels[0].mesh, 0.5)
    first = scene.mesh.face_part[scene.mesh.corner_face()] == 0
    told = colors[first][:, 3 if channel == "alpha" else 0]
    assert 0.2 < float(np.min(own)) < 0.99
    # A byte of sRGB near white is nearly a hundredth of light.
    off = np.abs(np.unique(own)[:, None] - np.unique(told)[None])
    assert max(off.min(axis=0).max(), off.min(axis=1).max()) < 0.006
    assert (colors[first][:, 3 if channel == "rgb" else 0] == 1.0).all()
