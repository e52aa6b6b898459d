"""A pool of processes that do one piece of work each at a time, on pebble."""

import multiprocessing
import os
import threading
import time
from collections.abc import Callable, Sequence
from concurrent.futures import Executor, Future, InvalidStateError
from concurrent.futures import wait as wait_for_all
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from importlib import import_module
from multiprocessing.connection import wait as wait_for
from typing import Any

from pebble import CONSTS, ProcessPool

WATCH = 0.1
"""Seconds between two looks whether the processes are still there, while there is work."""
TRIES = 20
"""How often work is given to new processes where those that it was given to ended before they took it up."""


@dataclass(frozen=True, slots=True)
class WorkerLimits:
    """What one process may take. None is no limit; ``niceness`` is how far it stands back for others (0 to 19).

    ``handover``: the seconds that it waits for its turn to take up work or hand in a result. One that is killed in its
    own turn never ends it: the others end after that time, and new ones take over.
    """

    seconds: float | None = None
    memory_mib: int | None = None
    niceness: int = 0
    handover: float = 10.0


class WorkerPool(Executor):
    """Processes that do one piece of work each at a time: one that dies or goes on too long costs that piece alone.

    Work that was given to processes which ended before they took it up is given to new ones; what came of it is then
    that of its only run. Cancelling a future whose work runs ends the process that runs it.
    """

    def __init__(self, workers: int, limits: WorkerLimits, modules: Sequence[str] = ()) -> None:
        self._workers, self._limits, self._modules = workers, limits, tuple(modules)
        self._lock = threading.Lock()
        self._open: set[_Work] = set()
        self._ended = False
        self._watcher: threading.Thread | None = None
        self._pool = self._made()

    def _made(self) -> ProcessPool:
        return ProcessPool(
            max_workers=self._workers,
            # Fresh processes: a forked one would inherit the server's threads and database handles.
            context=multiprocessing.get_context("spawn"),
            initializer=_begin,
            initargs=(self._limits, self._modules),
        )

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        work = _Work(partial(fn, *args, **kwargs))
        with self._lock:
            if self._ended:
                raise RuntimeError("the pool takes no more work")
            self._open.add(work)
            self._give(work)
            if self._watcher is None:
                self._watcher = threading.Thread(target=self._watch, name="plindro-pool", daemon=True)
                self._watcher.start()
        work.add_done_callback(self._open.discard)
        return work

    def _give(self, work: "_Work") -> None:
        """Hand work to the processes, or to new ones where these are not there any more."""
        while True:
            if not self._pool.active:
                # One that dies while none has any work ends all of them.
                self._pool.stop()
                self._pool.join()
                self._pool = self._made()
            with suppress(RuntimeError):
                work.give_to(self._pool, self._limits.seconds)
                return

    def _watch(self) -> None:
        """While there is work, give anew what was given to processes that ended before they took it up."""
        while True:
            with self._lock:
                for work in list(self._open):
                    if work.was_lost() and not self._ended:
                        self._give(work)
                if not self._open or self._ended:
                    self._watcher = None
                    return
            time.sleep(WATCH)

    def __exit__(self, kind: object, *_: object) -> None:
        """Wait for what was submitted; after an error, as a key that stops the program, end it."""
        self.shutdown(cancel_futures=kind is not None)

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        if not cancel_futures and wait:
            wait_for_all(list(self._open))
        with self._lock:
            self._ended = True
            if cancel_futures:
                self._pool.stop()
            else:
                self._pool.close()
        if wait:
            self._pool.join()


class _Work(Future[Any]):
    """A piece of work, and where it is done."""

    def __init__(self, call: Callable[[], Any]) -> None:
        super().__init__()
        self._call = call
        self._times = 0
        self._pool: ProcessPool
        self._run: Future[Any]

    def give_to(self, pool: ProcessPool, seconds: float | None) -> None:
        """Have these processes do it; raises ``RuntimeError`` where they take no more."""
        if self._times == TRIES:
            self.set_exception(BrokenProcessPool(f"{TRIES} times there was no process that took it up"))
            return
        self._run = pool.schedule(self._call, timeout=seconds)
        self._pool, self._times = pool, self._times + 1
        self._run.add_done_callback(self._take)

    def was_lost(self) -> bool:
        """Whether the processes that it was given to ended, and nothing came of it."""
        return not self.done() and not self._pool.active

    def running(self) -> bool:
        return not self.done() and self._run.running()

    def cancel(self) -> bool:
        self._run.cancel()
        if self.cancelled():
            return True
        if not super().cancel():
            return False
        self.set_running_or_notify_cancel()
        return True

    def _take(self, run: Future[Any]) -> None:
        """What came of it, but for processes that ended before any had taken it up."""
        if run.cancelled():
            return
        error = run.exception()
        if isinstance(error, BrokenProcessPool):
            return
        # Cancelled in this very moment, it stays so.
        with suppress(InvalidStateError):
            if error is None:
                self.set_result(run.result())
            else:
                self.set_exception(error)


def _begin(limits: WorkerLimits, modules: Sequence[str]) -> None:
    """What a process does before its first piece of work."""
    threading.Thread(target=_end_with_parent, name="plindro-parent", daemon=True).start()
    CONSTS.channel_lock_timeout = limits.handover
    if limits.niceness and hasattr(os, "nice"):
        os.nice(limits.niceness)
    for module in modules:
        import_module(module)
    if limits.memory_mib is not None:
        with suppress(ImportError, ValueError, OSError):
            import resource

            size = limits.memory_mib * 2**20
            resource.setrlimit(resource.RLIMIT_DATA, (size, size))


def _end_with_parent() -> None:
    """However the process that made this one ends, this one ends with it."""
    parent = multiprocessing.parent_process()
    if parent is not None:
        wait_for([parent.sentinel])
        os._exit(1)
