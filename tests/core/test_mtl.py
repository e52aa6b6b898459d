"""MTL: what glTF needs of it, packed the way glTF wants it."""

import io

import numpy as np
import pytest
from PIL import Image as Pillow

from plindro.core.files import MemoryFiles, read_scene
from plindro.core.files.images import open_image
from plindro.core.scene import Material, Scene

FACE = "v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nusemtl m\nf 1/1 2/1 3/1\n"


def _png(color: tuple[int, ...], size: tuple[int, int] = (4, 4), mode: str = "RGB", kind: str = "PNG") -> bytes:
    buffer = io.BytesIO()
    Pillow.new(mode, size, color if len(color) > 1 else color[0]).save(buffer, kind)
    return buffer.getvalue()


def _read(mtl: str, **images: bytes) -> tuple[Material, Scene]:
    files = {name.replace("__", "."): data for name, data in images.items()}
    scene = read_scene(
        f"mtllib m.mtl\n{FACE}".encode(), "m.obj", MemoryFiles({**files, "m.mtl": f"newmtl m\n{mtl}".encode()})
    )
    return scene.materials[0], scene


def _texel(scene: Scene, material: Material, slot: str, mode: str = "RGBA") -> tuple[int, ...]:
    texture = material.texture(slot)  # type: ignore[arg-type]
    assert texture is not None
    pixel = open_image(scene.images[texture.image], mode).getpixel((0, 0))
    assert isinstance(pixel, tuple)
    return pixel


def test_roughness_and_metal_share_one_picture() -> None:
    rough, metal = _png((64,), (8, 8), "L"), _png((200,), (4, 4), "L")
    material, scene = _read("map_Pr rough.png\nmap_Pm metal.png\n", rough__png=rough, metal__png=metal)
    assert _texel(scene, material, "metallic_roughness", "RGB")[1:] == (64, 200)
    assert (material.roughness, material.metallic) == (1.0, 1.0)
    assert len(scene.images) == 1, "the parts that were packed do not travel along"


def test_gloss_is_inverted_roughness_and_alone_leaves_metal_to_its_number() -> None:
    material, scene = _read("Pm 0.25\nmap_Ns gloss.png\n", gloss__png=_png((55,), mode="L"))
    assert _texel(scene, material, "metallic_roughness", "RGB")[1] == 200
    assert (material.roughness, material.metallic) == (1.0, 0.25)


@pytest.mark.parametrize(
    ("line", "alpha", "mode"),
    [
        ("d 0.25", 0.25, "BLEND"),
        ("Tr 0.25", 0.75, "BLEND"),
        ("d 0", 1.0, "OPAQUE"),
        ("Tr 1.000", 1.0, "OPAQUE"),
        ("Tr 0.992157", 1.0, "OPAQUE"),
    ],
)
def test_a_material_that_could_hardly_be_seen_is_solid_and_told(line: str, alpha: float, mode: str) -> None:
    material, scene = _read(f"{line}\n")
    assert (material.base_color[3], material.alpha_mode) == (alpha, mode)
    assert [f.code for f in scene.findings] == (["invisible-material"] if mode == "OPAQUE" else [])
    assert mode == "BLEND" or line.removesuffix(".000") in scene.findings[0].message


def test_opacity_map_becomes_the_colours_alpha_and_a_cut_out() -> None:
    material, scene = _read(
        "map_Kd color.png\nmap_d holes.png\n", color__png=_png((10, 20, 30)), holes__png=_png((77,), (8, 8), "L")
    )
    assert material.alpha_mode == "MASK"
    assert _texel(scene, material, "base_color") == (10, 20, 30, 77)


@pytest.mark.parametrize("color", [(128, 128, 255), (90, 90, 90)])
def test_bump_map_stands_where_normals_do_until_textures_tells_what_it_is(color: tuple[int, ...]) -> None:
    material, scene = _read("map_Bump -bm 0.5 bump.png\n", bump__png=_png(color))
    assert _texel(scene, material, "normal", "RGB") == color
    assert not scene.findings


@pytest.mark.parametrize(
    "line",
    [
        "map_Kd tex.png",
        "map_Kd -o 0.5 0.5 -s 2 2 tex.png",
        "map_Kd -clamp on -mm 0 1 tex.png",
        "map_Kd C:\\work\\TEX.PNG",
        "map_Kd ./maps/tex.png",
        'map_Kd "tex.png"',
        "map_kd\ttex.png",
    ],
)
def test_files_are_found_however_the_line_is_written(line: str) -> None:
    material, scene = _read(line + "\n", tex__png=_png((1, 2, 3)))
    assert not scene.findings
    assert _texel(scene, material, "base_color")[:3] == (1, 2, 3)


def test_other_formats_become_png_and_jpeg_keeps_its_bytes() -> None:
    jpeg = _png((200, 100, 50), kind="JPEG")
    _, scene = _read("map_Kd a.jpg\nnorm b.bmp\n", a__jpg=jpeg, b__bmp=_png((128, 128, 255), kind="BMP"))
    assert [image.media_type for image in scene.images] == ["image/jpeg", "image/png"]
    assert scene.images[0].data == jpeg
    assert scene.images[1].data.startswith(b"\x89PNG")


@pytest.mark.parametrize(
    ("mtl", "alpha", "mode"),
    [
        ("d 0.4", 0.4, "BLEND"),
        ("Tr 0.4", 0.6, "BLEND"),
        ("d 1", 1.0, "OPAQUE"),
        ("d nan", 1.0, "OPAQUE"),
        ("Kd", 1.0, "OPAQUE"),
    ],
)
def test_transparency_of_both_kinds(mtl: str, alpha: float, mode: str) -> None:
    material, _ = _read(mtl + "\n")
    assert material.base_color[3] == pytest.approx(alpha)
    assert material.alpha_mode == mode


def test_shininess_becomes_roughness_and_numbers_stay_in_range() -> None:
    shiny, _ = _read("Ns 1000\nKd 2 -1 0.5\nKe 0.5 0.25 0\n")
    dull, _ = _read("Ns 2\n")
    assert shiny.roughness < 0.1
    assert 0.5 < dull.roughness < 1
    assert shiny.base_color[:3] == (1.0, 0.0, 0.5)
    assert shiny.emissive == (0.5, 0.25, 0.0)
    assert np.isfinite(shiny.roughness)
