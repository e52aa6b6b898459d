"""``plindro texture``: one image to a GPU texture, told in figures; and what such a file is."""

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image as Pillow

from plindro.core.files.gpu.dds import read_dds
from plindro.core.files.gpu.ktx2 import read_ktx2
from tests.cli.test_cli import plindro
from tests.core.made_images import IMAGES


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    Pillow.fromarray(IMAGES["tinted"][..., :3].copy()).save(tmp_path / "anchor_color.png")
    Pillow.fromarray(IMAGES["normals"][..., :3].copy()).save(tmp_path / "anchor_n.tga")
    height = IMAGES["colours"][..., 0].astype(np.uint16) * 257
    Pillow.fromarray(height).save(tmp_path / "anchor_height.png")
    return tmp_path


def test_an_image_becomes_what_its_name_asks_for(folder: Path) -> None:
    out = folder / "anchor.dds"
    done = plindro("texture", folder / "anchor_color.png", "--out", out, "--json")
    assert done.returncode == 0
    row = json.loads(done.stdout)
    texture = read_dds(out.read_bytes(), "anchor.dds")
    assert (row["kind"], row["kind_by"], row["codec"], row["is_srgb"]) == ("color", "name", "bc1", True)
    assert (texture.codec, texture.is_srgb, len(texture.levels)) == ("bc1", True, 7)
    assert row["levels"] == 7
    assert row["bytes"] == out.stat().st_size
    assert row["psnr"] > 40.0
    assert row["gpu_bytes"] == texture.gpu_bytes < row["source"]["gpu_bytes"] / 7
    assert {finding["code"] for finding in row["findings"]} == {"non-power-of-two-texture"}


def test_options_say_codec_mips_size_and_container(folder: Path) -> None:
    out = folder / "anchor.ktx2"
    words = ["--codec", "bc7", "--mips", "none", "--quality", "fast", "--size", "power-of-two", "--zstd"]
    done = plindro("texture", folder / "anchor_n.tga", "--out", out, *words)
    assert done.returncode == 0
    assert "BC7 linear, 128 × 128, 1 mips" in done.stdout
    assert "normals off by" in done.stdout
    assert read_ktx2(out.read_bytes(), "x").width == 128
    told = plindro("inspect", out)
    assert "KTX2, BC7, supercompressed by Zstandard" in told.stdout
    assert json.loads(plindro("inspect", out, "--json").stdout)["format"] == "BC7"


def test_heights_of_sixteen_bits_become_normals(folder: Path) -> None:
    out = folder / "made.dds"
    done = plindro("texture", folder / "anchor_height.png", "--out", out, "--to-normal", "6", "--json")
    row = json.loads(done.stdout)
    assert (row["kind"], row["codec"], row["source"]["bits"]) == ("normal", "bc5", 16)
    assert row["angle_mean"] < 1.0


@pytest.mark.parametrize(
    ("image", "out", "words", "says"),
    [
        ("nothing.png", "a.dds", [], "there is no such file"),
        ("anchor_color.png", "a.png", [], "goes into a .dds or a .ktx2"),
        ("anchor_color.png", "a.dds", ["--zstd"], "only a .ktx2"),
        ("broken.png", "a.dds", [], "is no image that can be read"),
        ("anchor_color.png", "missing/folder.txt/a.dds", [], "cannot be written"),
    ],
)
def test_what_cannot_be_done_is_said_in_one_line(
    folder: Path, image: str, out: str, words: list[str], says: str
) -> None:
    (folder / "broken.png").write_bytes((folder / "anchor_color.png").read_bytes()[:99])
    (folder / "missing").mkdir()
    (folder / "missing" / "folder.txt").write_text("in the way")
    done = plindro("texture", folder / image, "--out", folder / out, *words)
    assert done.returncode == 2
    assert says in done.stderr
    assert "Traceback" not in done.stderr
    assert not (folder / out).is_file()
