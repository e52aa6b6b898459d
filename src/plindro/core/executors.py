"""Where heavy work runs: processes here, or an existing farm; both as ``concurrent.futures`` executors."""

import multiprocessing
import os
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import Executor, Future
from concurrent.futures.process import BrokenProcessPool
from contextlib import AbstractContextManager, suppress
from dataclasses import dataclass
from importlib import import_module
from multiprocessing.connection import wait
from typing import Any

from pebble import ProcessExpired, ProcessPool

from plindro.core.errors import InvalidSettings, PlindroError


class WorkStopped(PlindroError):
    """A piece of work was ended from outside: its process died, or it took more time or memory than it may.

    ``may_be_tried_again``: its process died, which may have had nothing to do with it.
    """

    def __init__(self, message: str, *, may_be_tried_again: bool = False) -> None:
        super().__init__(message)
        self.may_be_tried_again = may_be_tried_again


@dataclass(frozen=True, slots=True)
class WorkerLimits:
    """What one process may take. None is no limit; ``niceness`` is how far it stands back for others (0 to 19)."""

    seconds: float | None = None
    memory_mib: int | None = None
    niceness: int = 0


def worker_count() -> int:
    """How many processes a pool takes where nobody says otherwise: one a core."""
    return os.cpu_count() or 1


def make_executor(
    workers: int | None = None,
    scheduler: str | None = None,
    patience: float = 10.0,
    limits: WorkerLimits | None = None,
    modules: Sequence[str] = (),
) -> AbstractContextManager[Executor]:
    """An executor of ``workers`` processes (one a core where None), or that of the Dask scheduler at a URL.

    ``patience`` are the seconds that the scheduler has to answer; processes here keep to ``limits`` and have loaded
    ``modules`` before their first piece of work. Raises ``InvalidSettings`` where the scheduler does not answer, or the
    ``farm`` packages are missing.
    """
    if scheduler:
        return _farm_executor(scheduler, patience)
    return WorkerPool(workers or worker_count(), limits or WorkerLimits(), modules)


class WorkerPool(Executor):
    """Processes that do one piece of work each at a time: one that dies or goes on too long costs that piece alone.

    Cancelling a future whose work runs ends the process that runs it.
    """

    def __init__(self, workers: int, limits: WorkerLimits, modules: Sequence[str] = ()) -> None:
        self._workers, self._limits, self._modules = workers, limits, tuple(modules)
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
        if not self._pool.active:
            # A process that died while it had nothing to do has ended the whole pool.
            self._pool = self._made()
        future: Future[Any] = self._pool.schedule(fn, args=args, kwargs=kwargs, timeout=self._limits.seconds)
        return future

    def __exit__(self, kind: object, *_: object) -> None:
        """Wait for what was submitted; after an error, as a key that stops the program, end it."""
        self.shutdown(cancel_futures=kind is not None)

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        if cancel_futures:
            self._pool.stop()
        else:
            self._pool.close()
        if wait:
            self._pool.join()


def result_of(future: Future[Any], limits: WorkerLimits | None = None) -> Any:
    """The result of finished work; what ended it from outside as ``WorkStopped``, all else as it was raised."""
    try:
        return future.result()
    except TimeoutError as error:
        seconds = limits.seconds if limits else None
        if seconds is None:
            raise
        raise WorkStopped(
            f"it took longer than {seconds:g} s and was ended; reduce the source, or allow more"
        ) from error
    except MemoryError as error:
        most = (
            f" than the {limits.memory_mib} MiB that it may have" if limits and limits.memory_mib else " than there is"
        )
        raise WorkStopped(f"it needs more memory{most}; reduce the source, or allow more") from error
    except (ProcessExpired, BrokenProcessPool) as error:
        raise WorkStopped(
            "the process that worked on it died; the file may be damaged", may_be_tried_again=True
        ) from error


def _begin(limits: WorkerLimits, modules: Sequence[str]) -> None:
    """What a process does before its first piece of work."""
    threading.Thread(target=_end_with_parent, name="plindro-parent", daemon=True).start()
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
        wait([parent.sentinel])
        os._exit(1)


def _farm_executor(scheduler: str, patience: float) -> AbstractContextManager[Executor]:
    try:
        from distributed import Client
    except ImportError as error:
        raise InvalidSettings(
            "work on a farm needs the package distributed; install it with: pip install 'plindro[farm]'"
        ) from error
    try:
        client: Any = Client(scheduler, timeout=f"{patience}s", set_as_default=False)
    except (OSError, ValueError, TimeoutError) as error:
        raise InvalidSettings(f"the scheduler at {scheduler} does not answer; start it or leave it out") from error
    executor: AbstractContextManager[Executor] = client.get_executor(pure=False)
    return executor
