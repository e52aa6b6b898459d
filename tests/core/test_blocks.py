"""Blocks: read as other decoders read them, and made so that little is lost, whatever the size and the threads."""

import io

import numpy as np
import pytest
import texture2ddecoder
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image as Pillow

from plindro.core.blocks.codecs import CODECS, Codec
from plindro.core.blocks.decode import decode
from plindro.core.blocks.encode import Encoding, encode
from plindro.core.errors import Cancelled
from plindro.core.files.gpu.dds import write_dds
from plindro.core.files.gpu.texture import GpuTexture
from plindro.core.report import Report
from tests.core.made_images import IMAGES, psnr

U8 = NDArray[np.uint8]
BLOCKS: tuple[Codec, ...] = ("bc1", "bc3", "bc4", "bc5", "bc7")
CHANNELS = {"bc1": (0, 1, 2), "bc3": (0, 1, 2, 3), "bc4": (0,), "bc5": (0, 1), "bc7": (0, 1, 2, 3)}
FLOORS = {
    ("bc1", "fast"): 31.7, ("bc1", "best"): 31.9, ("bc3", "good"): 33.0, ("bc4", "good"): 43.9, ("bc5", "good"): 44.2,
    ("bc7", "fast"): 39.4, ("bc7", "good"): 40.1,
}  # fmt: skip
"""The least dB of every made image; twenty times as bad a block anywhere takes more than a dB."""


def _theirs(codec: Codec, data: bytes, width: int, height: int) -> U8:
    """As an independent decoder reads the blocks; of BC3 Pillow, since the other one takes its colours for BC1's."""
    if codec == "bc3":
        dds = write_dds(GpuTexture(codec, width, height, (data,)))
        return np.asarray(Pillow.open(io.BytesIO(dds)).convert("RGBA"))
    read = getattr(texture2ddecoder, f"decode_{codec}")(data, width, height)
    return np.frombuffer(read, np.uint8).reshape(height, width, 4)[..., [2, 1, 0, 3]]


@pytest.mark.parametrize("codec", BLOCKS)
@given(seed=st.integers(0, 2**32 - 1))
@settings(max_examples=20, deadline=None)
def test_any_block_is_read_as_others_read_it(codec: Codec, seed: int) -> None:
    rng = np.random.default_rng(seed)
    data = rng.integers(0, 256, 64 * CODECS[codec].block_bytes).astype(np.uint8)
    if codec == "bc7":
        # Random bytes are of the first modes mostly: each gets its turn.
        mode = np.arange(64) % 8
        first = data.reshape(-1, 16)[:, 0]
        data.reshape(-1, 16)[:, 0] = (first & ~((2 << mode) - 1) | (1 << mode)).astype(np.uint8)
    ours, theirs = decode(data.tobytes(), codec, 32, 32), _theirs(codec, data.tobytes(), 32, 32)
    channels = CHANNELS[codec]
    assert np.array_equal(ours[..., channels], theirs[..., channels])


@pytest.mark.parametrize(("codec", "quality"), list(FLOORS))
def test_little_is_lost_of_made_images(codec: Codec, quality: str) -> None:
    for name, image in IMAGES.items():
        data = encode(image, Encoding(codec, quality))  # type: ignore[arg-type]
        shown = _theirs(codec, data, image.shape[1], image.shape[0])
        channels = CHANNELS[codec]
        assert psnr(image, shown, channels) >= FLOORS[codec, quality], name


@pytest.mark.parametrize("codec", BLOCKS)
def test_more_effort_is_never_worse(codec: Codec) -> None:
    channels = CHANNELS[codec]
    for name, image in IMAGES.items():
        piece = image[:64, :64]
        found = [
            psnr(piece, decode(encode(piece, Encoding(codec, q)), codec, 64, 64), channels)  # type: ignore[arg-type]
            for q in ("fast", "good", "best")
        ]
        assert found[0] - 0.05 <= found[1] <= found[2] + 0.05, name


@given(color=st.tuples(*[st.integers(0, 255)] * 4))
@settings(max_examples=60, deadline=None)
def test_one_colour_is_exact_in_bc7_and_two_are_in_bc4(color: tuple[int, int, int, int]) -> None:
    block = np.broadcast_to(np.array(color, np.uint8), (4, 4, 4)).copy()
    assert np.array_equal(decode(encode(block, Encoding("bc7", "fast")), "bc7", 4, 4), block)
    block[::2, :, 0] = 255 - color[0]
    assert np.array_equal(decode(encode(block, Encoding("bc4", "good")), "bc4", 4, 4)[..., 0], block[..., 0])


def test_blocks_of_two_colours_that_bc1_holds_are_exact() -> None:
    block = np.zeros((4, 4, 4), np.uint8)
    block[..., 3] = 255
    block[:2, :, :3], block[2:, :, :3] = (255, 0, 132), (8, 251, 0)
    for quality in ("fast", "good", "best"):
        assert np.array_equal(decode(encode(block, Encoding("bc1", quality)), "bc1", 4, 4), block)  # type: ignore[arg-type]


def test_holes_of_bc1_are_just_where_alpha_is_less_than_half() -> None:
    image = IMAGES["cut-out"]
    data = encode(image, Encoding("bc1", has_holes=True))
    shown = np.asarray(
        Pillow.open(io.BytesIO(write_dds(GpuTexture("bc1", 96, 96, (data,), has_alpha=True)))).convert("RGBA")
    )
    assert np.array_equal(shown[..., 3] > 0, image[..., 3] >= 128)
    assert psnr(image, shown, (0, 1, 2), image[..., 3] >= 128) > 32.0


@pytest.mark.parametrize(("width", "height"), [(1, 1), (5, 3), (4, 1024), (2, 7)])
@pytest.mark.parametrize("codec", BLOCKS)
def test_odd_sizes_repeat_their_last_pixels(codec: Codec, width: int, height: int) -> None:
    image = np.tile(IMAGES["gradient"], (11, 1, 1))[:height, :width]
    data = encode(image, Encoding(codec, "good"))
    assert len(data) == -(-width // 4) * -(-height // 4) * CODECS[codec].block_bytes
    channels = CHANNELS[codec]
    assert psnr(image, decode(data, codec, width, height), channels) > 36.0


def test_normals_made_by_angle_turn_less_than_made_by_channel() -> None:
    image = IMAGES["normals"].copy()
    # Steep ones, where a step of one channel turns far more than one of the other.
    image[..., 0] = np.clip(image[..., 0].astype(int) + 60, 0, 240)

    def turned(by_angle: bool) -> float:
        shown = decode(encode(image, Encoding("bc5", "good", by_angle=by_angle)), "bc5", 96, 96)
        vectors = []
        for pixels in (image, shown):
            flat = pixels[..., :2] / 127.5 - 1.0
            vectors.append(np.dstack([flat, np.sqrt(np.clip(1.0 - (flat**2).sum(axis=-1), 0, None))]))
        angles = np.degrees(np.arccos(np.clip((vectors[0] * vectors[1]).sum(axis=-1), -1, 1)))
        return float(np.sqrt((angles**2).mean()))

    assert turned(True) < turned(False)
    assert turned(True) < 1.0


def test_weighing_as_the_eye_does_gives_green_more_and_blue_less() -> None:
    image = IMAGES["colours"]
    shown = [decode(encode(image, Encoding("bc1", perceptual=p)), "bc1", 96, 96) for p in (False, True)]
    green = [psnr(image, pixels, (1,)) for pixels in shown]
    assert green[1] > green[0]


def test_bytes_are_the_same_for_any_number_of_threads_and_cancelling_ends_at_the_next_band() -> None:
    image = np.tile(IMAGES["colours"], (8, 8, 1))
    one, several = (encode(image, Encoding("bc7", "fast"), threads=n) for n in (1, 3))
    assert one == several
    asked = iter([False, True])
    with pytest.raises(Cancelled):
        encode(image, Encoding("bc7", "fast"), Report(is_cancelled=lambda: next(asked, True)), threads=1)


def test_too_few_bytes_are_refused() -> None:
    with pytest.raises(ValueError, match="16 bytes of BC7"):
        decode(b"\0" * 15, "bc7", 4, 4)
