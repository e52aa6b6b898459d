"""Triangulation and Normals on the Bench: the engine's cut, turning a diagonal, the live threshold, marking."""

import io
import re
import zipfile

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.e2e.conftest import Server
from tests.e2e.test_first_stations import WAIT, _axe, _open
from tests.e2e.test_whole_job import _built


@pytest.fixture(scope="module", autouse=True)
def demo(server: Server, browser: Browser) -> None:
    """One demo prop with quads, larger polygons and smoothing groups."""
    from plindro.demo import build_prop

    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        for name, data in build_prop("fog_bell").items():
            archive.writestr(name, data)
    context = browser.new_context(base_url=server.url)
    part = {"name": "demo.zip", "mimeType": "application/zip", "buffer": buffer.getvalue()}
    assert context.request.post("/api/props/upload", multipart={"files": part}).ok
    context.close()
    server.wait(lambda: len(_built(server, ["fog_bell"])) == 1, 120)


def _middle(page: Page, dx: float = 0.0, dy: float = 0.0) -> tuple[float, float]:
    box = page.get_by_label("The prop in 3D").bounding_box()
    assert box is not None
    return box["x"] + box["width"] * (0.5 + dx), box["y"] + box["height"] * (0.5 + dy)


def test_the_engines_cut_is_compared_and_a_diagonal_turned(page: Page) -> None:
    _open(page, "fog_bell", "Triangulation")
    evidence = page.get_by_role("region", name="The engine's cut compared")
    expect(evidence.get_by_role("row", name=re.compile("quads with another diagonal"))).to_contain_text("8")
    for view in ("Engine's fan", "Difference", "As it ships"):
        page.get_by_role("radio", name=view).click()
    page.keyboard.press("x")
    expect(page.get_by_text("the engine's fan", exact=True)).to_be_visible()
    page.keyboard.press("x")
    assert _axe(page) == []
    page.wait_for_timeout(1500)
    page.mouse.click(*_middle(page, dy=0.05))
    taken_back = page.get_by_role("button", name="Take back 1 turned diagonal")
    expect(taken_back).to_be_visible(timeout=WAIT)
    taken_back.click()
    expect(taken_back).to_be_hidden(timeout=WAIT)


def test_threshold_is_live_and_a_loop_marked_by_hand_is_kept_and_undone(page: Page) -> None:
    _open(page, "fog_bell", "Normals")
    evidence = page.get_by_role("region", name="Evidence")
    expect(evidence).to_contain_text(re.compile("engine vertices, .* for them"), timeout=WAIT)
    handle = evidence.get_by_role("slider", name="Hard above, in degrees")
    box = handle.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 20)
    page.mouse.down()
    page.mouse.move(box["x"] - 80, box["y"] + 20, steps=4)
    moving = re.search(r"(\d+)° · ([\d\u202f]+) hard edges", evidence.inner_text())
    assert moving
    assert int(moving[1]) < 38
    assert int(moving[2].replace("\u202f", "")) > 900
    page.mouse.up()
    undo = page.get_by_role("button", name="Undo")
    expect(undo).to_have_attribute("title", re.compile("Normals: angle"), timeout=WAIT)
    page.keyboard.press("Control+z")
    expect(handle).to_have_attribute("aria-valuenow", "38", timeout=WAIT)
    expect(page.get_by_role("status").filter(has_text="building")).to_be_hidden(timeout=WAIT)

    page.wait_for_timeout(1500)
    page.keyboard.press("o")
    told = page.get_by_role("status").filter(has_text="engine vertices")
    page.mouse.move(*_middle(page, dy=0.1))
    page.mouse.move(*_middle(page, dy=0.12))
    expect(told).to_contain_text(re.compile(r"\d+ edges · .\d+ engine vertices"), timeout=WAIT)
    edges = int(told.inner_text().split(" ")[0])
    page.mouse.click(*_middle(page, dy=0.12))
    expect(page.get_by_text(re.compile(f"^{edges} hard · 0 soft · 0 patches"))).to_be_visible(timeout=WAIT)
    assert _axe(page) == []
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    expect(page.get_by_text(re.compile("hard · 0 soft"))).to_be_hidden(timeout=WAIT)


@pytest.mark.parametrize("mode", ["Stripes", "Slant", "Sides"])
def test_ways_of_drawing_draw(page: Page, mode: str) -> None:
    """Each study shows the prop in more colours than the empty floor has."""
    _open(page, "fog_bell", "Normals")
    page.get_by_role("radio", name=mode).click()
    page.get_by_role("radio", name="Corners").click()
    page.wait_for_timeout(2500)
    drawn = page.get_by_label("The prop in 3D").screenshot()
    page.get_by_role("radio", name="Shaded").click()
    page.wait_for_timeout(800)
    assert drawn != page.get_by_label("The prop in 3D").screenshot()
