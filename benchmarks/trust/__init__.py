"""Trials of trust: kills, dead workers, full disks, cancels, two browsers. What was acknowledged must be there after.

``python -m benchmarks trust``; ``PLINDRO_TRIALS=0.1`` runs a tenth of them.
"""

import os
from collections.abc import Callable

from benchmarks.trust.browsers import two_browsers
from benchmarks.trust.cancels import cancels
from benchmarks.trust.disks import full_disks
from benchmarks.trust.downloads import downloads
from benchmarks.trust.kills import kills
from benchmarks.trust.workers import dead_workers

SHARE = float(os.environ.get("PLINDRO_TRIALS") or 1.0)


def trust() -> None:
    """Every trial with what it lost and what it left, which is to be nothing."""
    trials: list[tuple[str, Callable[[int], list[str]], int]] = [
        ("kills", kills, 50),
        ("killed workers", dead_workers, 25),
        ("full disks", full_disks, 1),
        ("cancels", cancels, 50),
        ("two browsers", two_browsers, 1),
        ("four downloads of 700 MB at once", downloads, 1),
    ]
    for title, run, count in trials:
        print(f"  {title}", flush=True)
        wrong = run(max(1, round(count * SHARE)))
        print("    nothing lost, nothing left" if not wrong else "\n".join(f"    WRONG: {text}" for text in wrong))
