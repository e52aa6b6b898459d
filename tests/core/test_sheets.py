"""One sheet for many props: every place of the surface shows what it showed, with one material."""

from dataclasses import replace

import numpy as np
import pytest
from numpy.typing import NDArray

from plindro.core.errors import InvalidSettings
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.files.gltf.writer import write_glb
from plindro.core.mesh.mesh import F64, Mesh
from plindro.core.packing import Sheet
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.scene import Material, Part, TextureSlot
from plindro.core.sheets.filling import fill_around
from plindro.core.sheets.raster import paint
from plindro.core.sheets.shared import Shared, Tiling, share_sheet
from plindro.core.textures.images import decode, encode
from plindro.core.uvs.judge import judge_channel
from tests.painted import bumps, from_above, painted, ramp
from tests.shapes import bumpy_sphere, wavy_sheet

SIZE = 256
SHEET = Sheet(SIZE, SIZE, 6, 3)


def _silent(done: float, doing: str) -> None:
    """Progress that nobody watches."""


def _shared(*props: Prop, tiling: Tiling = "out", sheet: Sheet = SHEET) -> Shared:
    return share_sheet("set", props, sheet, _silent, tiling=tiling)


def _seen(prop: Prop, slot: TextureSlot, faces: NDArray[np.int64]) -> F64:
    """(F, K, 3) what a map shows at places within triangles, read at the nearest pixel."""
    weights = np.array([[0.34, 0.33, 0.33], [0.6, 0.2, 0.2], [0.2, 0.6, 0.2]])
    uv = weights @ prop.mesh.uvs[0].reshape(-1, 3, 2)[faces]
    out = np.zeros((len(faces), len(weights), 3))
    for k, face in enumerate(faces):
        texture = prop.materials[prop.mesh.face_material[face]].texture(slot)
        assert texture is not None
        values = decode(prop.images[texture.image])
        height, width, _ = values.shape
        at = np.floor(uv[k] * [width, height]).astype(int)
        out[k] = values[at[:, 1] % height, at[:, 0] % width, :3]
    return out


def _in_space(mesh: Mesh, normals: F64) -> F64:
    """(F, K, 3) normals of a map (0 to 255) in space: along U, against V, out."""
    places, uv = mesh.positions[mesh.triangles()], mesh.uvs[0].astype(float).reshape(-1, 3, 2)
    one, two = places[:, 1] - places[:, 0], places[:, 2] - places[:, 0]
    a, b = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    area = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    along = (one * b[:, 1:] - two * a[:, 1:]) / area[:, None]
    against = -(two * a[:, :1] - one * b[:, :1]) / area[:, None]
    out = np.cross(one, two)
    frame = np.stack([v / np.linalg.norm(v, axis=1, keepdims=True) for v in (along, against, out)], axis=1)
    return np.einsum("fkc,fcx->fkx", normals / 127.5 - 1.0, frame)


def test_every_place_shows_what_it_showed() -> None:
    props = [painted(f"p{seed}", seed) for seed in range(3)]
    shared = _shared(*props)
    assert (shared.before.draw_calls, shared.after.draw_calls) == (3, 3)
    assert len(shared.prop.materials) == 1
    first = 0
    for prop in props:
        faces = np.arange(prop.mesh.n_faces)
        off = _seen(shared.prop, "base_color", faces + first) - _seen(prop, "base_color", faces)
        assert abs(off).mean() < 2.0
        assert abs(off).max() < 14.0
        first += prop.mesh.n_faces
    figures = judge_channel(shared.prop.mesh, 0, SIZE, 3).whole
    assert (figures.overlap, figures.outside, figures.flipped_triangles) == (0.0, 0.0, 0)
    assert figures.gap is not None
    assert figures.gap >= 6
    density = figures.density
    assert density is not None
    assert shared.after.density == pytest.approx(density.median, rel=0.05)


@pytest.mark.parametrize("axis", [0, 1])
def test_normal_maps_turn_with_their_islands(axis: int) -> None:
    """Long islands are laid along the sheet, whatever way they lay."""
    props = []
    for number in range(3):
        prop = painted(f"p{number}", number, normal=bumps("bumps", 128))
        uvs = prop.mesh.uvs[0] * (np.array([1.0, 0.3]) if (number + axis) % 2 else np.array([0.3, 1.0]))
        props.append(replace(prop, mesh=replace(prop.mesh, uvs=(uvs.astype(np.float32),))))
    shared = _shared(*props)
    first = 0
    for prop in props:
        faces = np.arange(prop.mesh.n_faces)
        before = _in_space(prop.mesh, _seen(prop, "normal", faces))
        mesh = replace(shared.prop.mesh.with_faces(np.isin(np.arange(shared.prop.mesh.n_faces), faces + first)))
        after = _in_space(mesh, _seen(shared.prop, "normal", faces + first))
        assert np.einsum("fkx,fkx->fk", before, after).min() > 0.95
        first += prop.mesh.n_faces


def test_around_islands_their_colours_go_on() -> None:
    dark = replace(painted("dark", 1), images=(ramp("dark", 64, 1, 20, 40),))
    values = decode(_shared(dark).prop.images[0])
    assert 16 < values.min() < values.max() < 44, (
        "nothing of the sheet is left empty, so no mip brings in anything else"
    )


@pytest.mark.parametrize("tiling", ["out", "repeat", "strip"])
def test_what_tiles_is_kept_out_or_repeated_or_given_a_strip(tiling: Tiling) -> None:
    plank = painted("plank", 5)
    uvs = (plank.mesh.uvs[0] * [3.0, 0.5]).astype(np.float32)
    plank = replace(plank, mesh=replace(plank.mesh, uvs=(uvs,)))
    shared = _shared(painted("first", 1), plank, tiling=tiling)
    n = plank.mesh.n_faces
    after = np.arange(shared.prop.mesh.n_faces - n, shared.prop.mesh.n_faces)
    off = abs(_seen(shared.prop, "base_color", after) - _seen(plank, "base_color", np.arange(n)))
    assert off.mean() < 4.0
    codes = [finding.code for finding in shared.findings]
    at = shared.prop.mesh.uvs[0].reshape(-1, 3, 2)[after]
    if tiling == "out":
        assert codes == ["sheet-kept-out"]
        assert np.array_equal(at.reshape(-1, 2), uvs)
        assert [material.name for material in shared.prop.materials] == ["set", "plank"]
    else:
        assert codes == []
        assert len(shared.prop.materials) == 1
        assert (np.ptp(at[:, :, 0]) > 2.0) == (tiling == "strip"), "a strip goes on past the sheet"
        assert np.ptp(at[:, :, 1]) < 1.0


def test_what_tiles_both_ways_cannot_be_a_strip() -> None:
    both = painted("both", 2, scale=2.5)
    shared = _shared(painted("first", 1), both, tiling="strip")
    assert [finding.message for finding in shared.findings] == [
        "both: both tiles both ways (1 island) and stays as it is"
    ]
    with pytest.raises(InvalidSettings, match="all of them tile"):
        _shared(both)


def test_factors_and_missing_maps_become_pixels() -> None:
    red = painted("red", 1, surface=ramp("s", 64, 3))
    bare = Prop(
        "bare", from_above(triangulate(wavy_sheet(4)).mesh, 0.5), (Part("bare", "bare"),),
        (Material("bare", base_color=(0.5, 0.25, 1.0, 1.0), metallic=0.0, roughness=0.25),),
    )  # fmt: skip
    shared = _shared(red, bare)
    faces = np.arange(red.mesh.n_faces, shared.prop.mesh.n_faces)
    assert np.allclose(_seen(shared.prop, "base_color", faces), [188, 137, 255], atol=1)
    assert np.allclose(_seen(shared.prop, "metallic_roughness", faces)[:, :, 1:], [64, 0], atol=1)
    material = shared.prop.materials[0]
    assert (material.base_color, material.metallic, material.roughness) == ((1.0, 1.0, 1.0, 1.0), 1.0, 1.0)


def test_stacked_islands_stay_stacked_and_what_is_drawn_otherwise_is_a_material_of_its_own() -> None:
    prop = painted("stack", 4)
    twice = replace(
        prop.mesh,
        positions=np.concatenate([prop.mesh.positions, prop.mesh.positions + [2.0, 0.0, 0.0]]),
        corner_vertex=np.concatenate([prop.mesh.corner_vertex, prop.mesh.corner_vertex + prop.mesh.n_vertices]),
        face_start=3 * np.arange(2 * prop.mesh.n_faces + 1),
        uvs=(np.tile(prop.mesh.uvs[0], (2, 1)),),
        **{key: np.tile(getattr(prop.mesh, key), 2) for key in ("face_material", "face_part", "face_smoothing")},
        face_polygon=np.arange(2 * prop.mesh.n_faces, dtype=np.int32),
        normals=None,
    )
    glass = replace(painted("glass", 6), materials=(replace(painted("glass", 6).materials[0], double_sided=True),))
    shared = _shared(replace(prop, mesh=twice), glass)
    at = shared.prop.mesh.uvs[0][: twice.n_corners].reshape(2, -1, 2)
    assert np.allclose(at[0], at[1], atol=1e-6)
    assert [(m.name, m.double_sided) for m in shared.prop.materials] == [("set", False), ("set_2", True)]


def test_a_scene_of_the_set_is_read_back_with_an_object_a_prop() -> None:
    props = [painted(f"p{seed}", seed) for seed in range(2)]
    shared = _shared(*props)
    scene = read_scene(write_glb(shared.prop), "set.glb", MemoryFiles({}))
    assert len(scene.parts) == 2
    assert (len(scene.materials), len(scene.images)) == (1, 1)
    assert write_glb(shared.prop) == write_glb(_shared(*props).prop), "the same bytes each time"
    without = replace(props[0], mesh=replace(props[0].mesh, uvs=()))
    with pytest.raises(InvalidSettings, match="p0 has no UVs"):
        _shared(without)
    with pytest.raises(InvalidSettings, match="do not fit"):
        _shared(*props, sheet=Sheet(8, 8, 6, 3))


def test_painted_pixels_are_all_that_a_triangle_touches() -> None:
    mesh = triangulate(bumpy_sphere(6)).mesh
    corners = (mesh.positions[mesh.triangles()][:, :, :2] * 20 + 32).astype(float)
    owner = paint(corners, np.arange(len(corners), dtype=np.int32), 64, 64)
    step = np.linspace(0.01, 0.98, 30)
    a, b = (grid.reshape(-1) for grid in np.meshgrid(step, step))
    inside = np.stack([1 - a, a * (1 - b), a * b], axis=1) @ corners
    at = np.floor(inside).astype(int)
    assert (owner[at[..., 1], at[..., 0]] >= 0).all()
    assert (owner >= 0).sum() < 1.3 * np.pi * 20**2 * 1.2
    around = paint(corners + [32.0, 0.0], np.arange(len(corners), dtype=np.int32), 64, 64, wraps=True)
    assert np.array_equal(np.roll(around >= 0, -32, axis=1), owner >= 0)


def test_colours_are_carried_out_so_far_and_no_further() -> None:
    values = np.zeros((16, 16, 1), np.uint8)
    values[8, 8] = 200
    covered = values[:, :, 0] > 0
    filled = fill_around(values, covered, 3)[:, :, 0]
    y, x = np.mgrid[0:16, 0:16]
    assert np.array_equal(filled == 200, np.hypot(x - 8, y - 8) <= 3)
    assert np.array_equal(decode(encode("x", values)), values)
    deep = np.arange(256, dtype=np.uint16).reshape(16, 16, 1) * 250
    assert np.array_equal(decode(encode("deep", deep)), deep)


def test_an_image_that_many_use_counts_once() -> None:
    same = ramp("same", 128, 9)
    props = [replace(painted(f"p{k}", k), images=(same,)) for k in range(3)]
    assert _shared(*props).before.texture_bytes == int(128 * 128 * 4 * 4 / 3)
