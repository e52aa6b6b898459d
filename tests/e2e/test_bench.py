"""The Bench's frame: levels in the view, undo over a reload, findings led to, failures that end in a word."""

import re

from playwright.sync_api import Page, expect

from tests.e2e.conftest import WAIT, Server, becomes, changed, magenta, open_bench, pixels, settled, thin


def test_levels_in_the_view_and_undo_over_a_reload(page: Page, server: Server) -> None:
    open_bench(page, server, "davit_levels", "Placement")
    whole = settled(page)
    page.keyboard.press("2")
    expect(page.get_by_role("radio", name="LOD2")).to_be_checked()
    expect(page.get_by_text("−75 %").first).to_be_visible()
    coarse = becomes(page, changed(whole, 0.0005))
    page.keyboard.press("Shift+Digit0")
    expect(page.get_by_role("slider", name="Split between the two levels")).to_be_visible()
    expect(page.get_by_label("Level on the right").get_by_role("radio", name="LOD0")).to_be_checked()
    page.keyboard.press("x")
    becomes(page, lambda now: not changed(coarse)(now))
    page.keyboard.press("v")
    becomes(page, changed(coarse, 0.01))
    page.keyboard.press("Shift+v")

    page.get_by_role("list", name="Stations").get_by_role("button", name="Normals").click()
    page.get_by_label("Normals come from").click()
    page.get_by_role("option", name="By angle").click()
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", "Undo: Normals: source angle")
    page.reload()
    undo, redo = page.get_by_role("button", name="Undo"), page.get_by_role("button", name="Redo")
    expect(undo).to_be_enabled(timeout=WAIT)
    page.keyboard.press("Control+z")
    expect(redo).to_have_attribute("title", "Redo: Normals: source angle")
    page.keyboard.press("Control+Shift+z")
    expect(redo).to_be_disabled()


def test_two_browsers_at_one_prop_are_asked_which_decision_holds(page: Page, server: Server) -> None:
    # This page is not told what others do, as if its connection were slow.
    page.route("**/api/events", lambda route: route.fulfill(content_type="text/event-stream", body="retry: 60000\n\n"))
    open_bench(page, server, "bell_disputed", "Normals")
    address = f"props/{server.row('bell_disputed')['id']}/settings"

    def other(weighting: str) -> None:
        body = {"changes": {"normals": {"weighting": weighting}}}
        server.api(address, body, "PATCH", {"X-Plindro-Browser": "another"})

    def choose(name: str) -> None:
        page.get_by_label("Normal weighting").click()
        page.get_by_role("option", name=name).click()

    other("area")
    choose("Area × angle")
    dialog = page.get_by_role("dialog", name="Decided in another browser meanwhile")
    expect(dialog.get_by_role("row", name="Normals: weighting")).to_have_text("Normals: weightingareaarea-angle")
    dialog.get_by_role("button", name="Keep theirs").click()
    expect(page.get_by_label("Normal weighting")).to_have_text(re.compile("Face area"))
    expect(page.get_by_role("button", name="Undo")).to_have_attribute(
        "title", "Undo: Normals: weighting area (decided in another browser)"
    )
    other("angle")
    choose("Largest faces first")
    dialog.get_by_role("button", name="Use mine").click()
    expect(dialog).to_be_hidden()
    expect(page.get_by_label("Normal weighting")).to_have_text(re.compile("Largest faces first"))
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Normal weighting")).to_have_text(re.compile("Corner angle"))


def test_a_finding_leads_to_its_places_and_names_its_station(page: Page, server: Server) -> None:
    open_bench(page, server, "davit", "Placement")
    (found,) = [f for f in server.prop("davit")["findings"] if f["code"] == "non-manifold-edges"]
    assert found["station"] == "cleanup"
    button = page.get_by_role("button", name=re.compile("non manifold edges"))
    plain = magenta(settled(page))
    button.click()
    expect(button).to_have_attribute("aria-pressed", "true")
    becomes(page, lambda now: magenta(now) > plain + 20)
    page.keyboard.press("Escape")
    expect(button).to_have_attribute("aria-pressed", "false")
    becomes(page, lambda now: magenta(now) <= plain + 20)


def test_a_model_that_does_not_load_and_a_lost_card_end_in_a_word_and_a_retry(page: Page, server: Server) -> None:
    detail = server.prop("bell_failed")
    page.route("**/api/files/*.glb", lambda route: route.abort("connectionfailed"))
    page.goto(f"/props/{detail['id']}")
    expect(page.get_by_text("The model could not be loaded")).to_be_visible(timeout=WAIT)
    expect(page.get_by_role("list", name="Stations")).to_be_visible()
    page.unroute("**/api/files/*.glb")
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_label("The prop in 3D")).to_be_visible(timeout=WAIT)
    seen = settled(page)
    page.evaluate(
        "document.querySelector('canvas').getContext('webgl2').getExtension('WEBGL_lose_context').loseContext()"
    )
    page.get_by_role("button", name="Draw it again").click(timeout=WAIT)
    expect(page.get_by_label("The prop in 3D")).to_be_visible(timeout=WAIT)
    settled(page)
    assert not changed(seen, 0.05)(pixels(page))


def test_the_names_panel_promises_what_ships(page: Page, server: Server) -> None:
    open_bench(page, server, "bell_failed", "Naming")
    page.get_by_label("Prefix").fill("SM_")
    page.get_by_label("Prefix").press("Enter")
    page.get_by_label("Suffix").fill("_A")
    page.get_by_label("Suffix").press("Enter")
    names = page.get_by_role("region", name="Names that ship")
    expect(names).to_contain_text("SM_bell_failed_A.glb", timeout=WAIT)
    server.wait(lambda: server.built("bell_failed"), 60)
    expect(names).to_contain_text("SM_bell_failed_A_LOD1", timeout=WAIT)
    detail = server.prop("bell_failed")
    assert [level["name"] for level in detail["levels"]] == detail["names"][0]["levels"]
    expect(page.get_by_text(f"{thin(detail['levels'][0]['triangles'])} tris").first).to_be_visible()
