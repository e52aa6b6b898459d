"""Source, Placement and Cleanup on the Bench, as a user works with them."""

import io
import re
import zipfile

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.e2e.conftest import Server
from tests.e2e.test_whole_job import UI, _built

WAIT = 60_000


@pytest.fixture(scope="module", autouse=True)
def demo(server: Server, browser: Browser) -> None:
    """The demo's scene and two dirty props, on the board."""
    from plindro.demo import build_landing, build_prop

    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        for files in (build_landing(), build_prop("fog_bell"), build_prop("cable_drum")):
            for name, data in files.items():
                archive.writestr(name, data)
    context = browser.new_context(base_url=server.url)
    part = {"name": "demo.zip", "mimeType": "application/zip", "buffer": buffer.getvalue()}
    assert context.request.post("/api/props/upload", multipart={"files": part}).ok
    context.close()
    names = ["landing_stage", "fog_bell", "cable_drum"]
    server.wait(lambda: len(_built(server, names)) == len(names), 120)


def _open(page: Page, name: str, station: str) -> None:
    page.goto("/")
    page.get_by_text(name, exact=True).click()
    page.get_by_role("list", name="Stations").get_by_role("button", name=station).click()
    expect(page.get_by_label("The prop in 3D")).to_be_visible(timeout=WAIT)


def _axe(page: Page) -> list[str]:
    page.add_script_tag(path=str(UI / "node_modules" / "axe-core" / "axe.min.js"))
    found = page.evaluate("axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa'] })")
    return [f"{v['id']}: {v['nodes'][0]['html'][:120]}" for v in found["violations"]]


def test_scene_is_chosen_from_previewed_split_and_brought_back(page: Page) -> None:
    _open(page, "landing_stage", "Source")
    parts = page.get_by_role("region", name="Parts of the source")
    expect(parts.get_by_role("row")).to_have_count(16)
    parts.get_by_text("Landing/ref_person").click()
    in_hand = page.get_by_role("status").filter(has_text="Landing/ref_person")
    in_hand.get_by_role("button", name="Leave out").click()
    expect(in_hand.get_by_role("button", name="Ship it")).to_be_visible(timeout=WAIT)
    page.keyboard.press("l")
    expect(in_hand.get_by_role("button", name="Leave out")).to_be_visible(timeout=WAIT)
    parts.get_by_role("checkbox", name="ship Landing/ref_person").click()
    expect(parts.get_by_role("row", name=re.compile("ref_person"))).to_contain_text("left out by hand")
    page.get_by_label("One prop is").click()
    page.get_by_role("option", name="Each object").click()
    split = page.get_by_role("region", name="Props of the split")
    expect(split.get_by_role("row")).to_have_count(7)
    expect(split.get_by_role("row", name=re.compile("Post.glb"))).to_contain_text("6 instances")
    assert _axe(page) == []
    page.get_by_role("button", name="Make 7 props").click()
    expect(page.get_by_text("Rungs", exact=True)).to_be_visible(timeout=WAIT)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("landing_stage", exact=True)).to_be_visible(timeout=WAIT)
    expect(page.get_by_text("Rungs", exact=True)).to_have_count(0)


def test_size_is_mended_and_the_pivot_set_by_a_click_on_the_model(page: Page) -> None:
    _open(page, "cable_drum", "Placement")
    page.get_by_role("button", name="× 0.01").click(timeout=WAIT)
    expect(page.get_by_role("img", name=re.compile("Longest side 2.06 metres"))).to_be_visible(timeout=WAIT)
    page.get_by_label("Pivot", exact=True).click()
    page.get_by_role("option", name="A place on the model").click()
    expect(page.get_by_label("X in the source")).to_have_value("0")
    expect(page.get_by_text("building")).to_have_count(0, timeout=WAIT)
    page.get_by_role("button", name="vertex", exact=True).click()
    page.wait_for_timeout(1500)
    box = page.get_by_label("The prop in 3D").bounding_box()
    assert box is not None
    for dx in (0.0, -0.05, 0.05, -0.1, 0.1):
        page.mouse.click(box["x"] + box["width"] * (0.5 + dx), box["y"] + box["height"] * 0.45)
        page.wait_for_timeout(500)
        if page.get_by_role("button", name="vertex", exact=True).get_attribute("aria-pressed") == "false":
            break
    expect(page.get_by_label("Y in the source")).not_to_have_value("0", timeout=WAIT)
    page.keyboard.press("s")
    expect(page.get_by_role("button", name="Stop", exact=True)).to_be_visible()
    page.keyboard.press("s")
    assert _axe(page) == []
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Y in the source")).to_have_value("0", timeout=WAIT)


def test_faults_are_listed_led_to_and_answered(page: Page) -> None:
    _open(page, "fog_bell", "Cleanup")
    evidence = page.get_by_role("region", name="Evidence")
    expect(evidence).to_contain_text("nothing left to clean", timeout=WAIT)
    row = evidence.get_by_role("row", name=re.compile("shells inside out"))
    expect(row).to_contain_text("repaired")
    row.get_by_role("button", name="show").click()
    led = page.get_by_role("status").filter(has_text="shells inside out")
    expect(led).to_contain_text("all ")
    page.keyboard.press("]")
    expect(led).to_contain_text("1 / ")
    page.keyboard.press("x")
    expect(page.get_by_text("as it came")).to_be_visible()
    assert _axe(page) == []
    page.get_by_role("checkbox", name="Flipped, inside-out faces").click()
    expect(evidence).to_contain_text("left: 1 shells inside out", timeout=WAIT)
    page.keyboard.press("Control+z")
    expect(evidence).to_contain_text("nothing left to clean", timeout=WAIT)
