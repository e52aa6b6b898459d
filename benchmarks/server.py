"""``plindro serve`` as a process of its own, that can be asked, killed and started again."""

import json
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
import uuid
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any


class Server:
    """A server on a free port, whose state lies in ``home``."""

    def __init__(self, home: Path, **environment: str) -> None:
        self.home = home
        self.process: subprocess.Popen[bytes] | None = None
        self._environment = environment
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port: int = probe.getsockname()[1]

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    @property
    def environment(self) -> dict[str, str]:
        """What its process finds around it."""
        own = {**os.environ, **self._environment, "PLINDRO_HOME": str(self.home)}
        own.pop("DJANGO_SETTINGS_MODULE", None)
        return own

    def start(self, *options: str) -> None:
        """Start it, and wait until it answers."""
        self.launch(*options)
        self.wait(lambda: urllib.request.urlopen(f"{self.url}/api/project", timeout=2).status == 200, 180)

    def launch(self, *options: str) -> None:
        """Start it."""
        command = [str(Path(sys.executable).parent / "plindro"), "serve", "--port", str(self.port), *options]
        with (self.home / "server.log").open("ab") as log:
            self.process = subprocess.Popen(
                command, env=self.environment, stdout=log, stderr=log, start_new_session=True
            )

    def kill(self) -> None:
        """As a power cut would: the server and its workers at once."""
        assert self.process is not None
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        """Ask it to end, and insist after a while."""
        assert self.process is not None
        if self.process.poll() is None:
            self.process.terminate()
            try:
                self.process.wait(timeout=20)
            except subprocess.TimeoutExpired:
                self.kill()

    def api(
        self,
        path: str,
        body: object | None = None,
        method: str | None = None,
        headers: Mapping[str, str] | None = None,
    ) -> Any:
        """The JSON of an address; a ``body`` is posted to it as JSON, or sent by another method."""
        if body is None and method is None:
            return json.load(urllib.request.urlopen(f"{self.url}/api/{path}", timeout=60))
        return self._write(path, json.dumps(body or {}).encode(), "application/json", method or "POST", headers)

    def upload(self, path: str, files: Mapping[str, bytes]) -> Any:
        """Send files by their paths, as a drop on the page does."""
        boundary = uuid.uuid4().hex
        parts = []
        for name, data in files.items():
            head = f'--{boundary}\r\nContent-Disposition: form-data; name="files"; filename="{Path(name).name}"\r\n\r\n'
            named = f'--{boundary}\r\nContent-Disposition: form-data; name="paths"\r\n\r\n{name}\r\n'
            parts += [head.encode(), data, b"\r\n", named.encode()]
        body = b"".join([*parts, f"--{boundary}--\r\n".encode()])
        return self._write(path, body, f"multipart/form-data; boundary={boundary}", "POST")

    def _write(self, path: str, body: bytes, kind: str, method: str, more: Mapping[str, str] | None = None) -> Any:
        # As a page does: with the token that came with it, and its origin.
        cookie = urllib.request.urlopen(self.url, timeout=60).headers["Set-Cookie"].split(";")[0]
        headers = {
            "Content-Type": kind,
            "Origin": self.url,
            "Cookie": cookie,
            "X-CSRFToken": cookie.partition("=")[2],
            **(more or {}),
        }
        request = urllib.request.Request(f"{self.url}/api/{path}", body, headers, method=method)
        return json.load(urllib.request.urlopen(request, timeout=120))

    def row(self, name: str) -> Any:
        """The row of the board of this name."""
        return next(row for row in self.api("props") if row["name"] == name)

    def prop(self, name: str) -> Any:
        """Everything that the Bench shows of the prop of this name."""
        return self.api(f"props/{self.row(name)['id']}")

    def built(self, *names: str) -> bool:
        """Whether props of these names are on the board and none is being built."""
        rows = [row for row in self.api("props") if row["name"] in names]
        return len(rows) == len(names) and all(row["readiness"] != "working" for row in rows)

    @staticmethod
    def wait(done: Callable[[], bool], seconds: float) -> None:
        """Until something is so; raises ``TimeoutError``."""
        deadline = time.monotonic() + seconds
        while True:
            try:
                if done():
                    return
            except OSError:
                pass
            if time.monotonic() > deadline:
                raise TimeoutError(f"not done within {seconds:g} s")
            time.sleep(0.1)
