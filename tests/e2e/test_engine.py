"""Shipped again, compared, rolled back, and walked among in the engine project, by mouse and keys."""

import re

from playwright.sync_api import Page, expect

from tests.e2e.conftest import WAIT, Server, axe, pixels


def _deliver(page: Page, server: Server, names: list[str]) -> int:
    """Ship and deliver these props by mouse; returns the shipment's number."""
    ids = ",".join(str(server.row(name)["id"]) for name in names)
    page.goto(f"/shipments/new?ids={ids}")
    page.get_by_role("checkbox", name="Deliver into").click()
    page.get_by_label("Folder").fill("walked")
    page.get_by_label("Folder").press("Enter")
    page.get_by_role("button", name=f"Ship and deliver {len(names)} props").click()
    expect(page.get_by_text(re.compile("Delivered into walked"))).to_be_visible(timeout=WAIT)
    return int(page.url.split("/")[-1])


def _decide(server: Server, ratio: float) -> None:
    """Give the bell one level below LOD0."""
    prop = server.row("bell_delivered")["id"]
    server.api(f"props/{prop}/settings", {"changes": {"levels": {"levels": [{"ratio": ratio}]}}}, "PATCH")
    server.wait(lambda: server.built("bell_delivered"), 120)


def test_what_is_delivered_is_walked_among_and_changes_are_noticed(page: Page, server: Server) -> None:
    _decide(server, 0.5)
    first = _deliver(page, server, ["bell_delivered", "weather_vane"])
    page.goto("/engine")
    expect(page.get_by_text("2 new, 0 changed, 0 vanished")).to_be_visible(timeout=WAIT)
    page.get_by_role("button", name="Import 2 files").click()
    expect(page.get_by_text("0 new, 0 changed, 0 vanished")).to_be_visible(timeout=WAIT)
    go = page.get_by_role("listitem").filter(has_text="weather_vane.glb").get_by_role("button", name="Go")
    expect(go).to_be_enabled(timeout=WAIT)
    said = page.get_by_text(re.compile(r"LOD\d at [\d.]+ m"))
    expect(said).to_be_visible(timeout=WAIT)
    go.click()
    expect(page.get_by_text(re.compile(r"^weather_vane: LOD0 at"))).to_be_visible(timeout=WAIT)
    near = pixels(page)
    scene = page.get_by_role("img", name=re.compile("The engine's scene"))
    scene.focus()
    before = said.inner_text()
    page.keyboard.down("s")
    expect(said).not_to_have_text(before, timeout=WAIT)
    page.keyboard.up("s")
    assert (pixels(page) != near).mean() > 0.01, "walking shows something else"
    page.get_by_role("button", name=re.compile("^bell_delivered")).click()
    page.get_by_role("radio", name="Read back").click()
    expect(page.get_by_text("bell_delivered_LOD1", exact=True)).to_be_visible()
    assert axe(page) == []

    # Shipped again after a decision: only that prop's file is written, and the engine notices it.
    _decide(server, 0.4)
    second = _deliver(page, server, ["bell_delivered", "weather_vane"])
    page.get_by_role("link", name=re.compile("Compare with no")).click()
    expect(page.get_by_text(re.compile("1 prop differs, 1 the same"))).to_be_visible(timeout=WAIT)
    expect(page.get_by_role("img", name="bell_delivered before")).to_be_visible()
    assert axe(page) == []
    page.goto("/engine")
    expect(page.get_by_text("0 new, 1 changed, 0 vanished")).to_be_visible(timeout=WAIT)
    page.goto(f"/shipments/{second}")
    page.get_by_role("button", name=f"Roll back to no. {first}").click()
    page.goto(f"/shipments/{first}")
    expect(page.get_by_text(re.compile("Rolled back in walked"))).to_be_visible(timeout=WAIT)
    page.goto("/engine")
    expect(page.get_by_text("0 new, 0 changed, 0 vanished")).to_be_visible(timeout=WAIT)
