"""Measuring: the least CPU time of a few runs, after one that does not count."""

import time
from collections.abc import Callable
from typing import Any, TypeVar

T = TypeVar("T")


def cpu_seconds(work: Callable[[], Any], runs: int = 3) -> float:
    """The least CPU time of ``runs`` calls of ``work``, after one uncounted."""
    work()
    best = float("inf")
    for _ in range(runs):
        start = time.process_time()
        work()
        best = min(best, time.process_time() - start)
    return best


def row(what: str, ours: float, others: dict[str, float], per: tuple[float, str]) -> None:
    """Print a line: our time, our rate, and each library's time as a ratio to ours (above 1: we are faster)."""
    amount, unit = per
    beside = "  ".join(f"{name} {seconds:.3f} s ({seconds / ours:.2f} ×)" for name, seconds in others.items())
    print(f"{what:<44} {ours:7.3f} s  {amount / ours / 1e6:7.2f} M {unit}/s   {beside}")


def timed(work: Callable[[], T]) -> tuple[T, float]:
    """What one call gives, and its CPU seconds."""
    start = time.process_time()
    made = work()
    return made, time.process_time() - start
