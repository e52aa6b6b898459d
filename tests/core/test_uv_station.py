"""Station UVs: what is sound stays bit for bit, what is missing is made, and each level has a light map that holds."""

from dataclasses import replace

import numpy as np
import pytest

from plindro.core.destinations import DESTINATIONS
from plindro.core.findings import Severity
from plindro.core.line import BuiltProp, StationLine, override, run_line
from plindro.core.mesh.mesh import F32, Mesh
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.scene import Material, Part, Scene, Texture
from plindro.core.shading.normals import normals_by_angle
from plindro.core.stations.uvs import UvsFacts, UvsSettings, run
from plindro.core.textures.images import decode, encode
from plindro.core.unwrap.light_map import is_light_map
from plindro.core.uvs.judge import judge_channel
from tests.shapes import bumpy_sphere, cube, flat_grid, join, moved, wavy_sheet

LINE = StationLine(name="tried", title="Tried")


def _planar(mesh: Mesh, scale: float = 0.5) -> F32:
    """UVs from above: sound on a sheet, one side over the other on what is closed."""
    at = mesh.positions[mesh.corner_vertex][:, [0, 2]]
    low = at.min(axis=0)
    return ((at - low) / np.ptp(at, axis=0).max() * scale + 0.1).astype(np.float32)


def _prop(mesh: Mesh, parts: tuple[str, ...] = ("body",)) -> Prop:
    named = tuple(Part(name, name) for name in parts)
    return Prop("thing", replace(mesh, normals=normals_by_angle(mesh, 40.0)), named, (Material("grey"),))


def _at(prop: Prop, **settings: object) -> tuple[Prop, UvsFacts, dict[str, str]]:
    """What the station makes of a prop, its facts, and its findings' messages by code."""
    report = Report()
    made = run(prop, UvsSettings.model_validate(settings), report)
    facts = report.stated(UvsFacts)
    return made, facts, {finding.code: finding.message for finding in report.findings}


def _built(mesh: Mesh, **settings: object) -> BuiltProp:
    scene = Scene("thing", "OBJ", mesh, (Part("body", "body"),), (Material("grey"),))
    line = override(LINE, {"uvs": settings, "placement": {"pivot": "source"}})
    return run_line(scene, line, DESTINATIONS[0], Report())


def test_uvs_that_are_there_stay_bit_for_bit() -> None:
    mesh = triangulate(wavy_sheet(8)).mesh
    own = (_planar(mesh), _planar(mesh, 3.0))
    made, facts, findings = _at(_prop(replace(mesh, uvs=own)))
    assert all(np.array_equal(a, b) for a, b in zip(made.mesh.uvs, own, strict=True))
    assert [channel.made for channel in facts.channels] == ["source", "source"]
    assert facts.channels[1].outside > 0.5
    assert (facts.light_map, facts.unwrapped_parts) == (None, [])
    assert "uvs-missing" not in findings


def test_a_prop_without_uvs_is_unwrapped_and_that_is_said() -> None:
    made, facts, findings = _at(_prop(triangulate(bumpy_sphere(10)).mesh), padding=3, resolution=256)
    (channel,) = facts.channels
    assert channel.made == "unwrap"
    assert (channel.overlap, channel.outside, channel.flipped_islands, channel.pixels) == (0.0, 0.0, 0, 256)
    assert channel.gap is None or channel.gap >= 3.0
    assert findings["uvs-missing"] == f"the source has no UVs; channel 0 was unwrapped into {channel.islands} islands"
    assert judge_channel(made.mesh, 0, 256, 1).whole.islands == channel.islands


def test_a_part_without_uvs_is_unwrapped_and_the_others_stay() -> None:
    box = triangulate(cube()).mesh
    mesh = join(box, moved(box, (4.0, 0.0, 0.0)))
    mesh = replace(mesh, face_part=np.repeat([0, 1], box.n_faces).astype(np.int32))
    uvs = _planar(mesh)
    uvs[3 * box.n_faces :] = 0.0
    made, facts, findings = _at(_prop(replace(mesh, uvs=(uvs,)), ("lid", "box")))
    first = 3 * box.n_faces
    assert np.array_equal(made.mesh.uvs[0][:first], uvs[:first])
    assert facts.unwrapped_parts == ["box"]
    assert findings["uvs-missing"].startswith("box had no UVs; they were unwrapped into ")
    alone = replace(box, uvs=(made.mesh.uvs[0][first:],))
    assert judge_channel(alone, 0, 64, 1).whole.overlap == 0.0


def test_channels_are_swapped_copied_and_removed() -> None:
    mesh = triangulate(wavy_sheet(5)).mesh
    own = (_planar(mesh), _planar(mesh, 0.2))
    prop = _prop(replace(mesh, uvs=own))
    for wanted in ((1, 0), (0, 0), (1,)):
        made, _, _ = _at(prop, channels=wanted)
        assert all(np.array_equal(uv, own[k]) for uv, k in zip(made.mesh.uvs, wanted, strict=True))
    made, _, findings = _at(prop, channels=(1, 5))
    assert len(made.mesh.uvs) == 1
    assert "no UV channel 5" in findings["uv-channel-missing"]


@pytest.mark.parametrize("method", ["unwrap", "box", "planar", "cylinder", "sphere"])
def test_channel_0_is_made_anew_where_that_is_asked(method: str) -> None:
    mesh = triangulate(cube()).mesh
    own = _planar(mesh)
    made, facts, findings = _at(_prop(replace(mesh, uvs=(own, own))), method=method, axis="z")
    assert facts.channels[0].made == method
    assert facts.channels[0].overlap == 0.0
    assert np.array_equal(made.mesh.uvs[1], own)
    assert "uvs-missing" not in findings


def test_hard_edges_are_seams_where_that_is_asked() -> None:
    prop = _prop(triangulate(cube()).mesh)
    assert [_at(prop, hard_edge_seams=on)[1].channels[0].islands for on in (False, True)][1] == 6
    assert _at(prop)[1].channels[0].islands < 6


def test_what_no_texture_suits_is_found() -> None:
    plank = triangulate(wavy_sheet(6)).mesh
    mesh = join(plank, moved(plank, (4.0, 0.0, 0.0)), moved(plank, (8.0, 0.0, 0.0)))
    mesh = replace(mesh, face_part=np.repeat([0, 1, 2], plank.n_faces).astype(np.int32))
    uvs = np.concatenate([_planar(plank)] * 3)
    uvs[6 * plank.n_faces :] *= 0.2
    uvs[:3] = uvs[0]
    _, _, findings = _at(_prop(replace(mesh, uvs=(uvs,)), ("one", "two", "coarse")))
    assert findings["uv-density-uneven"].startswith("coarse has ")
    assert "without area on channel 0" in findings["uv-zero-area"]


def test_a_light_map_of_the_source_is_taken_where_it_holds_and_else_stops_the_prop() -> None:
    mesh = triangulate(wavy_sheet(8)).mesh
    sound = _prop(replace(mesh, uvs=(_planar(mesh),)))
    made, facts, findings = _at(sound, light_map="source")
    assert facts.light_map is not None
    assert facts.light_map.made == "source"
    assert np.array_equal(made.mesh.uvs[1], made.mesh.uvs[0])
    closed = triangulate(bumpy_sphere(8)).mesh
    report = Report()
    run(_prop(replace(closed, uvs=(_planar(closed),))), UvsSettings(light_map="source"), report)
    (stop,) = [finding for finding in report.findings if finding.severity is Severity.STOP]
    assert (stop.code, "let UVs make one" in stop.message) == ("light-map-missing", True)
    assert "light-map-missing" not in findings


def test_every_level_has_a_light_map_that_holds() -> None:
    mesh = triangulate(bumpy_sphere(24)).mesh
    mesh = replace(mesh, uvs=(_planar(mesh),))
    built = _built(mesh, light_map="make", light_map_density=60.0)
    light = built.facts.uvs.light_map  # type: ignore[attr-defined]
    assert len(built.prop.levels) > 2
    assert [row.level for row in light.levels] == [level.index for level in built.prop.levels]
    assert light.levels[0].made == "first"
    for level in built.prop.levels:
        assert is_light_map(level.mesh, 1, light.resolution, 1)
    assert not is_light_map(built.prop.levels[0].mesh, 0, light.resolution, 1)


def test_a_light_map_that_is_not_dense_enough_is_said_whoever_made_it() -> None:
    box = triangulate(cube()).mesh
    corners = box.positions[box.corner_vertex][:, :2].astype(np.float32)
    sheet = triangulate(flat_grid(4)).mesh
    small = replace(sheet, uvs=(0.1 * sheet.positions[sheet.corner_vertex][:, :2].astype(np.float32),))
    for mesh, most, made, why in (
        (replace(box, uvs=(corners,)), 64, "unwrap", "its side is limited to 64 pixels"),
        (small, 64, "source", "its side is limited to 64 pixels"),
        (small, 4096, "source", "its islands fill little of it"),
    ):
        _, facts, findings = _at(_prop(mesh), light_map="make", light_map_density=500.0, light_map_max=most)
        assert facts.light_map is not None
        assert facts.light_map.made == made
        assert why in findings["light-map-coarse"]


def _edge(mesh: Mesh, a: int, b: int) -> list[list[float]]:
    return [mesh.positions[a].tolist(), mesh.positions[b].tolist()]


def _spot(mesh: Mesh, face: int) -> dict[str, list[float]]:
    """A mark on a triangle's polygon."""
    corners = mesh.positions[mesh.triangles()[face]]
    facing = np.cross(corners[1] - corners[0], corners[2] - corners[0])
    of = mesh.face_polygon == mesh.face_polygon[face]
    middle = mesh.positions[np.unique(mesh.triangles()[of])].mean(axis=0)
    return {"point": middle.tolist(), "facing": (facing / np.linalg.norm(facing)).tolist()}


def test_seams_and_strips_by_hand_are_kept_and_those_without_a_place_are_said() -> None:
    mesh = triangulate(wavy_sheet(6)).mesh
    prop = _prop(replace(mesh, uvs=()))
    index = np.arange(49).reshape(7, 7)
    across = [_edge(mesh, index[3, k], index[3, k + 1]) for k in range(6)]
    _, facts, _ = _at(prop, method="unwrap", seams=across, resolution=256)
    assert facts.channels[0].islands == 2
    gone = [[[9.0, 9.0, 9.0], [9.5, 9.0, 9.0]]]
    _, facts, findings = _at(prop, method="unwrap", seams=gone, resolution=256)
    assert facts.channels[0].islands == 1
    assert findings["mark-lost"].startswith("1 edge set by hand does not fit this source any more")
    made, facts, _ = _at(prop, method="unwrap", straight=across[:1], resolution=256)
    strip = np.flatnonzero(np.isin(mesh.face_polygon, [6 * k for k in range(6)]))
    at = made.mesh.uvs[0].reshape(-1, 3, 2)[strip].reshape(-1, 2)
    assert min(len(np.unique(at[:, k].round(5))) for k in range(2)) == 2, "one row of quads between two straight lines"
    apart = replace(prop, mesh=replace(prop.mesh, face_polygon=np.arange(mesh.n_faces, dtype=np.int32)))
    _, _, findings = _at(apart, method="unwrap", straight=across[:1], resolution=256)
    assert "no strip of quads lies across 1 edge" in findings["uv-no-strip"]


def test_islands_are_repacked_weighted_and_locked_as_their_marks_say() -> None:
    mesh = triangulate(wavy_sheet(6, islands=3)).mesh
    uvs = mesh.uvs[0] * np.float32(0.3) + np.float32(0.02)
    prop = _prop(replace(mesh, uvs=(uvs,)))
    made, facts, _ = _at(prop, method="repack", resolution=256)
    (channel,) = facts.channels
    assert (channel.made, channel.islands, channel.overlap, channel.outside) == ("repack", 3, 0.0, 0.0)
    asked = {"method": "repack", "resolution": 256, "locked": [_spot(mesh, 0)]}
    made, _, _ = _at(prop, **asked, weights=[{**_spot(mesh, 30), "weight": 0.5}])
    assert np.array_equal(made.mesh.uvs[0][:72], uvs[:72])
    islands = [judge_channel(made.mesh.with_faces(np.arange(72) // 24 == k), 0, 256, 1).whole for k in (1, 2)]
    one, two = (island.density.median for island in islands if island.density)
    assert one == pytest.approx(0.5 * two, rel=0.02)
    _, _, findings = _at(prop, method="repack", resolution=64, density=1000.0)
    assert "of 1000 asked" in findings["uv-density-short"]


def test_islands_are_pulled_in_and_their_colours_carried_out() -> None:
    mesh = triangulate(wavy_sheet(6)).mesh
    colours = np.zeros((64, 64, 3), np.uint8)
    colours[16:48, 16:48] = (200, 120, 40)
    material = Material("grey", textures=(("base_color", Texture(0)),))
    uvs = _planar(mesh)
    prop = replace(
        _prop(replace(mesh, uvs=(uvs * np.float32(1.0) + np.float32(0.15),))),
        materials=(material,), images=(encode("grey.png", colours),),
    )  # fmt: skip
    made, _, _ = _at(prop, inset=2, fill=5)
    moved_in = made.mesh.uvs[0].min(axis=0) - prop.mesh.uvs[0].min(axis=0)
    assert moved_in * 64 == pytest.approx(2.0, abs=0.01)
    filled = decode(made.images[0])[:, :, 0] > 0
    assert filled.sum() > 32 * 32
    assert not filled[0].any(), "no further than was asked"
    assert made.images[0].media_type == "image/png"


def test_levels_tell_their_channels() -> None:
    for mesh, overlaps in ((triangulate(bumpy_sphere(16)).mesh, True), (triangulate(wavy_sheet(16)).mesh, False)):
        built = _built(replace(mesh, uvs=(_planar(mesh),)))
        told = built.facts.uvs.levels  # type: ignore[attr-defined]
        assert [(row.level, row.channel) for row in told] == [(level.index, 0) for level in built.prop.levels[1:]]
        assert all(row.islands > 0 for row in told)
        assert [row.overlap is None for row in told] == [overlaps] * len(told), "measured where LOD0 has none"


def _heap(count: int) -> Mesh:
    """Boxes far apart."""
    box = triangulate(cube()).mesh
    return join(*(moved(box, (4.0 * k, 0.0, 0.0)) for k in range(count)))


def test_islands_that_do_not_fit_are_said_and_stop_only_what_was_asked() -> None:
    prop = _prop(_heap(30))
    for method, severity in (("source", Severity.WARNING), ("unwrap", Severity.STOP)):
        report = Report()
        made = run(prop, UvsSettings(method=method, resolution=16, padding=4), report)
        (said,) = [finding for finding in report.findings if finding.code == "uvs-not-made"]
        assert (said.severity, "do not fit into 16 x 16 pixels" in said.message) == (severity, True)
        assert made.mesh.uvs == ()
        assert report.stated(UvsFacts).channels == []


def test_a_light_map_takes_the_pixels_that_its_islands_need() -> None:
    prop = _prop(_heap(120))
    _, facts, _ = _at(prop, light_map="make", light_map_density=0.1)
    assert facts.light_map is not None
    assert facts.light_map.resolution > 32
    _, facts, findings = _at(prop, light_map="make", light_map_density=0.1, light_map_max=16)
    assert facts.light_map is None
    assert "do not fit into 16 × 16 pixels" in findings["light-map-missing"]
