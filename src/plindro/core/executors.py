"""Where heavy work runs: processes here, or an existing farm; both as ``concurrent.futures`` executors."""

import os
from collections.abc import Sequence
from concurrent.futures import Executor, Future
from concurrent.futures.process import BrokenProcessPool
from contextlib import AbstractContextManager
from typing import Any

from pebble import ProcessExpired

from plindro.core.errors import InvalidSettings, PlindroError
from plindro.core.worker_pool import WorkerLimits, WorkerPool


class WorkStopped(PlindroError):
    """A piece of work was ended from outside: its process died, or it took more time or memory than it may.

    ``may_be_tried_again``: its process died, which may have had nothing to do with it.
    """

    def __init__(self, message: str, *, may_be_tried_again: bool = False) -> None:
        super().__init__(message)
        self.may_be_tried_again = may_be_tried_again


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
