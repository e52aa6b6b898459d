"""Textures on the Bench: made for the GPU, compared on its own blocks, and taken back."""

import base64
import io
import re

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.e2e.conftest import WAIT, Server, axe, becomes, open_bench, settled

READ = """() => {
  const canvas = document.querySelector('[aria-label="source and result of the texture"] canvas');
  const copy = document.createElement('canvas');
  [copy.width, copy.height] = [canvas.width, canvas.height];
  const context = copy.getContext('2d');
  context.drawImage(canvas, 0, 0);
  return copy.toDataURL('image/png').split(',')[1];
}"""


def _shown(page: Page) -> np.ndarray:
    """The pixels of the texture bench once two looks at them are the same."""
    before = None
    for _ in range(60):
        now = np.asarray(Image.open(io.BytesIO(base64.b64decode(page.evaluate(READ)))).convert("RGBA"))
        if before is not None and np.array_equal(now, before):
            return now
        before = now
        page.wait_for_timeout(150)
    raise AssertionError("the texture bench never stands still")


def test_textures_are_made_compared_on_the_gpu_and_taken_back(page: Page, server: Server) -> None:
    open_bench(page, server, "can_textured", "Textures")
    table = page.get_by_role("region", name="Textures in figures")
    expect(table.get_by_role("row", name=re.compile("oil_can_tin_color"))).to_contain_text("as it came")
    page.get_by_role("button", name="Make GPU textures").click()
    made = table.get_by_role("row", name=re.compile("oil_can_tin_normal"))
    expect(made).to_contain_text("BC5", timeout=WAIT)
    expect(made).to_contain_text("°")
    server.wait(lambda: server.built("can_textured"), 60)
    settled(page)
    page.get_by_role("button", name="oil_can_tin_color.png").click()
    bar = page.get_by_role("slider", name="where source and result meet")
    expect(bar).to_be_visible(timeout=WAIT)
    # The source on the left, the GPU's own blocks on the right: alike, and not the same.
    bar.press("Home")
    result = _shown(page)
    bar.press("End")
    source = _shown(page)
    away = np.abs(source[..., :3].astype(int) - result[..., :3])
    inside = away[80:-80, 80:-80]
    assert 0 < inside.mean() < 4
    page.get_by_label("Pixels or their error").click()
    page.get_by_role("option", name="Error to 8 / 255").click()
    expect(page.get_by_text("8 of 255")).to_be_visible()
    assert not np.array_equal(_shown(page), source)
    page.get_by_label("Mip level").click()
    page.get_by_role("option", name="mip 3, 64 px").click()
    for name in ("R", "G", "B", "A", "All"):
        page.get_by_role("radio", name=name, exact=True).click()
    page.get_by_role("button", name="1 : 1").click()
    assert axe(page) == []
    page.keyboard.press(".")
    expect(table.get_by_role("button", name="oil_can_tin_normal.png")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("radio", name="Lit", exact=True).click()
    compressed = settled(page)
    page.get_by_role("button", name="On the model").click()
    becomes(page, lambda now: bool((now != compressed).any()))
    page.keyboard.press("Control+z")
    expect(table.get_by_role("row", name=re.compile("oil_can_tin_color"))).to_contain_text("as it came", timeout=WAIT)
