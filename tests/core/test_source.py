"""Source: what ships of a scene, as which props, with which materials."""

from dataclasses import replace

import numpy as np
import pytest

from plindro.core.destinations import get_destination
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.files.gltf.writer import write_glb
from plindro.core.line import override
from plindro.core.lines import get_line
from plindro.core.polygons import triangulate
from plindro.core.rehearsal import rehearse
from plindro.core.report import Report
from plindro.core.scene import Image, Material, Part, Scene, Texture
from plindro.core.shipping import prepare_scene
from plindro.core.stations.source import SourceFacts, SourceSettings, choose, plan_props, run
from plindro.core.viewing.source_view import view_of_source
from plindro.demo import build_landing
from tests.shapes import bumpy_sphere, cube, join, moved

PLAIN = get_destination("plain")

PARTS = (
    Part("hull", "boat/hull", object="boat/hull", parent="boat", group="boat"),
    Part("oar", "boat/oar", object="boat/oar", parent="boat", group="boat", source_mesh="mesh 3"),
    Part("oar", "boat/oar#2", object="boat/oar#2", parent="boat", group="boat", source_mesh="mesh 3"),
    Part("Ref_Man", "refs/Ref_Man", object="refs/Ref_Man", parent="refs", group="refs"),
    Part("jig", "jig", object="jig", parent="jig", is_hidden=True),
)


def _scene(materials: tuple[Material, ...] = (), images: tuple[Image, ...] = ()) -> Scene:
    mesh = join(*(moved(cube(), (3 * i, 0, 0)) for i in range(len(PARTS))))
    faces = np.repeat(np.arange(len(PARTS), dtype=np.int32), 6)
    mesh = replace(mesh, face_part=faces, face_material=np.minimum(faces, max(len(materials) - 1, 0)).astype(np.int32))
    return Scene("yard", "USD", mesh, PARTS, materials or (Material("grey"),), images)


@pytest.mark.parametrize(
    ("settings", "ships"),
    [
        (SourceSettings(), [True, True, True, True, False]),
        (SourceSettings(include_hidden=True, exclude=("ref_*",)), [True, True, True, False, True]),
        (SourceSettings(include=("boat/*",)), [True, True, True, False, False]),
        (
            SourceSettings(include=("oar",), included_parts=("jig",), excluded_parts=("boat/oar#2",)),
            [False, True, False, False, True],
        ),
    ],
)
def test_choice_goes_by_hand_before_patterns_before_visibility(settings: SourceSettings, ships: list[bool]) -> None:
    choices = choose(PARTS, settings)
    assert [choice.ships for choice in choices] == ships
    assert all(choice.reason for choice in choices if not choice.ships)


@pytest.mark.parametrize(
    ("split", "plans"),
    [
        ("file", [("", "yard", 4, 1)]),
        ("object", [("boat/hull", "hull", 1, 1), ("boat/oar", "oar", 1, 2), ("refs/Ref_Man", "Ref_Man", 1, 1)]),
        ("parent", [("boat", "boat", 3, 1), ("refs", "refs", 1, 1)]),
        ("group", [("boat", "boat", 3, 1), ("refs", "refs", 1, 1)]),
    ],
)
def test_splits_give_these_props(split: str, plans: list[tuple[str, str, int, int]]) -> None:
    settings = SourceSettings(split=split)
    ships = [choice.ships for choice in choose(PARTS, settings)]
    found = plan_props(PARTS, ships, settings, "yard")
    assert [(p.key, p.name, len(p.parts), p.instances) for p in found] == plans


def test_choice_that_fits_nothing_any_more_is_said_and_a_lost_part_stops() -> None:
    report = Report()
    run(_scene(), SourceSettings(excluded_parts=("boat/sail",)), report)
    assert [(f.code, f.count) for f in report.findings if f.severity == "warning" and f.code != "uvs-missing"] == [
        ("choice-lost", 1)
    ]
    lost = prepare_scene(
        _scene(), override(get_line("standing"), {"source": {"split": "object", "prop": "sail"}}), PLAIN
    )
    assert lost.status == "held"
    assert "part-gone" in {finding.code for finding in lost.findings}
    nothing = prepare_scene(_scene(), override(get_line("standing"), {"source": {"include": ["x*"]}}), PLAIN)
    assert [f.code for f in nothing.findings if f.severity == "stop"] == ["nothing-chosen"]


def test_equal_materials_are_merged_whatever_their_names_and_ordered_by_name() -> None:
    png = bytes.fromhex(
        "89504e470d0a1a0a0000000d4948445200000001000000010802000000907753de0000000c4944415408d763f8cfc0000003010100c9fe92ef"
        "0000000049454e44ae426082"
    )
    images = (Image("a.png", png, "image/png", 1, 1), Image("copy of a.png", png, "image/png", 1, 1))
    materials = (
        Material("wood", textures=(("base_color", Texture(0)),)),
        Material("Brass", metallic=1.0, base_color=(1, 0.8, 0.3, 1)),
        Material("plank", textures=(("base_color", Texture(1)),)),
        Material("wood", roughness=0.2),
    )
    report = Report()
    prop = run(_scene(materials, images), SourceSettings(letter_materials=True), report)
    assert [m.name for m in prop.materials] == ["A_Brass", "B_plank", "C_wood"]
    assert [f.count for f in report.findings if f.code == "materials-merged"] == [1]
    assert len(prop.images) == 1
    by_part = [int(prop.mesh.face_material[prop.mesh.face_part == i][0]) for i in range(4)]
    assert by_part == [1, 0, 1, 2]
    apart = run(_scene(materials, images), SourceSettings(merge_materials=False), Report())
    assert [m.name for m in apart.materials] == ["Brass", "plank", "wood", "wood"]


def test_parts_kept_apart_ship_as_nodes_below_their_level_and_are_read_back_as_one_level() -> None:
    line = override(get_line("standing"), {"source": {"join": False}, "levels": {"levels": []}})
    result = prepare_scene(_scene(), line, PLAIN)
    assert result.status == "shipped"
    seen = rehearse(["yard.glb"], {"yard.glb": result.files[0].data}, PLAIN)
    assert [(level.name, level.triangles) for level in seen.seen.levels] == [("yard_LOD0", 48)]
    again = read_scene(result.files[0].data, "yard.glb")
    assert [part.name for part in again.parts] == [
        "yard_LOD0_hull", "yard_LOD0_oar", "yard_LOD0_oar_2", "yard_LOD0_Ref_Man",
    ]  # fmt: skip


def test_demo_scene_lists_what_stays_behind_and_knows_its_instances() -> None:
    ((name, data),) = build_landing().items()
    assert build_landing()[name] == data, "the demo is the same every time"
    scene = read_scene(data, name)
    assert (scene.unit, scene.up, scene.says_unit) == (0.01, "z", True)
    assert [b.kind for b in scene.bystanders] == ["light", "camera"]
    assert [part.name for part in scene.parts if part.is_hidden] == ["Scaffold"]
    assert [part.name for part in scene.parts if part.is_mirrored] == ["Bracket_right"]
    assert scene.unused_materials == ("old_paint",)
    report = Report()
    run(scene, SourceSettings(split="parent", exclude=("ref_*",)), report)
    assert [(row.name, row.parts) for row in report.stated(SourceFacts).plan] == [
        ("Deck", 2), ("Ladder", 2), ("Posts", 6), ("Bracket_left", 1), ("Bracket_right", 1),
    ]  # fmt: skip


def test_gltf_nodes_keep_their_paths_groups_visibility_and_instances() -> None:
    ball = bumpy_sphere(3)
    prop = run(replace(_scene(), mesh=replace(ball), parts=(Part("ball", "ball"),)), SourceSettings(), Report())
    glb = write_glb(prepare_scene(replace(_scene(), mesh=ball, parts=prop.parts), get_line("held"), PLAIN).built.prop)
    import json
    import struct

    size = struct.unpack_from("<I", glb, 12)[0]
    document = json.loads(glb[20 : 20 + size])
    document["nodes"] = [
        {"name": "world", "children": [1, 2, 4, 5]},
        {"name": "lamp", "mesh": 0},
        {"name": "shelf", "children": [3]},
        {"name": "lamp", "mesh": 0, "scale": [-1, 1, 1], "translation": [2, 0, 0]},
        {"name": "ghost", "mesh": 0, "extensions": {"KHR_node_visibility": {"visible": False}}},
        {"name": "eye", "camera": 0},
    ]
    document["cameras"] = [{"type": "perspective", "perspective": {"yfov": 1, "znear": 0.1}}]
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    rest = glb[20 + size :]
    data = (
        struct.pack("<4sII", b"glTF", 2, 20 + len(text) + len(rest))
        + struct.pack("<I4s", len(text), b"JSON")
        + text
        + rest
    )
    scene = read_scene(data, "shelf.glb", MemoryFiles({}))
    assert [(p.path, p.parent, p.group, p.is_hidden, p.is_mirrored) for p in scene.parts] == [
        ("world/lamp", "world/lamp", "", False, False),
        ("world/shelf/lamp", "world/shelf", "world/shelf", False, True),
        ("world/ghost", "world/ghost", "", True, False),
    ]
    assert len({part.source_mesh for part in scene.parts}) == 1
    assert [(b.kind, b.path) for b in scene.bystanders] == [("camera", "world/eye")]


def test_view_of_the_source_has_every_part_under_its_number() -> None:
    scene = _scene()
    positions = scene.mesh.positions.copy()
    positions[0] = np.nan
    broken = replace(scene, mesh=replace(scene.mesh, positions=positions))
    triangles = triangulate(broken.mesh).mesh
    view = view_of_source(broken, triangles)
    lost = int((triangles.triangles() == 0).any(axis=1).sum())
    assert [level.name for level in view.levels] == [f"part_{i}" for i in range(5)]
    assert [level.mesh.n_faces for level in view.levels] == [12 - lost, 12, 12, 12, 12]
    assert len(write_glb(view)) > 1000


def test_view_of_a_coloured_source_has_its_colours() -> None:
    scene = _scene()
    colors = np.linspace(0.0, 1.0, 4 * scene.mesh.n_corners, dtype=np.float32).reshape(-1, 4)
    colored = replace(scene, mesh=replace(scene.mesh, colors=colors))
    view = view_of_source(colored, triangulate(colored.mesh).mesh)
    shown = {tuple(row) for level in view.levels if level.mesh.colors is not None for row in level.mesh.colors}
    assert shown == {tuple(row) for row in colors}


def test_a_node_without_scale_is_named_as_that_and_uvs_in_one_point_are_said() -> None:
    flat = Part("flattened", "flattened", is_flattened=True)
    mesh = join(triangulate(cube()).mesh, triangulate(cube()).mesh)
    uvs = (np.zeros((mesh.n_corners, 2), np.float32),)
    mesh = replace(mesh, face_part=np.repeat(np.array([0, 1], np.int32), 12), uvs=uvs)
    report = Report(station="source")
    prop = run(
        Scene("pair", "OBJ", mesh, (Part("whole", "whole"), flat), (Material("grey"),)), SourceSettings(), report
    )
    assert [part.name for part in prop.parts] == ["whole"]
    found = {f.code: f for f in report.findings}
    assert "'flattened'" in found["zero-scale"].message
    assert "uvs-collapsed" in found
    assert {f.station for f in report.findings} == {"source"}


def test_a_material_of_which_its_alpha_leaves_next_to_nothing_is_told() -> None:
    materials = (
        Material("gone", base_color=(1, 1, 1, 0), alpha_mode="BLEND"),
        Material("below", base_color=(1, 1, 1, 0.4), alpha_mode="MASK"),
        Material("solid", base_color=(1, 1, 1, 0)),
        Material("glass", base_color=(1, 1, 1, 0.1), alpha_mode="BLEND"),
        Material("trace", base_color=(1, 1, 1, 0.008), alpha_mode="BLEND"),
    )
    report = Report()
    run(_scene(materials, ()), SourceSettings(include_hidden=True), report)
    told = [f.message for f in report.findings if f.code == "invisible-material"]
    assert [text.split("'")[1] for text in told] == ["below", "gone", "trace"]


def test_materials_of_which_nothing_is_known_stay_apart() -> None:
    obj = (
        b"mtllib gone.mtl\n"
        + "".join(
            f"v {x} 0 0\nv {x + 1} 0 0\nv {x} 1 0\nusemtl {name}\nf -3 -2 -1\n"
            for x, name in enumerate(("steel", "rope", "paint"))
        ).encode()
    )
    scene = read_scene(obj, "a.obj", MemoryFiles({}))
    report = Report()
    assert [m.name for m in run(scene, SourceSettings(), report).materials] == ["paint", "rope", "steel"]
    assert "materials-merged" not in {finding.code for finding in report.findings}
    known = read_scene(obj, "a.obj", MemoryFiles({"gone.mtl": b"newmtl steel\nnewmtl rope\nnewmtl paint\nKd 1 0 0\n"}))
    assert [m.name for m in run(known, SourceSettings(), Report()).materials] == ["paint", "rope"]
