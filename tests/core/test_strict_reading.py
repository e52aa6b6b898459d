"""What the rehearsal is made of: images by their headers, axes, parts by name, vertex limits, texels, folders."""

import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from plindro.core.destinations import Destination, get_destination
from plindro.core.files import MemoryFiles
from plindro.core.line import override
from plindro.core.lines import get_line
from plindro.core.rehearsal import rehearse
from plindro.core.rehearsal.axes import axes_of
from plindro.core.rehearsal.found import Primitive
from plindro.core.rehearsal.images import look_at
from plindro.core.rehearsal.light_map import judge_light_map
from plindro.core.rehearsal.project import notice
from plindro.core.rehearsal.vertex_limit import cut_of, pieces_of
from plindro.core.shipping import prepare
from plindro.core.shipping.destined import axes_of as written_axes
from plindro.core.shipping.destined import length_of
from tests.painted import painted_glb

PLAIN = get_destination("plain")


def _image(kind: str, mode: str = "RGB", **options: Any) -> bytes:
    target = io.BytesIO()
    noise = np.random.default_rng(3).integers(0, 255, (24, 40, len(mode)), np.uint8)
    Image.fromarray(noise, mode).save(target, kind, **options)
    return target.getvalue()


@pytest.mark.parametrize(
    ("data", "kind"),
    [
        (_image("PNG"), "PNG"),
        (_image("PNG", "RGBA"), "PNG"),
        (_image("JPEG", quality=80), "JPEG"),
        (_image("JPEG", quality=80, progressive=True), "JPEG"),
        (_image("WEBP", quality=70), "WebP"),
        (_image("WEBP", lossless=True), "WebP"),
        (_image("WEBP", "RGBA", quality=70), "WebP"),
    ],
)
def test_images_are_known_by_their_headers_and_missed_where_they_end_early(data: bytes, kind: str) -> None:
    seen = look_at("a.png", data)
    assert (seen.state, seen.format, seen.width, seen.height) == ("found", kind, 40, 24)
    for length in (len(data) - 20, len(data) // 2, 14):
        assert look_at("a.png", data[:length]).state == "damaged"
    for padding in (b"\0\0\0", b"   ", b"what no loader reads" * 20):
        assert look_at("a.png", data + padding) == seen


def test_the_end_of_a_thumbnail_is_not_that_of_its_image() -> None:
    exif = b"Exif\0\0" + _image("JPEG", quality=80)
    data = _image("JPEG", quality=80, exif=exif)
    assert data.count(b"\xff\xd9") == 2
    assert look_at("a.jpg", data).state == "found"
    assert look_at("a.jpg", data[:-9]).state == "damaged"


@pytest.mark.parametrize("output", ["dds", "ktx2"])
def test_gpu_textures_are_known_with_their_codecs_and_mips(output: str) -> None:
    asked = Destination.model_validate({"name": "a", "title": "A", "textures": {"output": output}})
    result = prepare(painted_glb(), "painted.glb", MemoryFiles({}), get_line("held"), asked)
    textures = [file for file in result.files if file.path.endswith(output)]
    assert len(textures) == 3
    for file in textures:
        seen = look_at(file.path, file.data)
        assert (seen.state, seen.levels) == ("found", 7)
        assert seen.format.split()[0] == output.upper()
        assert seen.format.split()[1] in ("BC1", "BC5", "BC7")
        assert look_at(file.path, file.data[:-9]).state == "damaged"
    assert look_at("a.dds", b"DDS ").state == "damaged"
    assert look_at("a.txt", b"text").fault == "it is of no format that an engine reads"


@given(
    up=st.sampled_from("yz"),
    hand=st.sampled_from(["right", "left"]),
    unit=st.sampled_from(["m", "cm", "in"]),
    scale=st.sampled_from([1.0, 2.5]),
    seed=st.integers(0, 99),
)
def test_what_was_turned_for_an_engine_is_turned_back(up: str, hand: str, unit: str, scale: float, seed: int) -> None:
    """The reader's axes are written by themselves, and still undo the writer's."""
    engine = {"name": "a", "title": "A", "format": "obj", "up": up, "hand": hand, "unit": unit, "scale": scale}
    destination = Destination.model_validate(engine)
    places = np.random.default_rng(seed).normal(size=(20, 3))
    written = (places @ written_axes(destination).T) * length_of(destination)
    np.testing.assert_allclose(axes_of(destination).points(written), places, atol=1e-9)


@given(st.integers(3, 40), st.integers(0, 999))
def test_a_strict_engine_loses_no_triangle_at_its_limit(limit: int, seed: int) -> None:
    chance = np.random.default_rng(seed)
    triangles = chance.integers(0, 60, (80, 3))
    primitive = Primitive(chance.normal(size=(60, 3)), triangles)
    pieces = pieces_of([primitive], limit)
    assert pieces >= -(-60 // limit) if limit < 60 else pieces == 1
    cut = cut_of([primitive], limit)
    assert len(cut) <= 60
    assert (len(cut) > 0) == (pieces > 1) or pieces == 1
    assert pieces_of([primitive], 60) == 1


@given(st.integers(1, 6), st.floats(0.0, 0.9))
def test_a_light_map_holds_until_one_island_lies_on_another(across: int, shift: float) -> None:
    corners = np.array([[[0, 0], [1, 0], [1, 1]], [[0, 0], [1, 1], [0, 1]]], float)
    cell = 1 / across
    islands = [(corners * 0.8 + (i + 0.1, j + 0.1)) * cell for i in range(across) for j in range(across)]
    uv = np.concatenate(islands).reshape(-1, 2)
    triangles = np.arange(len(uv)).reshape(-1, 3)
    assert judge_light_map(1, {1: uv}, triangles).state == "holds"
    over = np.concatenate([uv, (islands[0] + shift * 0.1 * cell).reshape(-1, 2)])
    judged = judge_light_map(1, {1: over}, np.arange(len(over)).reshape(-1, 3))
    assert judged.state == "overlaps"
    assert judged.covered_twice > 0
    assert judge_light_map(1, {1: uv + 1.0}, triangles).state == "outside"
    assert judge_light_map(2, {1: uv}, triangles).state == "absent"


def test_parts_are_known_by_their_names_in_formats_without_nodes() -> None:
    lines = ["mtllib a.mtl"]
    for level, parts in enumerate((("lid_top", "frame"), ("frame",))):
        for part in parts:
            lines.append(f"o crate_LOD{level}_{part}")
            for _ in range(2 - level):
                lines += [f"v {x} {y} 0" for x, y in ((0, 0), (1, 0), (0, 1))]
                lines += ["vt 0 0", "vt 1 0", "vt 0 1", "vn 0 0 1"]
                lines.append("f " + " ".join(f"-{k}/-{k}/-1" for k in (3, 2, 1)))
    lines += ["o crate_LOD0_empty", "v 0 0 0"]
    obj = "\n".join(lines).encode()
    seen = rehearse(["crate.obj"], {"crate.obj": obj}, get_destination("polygons-obj")).seen
    assert [(level.number, level.parts, level.triangles) for level in seen.levels[:2]] == [
        (0, ["frame", "lid_top"], 4),
        (1, ["frame"], 1),
    ]


def test_faces_of_every_kind_of_words_are_read() -> None:
    mixed = b"v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvn 0 0 1\nf 1 2 3\nf 1//1 3//1 4//1\nf 1 2 3 4 # a quad\n"
    seen = rehearse(["a.obj"], {"a.obj": mixed}, get_destination("polygons-obj")).seen
    assert (seen.levels[0].triangles, seen.size) == (4, [1.0, 1.0, 0.0])


@pytest.mark.parametrize("ending", ["obj", "ply", "stl", "usda"])
def test_files_of_any_format_are_taken_whatever_the_destination(ending: str) -> None:
    """An engine of glTF reads what it is given, and says what it misses."""
    format_of = {"usda": "usda"}.get(ending, ending)
    made = Destination.model_validate({"name": "a", "title": "A", "format": format_of})
    line = override(get_line("standing"), {"levels": {"levels": [{"ratio": 0.5}]}})
    result = prepare(painted_glb(), "painted.glb", MemoryFiles({}), line, made)
    files = {file.path: file.data for file in result.files}
    mains = [path for path in files if path.endswith(ending)]
    seen = rehearse(mains, files, PLAIN)
    assert [level.number for level in seen.seen.levels] == [0, 1]
    assert not [f for f in seen.findings if f.severity == "stop" and f.code != "normals-missing"]


def test_an_engine_project_notices_every_kind_of_change(tmp_path: Path) -> None:
    result = prepare(painted_glb(), "painted.glb", MemoryFiles({}), get_line("held"), get_destination("left-hand-ply"))
    destination = get_destination("left-hand-ply")
    for file in result.files:
        (tmp_path / file.path).write_bytes(file.data)
    (tmp_path / ".hidden.ply").write_bytes(b"ply")
    (first,) = notice(tmp_path, {}, destination)
    assert (first.change, first.mains) == ("new", tuple(sorted(file.path for file in result.files)))
    known = {first.path: first.digest, "old_LOD0.ply": "0" * 64}
    assert [asset.change for asset in notice(tmp_path, known, destination)] == ["vanished", "same"]
    (tmp_path / first.mains[-1]).write_bytes(result.files[0].data + b" ")
    assert [asset.change for asset in notice(tmp_path, known, destination)] == ["vanished", "changed"]
