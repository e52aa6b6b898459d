"""Workers are killed while they build: the work is taken up again, and the server goes on."""

import os
import random
import signal
import time
from contextlib import suppress
from pathlib import Path

from benchmarks.trust.watched import PROPS, Watched, watched


def dead_workers(count: int) -> list[str]:
    """``count`` workers killed, at a build one or all; each build must come to its end."""
    chance, wrong = random.Random(11), []
    with watched() as server:
        for number in range(count):
            server.decide(server.props[PROPS[number % len(PROPS)]], 10.0 + number)
            server.wait(lambda: server.running("build"), 30)
            time.sleep(chance.uniform(0.0, 0.3))
            for pid in _workers(server)[: 1 + number % 2]:
                with suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGKILL)
            server.settle()
            wrong += server.wrong()
        print(f"    {count} builds whose workers were killed", flush=True)
    return wrong


def _workers(server: Watched) -> list[int]:
    """The processes that build."""
    found = []
    for pid in server.processes():
        with suppress(OSError):
            if b"spawn_main" in Path(f"/proc/{pid}/cmdline").read_bytes():
                found.append(pid)
    return found
