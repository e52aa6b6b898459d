"""Lines and destinations as pages: a draft is judged, tried, saved as a version, and what it makes stale is built."""

from playwright.sync_api import Page, expect

from tests.e2e.conftest import WAIT, Server, axe, open_bench


def _decided(page: Page, label: str, text: str) -> None:
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    field.press("Enter")


def test_a_line_of_the_house_is_made_used_changed_and_built(page: Page, server: Server) -> None:
    page.goto("/lines/small")
    page.get_by_role("button", name="Copy as new").click()
    # Until it is there the fields are those of the line that is copied.
    expect(page.get_by_role("heading", name="A new line")).to_be_visible()
    _decided(page, "Name", "bells")
    _decided(page, "Title", "Bells")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Bells: version 1 saved", exact=True)).to_be_visible()
    open_bench(page, server, "bell_housed", "Naming")
    page.get_by_label("Line", exact=True).click()
    page.get_by_role("option", name="Bells").click()
    server.wait(lambda: server.row("bell_housed")["levels"] == 3, WAIT / 1000)
    page.goto("/lines/bells")
    _decided(page, "Target of LOD1", "60")
    expect(page.get_by_text("· 1 setting changed")).to_be_visible()
    page.get_by_role("radio", name="Trial").click()
    page.get_by_role("button", name="Try on 1 prop").click()
    trial = page.get_by_role("region", name="Trial of bell_housed")
    expect(trial.get_by_text("+50 %").first).to_be_visible(timeout=WAIT)
    assert not axe(page)
    page.get_by_role("button", name="Save").click()
    page.get_by_role("button", name="Build 1").last.click()
    page.get_by_role("radio", name="Props 1").click()
    expect(page.get_by_text("1 prop, none with settings of its own.")).to_be_visible()
    expect(page.get_by_role("button", name="Build 1")).to_have_count(0, timeout=WAIT)
    page.get_by_role("radio", name="History 2").click()
    expect(page.get_by_text("50 % / 12 %", exact=False).or_(page.get_by_text("40 % / 12 %")).first).to_be_visible()


def test_a_destination_tells_faults_at_their_place_and_what_it_would_write(page: Page, server: Server) -> None:
    page.goto("/destinations/plain")
    expect(page.get_by_role("region", name="Names").get_by_text("_LOD0").first).to_be_visible()
    _decided(page, "Level template", "{prop}_{lvl}")
    fault = page.get_by_role("region", name="Names").get_by_role("alert")
    expect(fault).to_contain_text("there is no {lvl}")
    expect(page.get_by_role("button", name="Save")).to_be_disabled()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(fault).to_have_count(0)
    page.get_by_label("Format", exact=True).click()
    page.get_by_role("option", name="ply").click()
    page.get_by_label("Up axis", exact=True).click()
    page.get_by_role("option", name="z").click()
    page.get_by_role("radio", name="Trial").click()
    for box in page.get_by_role("checkbox", name="Try ").all():
        if box.is_checked():
            box.click()
    page.get_by_role("checkbox", name="Try bell_housed", exact=True).click()
    page.get_by_role("button", name="Try on 1 prop").click()
    page.wait_for_selector("section[aria-label^='Trial of']", timeout=WAIT)
    assert page.locator("a[download$='_LOD0.ply']").count() >= 1
    assert not axe(page)
    page.get_by_role("button", name="Discard").click()
    expect(page.get_by_text("as it came with Plindro").first).to_be_visible()
