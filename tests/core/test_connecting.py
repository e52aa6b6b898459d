"""Maps beside a source that no material uses: told, and connected by their names where that is wished."""

import io

import numpy as np
import pytest
from PIL import Image as Pillow

from plindro.core.destinations import get_destination
from plindro.core.files import MemoryFiles
from plindro.core.files.pixels import read_pixels
from plindro.core.line import override
from plindro.core.lines import get_line
from plindro.core.prop import Prop
from plindro.core.shipping import PrepareResult, prepare

OBJ = b"""mtllib crate.mtl
v 0 0 0
v 1 0 0
v 1 0 1
v 0 0 1
vt 0 0
vt 1 0
vt 1 1
vt 0 1
usemtl Planks
f 1/1 4/4 3/3 2/2
"""
MTL = b"newmtl Planks\nKd 0.2 0.3 0.4\nPm 0.25\nPr 0.5\nmap_Kd boards_color.png\n"


def _png(*color: int, size: int = 8) -> bytes:
    buffer = io.BytesIO()
    Pillow.new("RGB", (size, size), color).save(buffer, "PNG")
    return buffer.getvalue()


def _prepared(files: dict[str, bytes], **source: object) -> PrepareResult:
    line = override(get_line("held"), {"levels": {"has_levels": False}, "source": source})
    beside = MemoryFiles({"crate.mtl": MTL, "boards_color.png": _png(90, 60, 30), **files})
    return prepare(OBJ, "crate.obj", beside, line, get_destination("plain"))


def _maps(prop: Prop) -> dict[str, str]:
    return {slot: prop.images[texture.image].name for slot, texture in prop.materials[0].textures}


BESIDE = {
    "boards_rough_2k.png": _png(80, 80, 80),
    "maps/PlanksMetallic.png": _png(255, 255, 255, size=16),
    "crate_normal.png": _png(128, 128, 255),
    "Planks_AO.png": _png(200, 200, 200),
    "other_emissive.png": _png(1, 2, 3),
    "boards_albedo.png": _png(1, 2, 3),
    "notes.png": _png(1, 2, 3),
}


def test_maps_that_nothing_uses_are_told_and_nothing_changes() -> None:
    result = _prepared(BESIDE)
    (finding,) = [f for f in result.findings if f.code == "maps-not-used"]
    assert finding.count == 4
    assert finding.message.startswith("Planks_AO.png and 3 other maps lie beside the source")
    assert _maps(result.built.prop) == {"base_color": "boards_color.png"}
    assert "maps-not-used" not in [f.code for f in _prepared({"other_rough.png": _png(1, 1, 1)}).findings]


def test_connected_maps_fill_empty_places_as_gltf_holds_them() -> None:
    result = _prepared(BESIDE, connect_maps=True)
    prop = result.built.prop
    assert "maps-not-used" not in [f.code for f in result.findings]
    maps = _maps(prop)
    assert {slot: name for slot, name in maps.items() if slot != "metallic_roughness"} == {
        "base_color": "boards_color.png", "normal": "crate_normal.png", "occlusion": "Planks_AO.png",
    }  # fmt: skip
    packed = next(image for image in prop.images if image.name == maps["metallic_roughness"])
    values = read_pixels(packed.data, packed.name).values
    assert values.shape[:2] == (16, 16), "as large as the larger of the two"
    assert values[3, 3] == pytest.approx([1.0, 80 / 255, 1.0], abs=1 / 255)
    assert (prop.materials[0].roughness, prop.materials[0].metallic) == (1.0, 1.0)


def test_a_channel_without_a_map_keeps_its_factor() -> None:
    (material,) = _prepared({"boards_rough.png": _png(80, 80, 80)}, connect_maps=True).built.prop.materials
    assert (material.roughness, material.metallic) == (1.0, 0.25)


def test_an_unreadable_map_is_told_and_the_rest_ships() -> None:
    result = _prepared({"boards_ao.png": b"no picture"}, connect_maps=True)
    assert result.status == "shipped"
    assert [f.code for f in result.findings if f.code == "unreadable-texture"]


def test_maps_of_deep_formats_keep_their_bits(tmp_path) -> None:
    import OpenEXR

    ramp = np.linspace(0.0, 1.0, 64, dtype=np.float32).reshape(8, 8)
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    OpenEXR.File(header, {"Y": ramp}).write(str(tmp_path / "ao.exr"))
    prop = _prepared({"planks_ao.exr": (tmp_path / "ao.exr").read_bytes()}, connect_maps=True).built.prop
    assert _maps(prop)["occlusion"] == "planks_ao.png"
    image = prop.images[-1]
    pixels = read_pixels(image.data, image.name)
    assert pixels.bits == 16
    assert np.abs(pixels.values[..., 0] - ramp).max() < 1 / 65535
