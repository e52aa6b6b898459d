"""UVs on the Bench: the sheet beside the model, a channel made anew, and back."""

import re

from playwright.sync_api import Page, expect

from tests.e2e.conftest import WAIT, Server, axe, open_bench, settled


def test_a_channel_is_unwrapped_looked_at_and_taken_back(page: Page, server: Server) -> None:
    open_bench(page, server, "bell_unwrapped", "UVs")
    figures = page.get_by_role("region", name="UV channels in figures")
    expect(figures.get_by_role("row", name=re.compile("the source's"))).to_contain_text("82")
    sheet = page.get_by_role("img", name="UV sheet, 82 islands")
    expect(sheet).to_be_visible(timeout=WAIT)
    page.get_by_label("Channel 0 comes from").click()
    page.get_by_role("option", name="Unwrap").click()
    made = figures.get_by_role("row", name=re.compile("unwrapped"))
    expect(made).to_be_visible(timeout=WAIT)
    expect(made.get_by_role("cell").nth(2)).to_have_text("0 %")
    server.wait(lambda: server.built("bell_unwrapped"), 60)
    settled(page)
    box = page.get_by_role("img", name=re.compile("UV sheet")).bounding_box()
    assert box is not None
    reading = page.get_by_text(re.compile(r"^island \d+ of \d+$"))
    for k in range(40):
        page.mouse.move(box["x"] + box["width"] * (0.3 + 0.01 * k), box["y"] + box["height"] * (0.3 + 0.01 * k))
        if reading.count():
            break
    expect(reading).to_be_visible()
    for view in ("Stretch", "Density", "Mirrored", "Islands"):
        page.get_by_role("radio", name=view, exact=True).click()
    page.get_by_label("Under the islands").click()
    page.get_by_role("option", name="Numbered grid").click()
    assert axe(page) == []
    page.keyboard.press("Control+z")
    expect(figures.get_by_role("row", name=re.compile("the source's"))).to_contain_text("82", timeout=WAIT)
