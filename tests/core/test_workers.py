"""Worker processes: what costs one piece of work, and no other; and that none outlives the process that made it."""

import gc
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from pebble.pool.channel import WorkerChannel

from plindro.core.executors import WorkStopped, result_of
from plindro.core.worker_pool import WorkerLimits, WorkerPool

LIMITS = WorkerLimits(seconds=3.0, memory_mib=1024)


@pytest.fixture(scope="module")
def pool() -> Iterator[WorkerPool]:
    with WorkerPool(1, LIMITS) as instance:
        yield instance
        instance.shutdown(cancel_futures=True)


def take_much(mebibytes: int) -> int:
    return int(np.ones(mebibytes * 2**17).sum())


def test_what_dies_takes_too_long_or_too_much_costs_itself_alone(pool: WorkerPool) -> None:
    bad = [pool.submit(os.abort), pool.submit(time.sleep, 60), pool.submit(take_much, 4096)]
    good = [pool.submit(pow, 2, n) for n in range(4)]
    for future, words in zip(bad, ("died", "longer than 3 s", "more memory than the 1024 MiB"), strict=True):
        with pytest.raises(WorkStopped, match=words):
            result_of(future, LIMITS)
    assert [result_of(future, LIMITS) for future in good] == [1, 2, 4, 8]
    assert result_of(pool.submit(take_much, 64), LIMITS) == 64 * 2**17


def test_work_that_does_not_listen_is_ended_by_cancelling_it(pool: WorkerPool) -> None:
    future = pool.submit(time.sleep, 60)
    while not future.running():
        time.sleep(0.01)
    future.cancel()
    assert pool.submit(pow, 3, 2).result(30) == 9


def test_work_given_to_a_process_that_is_dead_is_done_by_the_next(pool: WorkerPool) -> None:
    for pause in (0.0, 0.05, 0.3):
        worker = pool.submit(os.getpid).result(30)
        time.sleep(pause)
        os.kill(worker, signal.SIGKILL)
        # Some of it is given before the pool knows, some after; none of it had begun, so none of it is lost.
        given = [pool.submit(pow, 2, n) for n in range(4)]
        assert [result_of(work, LIMITS) for work in given] == [1, 2, 4, 8]
        assert pool.submit(os.getpid).result(30) != worker


def die_in_turn() -> None:
    """Be killed as if by the system, in the moment in which work is taken up and no other process may."""
    (channel,) = (thing for thing in gc.get_objects() if isinstance(thing, WorkerChannel))
    channel.mutex.acquire()
    os.kill(os.getpid(), signal.SIGKILL)


def test_a_process_that_is_killed_while_it_takes_up_work_holds_nothing_up() -> None:
    with WorkerPool(1, WorkerLimits(handover=1.0)) as pool:
        with pytest.raises(WorkStopped, match="died"):
            result_of(pool.submit(die_in_turn))
        assert pool.submit(pow, 2, 5).result(60) == 32


def test_work_that_no_process_takes_up_ends_in_words(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("plindro.core.worker_pool.TRIES", 2)
    with WorkerPool(1, LIMITS, modules=["plindro.no_such_module"]) as pool:
        work = pool.submit(pow, 2, 3)
        with pytest.raises(WorkStopped, match="died"):
            result_of(work, LIMITS)
        waiting = pool.submit(pow, 2, 3)
        assert waiting.cancel()
        assert (waiting.cancelled(), waiting.running()) == (True, False)


def test_no_worker_outlives_the_process_that_made_it(tmp_path: Path) -> None:
    script = (
        "import os, time\n"
        "from plindro.core.worker_pool import WorkerLimits, WorkerPool\n"
        "if __name__ == '__main__':\n"
        "    pool = WorkerPool(2, WorkerLimits())\n"
        "    print(*{pool.submit(os.getpid).result() for _ in range(8)}, flush=True)\n"
        "    pool.submit(time.sleep, 600).result()\n"
    )
    (tmp_path / "owner.py").write_text(script)
    with subprocess.Popen([sys.executable, str(tmp_path / "owner.py")], stdout=subprocess.PIPE, text=True) as owner:
        assert owner.stdout
        workers = [int(pid) for pid in owner.stdout.readline().split()]
        assert workers
        owner.send_signal(signal.SIGKILL)
    deadline = time.monotonic() + 20
    while any(_lives(pid) for pid in workers):
        assert time.monotonic() < deadline, "workers are left over"
        time.sleep(0.05)


def _lives(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except FileNotFoundError:
        return False
