"""Switches on the Bench: handles in the sight chart, the walk from near to far, the two levels of a switch."""

import io
import re

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.test_cut_and_shaded import demo  # noqa: F401
from tests.e2e.test_descent import _prop
from tests.e2e.test_first_stations import WAIT, _axe, _open


def _canvas(page: Page) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(page.locator("canvas").screenshot())).convert("RGB")).astype(int)


def _red(page: Page) -> int:
    """Pixels of the difference picture, below the bar above it, in which something moves."""
    picture = _canvas(page)[120:-60]
    return int((picture[..., 0] - picture[..., 1] > 40).sum())


def _metres(text: str) -> float:
    found = re.match(r"([\d.\u202f]+) m", text)
    assert found, text
    return float(found.group(1).replace("\u202f", ""))


def test_walk_draws_the_level_that_the_game_will_draw(page: Page, server: Server) -> None:
    _open(page, "fog_bell", "Levels")
    expect(page.get_by_label("Triangles left")).to_be_visible(timeout=WAIT)
    page.keyboard.press("w")
    reading = page.get_by_role("status").filter(has_text=re.compile("△|not drawn"))
    expect(reading).to_contain_text("LOD0")
    detail = _prop(server)
    levels, last = detail["levels"], detail["facts"]["cull_distance"]
    slider = page.get_by_label("Distance of the viewer")
    seen = set()
    for place in range(0, 1001, 50):
        slider.fill(str(place))
        # Where it stands on a switch to the shown digits, either level is right.
        text = reading.inner_text()
        metres = _metres(text)
        right = {
            -1 if near > last else max(level["index"] for level in levels if level["distance"] <= near)
            for near in (0.99 * metres, 1.01 * metres)
        }
        shown = -1 if "not drawn" in text else int(re.search(r"LOD(\d)", text).group(1))  # type: ignore[union-attr]
        assert shown in right, text
        if shown >= 0:
            assert f"{levels[shown]['triangles']:,}".replace(",", "\u202f") in text
        seen.add(shown)
    assert seen == {-1, *range(len(levels))}
    page.wait_for_timeout(300)
    gone = _canvas(page)
    slider.fill("0")
    page.wait_for_timeout(500)
    assert np.abs(_canvas(page) - gone).max(axis=2).mean() > 5, "the prop is drawn near and not past the last distance"
    assert not _axe(page)

    before = _metres(reading.inner_text())
    page.locator("canvas").hover()
    page.mouse.wheel(0, 600)
    page.wait_for_timeout(300)
    assert _metres(reading.inner_text()) > 1.05 * before
    page.keyboard.press(",")
    page.keyboard.press("Space")
    at = [_metres(reading.inner_text())]
    for _ in range(4):
        page.wait_for_timeout(700)
        at.append(_metres(reading.inner_text()))
    assert at[-1] > 1.1 * at[0], "the walk does not move"
    page.keyboard.press("Space")
    page.keyboard.press("Escape")
    expect(slider).to_be_hidden()
    expect(page.get_by_label("Triangles left")).to_be_visible()


def test_the_two_levels_of_a_switch_blink_and_their_difference_is_drawn(page: Page, server: Server) -> None:
    _open(page, "fog_bell", "Levels")
    expect(page.get_by_label("Triangles left")).to_be_visible(timeout=WAIT)
    page.keyboard.press("k")
    reading = page.get_by_role("status").filter(has_text="at its switch")
    expect(reading).to_contain_text(re.compile("LOD[01] "))
    page.get_by_label("Switch that is looked at").click()
    page.get_by_role("option", name="LOD2 → LOD3").click()
    distance = _prop(server)["levels"][3]["distance"]
    expect(reading).to_contain_text(re.compile("LOD3"), timeout=WAIT)
    assert abs(_metres(reading.inner_text()) / distance - 1) < 0.02
    expect(reading).to_contain_text("· LOD2 ·", timeout=WAIT)
    page.wait_for_timeout(50)
    expect(reading).to_contain_text("· LOD3 ·", timeout=WAIT)
    page.keyboard.press("j")
    expect(reading).to_contain_text("LOD2 against LOD3")
    page.wait_for_timeout(500)
    red = _red(page)
    assert red > 20, "what moves is not drawn"
    page.keyboard.press("z")
    page.wait_for_timeout(500)
    assert _red(page) < red / 2, "at its true size it covers less"
    assert not _axe(page)


def test_a_switch_is_moved_by_its_handle_and_put_back(page: Page, server: Server) -> None:
    _open(page, "fog_bell", "Levels")
    handle = page.get_by_label("Metres from which LOD1 is drawn")
    expect(handle).to_be_visible(timeout=WAIT)
    proposed = _prop(server)["levels"][1]["proposed"]
    handle.focus()
    for _ in range(4):
        page.keyboard.press("ArrowLeft")
    server.wait(lambda: _prop(server)["levels"][1]["distance"] < 0.9 * proposed, 60)
    detail = _prop(server)
    assert detail["levels"][1]["proposed"] == proposed
    assert [f["level"] for f in detail["findings"] if f["code"] == "switch-visible"] == [1]
    circle = page.get_by_label("Metres from which LOD3 is drawn").locator("circle").first.bounding_box()
    assert circle is not None
    x, y = circle["x"] + circle["width"] / 2, circle["y"] + circle["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y, steps=4)
    page.mouse.up()
    server.wait(lambda: _prop(server)["levels"][3]["distance"] > 1.1 * _prop(server)["levels"][3]["proposed"], 60)
    page.get_by_role("button", name="As proposed").click()
    server.wait(lambda: all(level["distance"] == level["proposed"] for level in _prop(server)["levels"]), 60)
    expect(page.get_by_role("button", name="As proposed")).to_be_hidden(timeout=WAIT)


def test_a_state_is_named_seen_and_switched_like_the_base(page: Page, server: Server) -> None:
    _open(page, "fog_bell", "Levels")
    expect(page.get_by_label("Triangles left")).to_be_visible(timeout=WAIT)
    whole = _prop(server)["levels"][0]["triangles"]
    page.get_by_role("button", name="+ Add a state").click()
    server.wait(lambda: any(f["code"] == "state-empty" for f in _prop(server)["findings"]), 60)
    page.get_by_label("Its own parts").fill("bell*")
    page.get_by_label("Its own parts").press("Enter")
    server.wait(lambda: len(_prop(server)["states"]) == 1, 60)
    detail = _prop(server)
    (state,) = detail["states"]
    assert detail["levels"][0]["triangles"] + state["levels"][0]["triangles"] == whole
    assert state["fallen_back"] == len(state["levels"]) - 1 > 0

    page.wait_for_timeout(500)
    base = _canvas(page)
    page.get_by_role("radio", name="damaged").click()
    level = page.get_by_role("radiogroup", name="Level", exact=True).locator("..")
    expect(level).to_contain_text(f"{state['levels'][0]['triangles']:,}".replace(",", "\u202f"), timeout=WAIT)
    page.wait_for_timeout(800)
    assert np.abs(_canvas(page) - base).max(axis=2).mean() > 3, "the state looks as the base does"
    # What it has of the base is switched where it is proposed; there is nothing to drag.
    chart = page.get_by_role("group", name=re.compile("Visible change of the levels"))
    expect(chart.get_by_text("base's")).to_have_count(state["fallen_back"])
    expect(page.get_by_label("Metres from which LOD1 is drawn")).to_have_count(0)
    page.keyboard.press("w")
    reading = page.get_by_role("status").filter(has_text=re.compile("△|not drawn"))
    expect(reading).to_contain_text(f"{state['levels'][0]['triangles']:,}".replace(",", "\u202f"))
    page.keyboard.press("Escape")
    assert not _axe(page)
    for _ in range(2):
        page.keyboard.press("Control+z")
        page.wait_for_timeout(1000)
    server.wait(lambda: _prop(server)["levels"][0]["triangles"] == whole, 60)
