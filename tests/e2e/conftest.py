"""A real server with props of the demo on its board, and a real browser, for all tests here that share a process.

Every test works on a prop of its own, so that none depends on another or on their order.
"""

import base64
import io
import json
import os
import re
import shutil
import subprocess
import sys
import time
from collections.abc import Callable, Generator, Iterator
from contextlib import suppress
from pathlib import Path

import numpy as np
import pytest
from benchmarks.server import Server
from filelock import FileLock
from PIL import Image
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright
from playwright.sync_api import Error as PlaywrightError

from plindro.core.names import clean_name
from plindro.core.shipping import PrepareResult

UI = Path(__file__).resolve().parents[2] / "ui"
WAIT = 60_000
FLAGS = [
    "--no-sandbox",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    # Only the prop is drawn by the card that is simulated here; pages, and smooth edges, would take as long again.
    "--disable-gpu-compositing",
    "--webgl-antialiasing-mode=none",
    "--disable-background-networking",
    "--disable-component-update",
    "--no-first-run",
]
BELLS = (
    "cleaned",
    "cut",
    "shaded",
    "studied",
    "slid",
    "limited",
    "walked",
    "blinked",
    "switched",
    "stated",
    "failed",
    "disputed",
    "unwrapped",
    "stopped",
    "housed",
    "delivered",
)
"""What happens to the props that tests have for themselves, all of them bells."""
OWN = {f"bell_{what}": "fog_bell" for what in BELLS} | {
    "can_textured": "oil_can",
    "davit_levels": "davit",
    "drum_placed": "cable_drum",
    "stage_split": "landing_stage",
}
WITHOUT_LEVELS = {
    "drum_placed",
    "stage_split",
    "bell_cleaned",
    "bell_cut",
    "bell_disputed",
    "bell_unwrapped",
    "bell_stopped",
    "can_textured",
}
"""Props whose tests are not about levels: without, they are built again in a fraction of the time."""
DEMO = {
    clean_name(stem): stem
    for stem in ("davit", "gas_bottle", "rope_coil", "signal_lamp", "storm làntern 01", "tide_board", "weather_vane")
}


@pytest.fixture(scope="session")
def board(demo_sources: Path, shared_folder: Path, demo_result: Callable[[str], PrepareResult]) -> Path:
    """The home of a server with every prop on its board, made once for all processes."""
    names = OWN | DEMO
    stems = list(dict.fromkeys(names.values()))
    # Two processes have a server: each builds what the other has not begun.
    for stem in reversed(stems) if os.environ.get("PYTEST_XDIST_WORKER", "gw0") == "gw1" else stems:
        demo_result(stem)
    home = shared_folder / "board"
    with FileLock(f"{home}.lock"):
        if not home.exists():
            part = home.with_suffix(".part")
            part.mkdir()
            subprocess.run(
                [sys.executable, "-m", "tests.e2e.seed", demo_sources, shared_folder],
                input=json.dumps({name: [stem, name not in WITHOUT_LEVELS] for name, stem in names.items()}).encode(),
                env=Server(part).environment,
                cwd=UI.parent,
                check=True,
            )
            part.rename(home)
    return home


@pytest.fixture(scope="session")
def server(board: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """A server of this process, on a copy of the board."""
    home = tmp_path_factory.mktemp("server") / "home"
    shutil.copytree(board, home)
    # One worker keeps what it knows of a prop, and leaves the other core to the browser.
    instance = Server(home, PLINDRO_WORKERS="1")
    instance.start()
    yield instance
    instance.stop()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    usual = [os.environ.get("PLINDRO_CHROMIUM"), "/usr/bin/chromium"]
    found = [path for path in usual if path and Path(path).exists()]
    with sync_playwright() as playwright:
        instance = playwright.chromium.launch(executable_path=found[0] if found else None, args=FLAGS)
        yield instance
        instance.close()


@pytest.fixture(scope="session")
def context(browser: Browser, server: Server) -> BrowserContext:
    """One profile of the browser for all tests: the application's scripts are loaded and compiled once."""
    expect.set_options(timeout=WAIT)
    instance = browser.new_context(
        viewport={"width": 1280, "height": 800}, device_scale_factor=0.5, base_url=server.url, reduced_motion="reduce"
    )
    instance.set_default_timeout(WAIT)
    return instance


_outcome = pytest.StashKey[pytest.TestReport]()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    report = yield
    if report.when == "call":
        item.stash[_outcome] = report
    return report


@pytest.fixture
def page(context: BrowserContext, request: pytest.FixtureRequest) -> Iterator[Page]:
    """A page of 1280 × 800 that knows nothing of those before it; errors on its console fail the test.

    Where a test fails, what the page showed and what it still waited for is part of the report.
    """
    instance = context.new_page()
    instance.goto("/mark.svg")
    instance.evaluate("localStorage.clear()")
    problems: list[str] = []
    waiting: set[str] = set()
    instance.on("request", lambda sent: waiting.add(f"{sent.method} {sent.url}"))
    for ended in ("requestfinished", "requestfailed"):
        instance.on(ended, lambda sent: waiting.discard(f"{sent.method} {sent.url}"))
    instance.on("pageerror", lambda error: problems.append(str(error)))
    instance.on("console", lambda message: problems.append(message.text) if message.type == "error" else None)
    yield instance
    outcome = request.node.stash.get(_outcome, None)
    if outcome and outcome.failed:
        told = [instance.url, "waits for:", *sorted(waiting), "has told:", *problems, "shows:"]
        with suppress(PlaywrightError):
            told.append(instance.locator("body").inner_text(timeout=5000))
        request.node.add_report_section("teardown", "page", "\n".join(told))
    instance.close()
    # Refusals are answers, and a killed server breaks its streams; both are shown in the page.
    expected = (
        "404",
        "409",
        "422",
        "ERR_INCOMPLETE_CHUNKED_ENCODING",
        "ERR_CONNECTION_REFUSED",
        "ERR_CONNECTION_FAILED",
    )
    assert not [problem for problem in problems if not any(word in problem for word in expected)]


def open_bench(page: Page, server: Server, name: str, station: str) -> None:
    """A prop on the Bench with one station open, drawn."""
    page.goto(f"/props/{server.row(name)['id']}")
    page.get_by_role("list", name="Stations").get_by_role("button", name=station).click()
    expect(page.get_by_label("The prop in 3D")).to_be_visible(timeout=WAIT)
    settled(page)


def axe(page: Page) -> list[str]:
    """What axe finds against WCAG 2.1 AA."""
    # Not as a script of the page: the page's policy takes none.
    page.evaluate((UI / "node_modules" / "axe-core" / "axe.min.js").read_text() + "\nnull")
    found = page.evaluate(
        "axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa'], resultTypes: ['violations'], preload: false })"
    )
    return [f"{v['id']}: {v['nodes'][0]['html'][:160]}" for v in found["violations"]]


def pixels(page: Page) -> np.ndarray:
    """(H, W, 3) what the graphics card drew: nothing that lies over the canvas is in it."""
    data = page.evaluate("document.querySelector('canvas').toDataURL('image/png')")
    picture = Image.open(io.BytesIO(base64.b64decode(data.split(",")[1])))
    return np.asarray(picture.convert("RGB")).astype(int)


def settled(page: Page, seconds: float = 60.0) -> np.ndarray:
    """The picture once two looks at it are the same."""
    deadline = time.monotonic() + seconds
    before = pixels(page)
    while True:
        page.wait_for_timeout(120)
        now = pixels(page)
        if now.shape == before.shape and (now == before).all() and now.std() > 1:
            return now
        if time.monotonic() > deadline:
            raise TimeoutError("the picture does not come to rest")
        before = now


def becomes(page: Page, right: Callable[[np.ndarray], bool], seconds: float = 60.0) -> np.ndarray:
    """The first picture that is right."""
    deadline = time.monotonic() + seconds
    while True:
        now = pixels(page)
        if right(now):
            return now
        if time.monotonic() > deadline:
            raise TimeoutError("the picture does not become what it should")
        page.wait_for_timeout(100)


def changed(before: np.ndarray, share: float = 0.002) -> Callable[[np.ndarray], bool]:
    """Whether more than a share of a picture's pixels is another by more than rounding."""
    return lambda now: now.shape == before.shape and bool((np.abs(now - before).max(axis=2) > 12).mean() > share)


def magenta(picture: np.ndarray) -> int:
    """Pixels in the colour of what is in hand."""
    red, green, blue = picture[..., 0], picture[..., 1], picture[..., 2]
    return int(((red > 120) & (red - green > 60) & (blue - green > 20)).sum())


def middle(page: Page, dx: float = 0.0, dy: float = 0.0) -> tuple[float, float]:
    """A place of the view, by shares of its size from the middle."""
    box = page.get_by_label("The prop in 3D").bounding_box()
    assert box is not None
    return box["x"] + box["width"] * (0.5 + dx), box["y"] + box["height"] * (0.5 + dy)


def in_metres(text: str) -> float:
    """The first length of a text, in metres."""
    found = re.search(r"([\d.\u202f]+) (km|m)\b", text)
    assert found, text
    return float(found.group(1).replace("\u202f", "")) * (1000.0 if found.group(2) == "km" else 1.0)


def thin(number: int) -> str:
    """A count as the interface writes it."""
    return f"{number:,}".replace(",", "\u202f")
