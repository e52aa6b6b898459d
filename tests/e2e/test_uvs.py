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
    _mark_a_loop(page)
    expect(page.get_by_text(re.compile(r"^\d+ seam edges · "))).to_be_visible(timeout=WAIT)
    server.wait(lambda: server.built("bell_unwrapped"), 60)
    page.keyboard.press("Control+z")
    expect(page.get_by_text(re.compile(r"^\d+ seam edges · "))).to_be_hidden(timeout=WAIT)
    page.keyboard.press("Control+z")
    expect(figures.get_by_role("row", name=re.compile("the source's"))).to_contain_text("82", timeout=WAIT)


def _mark_a_loop(page: Page) -> None:
    """Click the model where the tool in hand finds edges."""
    page.get_by_role("button", name="Seam loop").click()
    box = page.get_by_label("The prop in 3D").bounding_box()
    assert box is not None
    aim = page.get_by_role("status").filter(has_text=re.compile(r"^\d+ edges?$"))
    for k in range(40):
        at = box["x"] + box["width"] * 0.5, box["y"] + box["height"] * (0.4 + 0.01 * k)
        page.mouse.move(*at)
        if aim.count():
            page.mouse.click(*at)
            return
    raise AssertionError("no edge of the model was found under the pointer")


def test_props_of_the_board_share_a_sheet(page: Page, server: Server) -> None:
    page.goto("/")
    # The board draws the rows that are in sight; these are its last.
    page.get_by_role("checkbox", name=re.compile("^Select bell_")).first.hover()
    page.mouse.wheel(0, 5_000)
    for name in ("tide_board", "weather_vane"):
        page.get_by_role("checkbox", name=f"Select {name}", exact=True).click()
    page.get_by_role("button", name="One sheet…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name of the sheet").fill("quay")
    dialog.get_by_label("Size of the sheet").click()
    page.get_by_role("option", name=re.compile("^512")).click()
    dialog.get_by_label("Textures that tile").click()
    page.get_by_role("option", name="Go in repeated").click()
    assert axe(page) == []
    dialog.get_by_role("button", name="Make the sheet").click()
    shows = dialog.get_by_role("button", name="Show 2 new props")
    expect(shows).to_be_visible(timeout=WAIT)
    expect(dialog.get_by_role("row", name=re.compile("Draw calls"))).to_contain_text("5")
    assert axe(page) == []
    shows.click()
    for name in ("tide_board_quay", "weather_vane_quay"):
        expect(page.get_by_text(name, exact=True)).to_be_visible()
        server.wait(lambda name=name: server.built(name), 60)
        assert server.row(name)["materials"] == 1
