"""A real server with a state folder of its own, and a real browser."""

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, sync_playwright

CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--no-sandbox",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--disable-background-networking",
    "--disable-component-update",
    "--no-first-run",
]


class Server:
    """``plindro serve`` as a process that can be killed and started again."""

    def __init__(self, home: Path) -> None:
        self.home = home
        self.process: subprocess.Popen[bytes] | None = None
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        command = [str(Path(sys.executable).parent / "plindro"), "serve", "--port", str(self.port)]
        environment = {**os.environ, "PLINDRO_HOME": str(self.home)}
        environment.pop("DJANGO_SETTINGS_MODULE", None)
        with (self.home / "server.log").open("ab") as log:
            self.process = subprocess.Popen(command, env=environment, stdout=log, stderr=log, start_new_session=True)
        self.wait(lambda: urllib.request.urlopen(f"{self.url}/api/project", timeout=2).status == 200, 60)

    def kill(self) -> None:
        """As a power cut would: the server and its workers at once."""
        assert self.process is not None
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        assert self.process is not None
        if self.process.poll() is None:
            self.process.terminate()
            try:
                self.process.wait(timeout=20)
            except subprocess.TimeoutExpired:
                self.kill()

    @staticmethod
    def wait(done: Callable[[], bool], seconds: float) -> None:
        deadline = time.monotonic() + seconds
        while True:
            try:
                if done():
                    return
            except OSError:
                pass
            if time.monotonic() > deadline:
                raise TimeoutError(f"not done within {seconds} s")
            time.sleep(0.1)


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    instance = Server(tmp_path_factory.mktemp("home"))
    instance.start()
    yield instance
    instance.stop()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    with sync_playwright() as playwright:
        instance = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        yield instance
        instance.close()


@pytest.fixture
def page(browser: Browser, server: Server) -> Iterator[Page]:
    """A page of 1280 × 800 on the server; errors on its console fail the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.url, reduced_motion="reduce")
    instance = context.new_page()
    problems: list[str] = []
    instance.on("pageerror", lambda error: problems.append(str(error)))
    instance.on("console", lambda message: problems.append(message.text) if message.type == "error" else None)
    yield instance
    context.close()
    # Refusals are answers, and a killed server breaks its streams; both are shown in the page.
    expected = ("404", "422", "ERR_INCOMPLETE_CHUNKED_ENCODING", "ERR_CONNECTION_REFUSED")
    assert not [problem for problem in problems if not any(word in problem for word in expected)]
