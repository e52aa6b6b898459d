"""Levels modelled by hand: read into LOD0's place and numbering, checked, and refused where they are of no use."""

from dataclasses import replace

import numpy as np
import pytest

from plindro.core.destinations import DESTINATIONS
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.files.gltf.writer import write_glb
from plindro.core.line import BuiltProp, override, run_line
from plindro.core.lines import get_line
from plindro.core.mesh.mesh import Mesh
from plindro.core.polygons import triangulate
from plindro.core.prop import Level, Prop
from plindro.core.report import Report
from plindro.core.scene import Material
from plindro.core.shading.normals import normals_by_angle
from tests.shapes import bumpy_sphere

MATERIALS = (Material("brass"), Material("glass", base_color=(0.2, 0.5, 0.9, 1.0)))


def _mesh(n: int, *, scale: float = 1.0, by: tuple[float, float, float] = (0.0, 0.0, 0.0), channels: int = 1) -> Mesh:
    """A ball that stands 3 m beside the origin, its upper half of glass."""
    mesh = triangulate(bumpy_sphere(n, height=0.05)).mesh
    upper = mesh.positions[mesh.triangles()].mean(axis=1)[:, 1] > 0
    places = mesh.positions * scale + np.array((3.0, 0.0, 0.0)) + np.array(by)
    uv = mesh.positions[mesh.corner_vertex][:, :2].astype(np.float32)
    return replace(
        mesh,
        positions=places,
        normals=normals_by_angle(mesh, 180.0),
        uvs=(uv,) * channels,
        face_material=upper.astype(np.int32),
    )


def _glb(mesh: Mesh, materials: tuple[Material, ...] = MATERIALS) -> bytes:
    return write_glb(Prop("ball", mesh, (), materials, levels=(Level(0, mesh, "ball"),)))


def _obj(mesh: Mesh) -> bytes:
    """The same surface as text, in centimetres, without normals."""
    lines = [f"v {x:.6f} {y:.6f} {z:.6f}" for x, y, z in (100 * mesh.positions).tolist()]
    lines += [f"f {a} {b} {c}" for a, b, c in (mesh.triangles() + 1).tolist()]
    return "\n".join(lines).encode()


def _built(hand_made: bytes | None, name: str = "low.glb", **more: object) -> BuiltProp:
    scene = read_scene(_glb(_mesh(24)), "ball.glb", MemoryFiles({}))
    levels = [{"ratio": 0.5}, {"hand_made": name, **more}, {"ratio": 0.05}]
    line = override(get_line("standing"), {"levels": {"levels": levels}})
    files = MemoryFiles({} if hand_made is None else {name: hand_made})
    return run_line(scene, line, DESTINATIONS[0], Report(), side_files=files)


def _codes(built: BuiltProp) -> set[str]:
    return {f.code for f in built.findings if f.level == 2 and f.code.startswith(("hand-made", "level", "part"))}


def test_a_fitting_level_takes_its_place_in_the_chain() -> None:
    made = _mesh(10)
    built = _built(_glb(made))
    assert [level.index for level in built.prop.levels] == [0, 1, 2, 3]
    level = built.prop.levels[2]
    assert level.mesh.n_faces == made.n_faces
    assert level.normals == "by hand"
    assert level.name == "ball_LOD2"
    low, high = built.prop.mesh.bounds()
    own_low, own_high = level.mesh.bounds()
    # The pivot went to the base of LOD0; the level went with it.
    np.testing.assert_allclose(own_low, low, atol=0.1)
    np.testing.assert_allclose(own_high, high, atol=0.1)
    names = [built.prop.materials[m].name for m in np.unique(level.mesh.face_material)]
    assert names == ["brass", "glass"]
    assert not _codes(built)
    assert 0 < built.prop.levels[1].deviation <= level.deviation <= built.prop.levels[3].deviation
    counts = [level.mesh.n_faces for level in built.prop.levels]
    assert counts == sorted(counts, reverse=True)


def test_materials_are_known_by_the_names_of_the_source_and_by_those_that_ship() -> None:
    names = ("brass", "brass_2", "clear")
    same = tuple(Material(name, base_color=(0.2, 0.5, 0.9, 1.0) if name == "clear" else (1.0,) * 4) for name in names)
    mesh = _mesh(24)
    thirds = replace(mesh, face_material=(np.arange(mesh.n_faces) * 3 // mesh.n_faces).astype(np.int32))
    scene = read_scene(_glb(thirds, same), "ball.glb", MemoryFiles({}))
    changes = {
        "source": {"merge_materials": True, "letter_materials": True},
        "levels": {"levels": [{"hand_made": "low.glb"}]},
    }
    low = _mesh(10)
    for own in (("brass_2", "clear"), ("A_brass", "B_clear")):
        files = MemoryFiles({"low.glb": _glb(low, tuple(Material(name) for name in own))})
        line = override(get_line("standing"), changes)
        built = run_line(scene, line, DESTINATIONS[0], Report(), side_files=files)
        assert [material.name for material in built.prop.materials] == ["A_brass", "B_clear"]
        assert "hand-made-materials" not in {finding.code for finding in built.findings}
        share = (built.prop.levels[1].mesh.face_material == 1).mean()
        assert share == pytest.approx((low.face_material == 1).mean())


@pytest.mark.parametrize(
    ("mesh", "materials", "code"),
    [
        (_mesh(10, by=(0.6, 0.0, 0.0)), MATERIALS, "hand-made-pivot"),
        (_mesh(10, scale=1.3), MATERIALS, "hand-made-size"),
        (_mesh(10, channels=2), MATERIALS, "hand-made-uvs"),
        (_mesh(10), (Material("brass"), Material("tin")), "hand-made-materials"),
        (_mesh(10, scale=0.8), MATERIALS, "hand-made-silhouette"),
    ],
)
def test_what_does_not_agree_with_lod0_is_said(mesh: Mesh, materials: tuple[Material, ...], code: str) -> None:
    built = _built(_glb(mesh, materials))
    assert code in _codes(built)
    assert len(built.prop.levels) == 4


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (None, "is not beside the source"),
        (b"not a mesh", "low.glb"),
        (_glb(_mesh(24)), "hardly fewer"),
    ],
)
def test_what_is_of_no_use_is_left_out_with_a_reason(data: bytes | None, words: str) -> None:
    built = _built(data)
    (said,) = [f.message for f in built.findings if f.code == "level-skipped"]
    assert words in said
    assert [level.index for level in built.prop.levels] == [0, 1, 2]


def test_another_format_with_its_own_unit_lands_in_the_same_place() -> None:
    made = _mesh(10)
    scene = read_scene(_obj(_mesh(24)), "ball.obj", MemoryFiles({}))
    line = override(get_line("standing"), {"levels": {"levels": [{"hand_made": "low.obj"}]}})
    prop = run_line(scene, line, DESTINATIONS[0], Report(), side_files=MemoryFiles({"low.obj": _obj(made)})).prop
    (first, level) = prop.levels
    np.testing.assert_allclose(
        level.mesh.bounds(), first.mesh.bounds(), rtol=0.1, atol=0.1 * np.ptp(first.mesh.bounds())
    )
    assert (level.mesh.normals is None) == (first.mesh.normals is None)
