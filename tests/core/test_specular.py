"""Specular and glossiness become metal and roughness."""

import io
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from plindro.core.files import read_scene
from plindro.core.files.gltf.specular import to_metal
from plindro.core.files.images import open_image
from plindro.core.scene import Scene
from tests.shapes import make_glb

COLORS = st.tuples(*[st.floats(0.05, 1.0)] * 3)


@given(COLORS)
def test_what_reflects_a_little_is_its_own_colour_and_what_has_none_but_reflects_is_a_metal(color: Any) -> None:
    own = np.array(color, np.float32)
    base, metal = to_metal(own, np.full(3, 0.04, np.float32))
    assert metal == pytest.approx(0.0, abs=1e-5)
    assert base == pytest.approx(own, abs=1e-4)
    base, metal = to_metal(np.zeros(3, np.float32), own)
    assert metal == pytest.approx(1.0, abs=1e-4)
    assert base == pytest.approx(own, abs=1e-3)


def _png(pixels: list[list[tuple[int, ...]]]) -> bytes:
    buffer = io.BytesIO()
    Image.fromarray(np.array(pixels, np.uint8)).save(buffer, "PNG")
    return buffer.getvalue()


# Left grey paint, right gold; both a quarter glossy.
PAINT = _png([[(120, 120, 120), (0, 0, 0)]])
GLOSS = _png([[(56, 56, 56, 64), (255, 226, 155, 64)]])


def _scene(material: dict[str, Any], *images: bytes) -> Scene:
    """A triangle in this material, with textures of these images in their order."""
    parts = [np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], "<f4").tobytes(), np.zeros((3, 2), "<f4").tobytes(), *images]
    parts = [part + b"\0" * (-len(part) % 4) for part in parts]
    ends = np.cumsum([len(part) for part in parts]).tolist()
    document = {
        "nodes": [{"mesh": 0}],
        "scenes": [{"nodes": [0]}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0, "TEXCOORD_0": 1}, "material": 0}]}],
        "accessors": [
            {"bufferView": k, "componentType": 5126, "count": 3, "type": kind}
            for k, kind in enumerate(("VEC3", "VEC2"))
        ],
        "bufferViews": [
            {"buffer": 0, "byteOffset": end - len(part), "byteLength": len(part)}
            for part, end in zip(parts, ends, strict=True)
        ],
        "buffers": [{"byteLength": ends[-1]}],
        "images": [{"bufferView": k + 2, "mimeType": "image/png"} for k in range(len(images))],
        "textures": [{"source": k} for k in range(len(images))],
        "materials": [{"name": "old", **material}],
    }
    return read_scene(make_glb(document, b"".join(parts)), "a.glb")


def _of(**content: Any) -> dict[str, Any]:
    return {"extensions": {"KHR_materials_pbrSpecularGlossiness": content}}


def test_pictures_are_turned_pixel_by_pixel() -> None:
    scene = _scene(_of(diffuseTexture={"index": 0}, specularGlossinessTexture={"index": 1}), PAINT, GLOSS)
    (material,) = scene.materials
    assert [f.code for f in scene.findings] == ["specular-glossiness"]
    assert not material.extensions
    pictures = {slot: np.asarray(open_image(scene.images[t.image], "RGB")) for slot, t in material.textures}
    paint, gold = pictures["base_color"][0].tolist()
    assert paint == pytest.approx([120] * 3, abs=2)
    assert gold == pytest.approx([255, 226, 155], abs=2)
    assert pictures["metallic_roughness"][0].tolist() == [[255, 191, pytest.approx(0, abs=2)], [255, 191, 255]]
    assert (material.metallic, material.roughness, material.base_color) == (1.0, 1.0, (1.0, 1.0, 1.0, 1.0))


def test_a_picture_of_what_is_no_metal_stays_as_it_is() -> None:
    scene = _scene(
        _of(
            diffuseTexture={"index": 0},
            diffuseFactor=[0.5, 0.5, 0.5, 0.25],
            specularFactor=[0, 0, 0],
            glossinessFactor=0.3,
        ),
        PAINT,
    )
    (material,) = scene.materials
    assert scene.images[dict(material.textures)["base_color"].image].data == PAINT
    assert material.base_color == pytest.approx((0.5 / 0.96, 0.5 / 0.96, 0.5 / 0.96, 0.25))
    assert (material.metallic, material.roughness) == pytest.approx((0.0, 0.7))


def test_metal_and_roughness_that_stand_beside_it_are_taken() -> None:
    beside = {"pbrMetallicRoughness": {"baseColorFactor": [1, 0, 0, 1], "metallicFactor": 0.25}}
    (material,) = _scene({**beside, **_of(diffuseFactor=[0, 1, 0, 1])}).materials
    assert (material.base_color, material.metallic) == ((1, 0, 0, 1), 0.25)


def test_what_lies_otherwise_than_the_colours_is_left_out() -> None:
    moved = {"index": 1, "extensions": {"KHR_texture_transform": {"scale": [2, 2]}}}
    scene = _scene(
        _of(diffuseTexture={"index": 0}, specularGlossinessTexture=moved, specularFactor=[0.04] * 3), PAINT, GLOSS
    )
    (material,) = scene.materials
    surface = np.asarray(open_image(scene.images[dict(material.textures)["metallic_roughness"].image], "RGB"))
    assert surface[0].tolist() == [[255, 0, 0]] * 2
