"""DDS and KTX2: headers as their formats have them, read back whole, and refused in words where they are damaged."""

import io
import struct

import numpy as np
import pytest
import zstandard
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image as Pillow

from plindro.core.blocks.codecs import CODECS, Codec
from plindro.core.blocks.encode import Encoding, encode
from plindro.core.errors import UnreadableFile, UnsupportedFile
from plindro.core.files.gpu.dds import read_dds, write_dds
from plindro.core.files.gpu.describe import describe
from plindro.core.files.gpu.ktx2 import IDENTIFIER, read_ktx2, write_ktx2
from plindro.core.files.gpu.texture import GpuTexture
from tests.core.made_images import IMAGES, psnr

CODEC_NAMES: list[Codec] = list(CODECS)


def _texture(codec: Codec, width: int, height: int, mips: int, *, is_srgb: bool = False) -> GpuTexture:
    sizes = [(max(width >> k, 1), max(height >> k, 1)) for k in range(mips)]
    rng = np.random.default_rng(width * 1000 + height)
    levels = tuple(rng.bytes(CODECS[codec].size_of(w, h)) for w, h in sizes)
    return GpuTexture(codec, width, height, levels, is_srgb and codec not in ("bc4", "bc5"))


@given(
    codec=st.sampled_from(CODEC_NAMES), width=st.integers(1, 70), height=st.integers(1, 70), mips=st.integers(1, 7),
    is_srgb=st.booleans(), zstd=st.booleans(),
)  # fmt: skip
@settings(max_examples=80, deadline=None)
def test_both_containers_give_back_what_went_in(
    codec: Codec, width: int, height: int, mips: int, is_srgb: bool, zstd: bool
) -> None:
    texture = _texture(codec, width, height, mips, is_srgb=is_srgb)
    back = read_dds(write_dds(texture), "a.dds")
    assert (back.codec, back.width, back.height, back.levels) == (codec, width, height, texture.levels)
    assert back.is_srgb == texture.is_srgb
    data = write_ktx2(texture, zstd=zstd)
    assert read_ktx2(data, "a.ktx2") == texture
    assert data == write_ktx2(texture, zstd=zstd)


@pytest.mark.parametrize(("codec", "fourcc"), [("bc1", b"DXT1"), ("bc3", b"DXT5"), ("bc4", b"ATI1"), ("bc5", b"ATI2")])
def test_a_dds_has_the_old_header_where_that_says_all(codec: Codec, fourcc: bytes) -> None:
    texture = _texture(codec, 64, 32, 7)
    data = write_dds(texture)
    size, flags, height, width, pitch, _, mips = struct.unpack_from("<7I", data, 4)
    assert (size, height, width, mips) == (124, 32, 64, 7)
    assert flags == 0x1 | 0x2 | 0x4 | 0x1000 | 0x20000 | 0x80000
    assert pitch == len(texture.levels[0])
    assert data[84:88] == fourcc
    assert struct.unpack_from("<I", data, 108)[0] == 0x1000 | 0x8 | 0x400000
    assert len(data) == 128 + sum(map(len, texture.levels))


@pytest.mark.parametrize(("codec", "number"), [("bc1", 72), ("bc3", 78), ("bc7", 99), ("rgba8", 29)])
def test_srgb_is_said_by_the_newer_header(codec: Codec, number: int) -> None:
    data = write_dds(_texture(codec, 16, 16, 1, is_srgb=True))
    assert data[84:88] == b"DX10"
    assert struct.unpack_from("<5I", data, 128) == (number, 3, 0, 1, 0)


@pytest.mark.parametrize("codec", ["bc1", "bc3", "bc5", "bc7", "rgba8"])
def test_another_reader_sees_the_same_picture(codec: Codec) -> None:
    image = IMAGES["tinted"]
    data = write_dds(GpuTexture(codec, 96, 96, (encode(image, Encoding(codec)),)))
    with Pillow.open(io.BytesIO(data)) as picture:
        assert picture.size == (96, 96)
        shown = np.asarray(picture.convert("RGBA"))
    assert psnr(image, shown, (0, 1) if codec == "bc5" else (0, 1, 2)) > 36.0


@pytest.mark.parametrize(("codec", "number", "model"), [("bc1", 131, 128), ("bc5", 141, 132), ("bc7", 145, 134)])
@pytest.mark.parametrize("zstd", [False, True])
def test_a_ktx2_is_laid_out_as_its_format_asks(codec: Codec, number: int, model: int, zstd: bool) -> None:
    texture = _texture(codec, 20, 12, 5)
    data = write_ktx2(texture, zstd=zstd)
    head = struct.unpack_from("<9I", data, 12)
    assert head == (number, 1, 20, 12, 0, 0, 1, 5, 2 if zstd else 0)
    dfd_at, dfd_size, kvd_at, kvd_size = struct.unpack_from("<4I", data, 48)
    assert (dfd_at, kvd_at) == (80 + 24 * 5, dfd_at + dfd_size)
    whole, vendor, version, size, found = struct.unpack_from("<IIHHB", data, dfd_at)
    assert (whole, vendor, version, found) == (dfd_size, 0, 2, model)
    assert (size - 24) % 16 == 0
    assert data[dfd_at + 16 : dfd_at + 18] == b"\3\3"
    entries = data[kvd_at : kvd_at + kvd_size]
    assert entries.index(b"KTXorientation\0rd\0") < entries.index(b"KTXwriter\0")
    places = [struct.unpack_from("<3Q", data, 80 + 24 * k) for k in range(5)]
    assert [place[0] for place in places] == sorted((place[0] for place in places), reverse=True)
    for (offset, length, plain), level in zip(places, texture.levels, strict=True):
        held = data[offset : offset + length]
        assert plain == len(level)
        assert (zstandard.ZstdDecompressor().decompress(held) if zstd else held) == level
        assert zstd or offset % CODECS[codec].block_bytes == 0


@pytest.mark.parametrize("cut", [3, 100, 140, -1])
def test_what_is_cut_off_is_refused_in_words(cut: int) -> None:
    texture = _texture("bc7", 64, 64, 3)
    for data, read in ((write_dds(texture), read_dds), (write_ktx2(texture), read_ktx2)):
        with pytest.raises(UnreadableFile, match=r"^a\.x: "):
            read(data[:cut], "a.x")


def test_other_kinds_are_told_by_inspect_and_not_read() -> None:
    def ktx2(number: int) -> bytes:
        return IDENTIFIER + struct.pack("<9I", number, 1, 64, 32, 0, 0, 1, 7, 0) + b"\0" * 400

    for number, title in ((147, "ETC2 RGB"), (151, "ETC2 RGBA"), (157, "ASTC 4 × 4"), (0, "Basis Universal")):
        facts = describe(ktx2(number), "a.ktx2")
        assert (facts.container, facts.format, facts.width, facts.height, facts.levels) == ("KTX2", title, 64, 32, 7)
        with pytest.raises(UnsupportedFile):
            read_ktx2(ktx2(number), "a.ktx2")
    facts = describe(write_dds(_texture("bc7", 8, 8, 2, is_srgb=True)), "a.dds")
    assert (facts.format, facts.levels) == ("BC7 sRGB", 2)
    with pytest.raises(UnreadableFile):
        describe(b"nothing of the kind", "a.dds")
