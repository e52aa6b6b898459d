"""The whole job in the browser, from dropped files to the downloaded zip; every page's accessibility; a power cut."""

import hashlib
import json
import re
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from plindro.core.destinations import get_destination
from plindro.core.rehearsal import rehearse
from plindro.core.rehearsal.disk import DiskFiles
from plindro.core.rehearsal.folder import check_files
from plindro.demo import build_prop
from tests.e2e.conftest import WAIT, Server, axe, open_bench


def _row(page: Page, name: str):
    return page.get_by_role("row").filter(has=page.get_by_text(name, exact=True))


def test_from_dropped_files_to_the_downloaded_zip(page: Page, server: Server, tmp_path: Path) -> None:
    files = {name.replace("life_ring.obj", "ring_dropped.obj"): data for name, data in build_prop("life_ring").items()}
    files |= {"torn.glb": b"no model", "readme.txt": b"hello"}
    page.goto("/")
    page.get_by_label("Add props", exact=True).set_input_files(
        [{"name": n, "mimeType": "application/octet-stream", "buffer": data} for n, data in files.items()]
    )
    expect(page.get_by_text("readme.txt: files ending in '.txt' are not read").first).to_be_visible()
    page.get_by_label("Search props").fill("ring_dropped")
    expect(_row(page, "ring_dropped").get_by_text("ready", exact=True)).to_be_visible(timeout=WAIT)
    page.get_by_label("Search props").fill("torn")
    expect(_row(page, "torn")).to_contain_text("is not a GLB file", timeout=WAIT)

    # Another chain on the Bench.
    open_bench(page, server, "ring_dropped", "Levels")
    whole = server.prop("ring_dropped")["levels"][0]["triangles"]
    field = page.get_by_label("LOD2: percent of LOD0's triangles")
    field.fill("20")
    field.press("Enter")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    server.wait(lambda: server.built("ring_dropped") and len(server.prop("ring_dropped")["levels"]) > 2, 60)

    # Ship it with another: the files that are promised are those that come.
    ids = ",".join(str(server.row(name)["id"]) for name in ("ring_dropped", "davit"))
    page.goto(f"/shipments/new?ids={ids}")
    for name in ("ring_dropped.glb", "davit.glb"):
        expect(page.get_by_role("cell", name=name)).to_be_visible()
    page.get_by_role("button", name="Ship 2 props").click()
    link = page.get_by_role("link", name="Download zip")
    expect(link).to_be_visible(timeout=WAIT)
    with page.expect_download() as download:
        link.click()
    path = tmp_path / "shipment.zip"
    download.value.save_as(path)
    archive = zipfile.ZipFile(path)
    assert sorted(archive.namelist()) == [
        "contact-sheet.png",
        "davit.glb",
        "manifest.json",
        "report.html",
        "ring_dropped.glb",
    ]
    manifest = json.loads(archive.read("manifest.json"))
    for prop in manifest["props"]:
        data = archive.read(prop["files"][0]["path"])
        assert hashlib.sha256(data).hexdigest() == prop["files"][0]["sha256"]
        name = prop["files"][0]["path"]
        seen = rehearse([name], {name: data}, get_destination("plain"))
        assert [level.triangles for level in seen.seen.levels] == [level["triangles"] for level in prop["levels"]]
        assert not [finding for finding in seen.findings if finding.severity == "stop"]
    ring = next(prop for prop in manifest["props"] if prop["name"] == "ring_dropped")
    assert ring["levels"][2]["triangles"] == pytest.approx(0.2 * whole, abs=2)


def test_the_board_is_sorted_searched_and_opened_by_key(page: Page) -> None:
    page.goto("/")
    names = page.get_by_role("row").locator(".font-semibold.truncate")
    expect(names.first).to_be_visible()
    heads = page.get_by_role("button", name="triangles LOD0")
    page.get_by_label("Search props").fill("coil")
    expect(names).to_have_text(["rope_coil"])
    page.get_by_label("Search props").fill("_")
    for order in ("descending", "ascending"):
        heads.click()
        expect(page.get_by_role("columnheader").filter(has=heads)).to_have_attribute("aria-sort", order)
        figures = page.get_by_role("row").locator("[role=cell]:nth-child(3)").all_inner_texts()
        counts = [int(text.split("/")[0].replace("\u202f", "").strip()) for text in figures]
        assert len(counts) > 3
        assert counts == sorted(counts, reverse=order == "descending")
    assert len(counts) > 5
    page.get_by_label("Search props").fill("")
    page.get_by_role("row").nth(1).focus()
    page.keyboard.press("/")
    page.keyboard.type("gas_bottle")
    expect(page.get_by_text(re.compile(r"^1 of \d+ props"))).to_be_visible()
    page.get_by_label("Search props").fill("")
    page.keyboard.press("Escape")
    page.locator("body").click(position={"x": 640, "y": 5})
    page.keyboard.press("Control+k")
    expect(page.get_by_placeholder("Find a prop or a command")).to_be_focused()
    page.keyboard.type("davit")
    expect(page.get_by_role("option", name=re.compile(r"^davit\b")).first).to_be_visible()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/props/"))
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Shortcuts")).to_contain_text("Bench, Levels")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)


@pytest.fixture(scope="module")
def shipped(server: Server) -> int:
    """A shipment that is done."""
    number: int = server.api("shipments", {"ids": [server.row("tide_board")["id"]], "destination": "plain"})["id"]
    server.wait(lambda: server.api(f"shipments/{number}")["state"] == "done", 60)
    return number


@pytest.mark.parametrize("theme", ["chart", "night"])
def test_pages_pass_axe(page: Page, server: Server, shipped: int, theme: str) -> None:
    page.add_init_script(f"localStorage.setItem('plindro.theme', '{theme}')")
    prop = server.row("davit")["id"]
    item = server.api(f"shipments/{shipped}")["items"][0]["id"]
    for path, there in (
        ("/", page.get_by_role("row").nth(3)),
        (f"/props/{prop}", page.get_by_role("list", name="Stations")),
        ("/shipments", page.get_by_role("link", name=str(shipped), exact=True)),
        (f"/shipments/{shipped}", page.get_by_role("link", name="Download zip")),
        (f"/shipments/new?ids={prop}", page.get_by_role("cell", name="davit.glb")),
        (f"/shipments/{shipped}/items/{item}", page.get_by_role("heading", name="Chain")),
        ("/engine", page.get_by_role("heading", name="Engine project")),
    ):
        page.goto(path)
        expect(there).to_be_visible(timeout=WAIT)
        assert axe(page) == [], path


@pytest.mark.parametrize("name", ["signal_lamp", "storm_lantern_01", "rope_coil"])
def test_a_prop_loads_with_its_chain_in_the_view(page: Page, server: Server, name: str) -> None:
    """Transparent parts, a cleaned name, and the heaviest of the demo."""
    detail = server.prop(name)
    page.goto(f"/props/{detail['id']}")
    chain = " ".join(level["name"] for level in detail["levels"])
    expect(page.locator("[data-levels]")).to_have_attribute("data-levels", re.compile(f"^{chain}"), timeout=WAIT)


def test_the_project_has_the_name_that_its_user_gives(page: Page, server: Server) -> None:
    page.goto("/")
    page.get_by_role("button", name="Name the project").click()
    page.get_by_label("Project name").fill("Harbour, second year")
    page.get_by_label("Project name").press("Enter")
    expect(page.get_by_role("button", name="Name the project")).to_contain_text("Harbour, second year")
    assert server.api("project")["name"] == "Harbour, second year"
    page.goto(f"/props/{server.row('davit')['id']}")
    expect(page.get_by_role("heading", name="Harbour, second year / davit")).to_be_visible()


def test_killed_server_finishes_its_shipment_and_its_delivery_after_the_restart(server: Server) -> None:
    names = ["tide_board", "weather_vane", "gas_bottle"]
    ids = [server.row(name)["id"] for name in names]
    # To the wide destination nothing is built yet, so that the work takes a while.
    order = {"ids": ids, "destination": "plain-wide", "folder": "killed"}
    shipment = server.api("shipments", order)["id"]
    server.wait(lambda: server.api(f"shipments/{shipment}")["shipped"] >= 1, 60)
    server.kill()
    server.start()
    server.wait(lambda: server.api(f"shipments/{shipment}")["archive"] is not None, 120)
    done = server.api(f"shipments/{shipment}")
    assert (done["shipped"], done["delivery"]["state"]) == (len(names), "done")
    folder = server.home / "delivered" / "killed"
    beside = {"manifest.json", "report.html", "contact-sheet.png"}
    there = {path.name for path in folder.iterdir() if not path.name.startswith(".")}
    assert there == beside | {f"{name}.glb" for name in names}
    assert list(check_files(DiskFiles(folder), json.loads((folder / "manifest.json").read_text()))) == []
    assert (server.home.stat().st_mode & 0o077) == 0, "its owner's alone"
    for item in done["items"]:
        path = item["files"][0]["path"]
        seen = rehearse([path], {path: (folder / path).read_bytes()}, get_destination("plain-wide")).seen
        assert [level.triangles for level in seen.levels] == [level["triangles"] for level in item["levels"]]
