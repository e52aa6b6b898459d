"""Source, Placement, Cleanup and Triangulation on the Bench, as a user works with them."""

import re

from playwright.sync_api import Page, expect

from tests.e2e.conftest import WAIT, Server, axe, becomes, changed, magenta, middle, open_bench, settled


def test_scene_is_chosen_from_previewed_split_and_brought_back(page: Page, server: Server) -> None:
    open_bench(page, server, "stage_split", "Source")
    parts = page.get_by_role("region", name="Parts of the source")
    expect(parts.get_by_role("row")).to_have_count(16)
    parts.get_by_text("Landing/ref_person").click()
    in_hand = page.get_by_role("status").filter(has_text="Landing/ref_person")
    in_hand.get_by_role("button", name="Exclude").click()
    expect(in_hand.get_by_role("button", name="Include")).to_be_visible(timeout=WAIT)
    page.keyboard.press("l")
    expect(in_hand.get_by_role("button", name="Exclude")).to_be_visible(timeout=WAIT)
    parts.get_by_role("checkbox", name="ship Landing/ref_person").click()
    expect(parts.get_by_role("row", name=re.compile("ref_person"))).to_contain_text("excluded by hand")
    page.get_by_label("One prop is").click()
    page.get_by_role("option", name="Each object").click()
    split = page.get_by_role("region", name="Props of the split")
    expect(split.get_by_role("row")).to_have_count(7)
    expect(split.get_by_role("row", name=re.compile("Post.glb"))).to_contain_text("6 instances")
    assert axe(page) == []
    page.get_by_role("button", name="Make 7 props").click()
    page.get_by_label("Search props").fill("Rungs")
    expect(page.get_by_text("Rungs", exact=True)).to_be_visible(timeout=WAIT)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("Rungs", exact=True)).to_have_count(0, timeout=WAIT)
    page.get_by_label("Search props").fill("stage_split")
    expect(page.get_by_text("stage_split", exact=True)).to_be_visible(timeout=WAIT)


def test_size_is_mended_and_the_pivot_set_by_a_click_on_the_model(page: Page, server: Server) -> None:
    open_bench(page, server, "drum_placed", "Placement")
    page.get_by_role("button", name="× 0.01").click(timeout=WAIT)
    expect(page.get_by_role("img", name=re.compile("Longest side 2.06 m"))).to_be_visible(timeout=WAIT)
    page.get_by_label("Pivot", exact=True).click()
    page.get_by_role("option", name="A place on the model").click()
    expect(page.get_by_label("X in the source")).to_have_value("0")
    server.wait(lambda: server.built("drum_placed"), 60)
    settled(page)
    vertex = page.get_by_role("button", name="vertex", exact=True)
    vertex.click()
    for dx in (0.0, -0.05, 0.05, -0.1, 0.1):
        page.mouse.click(*middle(page, dx, -0.05))
        page.wait_for_timeout(200)
        if vertex.get_attribute("aria-pressed") == "false":
            break
    expect(page.get_by_label("Y in the source")).not_to_have_value("0", timeout=WAIT)
    page.keyboard.press("s")
    expect(page.get_by_role("button", name="Stop", exact=True)).to_be_visible()
    page.keyboard.press("s")
    assert axe(page) == []
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Y in the source")).to_have_value("0", timeout=WAIT)


def test_faults_are_listed_led_to_and_answered(page: Page, server: Server) -> None:
    open_bench(page, server, "bell_cleaned", "Cleanup")
    evidence = page.get_by_role("region", name="Evidence")
    expect(evidence).to_contain_text("nothing left to clean", timeout=WAIT)
    row = evidence.get_by_role("row", name=re.compile("inside out shells"))
    expect(row).to_contain_text("repaired")
    plain = magenta(settled(page))
    row.get_by_role("button", name="show").click()
    led = page.get_by_role("status").filter(has_text="inside out shells")
    expect(led).to_contain_text("all ")
    becomes(page, lambda now: magenta(now) > plain + 50)
    page.keyboard.press("]")
    expect(led).to_contain_text("1 / ")
    page.keyboard.press("x")
    expect(page.get_by_text("source", exact=True)).to_be_visible()
    assert axe(page) == []
    page.get_by_role("checkbox", name="Inconsistent winding").click()
    expect(evidence).to_contain_text(re.compile("left: 1 inside-out shell "), timeout=WAIT)
    page.keyboard.press("Control+z")
    expect(evidence).to_contain_text("nothing left to clean", timeout=WAIT)


def test_the_engines_cut_is_compared_and_a_diagonal_flipped(page: Page, server: Server) -> None:
    open_bench(page, server, "bell_cut", "Triangulation")
    evidence = page.get_by_role("region", name="The engine's cut compared")
    expect(evidence.get_by_role("row", name=re.compile("quads with another diagonal"))).to_contain_text("8")
    own = settled(page)
    for view in ("Engine's fan", "Difference"):
        page.get_by_role("radio", name=view).click()
        becomes(page, changed(own, 0.0005))
    page.get_by_role("radio", name="As it ships").click()
    page.keyboard.press("x")
    expect(page.get_by_text("engine's fan", exact=True)).to_be_visible()
    page.keyboard.press("x")
    assert axe(page) == []
    settled(page)
    page.mouse.click(*middle(page, dy=0.05))
    reset = page.get_by_role("button", name="Reset 1 flipped diagonal")
    expect(reset).to_be_visible(timeout=WAIT)
    reset.click()
    expect(reset).to_be_hidden(timeout=WAIT)
