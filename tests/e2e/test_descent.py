"""Levels on the Bench: the slider over the whole way down, deviation in colour, limits, a protected patch."""

import re

from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.test_cut_and_shaded import _middle, demo  # noqa: F401
from tests.e2e.test_first_stations import WAIT, _axe, _open
from tests.e2e.test_whole_job import _api, _built


def _prop(server: Server) -> dict:
    (row,) = [row for row in _api(server, "props") if row["name"] == "fog_bell"]
    return _api(server, f"props/{row['id']}")


def test_slider_replays_the_way_down_without_a_request(page: Page, server: Server) -> None:
    _open(page, "fog_bell", "Levels")
    slider = page.get_by_label("Triangles left")
    expect(slider).to_be_visible(timeout=WAIT)
    whole = _prop(server)["levels"][0]["triangles"]
    expect(slider).to_have_attribute("aria-valuetext", re.compile(rf"^{whole} triangles"))
    page.wait_for_timeout(500)
    before = page.locator("canvas").screenshot()
    requests: list[str] = []
    page.on("request", lambda request: requests.append(request.url))
    slider.focus()
    counts = [whole]
    for _ in range(12):
        page.keyboard.press("PageDown" if _ % 2 else "PageUp")
        page.keyboard.press("PageUp")
        text = slider.get_attribute("aria-valuetext")
        assert text is not None
        counts.append(int(text.split()[0]))
    assert counts[-1] < whole / 4
    page.wait_for_timeout(500)
    assert page.locator("canvas").screenshot() != before, "the slider draws nothing else"
    assert not [url for url in requests if "/api/" in url and "events" not in url], "moving the slider asked the server"

    plain = page.locator("canvas").screenshot()
    page.keyboard.press("d")
    expect(page.get_by_text("off LOD0, estimated")).to_be_visible()
    page.wait_for_timeout(500)
    assert page.locator("canvas").screenshot() != plain, "the deviation is not drawn"
    assert not _axe(page)
    page.get_by_role("button", name="Split").click()
    expect(page.get_by_label("Level on the left").get_by_role("radio", name="LOD0")).to_be_checked()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Done")).to_be_hidden()


def test_where_the_slider_stands_becomes_a_level_and_limits_and_patches_are_kept(page: Page, server: Server) -> None:
    _open(page, "fog_bell", "Levels")
    slider = page.get_by_label("Triangles left")
    expect(slider).to_be_visible(timeout=WAIT)
    slider.focus()
    for _ in range(5):
        page.keyboard.press("PageUp")
    wanted = int((slider.get_attribute("aria-valuetext") or "0").split()[0])
    page.get_by_role("button", name="Make it a level").click()

    def reached() -> bool:
        return any(abs(level["triangles"] - wanted) <= 2 for level in _prop(server)["levels"])

    server.wait(reached, 60)
    before = len(_prop(server)["levels"])
    page.get_by_role("button", name="Another limit for LOD1").click()
    field = page.get_by_label("LOD1: percent of the diagonal it may be off")
    expect(field).to_be_visible(timeout=WAIT)
    # While it is typed the view already shows where it will stop.
    field.fill("1.5")
    expect(page.get_by_label("Triangles left")).not_to_have_attribute("aria-valuetext", re.compile(rf"^{wanted} "))
    farther = page.get_by_label("Triangles left").get_attribute("aria-valuetext")
    field.fill("0.05")
    expect(page.get_by_label("Triangles left")).not_to_have_attribute("aria-valuetext", farther or "")
    field.press("Enter")

    def limited() -> bool:
        detail = _prop(server)
        target = detail["settings"]["levels"]["levels"][0]
        size = sum(side**2 for side in detail["facts"]["size"]) ** 0.5
        return target.get("tolerance") == 0.05 and 0 < detail["levels"][1]["deviation"] <= 0.0005 * size

    server.wait(limited, 60)
    assert len(_prop(server)["levels"]) <= before

    page.get_by_role("button", name="Protect a patch").click()
    page.mouse.click(*_middle(page, dy=0.1))
    server.wait(lambda: len(_prop(server)["settings"]["levels"]["protected"]) == 1, 30)
    server.wait(lambda: len(_built(server, ["fog_bell"])) == 1, 60)
    assert not [f for f in _prop(server)["findings"] if f["code"] == "mark-lost"]
