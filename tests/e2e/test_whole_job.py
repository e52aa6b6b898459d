"""The whole job in the browser, from dropped files to the downloaded zip; accessibility; a power cut."""

import hashlib
import json
import re
import subprocess
import sys
import urllib.request
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from plindro.core.destinations import get_destination
from plindro.core.names import clean_name
from plindro.core.rehearsal import rehearse
from plindro.demo import DEMO_PROPS, build_prop
from tests.e2e.conftest import Server

UI = Path(__file__).resolve().parents[2] / "ui"


def _add(page: Page, *stems: str, more: tuple[tuple[str, bytes], ...] = ()) -> None:
    """Drop demo sources with their textures, and further files, onto the board."""
    files = [(name, data) for stem in stems for name, data in build_prop(stem).items()]
    page.goto("/")
    page.get_by_label("Add props", exact=True).set_input_files(
        [{"name": n, "mimeType": "application/octet-stream", "buffer": data} for n, data in [*files, *more]]
    )


def _row(page: Page, name: str):
    return page.get_by_role("row").filter(has=page.get_by_text(name, exact=True))


def test_from_dropped_files_to_the_downloaded_zip(page: Page, tmp_path: Path) -> None:
    _add(page, "life_ring", "davit", more=(("torn.glb", b"no model"), ("readme.txt", b"hello")))
    expect(page.get_by_text("readme.txt: files ending in '.txt' are not read").first).to_be_visible()
    expect(_row(page, "life_ring").get_by_text("ready", exact=True)).to_be_visible(timeout=60_000)
    expect(_row(page, "davit").get_by_text("ready", exact=True)).to_be_visible(timeout=60_000)
    expect(_row(page, "torn")).to_contain_text("is not a GLB file")

    # Sort, search, filter.
    page.get_by_role("button", name="triangles LOD0").click()
    page.get_by_role("button", name="triangles LOD0").click()
    names = page.get_by_role("row").locator(".font-semibold.truncate").all_inner_texts()
    assert names.index("davit") < names.index("life_ring")
    page.keyboard.press("/")
    page.keyboard.type("ring")
    expect(page.get_by_text("1 of 3 props")).to_be_visible()
    page.get_by_label("Search props").fill("")

    # On the bench: another chain, seen in the view.
    page.get_by_text("life_ring", exact=True).click()
    canvas = page.locator("canvas")
    expect(canvas).to_be_visible(timeout=30_000)
    expect(page.get_by_role("radio", name="LOD0")).to_be_visible()
    field = page.get_by_label("LOD2: percent of LOD0's triangles")
    field.fill("20")
    field.press("Enter")
    expect(page.get_by_text("10\u202f992 → 2\u202f198 △")).to_have_count(0)
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    # The first ends what is shown while a limit is typed, unless the build was faster.
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")

    # Ship both that can.
    for name in ("davit", "life_ring"):
        page.get_by_label(f"Select {name}").click()
    expect(_row(page, "life_ring").get_by_text("ready", exact=True)).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Ship 2…").click()
    expect(page.get_by_role("cell", name="life_ring.glb")).to_be_visible()
    page.get_by_role("button", name="Ship 2 props").click()
    link = page.get_by_role("link", name="Download zip with manifest")
    expect(link).to_be_visible(timeout=60_000)
    with page.expect_download() as download:
        link.click()
    path = tmp_path / "shipment.zip"
    download.value.save_as(path)

    archive = zipfile.ZipFile(path)
    assert sorted(archive.namelist()) == ["davit.glb", "life_ring.glb", "manifest.json"]
    manifest = json.loads(archive.read("manifest.json"))
    for prop in manifest["props"]:
        data = archive.read(prop["files"][0]["path"])
        assert hashlib.sha256(data).hexdigest() == prop["files"][0]["sha256"]
        seen = rehearse(data, prop["files"][0]["path"], get_destination("plain"))
        assert [level["triangles"] for level in seen.levels] == [level["triangles"] for level in prop["levels"]]
        assert not [finding for finding in seen.findings if finding.severity == "stop"]
    ring = next(prop for prop in manifest["props"] if prop["name"] == "life_ring")
    assert ring["levels"][2]["triangles"] == pytest.approx(0.2 * ring["levels"][0]["triangles"], abs=2)


def test_levels_in_the_view_undo_over_a_reload_and_places_of_findings(page: Page, server: Server) -> None:
    page.goto("/")
    page.get_by_text("davit", exact=True).click()
    expect(page.locator("canvas")).to_be_visible(timeout=30_000)
    page.keyboard.press("2")
    expect(page.get_by_role("radio", name="LOD2")).to_be_checked()
    expect(page.get_by_text("−75 %").first).to_be_visible()
    page.wait_for_timeout(500)
    one_level = page.locator("canvas").screenshot()
    page.keyboard.press("Shift+Digit0")
    expect(page.get_by_role("slider", name="Split between the two levels")).to_be_visible()
    expect(page.get_by_label("Level on the right").get_by_role("radio", name="LOD0")).to_be_checked()
    page.keyboard.press("x")
    page.keyboard.press("v")
    page.wait_for_timeout(500)
    assert page.locator("canvas").screenshot() != one_level, "wireframe draws nothing"

    page.get_by_role("button", name="Normals smoothing groups").click()
    page.get_by_label("Normals come from").click()
    page.get_by_role("option", name="By angle").click()
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", "Undo: Normals: source angle")
    page.reload()
    expect(page.get_by_role("button", name="Undo")).to_be_enabled(timeout=30_000)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="Redo")).to_have_attribute("title", "Redo: Normals: source angle")
    page.wait_for_timeout(200)
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_role("button", name="Redo")).to_be_disabled()

    # A new result clears the finding in hand, so the redone one must have arrived.
    server.wait(lambda: len(_built(server, ["davit"])) == 1, 60)
    page.reload()
    expect(page.locator("canvas")).to_be_visible(timeout=30_000)
    page.get_by_role("button", name="edges have more than two faces").click()
    expect(page.get_by_role("button", name="edges have more than two faces")).to_have_attribute("aria-pressed", "true")
    page.wait_for_timeout(500)
    with_places = page.locator("canvas").screenshot()
    page.keyboard.press("Escape")
    page.wait_for_timeout(500)
    assert page.locator("canvas").screenshot() != with_places, "the places are not drawn"


@pytest.mark.parametrize("theme", ["chart", "night"])
@pytest.mark.parametrize("path", ["/", "/props/1", "/shipments", "/shipments/1", "/shipments/new?ids=1,2"])
def test_pages_pass_axe(page: Page, path: str, theme: str) -> None:
    page.add_init_script(f"localStorage.setItem('plindro.theme', '{theme}')")
    page.goto(path)
    page.wait_for_load_state("load")
    page.wait_for_timeout(1500)
    page.add_script_tag(path=str(UI / "node_modules" / "axe-core" / "axe.min.js"))
    found = page.evaluate("axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa'] })")
    assert not [f"{v['id']}: {v['nodes'][0]['html'][:160]}" for v in found["violations"]]


def test_every_demo_prop_loads_with_its_chain_in_the_view(page: Page, server: Server) -> None:
    board = {prop["name"] for prop in _api(server, "props")}
    _add(page, *(stem for stem in DEMO_PROPS if clean_name(stem) not in board))
    names = [clean_name(stem) for stem in DEMO_PROPS]
    server.wait(lambda: len(_built(server, names)) == len(names), 180)
    for prop in _api(server, "props"):
        if prop["name"] in names:
            page.goto(f"/props/{prop['id']}")
            chain = " ".join(level["name"] for level in _api(server, f"props/{prop['id']}")["levels"])
            expect(page.locator("[data-levels]")).to_have_attribute("data-levels", chain, timeout=60_000)


def test_palette_and_help_open_by_key_and_close_by_escape(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_text("davit", exact=True)).to_be_visible()
    page.keyboard.press("Control+k")
    expect(page.get_by_placeholder("Find a prop or a command")).to_be_focused()
    page.keyboard.type("davit")
    expect(page.get_by_role("option", name="davit")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/props/"))
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Shortcuts")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)


def _api(server: Server, path: str, body: object | None = None):
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"{server.url}/api/{path}", data, {"Content-Type": "application/json"})
    return json.load(urllib.request.urlopen(request, timeout=30))


def _built(server: Server, names: list[str]) -> list[int]:
    return [p["id"] for p in _api(server, "props") if p["name"] in names and p["readiness"] != "working"]


def test_killed_server_finishes_its_shipment_after_the_restart(page: Page, server: Server) -> None:
    stems = ["rope_coil", "cable_drum", "gas_bottle", "tide_board"]
    board = {prop["name"] for prop in _api(server, "props")}
    _add(page, *(stem for stem in stems if stem not in board))
    server.wait(lambda: len(_built(server, stems)) == len(stems), 120)
    ids = _built(server, stems)
    # To the wide destination nothing is built yet, so that the work takes a while.
    shipment = _api(server, "shipments", {"ids": ids, "destination": "plain-wide"})["id"]
    server.wait(lambda: _api(server, f"shipments/{shipment}")["shipped"] >= 1, 60)
    server.kill()
    for path in (server.home / "shipments" / str(shipment)).glob("*.glb"):
        assert rehearse(path.read_bytes(), path.name, get_destination("plain-wide")).levels, "a file is half-written"
    server.start()
    server.wait(lambda: _api(server, f"shipments/{shipment}")["state"] == "done", 120)
    done = _api(server, f"shipments/{shipment}")
    assert done["shipped"] == 4
    folder = server.home / "shipments" / str(shipment)
    assert sorted(p.name for p in folder.iterdir()) == sorted(["manifest.json", *(f"{stem}.glb" for stem in stems)])
    for item in done["items"]:
        data = (folder / item["files"][0]["path"]).read_bytes()
        assert hashlib.sha256(data).hexdigest() == item["files"][0]["sha256"]


def test_exported_demo_files_pass_the_khronos_validator(demo_sources: Path, tmp_path: Path) -> None:
    command = [
        str(Path(sys.executable).parent / "plindro"),
        "build",
        *demo_sources.glob("*/*.obj"),
        "--out",
        tmp_path,
    ]
    subprocess.run(command, check=True, capture_output=True, timeout=300)
    script = """
      const fs = require("fs"), validator = require("gltf-validator");
      Promise.all(process.argv.slice(1).map((file) =>
        validator.validateBytes(new Uint8Array(fs.readFileSync(file)), { maxIssues: 100 }).then((report) =>
          ({ file, errors: report.issues.numErrors, warnings: report.issues.numWarnings,
             messages: report.issues.messages.filter((m) => m.severity < 2).slice(0, 3) })))
      ).then((rows) => console.log(JSON.stringify(rows)));
    """
    files = sorted(map(str, tmp_path.glob("*.glb")))
    assert len(files) >= 12
    run = subprocess.run(
        ["node", "-e", script, *files], cwd=UI, check=True, capture_output=True, text=True, timeout=300
    )
    assert [row for row in json.loads(run.stdout) if row["errors"] or row["warnings"]] == []
