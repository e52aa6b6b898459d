"""The server is killed, at random and at moments that are known to be delicate, and started again."""

import os
import random
import signal
import threading
import time
from collections.abc import Callable
from http.client import HTTPException

from benchmarks.meshes import grid_obj
from benchmarks.trust.watched import PROPS, Watched, watched

PATIENCE = 20.0
"""Seconds in which a moment must come."""


def kills(count: int) -> list[str]:
    """``count`` kills at random, and a fifth as many at each of the moments."""
    wrong: list[str] = []
    chance = random.Random(5)
    with watched() as server:
        moments: dict[str, tuple[Callable[[Watched], bool], int]] = {
            "at random": (_anytime(chance), count),
            "an upload comes in": (lambda s: any((s.home / "files" / "incoming").glob("*/*")), count // 5),
            "a prop is built": (lambda s: s.running("build"), count // 5),
            "a result is written": (lambda s: any((s.home / "files").glob("[0-9a-f][0-9a-f]/.*.part")), count // 5),
            "a shipment is delivered": (lambda s: any((s.home / "delivered").rglob("*.part")), count // 5),
            "its archive is packed": (lambda s: any((s.home / "shipments").glob("*.part")), count // 5),
        }
        for title, (is_there, times) in moments.items():
            met = 0
            for number in range(times):
                met += _kill_when(server, is_there, number)
                found = server.orphans()
                server.start()
                server.settle()
                wrong += [f"{title}, kill {number}: {text}" for text in (*found, *server.wrong())]
                server.clear()
            print(f"    {title:<24}{met:>3} of {times} kills", flush=True)
        met = sum(_kill_at_start(server, chance.uniform(0.05, 3.0)) for _ in range(count // 5))
        print(f"    {'the server starts':<24}{met:>3} of {count // 5} kills", flush=True)
        server.start()
        server.settle()
        wrong += server.wrong()
    return wrong


def _anytime(chance: random.Random) -> Callable[[Watched], bool]:
    """Comes about once in two seconds of looking every millisecond."""
    return lambda server: chance.random() < 1 / 500


def _work(server: Watched, number: int, stop: threading.Event) -> None:
    """Upload, decide and ship until the server is gone."""
    turn = 0
    try:
        while not stop.is_set():
            turn += 1
            if turn % 3 == 1:
                server.take({f"new_{number}_{turn}.obj": grid_obj(12 + number % 7), "paint.png": os.urandom(8_000_000)})
            for name in PROPS:
                server.decide(server.props[name], 20.0 + (number * 3 + turn) % 60)
            server.ship()
            time.sleep(0.2)
    except (OSError, ValueError, HTTPException):
        return


def _kill_when(server: Watched, is_there: Callable[[Watched], bool], number: int) -> bool:
    """Kill it, alone and without warning, when a moment has come; returns whether it came."""
    stop = threading.Event()
    worker = threading.Thread(target=_work, args=(server, number, stop), daemon=True)
    worker.start()
    deadline = time.monotonic() + PATIENCE
    while not (met := is_there(server)) and time.monotonic() < deadline:
        time.sleep(0.001)
    _kill(server)
    stop.set()
    worker.join()
    return met


def _kill(server: Watched) -> None:
    """The server alone: its workers have to see to their own end."""
    if server.process is not None and server.process.poll() is None:
        os.kill(server.process.pid, signal.SIGKILL)
        server.process.wait()


def _kill_at_start(server: Watched, after: float) -> bool:
    """Kill it, and again while it starts."""
    _kill(server)
    server.launch()
    time.sleep(after)
    _kill(server)
    return True
