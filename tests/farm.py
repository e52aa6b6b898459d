"""A small farm for tests, run as ``python -m tests.farm``; and the work that is sent to it.

Prints the scheduler's address, and closes when its input does.
"""

import os
import signal
import sys
from pathlib import Path

from plindro.core.destinations import DESTINATIONS
from plindro.core.files import MemoryFiles
from plindro.core.lines import get_line
from plindro.core.shipping import prepare
from plindro.demo import build_prop


def build_one(stem: str) -> list[bytes]:
    """The shipped files of a demo prop."""
    files = build_prop(stem)
    name = next(name for name in files if Path(name).suffix in (".obj", ".glb", ".usda", ".ply", ".gltf"))
    result = prepare(files[name], name, MemoryFiles(files), get_line("standing"), DESTINATIONS[0])
    return [file.data for file in result.files]


def die_once(mark: str) -> int:
    """Kill the worker that runs this; at the second try say which process did it."""
    path = Path(mark)
    if not path.exists():
        path.write_text(str(os.getpid()))
        os.kill(os.getpid(), signal.SIGKILL)
    return os.getpid()


def main() -> None:
    from distributed import LocalCluster

    with LocalCluster(
        n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None, host="127.0.0.1"
    ) as cluster:
        sys.stdout.write(f"{cluster.scheduler_address}\n")
        sys.stdout.flush()
        sys.stdin.read()


if __name__ == "__main__":
    main()
