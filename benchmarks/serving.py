"""How long pages wait for the server while it works: 30 clients, and a shipment of the demo."""

import http.client
import json
import tempfile
import threading
import time
from pathlib import Path

import numpy as np

from benchmarks.server import Server

CLIENTS = 30
PAUSE = 0.5
"""Seconds between what one client asks; none is the hardest that it can do."""


class _Client(threading.Thread):
    """Reads the board and a prop by turns, over one connection, as a page does."""

    def __init__(self, server: Server, props: list[int], number: int, pause: float, stop: threading.Event) -> None:
        super().__init__(daemon=True)
        self._server, self._props, self._number, self._pause, self._stopped = server, props, number, pause, stop
        self.waits: dict[str, list[float]] = {"board": [], "prop": []}

    def run(self) -> None:
        connection = http.client.HTTPConnection("127.0.0.1", self._server.port)
        turn = self._number
        tags: dict[str, str] = {}
        while not self._stopped.is_set():
            turn += 1
            for kind, path in (("board", "/api/props"), ("prop", f"/api/props/{self._props[turn % len(self._props)]}")):
                started = time.perf_counter()
                connection.request("GET", path, headers={"If-None-Match": tags.get(path, '""')})
                answer = connection.getresponse()
                answer.read()
                self.waits[kind].append(time.perf_counter() - started)
                tags[path] = answer.headers.get("ETag", '""')
                self._stopped.wait(self._pause)


def _ask(server: Server, pause: float, seconds: float) -> dict[str, list[float]]:
    props = [row["id"] for row in server.api("props")]
    stop = threading.Event()
    clients = [_Client(server, props, number, pause, stop) for number in range(CLIENTS)]
    for client in clients:
        client.start()
    time.sleep(seconds)
    stop.set()
    for client in clients:
        client.join()
    return {kind: [wait for client in clients for wait in client.waits[kind]] for kind in ("board", "prop")}


def serving() -> None:
    """p50 and p95 in milliseconds, at rest and while everything ships, with a pause between questions and without."""
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        server.start("--demo")
        try:
            server.wait(lambda: all(row["readiness"] != "working" for row in server.api("props")), 600)
            for at_work in (False, True):
                for pause in (PAUSE, 0.0):
                    if at_work:
                        _ship_anew(server)
                    _tell(_ask(server, pause, 25.0), at_work, pause, server)
        finally:
            server.stop()


def _ship_anew(server: Server) -> None:
    """Order a shipment of all props, each of which has to be built for it."""
    props = [row["id"] for row in server.api("props")]
    for prop in props:
        angle = server.api(f"props/{prop}")["settings"]["normals"]["angle"]
        server.api(f"props/{prop}/settings", {"changes": {"normals": {"angle": angle + 0.5}}}, "PATCH")
    server.api("shipments", {"ids": props, "destination": "plain"})


def _tell(waits: dict[str, list[float]], at_work: bool, pause: float, server: Server) -> None:
    jobs = json.dumps(sum(row["readiness"] == "working" for row in server.api("props")))
    state = f"shipping, {jobs} props still being built at the end" if at_work else "at rest"
    print(f"  {CLIENTS} clients, {pause:g} s between questions, {state}")
    for kind, values in waits.items():
        low, high = np.percentile(np.array(values) * 1000, [50, 95])
        print(f"    {kind:<6} {len(values):>6} answers   p50 {low:>6.0f} ms   p95 {high:>6.0f} ms")
