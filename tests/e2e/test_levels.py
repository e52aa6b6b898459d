"""Levels on the Bench: the slider over the whole way down, limits, switches as handles, the walk, states."""

import re

import numpy as np
from playwright.sync_api import Page, expect

from tests.e2e.conftest import (
    WAIT,
    Server,
    axe,
    becomes,
    changed,
    in_metres,
    middle,
    open_bench,
    settled,
    thin,
)


def _red(picture: np.ndarray) -> int:
    """Pixels of the difference picture in which the silhouette moves."""
    return int((picture[..., 0] - picture[..., 1] > 40).sum())


def _open(page: Page, server: Server, name: str):
    open_bench(page, server, name, "Levels")
    slider = page.get_by_label("Triangles left")
    expect(slider).to_be_visible(timeout=WAIT)
    return slider


def test_slider_replays_the_way_down_and_where_it_rests_draws_what_would_ship(page: Page, server: Server) -> None:
    slider = _open(page, server, "bell_slid")
    whole = server.prop("bell_slid")["levels"][0]["triangles"]
    expect(slider).to_have_attribute("aria-valuetext", re.compile(rf"^{whole} triangles"))
    before = settled(page)
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    slider.focus()
    for _ in range(3):
        page.keyboard.press("PageUp")
    text = slider.get_attribute("aria-valuetext") or ""
    assert int(text.split()[0]) < whole / 4
    becomes(page, changed(before, 0.001))
    # At rest its own level is made, and the figures are no estimates any more.
    expect(slider).not_to_have_attribute("aria-valuetext", re.compile("≈"), timeout=WAIT)
    questions = [url for url in asked if "/api/" in url and "events" not in url and "/files/" not in url]
    assert questions[-1].endswith(f"/preview?triangles={text.split()[0]}")
    coarse = settled(page)
    page.keyboard.press("d")
    expect(page.get_by_text("deviation, estimated")).to_be_visible()
    becomes(page, changed(coarse, 0.01))
    assert not axe(page)
    page.get_by_role("button", name="Split").click()
    expect(page.get_by_label("Level on the left").get_by_role("radio", name="LOD0")).to_be_checked()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Done")).to_be_disabled()


def test_where_the_slider_stands_becomes_a_level_and_limits_and_patches_are_kept(page: Page, server: Server) -> None:
    slider = _open(page, server, "bell_limited")
    slider.focus()
    for _ in range(5):
        page.keyboard.press("PageUp")
    wanted = int((slider.get_attribute("aria-valuetext") or "0").split()[0])
    page.get_by_role("button", name="Make it a level").click()

    def levels() -> list[dict]:
        found: list[dict] = server.prop("bell_limited")["levels"]
        return found

    server.wait(lambda: any(abs(level["triangles"] - wanted) <= 2 for level in levels()), 60)
    before = len(levels())
    # While a target is typed the view already shows where it will stop.
    field = page.get_by_label("LOD1: percent of LOD0's triangles")
    field.fill("7")
    expect(slider).not_to_have_attribute("aria-valuetext", re.compile(rf"^{wanted} "))
    field.press("Escape")
    page.get_by_role("button", name="More of LOD1").click()
    page.get_by_role("button", name="Another limit for LOD1").click()
    limit = page.get_by_label("LOD1, maximum deviation in percent of the diagonal")
    expect(limit).to_be_visible(timeout=WAIT)
    limit.fill("0.05")
    limit.press("Enter")

    def limited() -> bool:
        detail = server.prop("bell_limited")
        one = detail["settings"]["levels"]["levels"][0]
        size = sum(side**2 for side in detail["facts"]["placement"]["size"]) ** 0.5
        return one["tolerance"] == 0.05 and 0 < detail["levels"][1]["deviation"] <= 0.0005 * size

    server.wait(limited, 60)
    assert len(levels()) <= before
    page.get_by_role("button", name="More of LOD1").click()
    expect(page.get_by_text("and at most 0.05 % deviation")).to_be_visible()
    server.wait(lambda: server.built("bell_limited"), 60)
    settled(page)
    page.get_by_role("button", name="Protect a patch").click()
    page.mouse.click(*middle(page, dy=0.1))
    server.wait(lambda: len(server.prop("bell_limited")["settings"]["levels"]["protected"]) == 1, 30)
    server.wait(lambda: server.built("bell_limited"), 60)
    assert not [f for f in server.prop("bell_limited")["findings"] if f["code"] == "mark-lost"]


def test_walk_draws_the_level_that_the_game_will_draw(page: Page, server: Server) -> None:
    _open(page, server, "bell_walked")
    page.keyboard.press("w")
    reading = page.get_by_role("status").filter(has_text=re.compile("tris|not drawn"))
    expect(reading).to_contain_text("LOD0")
    detail = server.prop("bell_walked")
    levels, last = detail["levels"], detail["facts"]["levels"]["cull_distance"]
    slider = page.get_by_label("Distance of the viewer")
    near = settled(page)
    seen = set()
    for place in range(0, 1001, 50):
        slider.fill(str(place))
        # Where it stands on a switch to the shown digits, either level is right.
        text = reading.inner_text()
        metres = in_metres(text)
        right = {
            -1 if away > last else max(level["index"] for level in levels if level["distance"] <= away)
            for away in (0.99 * metres, 1.01 * metres)
        }
        shown = -1 if "not drawn" in text else int(re.search(r"LOD(\d)", text).group(1))  # type: ignore[union-attr]
        assert shown in right, text
        if shown >= 0:
            assert thin(levels[shown]["triangles"]) in text
        seen.add(shown)
    assert seen == {-1, *range(len(levels))}
    becomes(page, lambda now: np.abs(now - near).max(axis=2).mean() > 5)
    slider.fill("0")
    becomes(page, lambda now: np.abs(now - near).max(axis=2).mean() < 1)
    assert not axe(page)

    before = in_metres(reading.inner_text())
    page.locator("canvas").hover()
    page.mouse.wheel(0, 600)
    server.wait(lambda: in_metres(reading.inner_text()) > 1.05 * before, 10)
    page.keyboard.press(",")
    page.keyboard.press("Space")
    start = in_metres(reading.inner_text())
    server.wait(lambda: in_metres(reading.inner_text()) > 1.1 * start, 15)
    page.keyboard.press("Space")
    page.keyboard.press("Escape")
    expect(slider).to_be_hidden()
    expect(page.get_by_label("Triangles left")).to_be_visible()


def test_the_two_levels_of_a_switch_blink_and_their_difference_is_drawn(page: Page, server: Server) -> None:
    _open(page, server, "bell_blinked")
    page.keyboard.press("k")
    reading = page.get_by_role("status").filter(has_text="at its switch")
    expect(reading).to_contain_text(re.compile("LOD[01] "))
    page.get_by_label("Switch that is looked at").click()
    page.get_by_role("option", name="LOD2 → LOD3").click()
    distance = server.prop("bell_blinked")["levels"][3]["distance"]
    expect(reading).to_contain_text(re.compile("LOD3"), timeout=WAIT)
    assert abs(in_metres(reading.inner_text()) / distance - 1) < 0.02
    expect(reading).to_contain_text(re.compile(r"· LOD2 "), timeout=WAIT)
    expect(reading).to_contain_text(re.compile(r"· LOD3 "), timeout=WAIT)
    page.keyboard.press("j")
    expect(reading).to_contain_text("LOD2 against LOD3")
    red = _red(becomes(page, lambda now: _red(now) > 8))
    page.keyboard.press("z")
    # At its true size it covers less.
    becomes(page, lambda now: _red(now) < red / 2)
    assert not axe(page)


def test_a_switch_is_moved_by_its_handle_and_put_back(page: Page, server: Server) -> None:
    _open(page, server, "bell_switched")

    def levels() -> list[dict]:
        found: list[dict] = server.prop("bell_switched")["levels"]
        return found

    handle = page.get_by_label("Metres from which LOD1 is drawn")
    proposed = levels()[1]["proposed"]
    handle.focus()
    for _ in range(4):
        page.keyboard.press("ArrowLeft")
    server.wait(lambda: levels()[1]["distance"] < 0.9 * proposed, 60)
    detail = server.prop("bell_switched")
    assert detail["levels"][1]["proposed"] == proposed
    assert [f["level"] for f in detail["findings"] if f["code"] == "switch-visible"] == [1]
    circle = page.get_by_label("Metres from which LOD3 is drawn").locator("circle").first.bounding_box()
    assert circle is not None
    x, y = circle["x"] + circle["width"] / 2, circle["y"] + circle["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y, steps=4)
    page.mouse.up()
    server.wait(lambda: levels()[3]["distance"] > 1.1 * levels()[3]["proposed"], 60)
    page.get_by_role("button", name="As proposed").click()
    server.wait(lambda: all(level["distance"] == level["proposed"] for level in levels()), 60)
    expect(page.get_by_role("button", name="As proposed")).to_be_hidden(timeout=WAIT)


def test_a_state_is_named_seen_and_switched_like_the_base(page: Page, server: Server) -> None:
    _open(page, server, "bell_stated")
    whole = server.prop("bell_stated")["levels"][0]["triangles"]
    page.get_by_role("button", name="+ Add a state").click()
    server.wait(lambda: any(f["code"] == "state-empty" for f in server.prop("bell_stated")["findings"]), 60)
    page.get_by_label("Its own parts").fill("bell*")
    page.get_by_label("Its own parts").press("Enter")
    server.wait(lambda: len(server.prop("bell_stated")["states"]) == 1, 60)
    detail = server.prop("bell_stated")
    (state,) = detail["states"]
    count = thin(state["levels"][0]["triangles"])
    assert detail["levels"][0]["triangles"] + state["levels"][0]["triangles"] == whole
    assert state["fallen_back"] == len(state["levels"]) - 1 > 0
    base = settled(page)
    page.get_by_role("radio", name="damaged").click()
    level = page.get_by_role("radiogroup", name="Level", exact=True).locator("..")
    expect(level).to_contain_text(count, timeout=WAIT)
    becomes(page, changed(base, 0.02))
    # What it has of the base is switched where it is proposed, all in one place here; there is nothing to drag.
    chart = page.get_by_role("group", name=re.compile("Visible change of the levels"))
    expect(chart.get_by_text("· base")).to_have_count(1)
    expect(chart.get_by_text(f"LOD1 to {state['fallen_back']}")).to_be_visible()
    expect(page.get_by_label("Metres from which LOD1 is drawn")).to_have_count(0)
    page.keyboard.press("w")
    expect(page.get_by_role("status").filter(has_text=re.compile("tris|not drawn"))).to_contain_text(count)
    page.keyboard.press("Escape")
    assert not axe(page)
