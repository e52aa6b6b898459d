"""Large files are sent to several at once without being held in memory."""

import threading
import time
import urllib.request
from pathlib import Path

from benchmarks.trust.watched import watched

SIZE = 700 * 10**6
MOST = 50 * 2**20
"""Bytes that the server may need for all of them."""


def downloads(rounds: int) -> list[str]:
    """Four at once of a shipment's archive."""
    with watched() as server:
        number = server.ship()
        server.settle()
        archive = server.home / "shipments" / f"{number}.zip"
        with archive.open("r+b") as file:
            file.truncate(SIZE)
        assert server.process is not None
        memory = Path(f"/proc/{server.process.pid}/status")
        before = peak = _resident(memory)
        address = f"{server.url}/api/shipments/{number}/archive.zip"
        readers = [threading.Thread(target=_read, args=(address,), daemon=True) for _ in range(4 * rounds)]
        for reader in readers:
            reader.start()
        while any(reader.is_alive() for reader in readers):
            peak = max(peak, _resident(memory))
            time.sleep(0.05)
        print(f"    the server grew by {(peak - before) / 2**20:.1f} MiB", flush=True)
        return [] if peak - before <= MOST else [f"the server grew by {(peak - before) / 2**20:.0f} MiB"]


def _read(address: str) -> None:
    with urllib.request.urlopen(address, timeout=300) as answer:
        while answer.read(1 << 20):
            pass


def _resident(status: Path) -> int:
    line = next(line for line in status.read_text().splitlines() if line.startswith("VmRSS"))
    return int(line.split()[1]) * 1024
