"""The rehearsal: every fault that is planted in a shipped file is found, and nothing in a sound one."""

import json
import struct

import numpy as np
import pytest

from plindro.core.destinations import get_destination
from plindro.core.errors import UnreadableFile
from plindro.core.files import MemoryFiles
from plindro.core.lines import get_line
from plindro.core.rehearsal import rehearse
from plindro.core.shipping import prepare
from tests.shapes import wavy_sheet

PLAIN = get_destination("plain")


def _obj() -> bytes:
    mesh = wavy_sheet(16)
    lines = [f"v {x} {y} {z}" for x, y, z in mesh.positions.tolist()]
    lines += [f"vt {u} {v}" for u, v in mesh.uvs[0].tolist()]
    for f in range(mesh.n_faces):
        corners = range(mesh.face_start[f], mesh.face_start[f + 1])
        lines.append("f " + " ".join(f"{mesh.corner_vertex[c] + 1}/{c + 1}" for c in corners))
    return "\n".join(lines).encode()


@pytest.fixture(scope="module")
def shipped() -> bytes:
    return prepare(_obj(), "sheet.obj", MemoryFiles({}), get_line("standing"), PLAIN).files[0].data


def _open(data: bytes) -> tuple[dict, bytearray]:
    size = struct.unpack_from("<I", data, 12)[0]
    return json.loads(data[20 : 20 + size]), bytearray(data[28 + size :])


def _close(document: dict, binary: bytes) -> bytes:
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(binary), b"BIN\0") + bytes(binary)
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def _array(document: dict, binary: bytearray, level: int, key: str, dtype, width: int) -> np.ndarray:
    primitive = document["meshes"][level]["primitives"][0]
    index = primitive["indices"] if key == "indices" else primitive["attributes"][key]
    accessor = document["accessors"][index]
    view = document["bufferViews"][accessor["bufferView"]]
    return np.frombuffer(binary, dtype, accessor["count"] * width, view["byteOffset"]).reshape(-1, width)


def _codes(document: dict, binary: bytes) -> dict[str, int]:
    return {f.code: f.count for f in rehearse(_close(document, binary), "sheet.glb", PLAIN).findings}


def test_sound_chain_has_nothing_against_it(shipped: bytes) -> None:
    seen = rehearse(shipped, "sheet.glb", PLAIN)
    assert seen.findings == ()
    assert [level["name"] for level in seen.levels] == [f"sheet_LOD{i}" for i in range(4)]
    counts = [level["triangles"] for level in seen.levels]
    assert counts == sorted(counts, reverse=True)
    assert counts[0] == 512


def _rename(document: dict, _: bytearray) -> None:
    document["nodes"][2]["name"] = "sheetLOD1"


def _swap(document: dict, _: bytearray) -> None:
    document["nodes"][0]["children"] = [2, 1, 3, 4]


def _repeat(document: dict, _: bytearray) -> None:
    document["nodes"][2]["mesh"] = 0


def _move(document: dict, _: bytearray) -> None:
    document["nodes"][1]["translation"] = [0, 1, 0]


def _no_normals(document: dict, _: bytearray) -> None:
    del document["meshes"][1]["primitives"][0]["attributes"]["NORMAL"]


def _long_normals(document: dict, binary: bytearray) -> None:
    _array(document, binary, 0, "NORMAL", "<f4", 3)[:5] *= 2


def _bad_uv(document: dict, binary: bytearray) -> None:
    _array(document, binary, 0, "TEXCOORD_0", "<f4", 2)[:3] = np.nan


def _bad_position(document: dict, binary: bytearray) -> None:
    _array(document, binary, 3, "POSITION", "<f4", 3)[0] = np.inf


def _turned(document: dict, binary: bytearray) -> None:
    triangles = _array(document, binary, 0, "indices", "<u2", 1).reshape(-1, 3)
    triangles[:40] = triangles[:40, ::-1].copy()


def _flat(document: dict, binary: bytearray) -> None:
    triangles = _array(document, binary, 0, "indices", "<u2", 1).reshape(-1, 3)
    triangles[:7, 2] = triangles[:7, 1]


def _beyond(document: dict, binary: bytearray) -> None:
    _array(document, binary, 0, "indices", "<u2", 1)[0] = 60_000


@pytest.mark.parametrize(
    ("plant", "code", "count"),
    [
        (_rename, "level-name-wrong", 1),
        (_swap, "levels-out-of-order", 1),
        (_repeat, "triangles-not-decreasing", 1),
        (_move, "transform-unapplied", 1),
        (_no_normals, "normals-missing", 1),
        (_long_normals, "normals-not-unit", 5),
        (_bad_uv, "non-finite-uvs", 3),
        (_bad_position, "non-finite-positions", 1),
        (_turned, "winding-against-normals", 40),
        (_flat, "zero-area-triangles", 7),
        (_beyond, "index-out-of-range", 1),
    ],
)
def test_planted_fault_is_found_with_its_count(shipped: bytes, plant, code: str, count: int) -> None:
    document, binary = _open(shipped)
    plant(document, binary)
    assert _codes(document, binary).get(code) == count


def test_cut_off_file_is_refused_in_one_sentence(shipped: bytes) -> None:
    with pytest.raises(UnreadableFile, match="header says"):
        rehearse(shipped[:-100], "sheet.glb", PLAIN)
