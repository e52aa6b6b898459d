"""Builds are called off at any moment of theirs, and end within two seconds."""

import random
import time

from benchmarks.meshes import grid_obj
from benchmarks.trust.watched import watched

MOST = 2.0
"""Seconds that a build may go on after it was called off."""


def cancels(count: int) -> list[str]:
    """``count`` builds called off."""
    chance, wrong = random.Random(13), []
    longest, called_off = 0.0, 0
    with watched() as server:
        server.take({"big.obj": grid_obj(110)})
        server.settle()
        prop = server.props["big"]
        for number in range(count):
            server.decide(prop, 10.0 + number)
            time.sleep(chance.uniform(0.0, 1.5))
            asked = time.monotonic()
            jobs = server.jobs(prop)
            for job in jobs:
                server.api(f"jobs/{job}/cancel", {})
            server.settle()
            called_off += bool(jobs)
            longest = max(longest, time.monotonic() - asked if jobs else 0.0)
            if server.row("big")["readiness"] == "working":
                wrong.append("a build that was called off is still said to run")
        server.api(f"props/{prop}/rebuild", {})
        server.settle()
        wrong += server.wrong()
        print(f"    {called_off} builds called off, the slowest ended after {longest:.1f} s", flush=True)
    return wrong if longest <= MOST else [*wrong, f"a build went on for {longest:.1f} s"]
