"""Normals on the Bench: the live threshold, marking, hard edges as cliffs, ways of drawing."""

import re

import numpy as np
from playwright.sync_api import Page, expect

from tests.e2e.conftest import WAIT, Server, axe, becomes, changed, middle, open_bench, settled


def test_threshold_is_live_and_a_loop_marked_by_hand_is_kept_and_undone(page: Page, server: Server) -> None:
    open_bench(page, server, "bell_shaded", "Normals")
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
    server.wait(lambda: server.built("bell_shaded"), 60)
    settled(page)

    page.keyboard.press("o")
    told = page.get_by_role("status").filter(has_text="engine vertices")
    page.mouse.move(*middle(page, dy=0.1))
    page.mouse.move(*middle(page, dy=0.12))
    expect(told).to_contain_text(re.compile(r"\d+ edges · .\d+ engine vertices"), timeout=WAIT)
    edges = int(told.inner_text().split(" ")[0])
    page.mouse.click(*middle(page, dy=0.12))
    expect(page.get_by_text(re.compile(f"^{edges} hard · 0 soft · 0 patches"))).to_be_visible(timeout=WAIT)
    assert axe(page) == []
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    expect(page.get_by_text(re.compile("hard · 0 soft"))).to_be_hidden(timeout=WAIT)


def test_hard_edges_are_drawn_in_ink_and_put_away(page: Page, server: Server) -> None:
    open_bench(page, server, "bell_studied", "Normals")
    expect(page.get_by_role("button", name="Hard edges")).to_be_visible(timeout=WAIT)
    with_edges = settled(page)
    page.get_by_role("button", name="Hard edges").click()
    without = becomes(page, changed(with_edges, 0.001))
    drawn = np.abs(with_edges - without).max(axis=2) > 40
    assert with_edges[drawn].mean() < without[drawn].mean(), "the edges are darker than what they lie on"


def test_ways_of_drawing_draw(page: Page, server: Server) -> None:
    open_bench(page, server, "bell_studied", "Placement")
    before = settled(page)
    for mode in ("Stripes", "Slant", "Sides", "Materials", "Wire"):
        page.get_by_role("radio", name=mode).click()
        before = becomes(page, changed(before, 0.01))
