"""Switches: from where each level is drawn, held against pictures of both levels from there."""

from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image as Pillow

from plindro.core.destinations import DESTINATIONS, get_destination
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.files.gltf.writer import write_glb
from plindro.core.files.images import encode_png, open_image, read_image
from plindro.core.line import StationCache, override, run_line
from plindro.core.lines import get_line
from plindro.core.measure.change import Change
from plindro.core.measure.game_view import View
from plindro.core.measure.raster import rasterise
from plindro.core.measure.visible import TURNED, Camera, thickness
from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import Mesh
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.polygons import triangulate
from plindro.core.prop import Level, Prop
from plindro.core.reduction import collapse, diagonal
from plindro.core.rehearsal import rehearse
from plindro.core.report import Report
from plindro.core.scene import Part
from plindro.core.shading.normals import normals_by_angle
from plindro.core.shipping import PrepareResult
from plindro.core.stations.levels import LevelsSettings, LevelTarget, place, run
from plindro.core.stations.levels.texture_steps import smaller_image, with_texture_steps
from plindro.demo import build_prop
from tests.shapes import bumpy_sphere, join, moved, random_rotation

lengths = st.floats(1e-4, 1e3)


@given(
    length=lengths,
    pixels=st.floats(0.01, 100),
    lines=st.integers(100, 5000),
    angle=st.floats(5, 150),
    radius=st.floats(0, 10),
)
def test_a_length_covers_its_pixels_from_its_distance(
    length: float, pixels: float, lines: int, angle: float, radius: float
) -> None:
    view = View(lines, angle, radius)
    distance = view.distance(length, pixels)
    # Only so many digits are left of a near place beside a large radius.
    assert view.pixels(length, distance) == pytest.approx(pixels, rel=1e-3) or distance - radius < 1e-9 * radius
    assert view.length(pixels, distance) == pytest.approx(length, rel=1e-3, abs=1e-9)
    # What stands at the nearest place and fills the view from top to bottom covers all of its lines.
    slope = 2 * np.tan(np.radians(angle / 2))
    assert view.pixels(slope, radius + 1.0) == pytest.approx(lines)
    assert view.pixels(length, 0.9 * radius) == np.inf
    assert view.share(slope, 1.0) == pytest.approx(1.0)
    assert view.share(length, view.distance_of_share(length, 0.25)) == pytest.approx(0.25)


FINE = 3
"""Samples across a pixel."""


def _picture(mesh: Mesh, two_sided: np.ndarray, turn: np.ndarray, distance: float, view: View, middle: np.ndarray):
    """What a game's camera sees of a mesh from a distance: the samples that it covers, and each pixel's mean normal."""
    local = (mesh.positions - middle) @ turn.T
    depth = distance - local[:, 2]
    scale = FINE * view.lines / 2 / np.tan(np.radians(view.angle / 2))
    side = FINE * (int(2 * (scale * np.abs(local[:, :2]) / depth[:, None]).max() / FINE) // 2 * 2 + 4)
    screen = np.stack([side / 2 + scale * local[:, 0] / depth, side / 2 - scale * local[:, 1] / depth, depth], axis=1)
    seen, weights, _ = rasterise(screen, mesh.triangles(), two_sided[mesh.face_material], side, side)
    there = seen >= 0
    normals = np.zeros((side, side, 3))
    own = mesh.normals.reshape(-1, 3, 3)[seen[there]].astype(float)
    shaded = unit(np.einsum("nk,nkj->nj", weights[there].astype(float), own))
    eye = middle + turn[2] * distance
    behind = np.einsum(
        "ij,ij->i", face_vectors(mesh)[seen[there]], eye - mesh.positions[mesh.triangles()[seen[there], 0]]
    )
    normals[there] = np.where(behind[:, None] < 0, -shaded, shaded)
    coarse = side // FINE
    return there, normals.reshape(coarse, FINE, coarse, FINE, 3).sum(axis=(1, 3))


@pytest.mark.parametrize("stem", ["fog_bell", "davit", "rope_coil", "weather_vane", "oil_can", "tide_board"])
def test_no_switch_is_seen_where_it_is_proposed(stem: str, demo_result: Callable[[str], PrepareResult]) -> None:
    """Both levels drawn at the true pixel size from the proposed distance, from sides of the test's own."""
    prop = demo_result(stem).built.prop
    view = View()
    first = prop.levels[0].mesh
    low, high = first.bounds()
    middle = (low + high) / 2
    two_sided = np.array([material.double_sided for material in prop.materials])
    turns = [random_rotation(seed) for seed in range(2)]
    for level in prop.levels[1:]:
        assert level.distance == level.proposed
        for turn in turns:
            before, facing = _picture(first, two_sided, turn, level.distance, view, middle)
            after, turned = _picture(level.mesh, two_sided, turn, level.distance, view, middle)
            side = max(len(before), len(after))
            before, after = _centred(before, side), _centred(after, side)
            facing, turned = _centred(facing, side // FINE), _centred(turned, side // FINE)
            # An edge that moves at all changes two samples where it crosses their middles.
            assert thickness(before ^ after) <= FINE + 2, f"outline of LOD{level.index}"
            sizes = np.linalg.norm(facing, axis=2), np.linalg.norm(turned, axis=2)
            both = np.minimum(*sizes) > FINE**2 / 4
            cosine = np.einsum("ijk,ijk->ij", facing, turned) / np.maximum(sizes[0] * sizes[1], 1e-9)
            angle = np.degrees(np.arccos(np.clip(cosine, -1, 1)))
            # A pixel of change beside an edge that moves lies over three, whose rims are taken off twice.
            assert thickness(both & (angle > TURNED)) <= 4, f"shading of LOD{level.index}"


def _centred(picture: np.ndarray, side: int) -> np.ndarray:
    off = (side - len(picture)) // 2
    rest = side - len(picture) - off
    return np.pad(picture, [(off, rest), (off, rest)] + [(0, 0)] * (picture.ndim - 2))


def _ball(n: int = 16, height: float = 0.2) -> Prop:
    mesh = triangulate(bumpy_sphere(n, height=height)).mesh
    return Prop("ball", replace(mesh, normals=normals_by_angle(mesh, 180.0)), (), ())


@given(
    changes=st.lists(st.one_of(st.just(0.0), st.floats(1e-6, 0.5)), min_size=1, max_size=7),
    chosen=st.lists(st.one_of(st.none(), st.floats(0.01, 500)), min_size=7, max_size=7),
    bias=st.floats(0.1, 10),
    threshold=st.floats(0.1, 10),
    last=st.one_of(st.none(), st.floats(0.1, 1000)),
)
def test_switches_rise_under_any_choice_or_it_is_said(changes, chosen, bias, threshold, last) -> None:
    mesh = _ball(6).mesh
    levels = [Level(0, mesh)]
    levels += [Level(i, mesh, change=Change(surface=x), target=i - 1) for i, x in enumerate(changes, 1)]
    targets = tuple(
        LevelTarget(ratio=0.9 ** (i + 1), switch_distance=own) for i, own in enumerate(chosen[: len(changes)])
    )
    settings = LevelsSettings(levels=targets, switch_bias=bias, max_pixel_error=threshold, cull_distance=last)
    report = Report()
    prop = place(Prop("ball", mesh, (), (), levels=tuple(levels)), settings, report)
    codes = {(finding.code, finding.level) for finding in report.findings}
    proposed = [level.proposed for level in prop.levels]
    assert proposed == sorted(proposed)
    view = View(radius=diagonal(mesh) / 2)
    for above, level in pairwise(prop.levels):
        assert (level.distance < above.distance) == (("switches-cross", level.index) in codes)
        if level.distance == above.distance:
            assert ("level-never-drawn", above.index) in codes
        if targets[level.index - 1].switch_distance is None:
            assert level.distance == level.proposed
            # Before the bias nothing is seen from there.
            assert view.pixels(level.change.surface, level.distance / bias) <= threshold * (1 + 1e-9)
        else:
            is_seen = view.pixels(level.change.surface, level.distance / bias) > 1.001 * threshold
            assert (("switch-visible", level.index) in codes) == (is_seen and level.distance < level.proposed)
    sizes = [level.screen_size for level in sorted(prop.levels, key=lambda level: level.distance)]
    assert sizes == sorted(sizes, reverse=True)
    for level in prop.levels[1:]:
        if level.distance > 0:
            # Stated as it is where the prop is larger than the view.
            high = 2.0 * level.distance * np.tan(np.radians(30.0))
            assert level.screen_size == pytest.approx(diagonal(prop.levels[0].mesh) / high)
    if last is not None:
        assert prop.last_distance == pytest.approx(bias * last)
        for level in prop.levels[1:]:
            if level.distance >= prop.last_distance:
                assert ("level-never-drawn", level.index) in codes


def test_outline_and_shading_are_measured_as_lengths() -> None:
    """A ball that grew by a known length, and one whose normals are turned on a known cap."""
    ball = _ball(40, height=0.0).mesh
    camera = Camera(ball, np.zeros(1, bool))
    before = camera.draw(ball)
    grown = camera.draw(replace(ball, positions=ball.positions * 1.04)).against(before)
    radius = np.linalg.norm(ball.positions, axis=1).max()
    assert grown.outline == pytest.approx(0.04 * radius, abs=3 * before.pixel)
    # Shading turns fast at the rim alone.
    assert grown.shading <= 0.04 * radius
    assert grown.normal_angle < 6.0
    same = camera.draw(ball).against(before)
    assert (same.outline, same.shading, same.outline_share, same.normal_angle) == pytest.approx((0, 0, 0, 0), abs=0.1)
    turned = ball.normals.copy()
    cap = ball.positions[ball.corner_vertex][:, 1] > 0.8 * radius
    turned[cap] = (1.0, 0.0, 0.0)
    seen = camera.draw(replace(ball, normals=turned)).against(before)
    assert seen.outline == 0.0
    assert 0.6 * radius < seen.shading < 1.8 * radius
    assert thickness(np.eye(40, dtype=bool)) == 2


def test_moving_a_switch_builds_nothing_and_inserting_a_level_renames() -> None:
    files = build_prop("tide_board")
    name = next(iter(files))
    scene = read_scene(files[name], name, MemoryFiles(files))
    cache = StationCache()

    def built(**changes):
        line = override(get_line("standing"), {"levels": changes})
        return run_line(scene, line, DESTINATIONS[0], Report(), source_digest="tide", cache=cache).prop

    one = built()
    moved_switch = built(
        levels=[{"ratio": 0.5, "switch_distance": 3.0}, {"ratio": 0.25}, {"ratio": 0.1}], switch_bias=2.0
    )
    assert moved_switch.sequence is one.sequence
    assert moved_switch.levels[1].distance == 6.0
    assert moved_switch.levels[2].distance == pytest.approx(2 * one.levels[2].distance)
    inserted = built(levels=[{"ratio": 0.5}, {"ratio": 0.35}, {"ratio": 0.25}, {"ratio": 0.1}])
    assert [level.name for level in inserted.levels] == [f"{inserted.name}_LOD{i}" for i in range(5)]
    assert inserted.levels[3].mesh.n_faces == one.levels[2].mesh.n_faces
    distances = [level.distance for level in inserted.levels]
    assert distances == sorted(distances)


def _bolted() -> Prop:
    """A ball with two small bolts and a strap beside it, a part each."""
    pieces = [bumpy_sphere(14, 1), *(moved(bumpy_sphere(5, k), (1.3, 0.1 * k, 0), scale=0.03) for k in range(2))]
    pieces.append(moved(bumpy_sphere(8, 5), (0, 1.5, 0), scale=0.3))
    meshes = [triangulate(piece).mesh for piece in pieces]
    mesh = join(*meshes)
    part = np.repeat(np.arange(4, dtype=np.int32), [m.n_faces for m in meshes])
    mesh = replace(mesh, face_part=part, normals=normals_by_angle(mesh, 180.0))
    parts = tuple(Part(path.split("/")[-1], path) for path in ("body", "fixings/bolt_1", "fixings/bolt_2", "strap"))
    return Prop("bolted", mesh, parts, ())


@pytest.mark.parametrize(
    ("target", "gone"),
    [
        ({"excluded_parts": ("*bolt*",)}, {1, 2}),
        ({"excluded_parts": ("fixings",)}, {1, 2}),
        ({"excluded_parts": ("strap", "fixings/bolt_2")}, {2, 3}),
        ({"exclude_below_px": 8.0}, {1, 2}),
        ({"exclude_below_px": 1e6}, {1, 2, 3}),
        ({"excluded_parts": ("*",)}, set()),
        ({}, set()),
    ],
)
def test_parts_are_left_out_on_purpose_and_the_rest_is_as_far_reduced(target: dict, gone: set[int]) -> None:
    prop, report = _bolted(), Report()
    settings = LevelsSettings(levels=(LevelTarget(triangles=300, **target),), keep_shells=True)
    (_, level) = run(prop, settings, report).levels
    assert set(range(4)) - set(level.mesh.face_part.tolist()) == gone
    assert set(level.dropped) == {prop.parts[i].path for i in gone}
    assert 290 <= level.mesh.n_faces <= 300
    assert "part-missing" not in {finding.code for finding in report.findings}
    # Going without something that sticks out is a change that the switch must hide.
    if 3 in gone:
        assert level.deviation > 0.3


@pytest.mark.parametrize("mirror", ["x", "y"])
def test_parts_are_left_out_of_a_mirrored_chain(mirror: str) -> None:
    settings = LevelsSettings(levels=(LevelTarget(ratio=0.4, excluded_parts=("strap",)),), mirror=mirror)
    chain = run(_bolted(), settings, Report())
    assert 3 not in chain.levels[1].mesh.face_part
    places = {tuple(place) for place in np.round(chain.levels[1].mesh.positions, 9).tolist()}
    flipped = chain.levels[1].mesh.positions * np.where(np.arange(3) == "xyz".index(mirror), -1, 1)
    assert {tuple(place) for place in np.round(flipped, 9).tolist()} == places


def test_a_way_down_without_some_parts_counts_what_its_levels_have() -> None:
    prop = _bolted()
    faces = np.isin(prop.mesh.face_part, (1, 3))
    for placement in ("optimal", "original"):
        sequence = collapse(prop.mesh, placement=placement)
        left = sequence.without(faces)
        for step in (0, 1, sequence.n_steps // 3, sequence.n_steps // 2, sequence.n_steps):
            level = left.level(step)
            assert level.n_faces == left.triangles_at[step]
            assert count_engine_vertices(level) == left.vertices_at[step]
            whole = sequence.level(step)
            assert level.n_faces == (~np.isin(whole.face_part, (1, 3))).sum()
            assert not np.isin(level.face_part, (1, 3)).any()


def test_lowest_count_no_levels_and_a_level_with_its_own_ways() -> None:
    prop = _ball(20)
    targets = (
        LevelTarget(ratio=0.5, normals="keep"),
        LevelTarget(ratio=0.01, silhouette_weight=8.0, normals="recompute"),
    )
    alone = run(prop, LevelsSettings(levels=targets, has_levels=False), Report())
    assert [level.index for level in alone.levels] == [0]
    chain = run(prop, LevelsSettings(levels=targets, min_triangles=120), Report())
    assert 120 <= chain.levels[2].mesh.n_faces <= 124
    assert [level.normals for level in chain.levels[1:]] == ["keep", "recompute"]
    plain = run(
        prop,
        LevelsSettings(levels=(targets[0], LevelTarget(ratio=0.01, normals="recompute")), min_triangles=120),
        Report(),
    )
    assert plain.levels[2].mesh.positions.tolist() != chain.levels[2].mesh.positions.tolist()
    assert plain.levels[1].mesh.positions.tolist() == chain.levels[1].mesh.positions.tolist()
    # What is said of a level is kept, also where it says none.
    own = LevelTarget(ratio=0.5, silhouette_weight=0.0, excluded_parts=("*bolt*",))
    assert LevelTarget.model_validate_json(own.model_dump_json()) == own
    step = chain.levels[2].step
    assert 0 < step.surface <= chain.levels[1].deviation + chain.levels[2].deviation + 1e-9


def test_lod0_is_reduced_from_a_dense_source_and_the_chain_follows_it() -> None:
    prop, report = _ball(40), Report()
    settings = LevelsSettings(lod0=LevelTarget(triangles=1500), levels=(LevelTarget(ratio=0.5), LevelTarget(ratio=0.2)))
    chain = run(prop, settings, report)
    counts = [level.mesh.n_faces for level in chain.levels]
    assert counts == pytest.approx([1500, 750, 300], abs=2)
    assert chain.mesh is chain.levels[0].mesh
    assert chain.levels[0].deviation == 0.0
    (said,) = [finding.message for finding in report.findings if finding.code == "lod0-reduced"]
    assert f"{prop.mesh.n_faces:,}".replace(",", "\u202f") in said


def test_a_level_with_smaller_textures_has_materials_of_its_own(demo_result: Callable[[str], PrepareResult]) -> None:
    prop = demo_result("fog_bell").built.prop
    targets = (LevelTarget(ratio=0.5), LevelTarget(ratio=0.25, texture_step=1), LevelTarget(ratio=0.1, texture_step=3))
    stepped = with_texture_steps(prop, LevelsSettings(levels=targets))
    assert all(new.mesh is old.mesh for new, old in zip(stepped.levels[:2], prop.levels[:2], strict=True))
    for level, step in zip(stepped.levels[2:], (1, 3), strict=True):
        textured = 0
        for number in np.unique(level.mesh.face_material):
            material = stepped.materials[number]
            if not material.all_textures():
                continue
            textured += 1
            (name, _, said) = material.name.rpartition("_T")
            assert said == str(step)
            (own,) = [known for known in prop.materials if known.name == name]
            for texture, before in zip(material.all_textures(), own.all_textures(), strict=True):
                small, large = stepped.images[texture.image], prop.images[before.image]
                assert (small.width, small.height) == (max(large.width >> step, 1), max(large.height >> step, 1))
        assert textured
    codes = {
        f.code for f in rehearse(["prop.glb"], {"prop.glb": write_glb(stepped)}, get_destination("plain")).findings
    }
    assert "materials-differ" not in codes


def test_colours_are_averaged_in_light_and_normals_stay_unit() -> None:
    def halved(texels: np.ndarray, kind: str) -> np.ndarray:
        image = read_image(encode_png(Pillow.fromarray(texels)), "x.png")
        return np.asarray(open_image(smaller_image(image, 1, kind), "RGB")).astype(int)

    checks = np.zeros((4, 4, 3), np.uint8)
    checks[::2, ::2] = checks[1::2, 1::2] = 255
    # Half black and half white are half the light, which is 188 of 255 and not 128.
    np.testing.assert_allclose(halved(checks, "color"), 188, atol=1)
    np.testing.assert_allclose(halved(checks, "other"), 128, atol=1)
    tilted = np.zeros((2, 2, 3), np.uint8)
    tilted[:, 0], tilted[:, 1] = (218, 128, 218), (38, 128, 218)
    np.testing.assert_allclose(halved(tilted, "normal").reshape(3), (128, 128, 255), atol=1)
