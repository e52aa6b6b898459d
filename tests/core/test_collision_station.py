"""Station Collision on a prop: in every format, by part, by hand, and as a receiving engine finds it."""

import json
import struct
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from plindro.core.destinations import Destination, get_destination
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.line import override
from plindro.core.lines import get_line
from plindro.core.mesh.mesh import Mesh
from plindro.core.rehearsal import rehearse
from plindro.core.shipping import PrepareResult, prepare, prop_record
from plindro.core.stations.collision import COLLISION, CollisionFacts
from tests.shapes import cube, make_glb, moved

PLAIN = get_destination("plain")


def _obj(**parts: Mesh) -> bytes:
    lines, first = [], 1
    for name, mesh in parts.items():
        lines += [f"o {name}", *(f"v {x} {y} {z}" for x, y, z in mesh.positions.tolist())]
        faces = np.split(mesh.corner_vertex, mesh.face_start[1:-1])
        lines += ["f " + " ".join(str(v + first) for v in face) for face in faces]
        first += mesh.n_vertices
    return "\n".join(lines).encode()


HEAD = moved(cube(), (1.0, 2.0, 0.0), scale=0.5)
POST = _obj(post=cube(), head=HEAD)


def _prepared(destination: Destination = PLAIN, files: dict[str, bytes] | None = None, **own: Any) -> PrepareResult:
    line = override(get_line("held"), {"levels": {"has_levels": False}, "collision": own})
    return prepare(POST, "post.obj", MemoryFiles(files or {}), line, destination)


def _facts(result: PrepareResult) -> CollisionFacts:
    facts = result.facts.of(COLLISION)
    assert facts is not None
    return facts


def _codes(result: PrepareResult) -> set[str]:
    return {finding.code for finding in result.findings}


def _document(data: bytes) -> dict[str, Any]:
    return json.loads(data[20 : 20 + struct.unpack_from("<I", data, 12)[0]])


def test_none_is_made_unless_it_is_asked_for() -> None:
    result = _prepared()
    assert not _facts(result).proxies
    assert [node["name"] for node in _document(result.files[0].data)["nodes"]] == ["post", "post_LOD0"]
    assert "collision" not in prop_record(result, "post.obj")


def test_proxies_ship_below_the_root_under_the_destinations_names() -> None:
    destination = PLAIN.model_copy(update={"proxy_template": "{index}_stops_{prop}", "max_proxies": 1})
    result = _prepared(destination, kind="part-hulls", margin=0.01)
    assert result.status == "shipped"
    document = _document(result.files[0].data)
    names = [document["nodes"][child]["name"] for child in document["nodes"][0]["children"]]
    assert names == ["post_LOD0", "0_stops_post", "1_stops_post"]
    assert "material" not in document["meshes"][1]["primitives"][0]
    assert document["nodes"][2]["extras"] == {"collision": {"shape": "hull", "numbers": []}}
    assert {row.part for row in _facts(result).proxies} == {"post", "head"}
    assert "proxies-over-budget" in _codes(result)
    record = prop_record(result, "post.obj")["collision"]
    assert [row["name"] for row in record["proxies"]] == names[1:]
    facts = _facts(result)
    assert facts.missed == 0.0
    # A margin of a hundredth all around each of the two cubes.
    assert facts.volume == pytest.approx(1.02**3 + 0.52**3, rel=0.02)
    assert not [
        f
        for f in rehearse(["post.glb"], {"post.glb": result.files[0].data}, destination).findings
        if f.severity == "stop"
    ]


@pytest.mark.parametrize("name", ["plain", "polygons-obj", "polygons-usd"])
def test_every_format_holds_them_and_is_read_back_without_them_where_it_can_say_so(name: str) -> None:
    result = _prepared(get_destination(name), kind="part-hulls")
    assert result.status == "shipped"
    assert not [f for f in result.findings if f.code.startswith("written")]
    main, *others = result.files
    scene = read_scene(main.data, main.path, MemoryFiles({file.path: file.data for file in others}))
    extra = 24 if name == "polygons-obj" else 0
    assert scene.mesh.n_triangles == 24 + extra
    assert len([b for b in scene.bystanders if b.kind == "collision proxy"]) == (0 if extra else 2)


def test_a_part_has_a_kind_of_its_own_and_a_lost_one_is_told() -> None:
    result = _prepared(kind="box", parts=({"part": "head", "kind": "ball"}, {"part": "gone", "kind": "hull"}))
    assert [(row.shape, row.part) for row in _facts(result).proxies] == [("ball", "head"), ("box", "")]
    assert "collision-part-lost" in _codes(result)
    ball, box = _facts(result).proxies
    assert ball.numbers[3] == pytest.approx(0.5 * np.sqrt(3) / 2, rel=1e-3)
    assert box.volume == pytest.approx(1.0, rel=1e-3)
    alone = _prepared(kind="none", parts=({"part": "head", "kind": "box"},))
    assert [row.part for row in _facts(alone).proxies] == ["head"]
    assert "collision-misses-surface" in _codes(alone)


def _dented() -> Mesh:
    mesh = cube()
    positions = mesh.positions.copy()
    positions[0] = positions.mean(axis=0) * 0.6
    return replace(mesh, positions=positions)


def _inside_out() -> Mesh:
    mesh = cube()
    faces = np.split(mesh.corner_vertex, mesh.face_start[1:-1])
    return replace(mesh, corner_vertex=np.concatenate([face[::-1] for face in faces]))


def test_proxies_made_by_hand_are_checked_alike() -> None:
    made = _prepared(files={"hull.obj": _obj(a=cube(), b=HEAD)}, mesh="hull.obj")
    assert [row.shape for row in _facts(made).proxies] == ["mesh", "mesh"]
    assert made.status == "shipped"
    for fault, mesh in {
        "open": cube().with_faces(np.arange(6) > 0),
        "inside-out": _inside_out(),
        "not-convex": _dented(),
    }.items():
        held = _prepared(files={"hull.obj": _obj(a=mesh)}, mesh="hull.obj")
        assert held.status == "held", fault
        assert f"collision-mesh-{fault}" in _codes(held)
    assert "collision-mesh-missing" in _codes(_prepared(mesh="none.obj"))
    assert "collision-mesh-unreadable" in _codes(_prepared(files={"hull.glb": b"glTF"}, mesh="hull.glb"))


def _shipped(points: np.ndarray, triangles: np.ndarray, name: str, **node: Any) -> bytes:
    """A GLB of one triangle as LOD0, and a proxy."""
    flat = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)
    normals = np.tile(np.float32([0, 0, 1]), (3, 1))
    blobs = [
        flat,
        normals,
        np.zeros((3, 2), np.float32),
        points.astype(np.float32),
        triangles.astype(np.uint32).reshape(-1),
    ]
    views, accessors, binary = [], [], b""
    for k, blob in enumerate(blobs):
        views.append({"buffer": 0, "byteOffset": len(binary), "byteLength": blob.nbytes})
        kind = "SCALAR" if blob.ndim == 1 else f"VEC{blob.shape[1]}"
        accessors.append({"bufferView": k, "componentType": 5125 if k == 4 else 5126, "count": len(blob), "type": kind})
        binary += blob.tobytes()
    first = {"attributes": {"POSITION": 0, "NORMAL": 1, "TEXCOORD_0": 2}, "material": 0}
    document = {
        "asset": {"version": "2.0"},
        "scenes": [{"nodes": [0]}],
        "nodes": [
            {"name": "post", "children": [1, 2]}, {"name": "post_LOD0", "mesh": 0}, {"name": name, "mesh": 1, **node},
        ],
        "meshes": [{"primitives": [first]}, {"primitives": [{"attributes": {"POSITION": 3}, "indices": 4}]}],
        "materials": [{"name": "m"}],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"byteLength": len(binary)}],
    }  # fmt: skip
    return make_glb(document, binary)


def test_the_rehearsal_tells_every_fault_of_a_proxy() -> None:
    from plindro.core.collision.convex import convex_hull

    hull = convex_hull(cube().positions.astype(np.float64))
    sunk = np.concatenate([hull.points, [hull.points.mean(axis=0)]])
    a, b, c = hull.triangles[0]
    dented = np.array([*hull.triangles[1:].tolist(), (a, b, 8), (b, c, 8), (c, a, 8)])

    def codes(points: np.ndarray, triangles: np.ndarray, name: str = "post_collision_0", **node: Any) -> set[str]:
        found = rehearse(["post.glb"], {"post.glb": _shipped(points, triangles, name, **node)}, PLAIN).findings
        return {f.code for f in found if f.severity == "stop"}

    assert codes(hull.points, hull.triangles) == set()
    assert codes(hull.points, hull.triangles, "post_collision_1") == {"proxy-number-wrong"}
    assert codes(hull.points, hull.triangles, "post_colision_0") >= {"proxy-name-wrong"}
    assert codes(hull.points, hull.triangles, translation=[1, 0, 0]) == {"proxy-transform"}
    assert codes(hull.points, hull.triangles[1:]) == {"proxy-open"}
    assert codes(hull.points, hull.triangles[:, ::-1]) == {"proxy-inside-out"}
    assert codes(sunk, dented) == {"proxy-not-convex"}
    assert codes(hull.points * np.nan, hull.triangles) == {"proxy-empty"}
