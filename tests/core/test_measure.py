"""Pictures: the rasteriser against a pixel-by-pixel reference, and what a picture must show."""

import io

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from PIL import Image as Pillow

from plindro.core.measure.raster import rasterise
from plindro.core.mesh.mesh import make_triangles
from plindro.core.prop import Level, Prop
from plindro.core.scene import Image, Material, Texture
from plindro.core.shading.normals import normals_by_angle
from plindro.core.viewing.eye import first_eye
from plindro.core.viewing.picture import render_picture
from tests.shapes import bumpy_sphere, random_rotation


def _reference(screen: np.ndarray, triangles: np.ndarray, size: int) -> np.ndarray:
    """The nearest triangle that faces the eye at each pixel's middle, asked one by one; -1 for none."""
    seen = np.full((size, size), -1)
    for y in range(size):
        for x in range(size):
            nearest = 0.0
            for t, (a, b, c) in enumerate(screen[triangles]):
                u, v, p = b[:2] - a[:2], c[:2] - a[:2], np.array([x + 0.5, y + 0.5]) - a[:2]
                area = u[0] * v[1] - u[1] * v[0]
                if area >= 0:
                    continue
                wb, wc = (p[0] * v[1] - p[1] * v[0]) / area, (u[0] * p[1] - u[1] * p[0]) / area
                if min(wb, wc, 1 - wb - wc) < 0:
                    continue
                inverse = (1 - wb - wc) / a[2] + wb / b[2] + wc / c[2]
                if inverse > nearest:
                    nearest, seen[y, x] = inverse, t
    return seen


@given(seed=st.integers(0, 10_000))
def test_nearest_facing_triangle_is_seen_at_each_pixel(seed: int) -> None:
    rng = np.random.default_rng(seed)
    screen = np.concatenate([rng.uniform(-4, 20, (12, 2)), rng.uniform(1, 5, (12, 1))], axis=1)
    triangles = rng.integers(0, 12, (8, 3)).astype(np.int32)
    seen, weights, depth = rasterise(screen, triangles, np.zeros(8, bool), 16, 16)
    np.testing.assert_array_equal(seen, _reference(screen, triangles, 16))
    hit = seen >= 0
    np.testing.assert_allclose(weights[hit].sum(axis=1), 1.0, atol=1e-5)
    blended = np.einsum("nk,nk->n", weights[hit], screen[triangles[seen[hit]]][:, :, 2])
    np.testing.assert_allclose(1 / depth[hit], blended, rtol=1e-4)


def _picture(material: Material, *, images: tuple[Image, ...] = ()) -> np.ndarray:
    ball = bumpy_sphere(24, height=0.0)
    triangles = ball.triangles()
    flat = triangles.reshape(-1)
    mesh = make_triangles(ball.positions, triangles)
    uv = ball.positions[flat][:, :2] * 0.5 + 0.5
    mesh = make_triangles(ball.positions, triangles, normals=normals_by_angle(mesh, 180.0), uvs=(uv,))
    prop = Prop("ball", mesh, (), (material,), images, (Level(0, mesh, "ball_LOD0"),))
    data = render_picture(prop, 64)
    assert data == render_picture(prop, 64), "the same prop gives another picture"
    return np.asarray(Pillow.open(io.BytesIO(data)).convert("RGBA")).astype(int)


def test_round_thing_fills_a_disc_on_a_clear_ground() -> None:
    picture = _picture(Material("red", base_color=(0.8, 0.05, 0.05, 1.0), metallic=0.0, roughness=0.8))
    cover = picture[..., 3] / 255
    radius = np.sqrt(cover.sum() / np.pi)
    assert 26 < radius < 32
    assert cover[0].max() == 0
    y, x = np.mgrid[0:64, 0:64]
    assert [(cover * axis).sum() / cover.sum() for axis in (x, y)] == pytest.approx([31.5, 31.5], abs=0.5)
    seen = picture[picture[..., 3] == 255]
    assert (seen[:, 0] > seen[:, 1] + 20).all(), "red is red"
    assert picture[14, 32, :3].sum() > picture[50, 32, :3].sum(), "light falls from above"


@given(seed=st.integers(0, 999), is_double=st.booleans())
def test_a_sheet_is_seen_in_its_picture_however_it_is_turned(seed: int, is_double: bool) -> None:
    corners = np.array([[-1.0, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]]) @ random_rotation(seed).T
    mesh = make_triangles(corners, np.array([[0, 1, 2], [0, 2, 3]]))
    facing = random_rotation(seed)[:, 2]
    # Edge on to all eyes it covers little from any of them.
    assume((abs(facing) > 0.3).sum() >= 2)
    prop = Prop("sheet", mesh, (), (Material("paper", double_sided=is_double),), (), (Level(0, mesh, "sheet_LOD0"),))
    picture = np.asarray(Pillow.open(io.BytesIO(render_picture(prop, 32))).convert("RGBA"))
    assert (picture[..., 3] > 0).mean() > 0.04
    eye = first_eye(mesh, np.full(2, is_double))
    assert is_double or eye @ facing > 0
    if facing.min() > 0:
        assert (eye > 0).all(), "what faces the usual eye is looked at from there"


def test_texture_lies_where_its_uvs_say_and_glass_is_seen_through() -> None:
    buffer = io.BytesIO()
    halves = np.zeros((8, 8, 3), np.uint8)
    halves[:4] = (0, 0, 255)
    halves[4:] = (255, 255, 0)
    Pillow.fromarray(halves).save(buffer, "PNG")
    image = Image("halves.png", buffer.getvalue(), "image/png", 8, 8)
    textured = Material("halves", metallic=0.0, roughness=1.0, textures=(("base_color", Texture(0)),))
    picture = _picture(textured, images=(image,))
    # V grows downwards in the picture and with the height of the ball: its foot is blue, its head yellow.
    assert picture[54, 32, 2] > picture[54, 32, 0] + 30
    assert picture[10, 32, 0] > picture[10, 32, 2] + 30
    glass = _picture(Material("glass", base_color=(1, 1, 1, 0.3), alpha_mode="BLEND", metallic=0.0))
    assert 0 < glass[32, 32, 3] < 200
