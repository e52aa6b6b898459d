"""GPU textures on the web: made once for all props, served as blocks and as a browser shows them, shipped once."""

import io
import zipfile

import numpy as np
import pytest
from PIL import Image as Pillow

from plindro.core.blocks.decode import decode
from plindro.core.files.gpu.dds import read_dds
from plindro.web import store
from tests.painted import painted_glb

pytestmark = pytest.mark.django_db
SETTINGS = {"levels": {"levels": []}, "textures": {"output": "ktx2", "quality": "fast"}}


@pytest.fixture
def twins(upload, call, run_jobs) -> list[int]:
    """Two props of the same images."""
    ids = list(upload.named({"left.glb": painted_glb(), "right.glb": painted_glb(rings=4)})["props"])
    for prop in ids:
        call("PATCH", f"props/{prop}/settings", {"changes": SETTINGS})
    run_jobs()
    return ids


def test_textures_are_made_once_and_seen_as_blocks_or_as_they_decode(call, client, twins) -> None:
    left, right = (call("GET", f"props/{prop}")[1] for prop in twins)
    assert left["textures"] == right["textures"]
    rows = left["facts"]["textures"]["textures"]
    assert {row["made"]["path"] for row in rows} == set(left["textures"])
    assert len(list(store.files().textures.folder.glob("??/*"))) == 3
    path, address = next(iter(left["textures"].items()))
    assert path.endswith(".ktx2"), "what ships is KTX2"
    texture = read_dds(b"".join(client.get(address)), "what the view reads is DDS")
    shown = client.get(address.replace("/files/", "/textures/").replace(".bin", ".png"))
    with Pillow.open(io.BytesIO(shown.content)) as picture:
        assert np.array_equal(np.asarray(picture), decode(texture.levels[0], texture.codec, 96, 96))
    assert client.get("/api/textures/" + "0" * 64 + ".png").status_code == 404


def test_a_texture_that_two_props_use_ships_once_and_is_listed_by_both(call, client, twins, run_jobs) -> None:
    status, shipment = call("POST", "shipments", {"ids": twins, "destination": "plain"})
    assert status == 200
    run_jobs()
    shipment = call("GET", f"shipments/{shipment['id']}")[1]
    with zipfile.ZipFile(io.BytesIO(b"".join(client.get(shipment["archive"])))) as archive:
        names = archive.namelist()
        manifest = archive.read("manifest.json").decode()
    textures = [name for name in names if name.endswith(".ktx2")]
    assert len(textures) == len(set(textures)) == 3
    assert all(manifest.count(f'"{name}"') >= 4 for name in textures), "among the files and textures of both"


def test_the_board_lists_each_texture_once_with_its_props(call, twins) -> None:
    status, listed = call("GET", "textures")
    assert status == 200
    assert len(listed["textures"]) == 3
    assert all([prop["name"] for prop in row["props"]] == ["left", "right"] for row in listed["textures"])
    assert listed["gpu_bytes"] == sum(row["texture"]["made"]["gpu_bytes"] for row in listed["textures"])
    sizes = [row["texture"]["made"]["gpu_bytes"] for row in listed["textures"]]
    assert sizes == sorted(sizes, reverse=True)


def test_heights_are_seen_as_normals_before_they_are_decided(client, call, twins) -> None:
    def drafted(image: str, shares: list[float], strength: float = 6.0) -> np.ndarray | int:
        query = "&".join([f"strength={strength}", *(f"shares={share}" for share in shares)])
        answer = client.get(f"/api/props/{twins[0]}/heights/{image}?{query}")
        if answer.status_code != 200:
            return int(answer.status_code)
        return np.asarray(Pillow.open(io.BytesIO(answer.content))).astype(float)

    whole, coarse = drafted("rough.png", [1] * 6), drafted("rough.png", [0, 0, 0, 0, 0, 1])
    assert isinstance(whole, np.ndarray)
    assert isinstance(coarse, np.ndarray)
    # Without its fine detail it bends less, and with none at all it is flat.
    assert whole[..., 0].std() > 1.5 * coarse[..., 0].std()
    assert np.ptp(drafted("rough.png", [0] * 6)[..., :2]) == 0
    heights = {"image": "rough.png", "kind": "normal", "height": {"strength": 6.0, "shares": [1.0, 1, 1, 1, 1, 1]}}
    assert call("PATCH", f"props/{twins[0]}/settings", {"changes": {"textures": {"maps": [heights]}}})[0] == 200
    assert drafted("none.png", [1] * 6) == 404
    assert drafted("rough.png", [1] * 5) == 422
    assert drafted("rough.png", [1] * 6, strength=0) == 422
