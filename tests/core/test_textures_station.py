"""Station Textures on a prop: nothing changes unasked, GPU textures are made once, and what is decided shows."""

import json
import struct
from dataclasses import replace
from pathlib import PurePosixPath
from typing import Any

import numpy as np
import pytest

from plindro.core.destinations import Destination, TextureRules, get_destination
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.files.gpu.dds import read_dds
from plindro.core.files.gpu.ktx2 import read_ktx2
from plindro.core.files.pixels import read_pixels
from plindro.core.line import override
from plindro.core.lines import get_line
from plindro.core.prop import Prop
from plindro.core.shipping import PrepareResult, TextureFolder, prepare, prepare_scene, prop_record
from plindro.core.stations.textures import TEXTURES, TextureFacts
from plindro.core.textures.layouts import ChannelSource, Packing
from tests.core.made_images import IMAGES
from tests.painted import painted_glb

PLAIN = get_destination("plain")
DDS = get_destination("dds-beside")
LINE = override(get_line("held"), {"levels": {"levels": []}})


class Counted:
    """A cache in memory that counts what had to be made."""

    def __init__(self) -> None:
        self.kept: dict[str, bytes] = {}

    def get(self, key: str) -> bytes | None:
        return self.kept.get(key)

    def put(self, key: str, data: bytes) -> None:
        self.kept[key] = data


def _built(destination: Destination = PLAIN, cache: Any = None, **textures: Any) -> PrepareResult:
    line = override(LINE, {"textures": textures})
    return prepare(painted_glb(), "painted.glb", MemoryFiles({}), line, destination, textures=cache)


def _rows(result: PrepareResult) -> dict[str, TextureFacts]:
    facts = result.facts.of(TEXTURES)
    assert facts is not None
    return {row.image: row for row in facts.textures}


def _document(data: bytes) -> dict[str, Any]:
    return json.loads(data[20 : 20 + struct.unpack_from("<I", data, 12)[0]])


def test_images_ship_as_they_came_and_are_told_all_the_same() -> None:
    result = _built()
    assert [file.path for file in result.files] == ["painted.glb"]
    source = prepare(painted_glb(), "painted.glb", MemoryFiles({}), LINE, PLAIN).scene
    images = {image.name: image.data for image in source.images}
    assert {image.name: image.data for image in result.built.prop.images} == images
    rows = _rows(result)
    assert {(name, row.kind, row.by) for name, row in rows.items()} == {
        ("color.png", "color", "slot"), ("normal.png", "normal", "slot"), ("rough.png", "packed", "slot"),
    }  # fmt: skip
    assert all(row.made is None and len(row.trials) == 3 for row in rows.values())
    best = {name: max(row.trials, key=lambda t: t.psnr).codec for name, row in rows.items()}
    assert best["normal.png"] == "bc5"
    assert best["color.png"] == "bc7"
    unseen = prepare_scene(source, LINE, PLAIN, tries_codecs=False)
    assert all(row.trials == [] for row in _rows(unseen).values()), "nobody looks"
    assert unseen.files == prepare_scene(source, LINE, PLAIN).files


def test_dds_lie_beside_and_a_plain_viewer_still_has_its_images() -> None:
    result = _built(DDS)
    assert result.status == "shipped"
    glb, *textures = result.files
    document = _document(glb.data)
    assert document["extensionsUsed"] == ["MSFT_texture_dds"]
    assert "extensionsRequired" not in document
    named = {}
    for texture in document["textures"]:
        plain = document["images"][texture["source"]]
        assert "bufferView" in plain
        assert plain["mimeType"] == "image/png"
        dds = document["images"][texture["extensions"]["MSFT_texture_dds"]["source"]]
        assert dds["mimeType"] == "image/vnd-ms.dds"
        named[plain["name"]] = dds["uri"]
    files = {file.path: file.data for file in textures}
    assert set(named.values()) == set(files)
    assert len(files) == 3
    for name, row in _rows(result).items():
        assert row.made is not None
        assert row.made.path == named[name]
        made = read_dds(files[named[name]], name)
        assert (made.codec, made.width, len(made.levels)) == (row.made.codec, 96, 7)
    record = prop_record(result, "painted.glb")
    assert {row["path"] for row in record["textures"]} == set(files)
    assert {tuple(row["slots"]) for row in record["textures"]} == {
        ("base_color",),
        ("normal",),
        ("metallic_roughness",),
    }


def test_what_was_made_once_is_never_made_again(tmp_path: Any) -> None:
    cache = Counted()
    first = _built(DDS, cache)
    keys = set(cache.kept)
    assert len(keys) == 3
    again = _built(DDS, cache)
    assert set(cache.kept) == keys
    assert [file.sha256 for file in again.files] == [file.sha256 for file in first.files]
    # Damaged or in another quality it is made anew.
    cache.kept = {key: data[:-1] for key, data in cache.kept.items()}
    assert [file.sha256 for file in _built(DDS, cache).files] == [file.sha256 for file in first.files]
    _built(DDS, cache, quality="fast")
    assert len(cache.kept) == 6
    folder = TextureFolder(tmp_path)
    assert folder.get("ab12") is None
    folder.put("ab12", b"x")
    assert folder.get("ab12") == b"x"
    assert folder.forget(0.0) == (0, 0)
    assert folder.forget(4e9) == (1, 1)
    assert folder.get("ab12") is None


def test_the_destination_says_container_codecs_names_and_green() -> None:
    rules = TextureRules(
        output="ktx2", codecs={"color": "bc3"}, folder="", template="T_{image}_{kind}_{digest}", zstd=True,
        green_down=True, budget_mib=0.01,
    )  # fmt: skip
    result = _built(PLAIN.model_copy(update={"textures": rules}))
    files = {file.path: file.data for file in result.files[1:]}
    assert sorted(path.rsplit("_", 1)[0] for path in files) == ["T_color_color", "T_normal_normal", "T_rough_packed"]
    by_kind = {path.split("_")[1]: read_ktx2(data, path) for path, data in files.items()}
    assert by_kind["color"].codec == "bc3"
    up = _built(PLAIN.model_copy(update={"textures": rules.model_copy(update={"green_down": False})}))
    other = next(read_ktx2(f.data, f.path) for f in up.files if "normal" in f.path)
    assert other.levels != by_kind["normal"].levels
    assert "texture-memory-over-budget" in {finding.code for finding in result.findings}
    assert "MSFT_texture_dds" not in json.dumps(_document(result.files[0].data))


def test_a_template_without_what_keeps_names_apart_is_refused() -> None:
    for template in ("{image}", "{image}_{digest}_{size}"):
        with pytest.raises(ValueError, match="digest"):
            TextureRules(template=template)


def test_a_layout_packs_each_material_and_lacks_are_told() -> None:
    packing = Packing(
        name="ORM",
        r=ChannelSource(kind="occlusion"),
        g=ChannelSource(kind="roughness", invert=True),
        b=ChannelSource(kind="metallic"),
    )
    rules = TextureRules(output="dds", codecs={"packed": "rgba8"}, packings=(packing,))
    result = _built(PLAIN.model_copy(update={"textures": rules}))
    row = next(row for name, row in _rows(result).items() if name.endswith("_ORM"))
    assert row.made is not None
    data = next(file.data for file in result.files if file.path == row.made.path)
    packed = np.frombuffer(read_dds(data, "a").levels[0], np.uint8).reshape(96, 96, 4)
    assert (packed[..., 0] == 255).all()
    rough = IMAGES["colours"][..., 1].astype(int)
    assert np.abs(packed[..., 1] - (255 - rough)).max() <= 1


def _image(prop: Prop, name: str) -> Any:
    return next(read_pixels(i.data, i.name).values for i in prop.images if i.name == name)


def test_what_is_decided_about_an_image_is_done_to_it() -> None:
    before = _image(_built().built.prop, "normal.png")
    flipped = _built(maps=[{"image": "normal.png", "flip_green": True}])
    after = _image(flipped.built.prop, "normal.png")
    assert np.allclose(after[..., 1], 1.0 - before[..., 1], atol=1 / 255)
    assert np.array_equal(after[..., 0], before[..., 0])
    assert "normal-map-green-down" in {finding.code for finding in flipped.findings}
    chosen = _rows(_built(DDS, maps=[{"image": "color.png", "codec": "bc7", "kind": "mask"}]))["color.png"]
    assert (chosen.kind, chosen.by) == ("mask", "choice")
    assert chosen.made is not None
    assert chosen.made.codec == "bc7"


def test_repairs_of_channels_and_lengths_take_their_faults_away() -> None:
    def faults(result: PrepareResult) -> list[str]:
        return _rows(result)["color.png"].faults

    mask = {"image": "color.png", "kind": "mask"}
    assert "color-stored-as-data" in faults(_built(maps=[mask]))
    single = _built(maps=[{**mask, "one_channel": True, "drop_alpha": True}])
    assert "color-stored-as-data" not in faults(single)
    came, ships = (_image(_built().built.prop, "color.png"), _image(single.built.prop, "color.png"))
    assert ships.shape[2] == 1
    assert (_rows(single)["color.png"].is_changed, _rows(single)["normal.png"].is_changed) == (True, False)
    assert np.array_equal(ships[..., 0], came[..., 0])
    normal = {"image": "color.png", "kind": "normal"}
    assert "normal-map-not-unit" in faults(_built(maps=[normal]))
    mended = _built(maps=[{**normal, "unit": True}])
    assert "normal-map-not-unit" not in faults(mended)
    before, after = (values[..., :3] * 2.0 - 1.0 for values in (came, _image(mended.built.prop, "color.png")))
    assert np.allclose(np.linalg.norm(after, axis=-1), 1.0, atol=0.02)
    sure = np.linalg.norm(before, axis=-1) > 0.2
    assert (np.cross(before, after)[sure] ** 2).sum(-1).max() < 0.02**2


def test_heights_become_normals_and_give_occlusion_where_that_is_wanted() -> None:
    choice = {"image": "rough.png", "kind": "normal"}
    height = {"strength": 8.0, "occlusion": True}
    result = _built(maps=[{**choice, "image": "normal.png", "height": height}])
    prop = result.built.prop
    vectors = _image(prop, "normal.png")[..., :3] * 2 - 1
    assert np.allclose(np.linalg.norm(vectors, axis=-1), 1.0, atol=0.02)
    material = next(m for m in prop.materials if m.texture("occlusion") is not None)
    assert material.texture("occlusion").image != material.texture("normal").image  # type: ignore[union-attr]
    assert {"normal_occlusion.png"} <= set(_rows(result))


def test_mips_of_roughness_are_roughened_by_normals() -> None:
    plain, rough = (next(f for f in _built(DDS, roughen=on).files if "rough" in f.path).data for on in (False, True))
    first, last = (read_dds(data, "a").levels for data in (plain, rough))
    assert first[0] == last[0]
    assert first[3] != last[3]


def test_factors_and_transforms_are_baked_so_that_it_looks_the_same() -> None:
    factors = {"baseColorFactor": [0.5, 0.25, 1.0, 1.0], "roughnessFactor": 0.5}
    data = painted_glb(factors=factors, transform={"scale": [2.0, 2.0], "offset": [0.25, 0.0]})
    line = override(LINE, {"textures": {"bake": True}})
    before, after = (prepare(data, "painted.glb", MemoryFiles({}), chosen, PLAIN).built.prop for chosen in (LINE, line))
    material = after.materials[0]
    assert material.base_color == (1.0, 1.0, 1.0, 1.0)
    assert material.roughness == 1.0
    assert all(texture.transform == () for texture in material.all_textures())
    assert np.allclose(after.mesh.uvs[0], before.mesh.uvs[0] * 2 + (0.25, 0.0), atol=1e-5)
    image = after.images[material.texture("base_color").image]  # type: ignore[union-attr]
    values, source = read_pixels(image.data, image.name).values, IMAGES["colours"] / 255.0
    linear = np.where(source <= 0.04045, source / 12.92, ((source + 0.055) / 1.055) ** 2.4)[..., 1] * 0.25
    srgb = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    assert np.abs(values[..., 1] - srgb).max() < 1.5 / 255


def test_far_levels_get_smaller_gpu_textures_of_their_own() -> None:
    line = override(LINE, {"levels": {"levels": [{"ratio": 0.5, "texture_step": 1}]}})
    result = prepare(painted_glb(rings=12), "painted.glb", MemoryFiles({}), line, DDS)
    sizes = {file.path.rsplit("_", 1)[0]: read_dds(file.data, "a").width for file in result.files[1:]}
    assert sizes["textures/color"] == 96
    assert sizes["textures/color_T1"] == 48


def test_an_image_that_cannot_be_read_is_told_and_the_others_ship() -> None:
    result = _built()
    prop = result.built.prop
    broken = replace(prop.images[0], data=prop.images[0].data[:60])
    from plindro.core.report import Report
    from plindro.core.station import Context
    from plindro.core.stations.textures import TexturesSettings
    from plindro.core.stations.textures.station import run

    report = Report()
    context = Context(result.scene, DDS)
    done = run(replace(prop, images=(broken, *prop.images[1:])), TexturesSettings(), report, context)
    assert len(done.gpu_files) == 2
    assert [finding.code for finding in report.findings if finding.code == "unreadable-texture"]


def _colored(overlaps: bool) -> PrepareResult:
    """Two squares side by side, red and green by their vertices; on one place of the map where it overlaps."""
    lines = ["mtllib a.mtl", "usemtl wood"]
    for square, color in enumerate(("1 0 0", "0 1 0")):
        lines += [f"v {square * 2 + x} 0 {z} {color}" for x, z in ((0, 0), (0, 1), (1, 1), (1, 0))]
        left = 0.0 if overlaps else 0.5 * square
        lines += [f"vt {left + 0.5 * u} {v}" for u, v in ((0, 0), (0, 1), (1, 1), (1, 0))]
        lines.append("f " + " ".join(f"{4 * square + k}/{4 * square + k}" for k in (1, 2, 3, 4)))
    files = MemoryFiles({"a.mtl": b"newmtl wood\nKd 0.5 0.5 0.5\n"})
    line = override(LINE, {"textures": {"bake": True}})
    return prepare("\n".join(lines).encode(), "a.obj", files, line, PLAIN)


def test_vertex_colors_are_baked_where_each_pixel_has_one() -> None:
    prop = _colored(overlaps=False).built.prop
    assert all(level.mesh.colors is None for level in prop.levels)
    (texture,) = prop.materials[0].all_textures()
    values = read_pixels(prop.images[texture.image].data, "a.png").values
    half = values.shape[1] // 2
    factor = np.array(prop.materials[0].base_color[:3])
    assert factor == pytest.approx(1.0)
    assert (values[:, : half - 1, 1] == 0).all()
    assert (values[:, half + 1 :, 0] == 0).all()
    # 0.5 of linear light, as the factor had it.
    assert values[5, 5, 0] == pytest.approx(0.7354, abs=0.003)


def test_vertex_colors_on_one_place_of_the_map_stay_and_are_told() -> None:
    result = _colored(overlaps=True)
    assert result.built.prop.levels[0].mesh.colors is not None
    assert [f for f in result.findings if f.code == "vertex-colors-kept"]


def test_images_that_ship_as_they_are_get_the_size_that_is_asked() -> None:
    result = _built(sizes="power-of-two", largest=64)
    assert {(image.width, image.height) for image in result.built.prop.images} == {(64, 64)}
    rows = _rows(result)
    assert not any("power-of-two" in fault for row in rows.values() for fault in row.faults)


def test_a_line_says_codecs_by_kind_before_the_destination_does() -> None:
    destination = DDS.model_copy(update={"textures": TextureRules(output="dds", codecs={"color": "bc1"})})
    codecs = {
        name: row.made.codec for name, row in _rows(_built(destination, codecs={"packed": "bc3"})).items() if row.made
    }
    assert codecs == {"color.png": "bc1", "normal.png": "bc5", "rough.png": "bc3"}


@pytest.mark.parametrize(
    ("wanted", "types"),
    [
        ("keep", {"image/png"}),
        ("jpeg", {"image/jpeg", "image/png"}),
        ("webp", {"image/webp"}),
    ],
)
@pytest.mark.parametrize("beside", [False, True])
def test_images_ship_in_the_format_and_place_that_is_asked(wanted: Any, types: set[str], beside: bool) -> None:
    rules = TextureRules(images=wanted, beside=beside)
    result = _built(PLAIN.model_copy(update={"textures": rules}))
    assert result.status == "shipped"
    main, *others = result.files
    document = _document(main.data)
    assert {image["mimeType"] for image in document["images"]} == types
    assert sorted(image["uri"] for image in document["images"] if "uri" in image) == sorted(f.path for f in others)
    assert len(others) == (3 if beside else 0)
    assert document.get("extensionsRequired", []) == (["EXT_texture_webp"] if wanted == "webp" else [])
    # Read again, numbers are the very same, and colours nearly so.
    scene = read_scene(main.data, main.path, MemoryFiles({file.path: file.data for file in others}))
    before = {PurePosixPath(image.name).stem: image for image in _built().built.prop.images}
    for slot, texture in scene.materials[0].textures:
        image = scene.images[texture.image]
        source = before[PurePosixPath(image.name).stem]
        now, then = (read_pixels(x.data, x.name).values for x in (image, source))
        assert np.abs(now - then).max() <= (0.25 if slot == "base_color" and wanted != "keep" else 0.0)
