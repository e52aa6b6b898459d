"""The rehearsal: every fault that is planted in files is found in the right words, and nothing in sound ones."""

import copy
import json
import struct
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
import pytest

from plindro.core.destinations import Destination, get_destination
from plindro.core.errors import UnreadableFile
from plindro.core.files import MemoryFiles
from plindro.core.line import override
from plindro.core.lines import get_line
from plindro.core.rehearsal import Expected, Rehearsal, rehearse
from plindro.core.rehearsal.folder import check_files, expected_of, props_in
from plindro.core.shipping import prepare, prop_record
from tests.painted import painted_glb

PLAIN = get_destination("plain")
LIT = Destination.model_validate({
    "name": "lit", "title": "Lit", "light_map": True, "max_engine_vertices": 900,
    "textures": {"output": "dds", "sizes": "power-of-two"},
})  # fmt: skip
LINE = override(
    get_line("standing"),
    {
        "levels": {"levels": [{"ratio": 0.5}, {"ratio": 0.2}]},
        "uvs": {"light_map": "make", "light_map_max": 128},
        "collision": {"kind": "box"},
    },
)
Shipped = dict[str, bytes]


class Opened:
    """A GLB taken apart: its document, its buffer, and the files beside it."""

    def __init__(self, files: Shipped) -> None:
        self.name = next(path for path in files if path.endswith(".glb"))
        data = files[self.name]
        size = struct.unpack_from("<I", data, 12)[0]
        self.document: dict[str, Any] = json.loads(data[20 : 20 + size])
        self.binary = bytearray(data[28 + size :])
        self.beside = {path: content for path, content in files.items() if path != self.name}

    @property
    def nodes(self) -> list[dict[str, Any]]:
        rows: list[dict[str, Any]] = self.document["nodes"]
        return rows

    def primitive(self, level: int) -> dict[str, Any]:
        row: dict[str, Any] = self.document["meshes"][level]["primitives"][0]
        return row

    def array(self, level: int, key: str) -> np.ndarray:
        """The numbers of an attribute, or of the indices, of a level; or of the proxy, which is the last mesh."""
        row = self.primitive(level)
        accessor = self.document["accessors"][row["indices"] if key == "indices" else row["attributes"][key]]
        view = self.document["bufferViews"][accessor["bufferView"]]
        kind = {5123: "<u2", 5125: "<u4", 5126: "<f4"}[accessor["componentType"]]
        width = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}[accessor["type"]]
        return np.frombuffer(self.binary, kind, accessor["count"] * width, view["byteOffset"]).reshape(-1, width)

    def files(self) -> Shipped:
        text = json.dumps(self.document).encode()
        text += b" " * (-len(text) % 4)
        head = struct.pack("<I4s", len(text), b"JSON")
        chunks = head + text + struct.pack("<I4s", len(self.binary), b"BIN\0") + bytes(self.binary)
        return {self.name: struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks, **self.beside}


@pytest.fixture(scope="module")
def made() -> tuple[Shipped, Expected]:
    """A painted prop with a light map, GPU textures beside and a proxy, and what its manifest says of it."""
    result = prepare(painted_glb(rings=12), "painted.glb", MemoryFiles({}), LINE, LIT)
    assert result.status == "shipped", [f.message for f in result.findings]
    return {file.path: file.data for file in result.files}, Expected.of(prop_record(result, "painted.glb"))


def _rehearsed(files: Shipped, expected: Expected, destination: Destination = LIT) -> Rehearsal:
    return rehearse([next(path for path in files if path.endswith(".glb"))], files, destination, expected)


def test_a_sound_prop_has_nothing_against_it_and_is_seen_as_it_is(made: tuple[Shipped, Expected]) -> None:
    done = _rehearsed(*made)
    assert done.findings == ()
    seen = done.seen
    assert [level.name for level in seen.levels] == [f"painted_LOD{i}" for i in range(3)]
    assert [level.number for level in seen.levels] == [0, 1, 2]
    assert (seen.light_map.channel, seen.light_map.state, seen.tangents) == (1, "holds", "there")
    assert [(p.name, p.triangles, p.fault) for p in seen.proxies] == [("painted_collision_0", 12, "")]
    slots = {row.slot: row for row in seen.materials[0].maps}
    assert set(slots) == {"base_color", "normal", "metallic_roughness"}
    assert slots["normal"].format == "DDS BC5"
    assert (slots["normal"].width, slots["normal"].levels) == (128, 8)
    assert seen.materials[0].levels == [0, 1, 2]
    assert np.allclose(seen.size, made[1].size or ())


def _named(o: Opened, node: int, name: str) -> None:
    o.nodes[node]["name"] = name


def _children(o: Opened, order: list[int]) -> None:
    o.nodes[0]["children"] = order


def _add_root(o: Opened) -> None:
    o.document["scenes"][0]["nodes"].append(len(o.nodes))
    o.nodes.append({"name": "other"})


def _same_mesh(o: Opened) -> None:
    o.nodes[2]["mesh"] = o.nodes[1]["mesh"]


def _moved(o: Opened, node: int) -> None:
    o.nodes[node]["translation"] = [0, 1, 0]


def _without(o: Opened, level: int, key: str) -> None:
    del o.primitive(level)["attributes"][key]


def _scaled(o: Opened, factor: float) -> None:
    for mesh in range(len(o.document["meshes"])):
        o.array(mesh, "POSITION")[:] *= factor


def _exchanged(o: Opened) -> None:
    for mesh in range(len(o.document["meshes"])):
        for key in ("POSITION", "NORMAL") if "NORMAL" in o.primitive(mesh)["attributes"] else ("POSITION",):
            rows = o.array(mesh, key)
            rows[:] = rows[:, [0, 2, 1]] * (1, 1, -1)


def _shifted(o: Opened) -> None:
    for mesh in range(len(o.document["meshes"])):
        o.array(mesh, "POSITION")[:] += (0, 0.5, 0)


def _jumping(o: Opened) -> None:
    o.array(1, "POSITION")[:] += (0.4, 0, 0)


def _filled(o: Opened, level: int, key: str, rows: int, value: float) -> None:
    o.array(level, key)[:rows] = value


def _turned(o: Opened, level: int, count: int | None) -> None:
    triangles = o.array(level, "indices").reshape(-1, 3)
    triangles[:count] = triangles[:count, ::-1].copy()


def _flat(o: Opened) -> None:
    triangles = o.array(0, "indices").reshape(-1, 3)
    triangles[:7, 2] = triangles[:7, 1]


def _wrong_hand(o: Opened) -> None:
    o.array(0, "TANGENT")[:, 3] *= -1


def _backwards(o: Opened) -> None:
    o.array(0, "TANGENT")[:, :3] *= -1


def _restarts(o: Opened) -> None:
    o.array(0, "indices")[0] = 65_535


def _overlapped(o: Opened) -> None:
    uv = o.array(0, "TEXCOORD_1")
    uv[:] = np.abs(uv - 0.5)


def _outside(o: Opened) -> None:
    o.array(1, "TEXCOORD_1")[:5] += 1.5


def _on_channel_2(o: Opened) -> None:
    for mesh in range(3):
        own = o.primitive(mesh)["attributes"]
        own["TEXCOORD_2"] = own["TEXCOORD_1"]
        own["TEXCOORD_1"] = own["TEXCOORD_0"]
        o.array(mesh, "TEXCOORD_0")[:] *= 2.5


def _without_light_map(o: Opened) -> None:
    for mesh in range(3):
        _without(o, mesh, "TEXCOORD_1")


def _dds(o: Opened) -> str:
    return next(path for path in o.beside if path.endswith(".dds"))


def _lost(o: Opened) -> None:
    del o.beside[_dds(o)]


def _misspelt(o: Opened) -> None:
    path = _dds(o)
    o.beside[path.upper()] = o.beside.pop(path)


def _cut_off(o: Opened) -> None:
    o.beside[_dds(o)] = o.beside[_dds(o)][:-40]


def _no_image(o: Opened) -> None:
    o.beside[_dds(o)] = b"not an image"


def _odd_size(o: Opened) -> None:
    data = bytearray(o.beside[_dds(o)])
    data[12:16] = (96).to_bytes(4, "little")
    o.beside[_dds(o)] = bytes(data)


def _without_mips(o: Opened) -> None:
    data = bytearray(o.beside[_dds(o)])
    data[28:32] = (1).to_bytes(4, "little")
    o.beside[_dds(o)] = bytes(data)


def _no_material(o: Opened) -> None:
    del o.primitive(1)["material"]


def _strange_material(o: Opened) -> None:
    o.primitive(1)["material"] = 7


def _other_material(o: Opened) -> None:
    o.document["materials"].append({"name": "glass"})
    o.primitive(2)["material"] = 1


def _part(o: Opened, level: int, name: str) -> None:
    o.nodes.append({"name": name, "mesh": o.nodes[1 + level].pop("mesh")})
    o.nodes[1 + level]["children"] = [len(o.nodes) - 1]


def _split(o: Opened, level: int, parts: tuple[str, ...]) -> None:
    """The same mesh as several parts, which is enough for what goes by names."""
    node = o.nodes[1 + level]
    mesh = node.pop("mesh")
    node["children"] = [len(o.nodes) + k for k in range(len(parts))]
    o.nodes.extend({"name": f"{node['name']}_{part}", "mesh": mesh} for part in parts)


def _other_parts(o: Opened) -> None:
    _part(o, 0, "painted_LOD0_frame")
    _part(o, 1, "painted_LOD1_glass")


def _emptied(o: Opened) -> None:
    accessor = o.document["accessors"][o.primitive(2)["indices"]]
    accessor["count"] = 0


def _open_proxy(o: Opened) -> None:
    o.document["accessors"][o.primitive(3)["indices"]]["count"] -= 3


def _dented_proxy(o: Opened) -> None:
    points = o.array(3, "POSITION")
    points[0] += (points.mean(axis=0) - points[0]) * 1.2


def _hollow_file(o: Opened) -> None:
    _children(o, [])


MISTAKES: list[tuple[str, Callable[[Opened], Any], str, str]] = [
    ("an underscore is missing", partial(_named, node=2, name="paintedLOD1"), "level-name-wrong", "('painted_LOD1')"),
    ("lower case", partial(_named, node=1, name="painted_lod0"), "level-name-wrong", "('painted_LOD0')"),
    ("a letter twice", partial(_named, node=3, name="paintedd_LOD2"), "level-name-wrong", "('painted_LOD2')"),
    ("levels exchanged", partial(_children, order=[2, 1, 3, 4]), "levels-out-of-order", "[1, 0, 2]"),
    ("a number twice", partial(_named, node=2, name="painted_LOD0"), "level-name-twice", "[0, 0, 2]"),
    ("a gap", partial(_named, node=3, name="painted_LOD3"), "level-number-missing", "[0, 1, 3]"),
    ("no levels", _hollow_file, "levels-missing", "nothing to draw"),
    ("another root's name", partial(_named, node=0, name="crate"), "root-name-other", "'crate'"),
    ("two roots", _add_root, "several-roots", "2 root nodes"),
    ("a level repeated", _same_mesh, "triangles-not-decreasing", "counts must fall"),
    ("a level less", partial(_children, order=[1, 2, 4]), "triangles-differ", "were written"),
    ("a level moved", partial(_moved, node=1), "transform-unapplied", "bake it"),
    ("a level emptied", _emptied, "level-empty", "no triangles"),
    ("no normals", partial(_without, level=1, key="NORMAL"), "normals-missing", "painted_LOD1"),
    ("long normals", partial(_filled, level=0, key="NORMAL", rows=5, value=1.0), "normals-not-unit", "5 normals"),
    ("turned faces", partial(_turned, level=0, count=40), "winding-against-normals", "40 triangles"),
    ("flat faces", _flat, "zero-area-triangles", "7 zero-area"),
    ("an index beyond", partial(_filled, level=0, key="indices", rows=1, value=6e4), "index-out-of-range", "not there"),
    ("a strip restarts", _restarts, "index-restarts", "new strip"),
    ("endless places", partial(_filled, level=2, key="POSITION", rows=1, value=np.inf), "non-finite-positions", "1 v"),
    ("no numbers", partial(_filled, level=0, key="TEXCOORD_0", rows=3, value=np.nan), "non-finite-uvs", "channel 0"),
    ("no tangents", partial(_without, level=0, key="TANGENT"), "tangents-missing", "normal map"),
    ("short tangents", partial(_filled, level=0, key="TANGENT", rows=4, value=0.5), "tangents-wrong", "4 tangents"),
    ("tangents of the wrong hand", _wrong_hand, "tangents-wrong-hand", "wrong hand"),
    ("tangents backwards", _backwards, "tangents-askew", "along U"),
    ("no light map", _without_light_map, "light-map-missing", "channel 1"),
    ("an overlapping light map", _overlapped, "light-map-overlaps", "both"),
    ("a light map outside", _outside, "light-map-outside", "leaves the square"),
    ("a light map elsewhere", _on_channel_2, "light-map-channel-wrong", "lies on channel 2"),
    ("a texture lost", _lost, "texture-missing", "does not lie there"),
    ("a texture in upper case", _misspelt, "texture-missing", "does not lie there"),
    ("a texture cut off", _cut_off, "texture-damaged", "bytes of"),
    ("no image at all", _no_image, "texture-damaged", "no format"),
    ("an odd size", _odd_size, "texture-size-odd", "x 96"),
    ("no mips", _without_mips, "texture-without-mips", "no mips"),
    ("no material", _no_material, "material-missing", "no material"),
    ("a material that is not there", _strange_material, "material-unknown", "not in the file"),
    ("another material far away", _other_material, "materials-differ", "1 material"),
    ("a part that LOD0 lacks", _other_parts, "part-missing", "glass"),
    ("a hundred times as large", partial(_scaled, factor=100.0), "size-wrong", "100 times"),
    ("on its side", _exchanged, "axes-exchanged", "Z up"),
    ("a level elsewhere", _jumping, "level-elsewhere", "would jump"),
    ("another pivot", _shifted, "pivot-moved", "0.5 m"),
    ("an open proxy", _open_proxy, "proxy-open", "not closed"),
    ("a dented proxy", _dented_proxy, "proxy-not-convex", "not convex"),
    ("a proxy inside out", partial(_turned, level=3, count=None), "proxy-inside-out", "inside out"),
    ("a proxy misnamed", partial(_named, node=4, name="painted_colision_0"), "proxy-name-wrong", "_collision_0"),
    ("a proxy's number", partial(_named, node=4, name="painted_collision_1"), "proxy-number-wrong", "count from 0"),
    ("a proxy moved", partial(_moved, node=4), "proxy-transform", "bake it"),
]  # fmt: skip


@pytest.mark.parametrize(("plant", "code", "words"), [row[1:] for row in MISTAKES], ids=[row[0] for row in MISTAKES])
def test_a_planted_mistake_is_found_in_the_right_words(
    made: tuple[Shipped, Expected], plant: Callable[[Opened], Any], code: str, words: str
) -> None:
    opened = Opened(copy.deepcopy(made[0]))
    plant(opened)
    found = [f.message for f in _rehearsed(opened.files(), made[1]).findings if f.code == code]
    assert any(words in message for message in found), found


def test_a_file_without_any_level_is_told_once() -> None:
    lines = []
    for number in range(6):
        lines += [f"o board_{number}", *(f"v {x} {y} {number}" for x, y in ((0, 0), (1, 0), (0, 1))), "f -3 -2 -1"]
    found = rehearse(["shelf.obj"], {"shelf.obj": "\n".join(lines).encode()}, PLAIN).findings
    (told,) = [f for f in found if f.code in ("level-name-wrong", "triangles-not-decreasing", "level-elsewhere")]
    assert told.count == 6
    assert "('shelf_LOD0'): 'board_0', 'board_1', 'board_2', 'board_3' and 2 more" in told.message


def test_what_nothing_is_known_of_beside_is_judged_by_itself(made: tuple[Shipped, Expected]) -> None:
    """Without a manifest, a prop of kilometres is told all the same."""
    opened = Opened(copy.deepcopy(made[0]))
    _scaled(opened, 100.0)
    codes = {f.code for f in _rehearsed(opened.files(), Expected()).findings}
    assert codes == {"size-implausible"}
    turned = Opened(copy.deepcopy(made[0]))
    _exchanged(turned)
    assert {f.code for f in _rehearsed(turned.files(), Expected()).findings} == {"axes-doubtful"}
    short = Opened(copy.deepcopy(made[0]))
    for level, parts in enumerate((("frame", "lid"), ("frame",), ("frame", "lid"))):
        _split(short, level, parts)
    told = {(f.code, f.level) for f in _rehearsed(short.files(), Expected(), PLAIN).findings}
    assert told == {("part-missing", 1)}


def test_a_mesh_past_the_limit_is_cut_where_a_strict_engine_cuts_it() -> None:
    narrow = PLAIN.model_copy(update={"max_engine_vertices": 20})
    result = prepare(painted_glb(), "painted.glb", MemoryFiles({}), LINE, PLAIN)
    files = {file.path: file.data for file in result.files}
    done = rehearse(["painted.glb"], files, narrow)
    level = done.seen.levels[0]
    assert level.vertices > 20
    assert level.pieces >= -(-level.vertices // 20)
    assert level.pieces_16 == 1
    (told,) = [f for f in done.findings if f.code == "engine-vertices-over-limit" and f.level == 0]
    assert f"{level.pieces} pieces" in told.message
    assert told.places is not None
    assert len(told.places.points)


@pytest.mark.parametrize(
    ("name", "spoil", "code", "words"),
    [
        ("z-up-obj", (b"o painted_LOD1", b"o painted_LOD_1"), "level-name-wrong", "('painted_LOD1')"),
        ("z-up-obj", (b"map_Kd painted", b"map_Kd Painted"), "texture-missing", "no such file"),
        ("z-up-obj", (b"mtllib painted", b"mtllib printed"), "texture-missing", "printed.mtl"),
        ("left-hand-ply", (b"property float s\n", b"property float q\n"), "uvs-missing", "no UVs"),
    ],
)  # fmt: skip
def test_mistakes_in_other_formats_are_found(name: str, spoil: tuple[bytes, bytes], code: str, words: str) -> None:
    destination = get_destination(name)
    result = prepare(painted_glb(), "painted.glb", MemoryFiles({}), LINE, destination)
    whole = {file.path: file.data for file in result.files}
    expected = Expected.of(prop_record(result, "painted.glb"))
    mains = [path for path in whole if path.endswith((".obj", ".ply"))]
    assert [f for f in rehearse(mains, whole, destination, expected).findings if f.severity == "stop"] == []
    spoilt = {
        path: data.replace(*spoil) if path.endswith((".obj", ".mtl", ".ply")) else data for path, data in whole.items()
    }
    assert spoilt != whole
    found = [f.message for f in rehearse(mains, spoilt, destination, expected).findings if f.code == code]
    assert any(words in message for message in found), found


@pytest.mark.parametrize(
    ("written", "read", "code"),
    [
        ("z-up-usdz", {"up": "y"}, "up-axis-wrong"),
        ("z-up-usdz", {"unit": "m"}, "unit-wrong"),
        ("z-up-obj", {"up": "y"}, "axes-exchanged"),
        ("z-up-obj", {"unit": "mm"}, "size-wrong"),
        ("left-hand-ply", {"winding": "counterclockwise"}, "winding-against-normals"),
    ],
)
def test_axes_and_units_other_than_the_engines_are_told(written: str, read: dict[str, str], code: str) -> None:
    destination = get_destination(written)
    result = prepare(painted_glb(), "painted.glb", MemoryFiles({}), LINE, destination)
    files = {file.path: file.data for file in result.files}
    mains = [path for path in files if path.endswith((".obj", ".ply", ".usdz"))]
    engine = Destination.model_validate({**destination.model_dump(), **read})
    found = rehearse(mains, files, engine, Expected.of(prop_record(result, "painted.glb"))).findings
    assert code in {f.code for f in found}


def test_a_folder_is_held_against_its_manifest() -> None:
    from plindro.core.shipping import manifest_json

    result = prepare(painted_glb(), "painted.glb", MemoryFiles({}), LINE, get_destination("left-hand-ply"))
    record = prop_record(result, "painted.glb")
    manifest = json.loads(manifest_json([record], "left-hand-ply"))
    files = {file.path: file.data for file in result.files}
    assert list(check_files(files, manifest)) == []
    assert props_in(files, get_destination("left-hand-ply")) == [tuple(sorted(files))]
    assert (
        expected_of(record["files"][0]["path"], manifest, get_destination("left-hand-ply")).triangles
        == Expected.of(record).triangles
    )
    paths = sorted(files)

    def told(changed: Shipped) -> list[tuple[str, str]]:
        return [(f.code, f.message.split()[0]) for f in check_files(changed, manifest)]

    assert told({**files, paths[0]: b"other"}) == [("file-changed", paths[0])]
    assert told({path: files[path] for path in paths[1:]}) == [("file-missing", paths[0])]
    assert told({**files, "crate_LOD0.ply": b""}) == [("file-stale", "crate_LOD0.ply")]


@pytest.mark.parametrize(
    ("path", "data", "words"),
    [
        ("a.glb", b"glTF" + bytes(30), "header says"),
        ("a.glb", b"glTF", "not a whole GLB"),
        ("a.gltf", b"{}", "neither GLB nor glTF"),
        ("a.gltf", b'{"buffers": [{"uri": "b.bin"}]}', "b.bin does not lie beside it"),
        ("a.stl", bytes(100), "triangles"),
        ("a.ply", b"ply\n", "no binary PLY"),
        ("a.obj", b"v 0 0 0\nf 1 2 3", "not there"),
        ("a.usdc", b"PXR", "cannot be opened"),
        ("a.txt", b"", "no file with meshes"),
    ],
)
def test_files_that_cannot_be_read_are_refused_in_one_sentence(path: str, data: bytes, words: str) -> None:
    with pytest.raises(UnreadableFile, match=words) as told:
        rehearse([path], {path: data}, PLAIN)
    assert "\n" not in str(told.value)


def test_places_are_in_metres_whatever_the_unit() -> None:
    result = prepare(painted_glb(), "painted.glb", MemoryFiles({}), LINE, get_destination("print-stl"))
    mains = [file.path for file in result.files]
    done = rehearse(mains, {file.path: file.data for file in result.files}, get_destination("print-stl"))
    assert np.allclose(done.seen.size, result.shape.size if result.shape and result.shape.size else (), rtol=1e-4)
