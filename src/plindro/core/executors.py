"""Where heavy work runs: a process pool here, or an existing farm; both as ``concurrent.futures`` executors."""

import multiprocessing
import os
from concurrent.futures import Executor, ProcessPoolExecutor
from contextlib import AbstractContextManager
from typing import Any

from plindro.core.errors import InvalidSettings


def worker_count() -> int:
    """How many processes a pool takes where nobody says otherwise: one a core."""
    return os.cpu_count() or 1


def make_executor(
    workers: int | None = None, scheduler: str | None = None, patience: float = 10.0
) -> AbstractContextManager[Executor]:
    """An executor of ``workers`` processes (one a core where None), or that of the Dask scheduler at a URL.

    ``patience`` are the seconds that the scheduler has to answer. Raises ``InvalidSettings`` where it does not, or the
    ``farm`` packages are missing.
    """
    if scheduler:
        return _farm_executor(scheduler, patience)
    # Fresh processes: a forked one would inherit the server's threads and database handles.
    context = multiprocessing.get_context("spawn")
    return ProcessPoolExecutor(workers or worker_count(), mp_context=context)


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
