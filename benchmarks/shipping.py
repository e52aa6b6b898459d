"""How long it takes until two hundred props lie in a folder again, of which one changed."""

import tempfile
import time
from pathlib import Path

import numpy as np

from benchmarks.server import Server

PROPS = 200
SIDE = 24
"""Quads along a prop, a wavy sheet: some 1 150 triangles with three levels."""


def _sheet(number: int) -> bytes:
    x, z = np.meshgrid(np.arange(SIDE + 1), np.arange(SIDE + 1))
    y = np.sin(x * 0.3 + number) * np.cos(z * 0.2) * 2
    lines = [f"v {a:.4f} {b:.4f} {c:.4f}" for a, b, c in zip(x.flat, y.flat, z.flat, strict=True)]
    lines += [f"vt {a / SIDE:.4f} {c / SIDE:.4f}" for a, c in zip(x.flat, z.flat, strict=True)]
    first = (np.arange(SIDE)[:, None] * (SIDE + 1) + np.arange(SIDE)).reshape(-1) + 1
    for a in first.tolist():
        lines.append("f " + " ".join(f"{v}/{v}" for v in (a, a + SIDE + 1, a + SIDE + 2, a + 1)))
    return "\n".join(lines).encode()


def shipping() -> None:
    """Seconds of the first shipment of 200 built props into a folder, and of the next after one of them changed."""
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        server.start()
        try:
            server.upload("props/upload", {f"sheet_{n:03}.obj": _sheet(n) for n in range(PROPS)})
            server.wait(lambda: all(row["readiness"] != "working" for row in server.api("props")), 1200)
            ids = [row["id"] for row in server.api("props")]
            print(f"first, {len(ids)} props: {_ship(server, ids):.2f} s")
            for ratio in (0.3, 0.2, 0.1):
                changes = {"changes": {"levels": {"levels": [{"ratio": ratio}]}}}
                server.api(f"props/{ids[7]}/settings", changes, "PATCH")
                server.wait(lambda: all(row["readiness"] != "working" for row in server.api("props")), 60)
                print(f"again, one changed: {_ship(server, ids):.2f} s")
        finally:
            server.stop()


def _ship(server: Server, ids: list[int]) -> float:
    """Seconds from the order until all lie in the folder."""
    manifest = server.home / "delivered" / "props" / "manifest.json"
    before = manifest.stat().st_mtime_ns if manifest.exists() else 0
    started = time.perf_counter()
    order = {"ids": ids, "destination": "plain", "folder": "props"}
    number = server.api("shipments", order)["id"]
    # The manifest is written last: a page is told by an event, and asks no more than this does.
    while not manifest.exists() or manifest.stat().st_mtime_ns == before:
        time.sleep(0.01)
    taken = time.perf_counter() - started
    server.wait(lambda: server.api(f"shipments/{number}")["delivery"]["state"] == "done", 60)
    told = server.api(f"shipments/{number}")["delivery"]
    print(f"  {told['made']} new, {told['replaced']} replaced, {told['same']} left alone")
    return taken
