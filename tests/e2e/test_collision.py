"""Collision on the Bench: made, drawn over the prop, tried with a ball and a walker, and taken back."""

from playwright.sync_api import Page, expect

from tests.e2e.conftest import WAIT, Server, axe, becomes, changed, open_bench, settled


def test_a_box_stops_a_ball_and_a_walker_and_is_taken_back(page: Page, server: Server) -> None:
    open_bench(page, server, "bell_stopped", "Collision")
    plain = settled(page)
    expect(page.get_by_text("No collision ships with this prop.")).to_be_visible()
    page.get_by_label("Kind of collision").click()
    page.get_by_role("option", name="Box", exact=True).click()
    table = page.get_by_role("region", name="Collision proxies")
    expect(table.get_by_role("row").nth(1)).to_contain_text("bell_stopped_collision_0", timeout=WAIT)
    becomes(page, changed(plain))
    page.keyboard.press("b")
    said = page.get_by_role("status")
    expect(said).to_contain_text("came to rest on the collision", timeout=WAIT)
    page.keyboard.press("w")
    expect(said).to_contain_text("The walker was stopped", timeout=WAIT)
    assert not axe(page)
    page.get_by_role("button", name="Clear").click()
    page.keyboard.press("ControlOrMeta+z")
    expect(page.get_by_text("No collision ships with this prop.")).to_be_visible(timeout=WAIT)
