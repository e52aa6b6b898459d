"""Maps: kinds, faults, mips, heights, channels, and images of every depth."""

import io
from pathlib import Path

import imagecodecs
import numpy as np
import OpenEXR
import pytest
import tifffile
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image as Pillow

from plindro.core.blocks.decode import decode
from plindro.core.errors import UnreadableFile
from plindro.core.files.gpu.dds import read_dds
from plindro.core.files.pixels import encode_deep, read_pixels
from plindro.core.mesh.mesh import F32
from plindro.core.textures.channels import pack_channels
from plindro.core.textures.codec_choice import alpha_of, codec_for
from plindro.core.textures.faults import content_faults, green_is_down, size_faults
from plindro.core.textures.heights import bands_of, normals_from_height, occlusion_from_height
from plindro.core.textures.kinds import kind_of
from plindro.core.textures.layouts import ChannelSource, Packing
from plindro.core.textures.making import make_texture
from plindro.core.textures.mips import MipRules, mip_levels, mip_sizes, roughened, shortening
from plindro.core.textures.quality import compare
from plindro.core.textures.resampling import resampled
from plindro.core.textures.rules import BANDS, TextureSettings
from tests.core.made_images import IMAGES

FILTERS = ("box", "kaiser", "mitchell", "lanczos")


def _of(name: str, channels: int = 4) -> F32:
    return (IMAGES[name][..., :channels] / 255.0).astype(np.float32)


def _hills(side: int = 64) -> F32:
    y, x = np.mgrid[0:side, 0:side] / side * 2 * np.pi
    return (0.5 + 0.25 * np.sin(2 * x) * np.cos(y) + 0.1 * np.sin(9 * x + 7 * y)).astype(np.float32)


@pytest.mark.parametrize(
    ("name", "slots", "kind", "by"),
    [
        ("a.png", {"base_color"}, "color", "slot"),
        ("a_normal.png", {"occlusion", "metallic_roughness"}, "packed", "slot"),
        ("anchor_rough.png", set(), "roughness", "name"),
        ("AnchorBaseColor.png", set(), "color", "name"),
        ("anchor_h.tif", set(), "height", "name"),
        ("x.png", set(), "color", "content"),
    ],
)
def test_a_map_is_told_by_its_slot_then_its_name_then_its_pixels(name: str, slots: set, kind: str, by: str) -> None:
    guess = kind_of(name, _of("colours"), frozenset(slots))
    assert (guess.kind, guess.by) == (kind, by)


def test_pixels_alone_tell_normals_and_masks() -> None:
    assert kind_of("x.png", _of("normals", 3), frozenset()).kind == "normal"
    grey = np.repeat(_of("colours")[..., :1], 3, axis=-1)
    assert kind_of("x.png", grey, frozenset()).kind == "mask"


def test_each_kind_gets_the_codec_that_holds_it() -> None:
    cutout = _of("cut-out")
    assert alpha_of(cutout) in ("cutout", "smooth")
    assert alpha_of(_of("colours")) == "opaque"
    found = [
        codec_for(*pair) for pair in (("color", "none"), ("color", "cutout"), ("normal", "none"), ("mask", "none"))
    ]
    assert found == ["bc1", "bc7", "bc5", "bc4"]


def test_faults_are_told_once_and_only_where_they_are() -> None:
    assert {f.code for f in size_faults("a", 1000, 600)} == {"non-power-of-two-texture"}
    assert {f.code for f in size_faults("a", 30, 30)} == {"non-power-of-two-texture", "not-multiple-of-four"}
    assert {f.code for f in size_faults("a", 16_384, 4)} == {"huge-texture"}
    assert not size_faults("a", 1024, 512)

    def codes(kind: str, values: F32, *, uses_alpha: bool = False) -> set[str]:
        return {f.code for f in content_faults("a", kind, values, uses_alpha=uses_alpha)}  # type: ignore[arg-type]

    assert codes("color", _of("colours")) == {"opaque-alpha"}
    assert codes("color", _of("cut-out")) == {"unused-alpha"}
    assert not codes("color", _of("cut-out"), uses_alpha=True)
    nothing = _of("cut-out") * np.float32([1, 1, 1, 0])
    assert codes("color", nothing, uses_alpha=True) == {"invisible-texture"}
    assert codes("color", nothing) == {"unused-alpha"}
    assert codes("roughness", _of("colours", 3)) == {"color-stored-as-data"}
    assert not codes("normal", _of("normals", 3))
    assert codes("normal", _of("normals", 3) * 0.7 + 0.15) == {"normal-map-not-unit"}
    down = _of("normals", 3)
    down[..., 1] = 1.0 - down[..., 1]
    assert codes("normal", down) == {"normal-map-green-down"}


@given(seed=st.integers(0, 1000), strength=st.floats(2.0, 30.0))
@settings(max_examples=25, deadline=None)
def test_the_way_green_points_is_seen_on_any_bumpy_surface(seed: int, strength: float) -> None:
    rng = np.random.default_rng(seed)
    coarse = rng.random((8, 8, 1)).astype(np.float32)
    height = resampled(coarse, 64, 64, "mitchell")[..., 0]
    for is_up in (True, False):
        assert green_is_down(normals_from_height(height, strength, green_up=is_up)) != is_up


@pytest.mark.parametrize("kind", FILTERS)
@given(width=st.integers(1, 40), height=st.integers(1, 40), target=st.integers(1, 40))
@settings(max_examples=25, deadline=None)
def test_resampling_keeps_what_is_even(kind: str, width: int, height: int, target: int) -> None:
    even = np.full((height, width, 2), 0.37, np.float32)
    result = resampled(even, target, max(target // 2, 1), kind, ("wrap", "clamp"))  # type: ignore[arg-type]
    assert result.shape == (max(target // 2, 1), target, 2)
    assert np.allclose(result, 0.37, atol=1e-5)


@pytest.mark.parametrize("kind", FILTERS)
def test_halving_keeps_the_mean_where_borders_wrap(kind: str) -> None:
    values = _of("colours")[:64, :64]
    half = resampled(values, 32, 32, kind, ("wrap", "wrap"))  # type: ignore[arg-type]
    assert np.allclose(half.mean(axis=(0, 1)), values.mean(axis=(0, 1)), atol=2e-4)


def test_borders_wrap_or_hold_as_they_are_told() -> None:
    values = np.zeros((8, 8, 1), np.float32)
    values[:, -1] = 1.0
    wrapped, held = (resampled(values, 4, 8, "lanczos", (border, "clamp")) for border in ("wrap", "clamp"))
    assert abs(float(wrapped[0, 0, 0])) > 0.01
    assert abs(float(held[0, 0, 0])) < 1e-6


def test_colours_are_averaged_as_light_and_numbers_as_numbers() -> None:
    board = np.indices((8, 8)).sum(axis=0) % 2
    values = np.repeat(board[..., None], 3, axis=-1).astype(np.float32)
    rules = MipRules("box")
    color, rough = (next(mip_levels(values, kind, rules)) for kind in ("color", "roughness"))
    assert np.allclose(color, 188 / 255, atol=1 / 255)
    assert np.allclose(rough, 0.5, atol=1e-6)


def test_colour_under_full_transparency_does_not_bleed() -> None:
    values = np.zeros((4, 4, 4), np.float32)
    values[:, :2] = (1.0, 0.0, 0.0, 1.0)
    values[:, 2:] = (0.0, 1.0, 0.0, 0.0)
    last = list(mip_levels(values, "color", MipRules("box")))[-1]
    assert last[0, 0, 0] > 0.99
    assert last[0, 0, 1] < 0.02
    assert abs(last[0, 0, 3] - 0.5) < 1e-3


@pytest.mark.parametrize("kind", FILTERS)
def test_mips_go_down_to_one_pixel_and_normals_stay_one_long(kind: str) -> None:
    levels = list(mip_levels(_of("normals", 3)[:40, :17], "normal", MipRules(kind)))  # type: ignore[arg-type]
    assert [level.shape[:2] for level in levels] == [(h, w) for w, h in mip_sizes(17, 40)[1:]]
    assert levels[-1].shape[:2] == (1, 1)
    for level in levels:
        assert np.allclose(np.linalg.norm(level * 2 - 1, axis=-1), 1.0, atol=1e-3)


def test_a_cut_out_stays_as_dense_in_its_mips() -> None:
    values = _of("cut-out")
    whole = float((values[..., 3] >= 0.5).mean())

    def worst(rules: MipRules) -> float:
        levels = [level for level in mip_levels(values, "color", rules) if level.shape[0] >= 6]
        return max(abs(float((level[..., 3] >= 0.5).mean()) - whole) for level in levels)

    assert worst(MipRules(cutoff=0.5)) < 0.02 < worst(MipRules("box"))


def test_roughness_grows_by_what_normals_lose() -> None:
    flat = np.tile(np.array([0.5, 0.5, 1.0], np.float32), (8, 8, 1))
    assert all(np.allclose(length, 1.0, atol=1e-4) for length in shortening(flat, MipRules()))
    bumpy = normals_from_height(_hills(), 30.0)
    lengths = [float(length.mean()) for length in shortening(bumpy, MipRules())]
    assert lengths == sorted(lengths, reverse=True)
    assert lengths[2] < 0.97
    start = np.full((1, 1), 0.3, np.float32)
    assert roughened(start, np.ones((1, 1), np.float32))[0, 0] == pytest.approx(0.3, abs=1e-3)
    assert roughened(start, np.full((1, 1), lengths[-1], np.float32))[0, 0] > 0.5


def test_sharpened_mips_have_more_contrast_and_the_same_mean() -> None:
    plain, sharp = (next(mip_levels(_of("colours"), "roughness", MipRules("mitchell", sharpening=s))) for s in (0, 0.8))
    assert sharp.std() > plain.std()
    assert sharp.mean() == pytest.approx(plain.mean(), abs=2e-3)


def test_heights_become_normals_that_lean_away_from_the_rise() -> None:
    ramp = np.tile(np.linspace(0, 1, 32, dtype=np.float32), (32, 1))
    middle = normals_from_height(ramp, 31.0, border="clamp")[16, 16] * 2 - 1
    assert middle == pytest.approx([-np.sqrt(0.5), 0.0, np.sqrt(0.5)], abs=0.02)
    # Up the picture is towards its first row.
    rising = normals_from_height(ramp.T[::-1].copy(), 31.0, border="clamp")[16, 16] * 2 - 1
    assert rising[1] < -0.6
    flipped = normals_from_height(ramp.T[::-1].copy(), 31.0, border="clamp", green_up=False)[16, 16] * 2 - 1
    assert flipped[1] == pytest.approx(-rising[1], abs=1e-3)


def test_sizes_of_detail_add_up_and_can_be_left_out() -> None:
    height = _hills()
    assert np.allclose(sum(bands_of(height)), height, atol=1e-5)
    fine = normals_from_height(height, 20.0, (1.0, 1.0, 1.0, 0.0, 0.0, 0.0))
    coarse = normals_from_height(height, 20.0, (0.0, 0.0, 0.0, 1.0, 1.0, 1.0))
    none = normals_from_height(height, 20.0, (0.0,) * BANDS)
    assert np.allclose(none, (0.5, 0.5, 1.0), atol=1e-6)
    # What is left of the fine waves alone repeats nine times across, of the coarse ones twice.
    across = [np.abs(np.fft.fft2(normals[..., 0] - 0.5)) for normals in (fine, coarse)]
    assert across[0][7, 9] > across[0][1, 2]
    assert across[1][1, 2] > across[1][7, 9]


def test_occlusion_is_deep_in_a_pit_and_nowhere_on_a_plain() -> None:
    assert np.allclose(occlusion_from_height(np.full((16, 16), 0.4, np.float32), 10.0), 1.0)
    pit = np.ones((32, 32), np.float32)
    pit[14:18, 14:18] = 0.0
    found = occlusion_from_height(pit, 10.0)
    assert found[15, 15] < 0.4
    assert found[0, 0] > 0.99


def test_channels_are_packed_as_the_layout_says() -> None:
    packing = Packing(
        name="ORM",
        r=ChannelSource(kind="occlusion", constant=1.0),
        g=ChannelSource(kind="roughness", invert=True),
        b=ChannelSource(kind="color", channel="b"),
        a=ChannelSource(constant=0.25),
    )
    rough = np.full((4, 4, 1), 0.3, np.float32)
    color = _of("colours", 3)[:8, :8]
    packed = pack_channels(packing, {"roughness": rough, "color": color})
    assert packed.shape == (8, 8, 4)
    assert np.allclose(packed[..., 0], 1.0)
    assert np.allclose(packed[..., 1], 0.7, atol=1e-5)
    assert np.array_equal(packed[..., 2], color[..., 2])
    assert np.allclose(packed[..., 3], 0.25)
    with pytest.raises(ValueError, match="none of the maps"):
        pack_channels(packing, {"height": rough})
    with pytest.raises(ValueError, match="needs a map"):
        Packing(name="X", r=ChannelSource(), g=ChannelSource(), b=ChannelSource())


def _encoded(kind: str) -> tuple[bytes, F32, float]:
    """An image in some format, its values, and how near they come back."""
    values = _of("colours", 3)
    deep = (values * 65535).astype(np.uint16)
    buffer = io.BytesIO()
    if kind == "png16":
        return bytes(imagecodecs.png_encode(deep)), values, 1 / 60000
    if kind == "tiff16":
        tifffile.imwrite(buffer, deep)
        return buffer.getvalue(), values, 1 / 60000
    if kind == "tiff float":
        tifffile.imwrite(buffer, values * 3.0)
        return buffer.getvalue(), values * 3.0, 1e-6
    if kind == "exr":
        OpenEXR.File({"compression": OpenEXR.ZIP_COMPRESSION}, {"RGB": values * 3.0}).write(buffer)
        return buffer.getvalue(), values * 3.0, 1e-6
    if kind == "hdr":
        return bytes(imagecodecs.rgbe_encode(values * 3.0, header=True)), values * 3.0, 0.03
    picture = Pillow.fromarray((values * 255 + 0.5).astype(np.uint8))
    picture.save(buffer, kind, **({"lossless": True} if kind == "WEBP" else {}))
    return buffer.getvalue(), values, 1 / 250


@pytest.mark.parametrize("kind", ["PNG", "TGA", "BMP", "WEBP", "TIFF", "png16", "tiff16", "tiff float", "exr", "hdr"])
def test_images_of_every_format_come_with_all_their_bits(kind: str) -> None:
    data, values, near = _encoded(kind)
    pixels = read_pixels(data, "a.img")
    assert np.abs(pixels.values - values).max() <= near
    assert pixels.bits == {"png16": 16, "tiff16": 16, "tiff float": 32, "exr": 32, "hdr": 32}.get(kind, 8)
    for cut in (len(data) // 2, 30):
        with pytest.raises(UnreadableFile, match=r"^a\.img: "):
            read_pixels(data[:cut], "a.img")


def test_sixteen_bits_go_out_as_they_came() -> None:
    values = _of("colours", 3)
    name, data = encode_deep(values, "a.tif")
    assert name == "a.png"
    assert np.abs(read_pixels(data, name).values - values).max() < 1 / 60000


def test_a_texture_is_made_whole_and_its_figures_are_true() -> None:
    values = _of("cut-out")
    made = make_texture(values, TextureSettings("color", cutoff=0.5))
    assert made.texture.codec == "bc7"
    assert made.texture.is_srgb
    assert made.texture.sizes[-1] == (1, 1)
    assert read_dds(made.data, "a.dds") == made.texture
    shown = decode(made.texture.levels[0], "bc7", 96, 96)
    assert made.figures == compare(IMAGES["cut-out"], shown, "color", (0, 1, 2, 3), 0.5)
    assert made.figures.psnr > 42.0
    assert abs(made.figures.coverage or 0.0) < 0.01


def test_sizes_are_kept_halved_or_made_powers_of_two() -> None:
    values = _of("colours", 3)
    found = [
        make_texture(values, TextureSettings("color", quality="fast", mips="none", sizes=sizes, largest=most)).texture
        for sizes, most in (("keep", 8192), ("keep", 50), ("power-of-two", 8192), ("power-of-two", 64))  # type: ignore[arg-type]
    ]
    assert [(t.width, len(t.levels)) for t in found] == [(96, 1), (48, 1), (128, 1), (64, 1)]


def test_every_relief_of_the_demo_holds_something(demo_sources: Path) -> None:
    paths = [*demo_sources.glob("*/*_height.png"), *demo_sources.glob("*/*_normal.png")]
    assert len(paths) > 10
    for path in paths:
        values = read_pixels(path.read_bytes(), path.name).values
        codes = {f.code for f in content_faults(path.name, "color", values[::4, ::4], uses_alpha=True)}
        assert "constant-texture" not in codes, path.name
