"""Whether the kernels are compiled for the code that is installed, told without importing any of it."""

import hashlib
import os
import sys
from importlib.metadata import version
from pathlib import Path

import click

import plindro
from plindro.cli.output import DONE

_CORE = Path(plindro.__file__).parent / "core"


def ready_file() -> Path:
    """The file that says for which code the kernels were compiled: where Numba keeps what it compiled, if we may write.

    It is named as Numba's own index files are, so that whoever clears those clears it too.
    """
    kept = os.environ.get("NUMBA_CACHE_DIR")
    beside = Path(kept) if kept else _CORE / "__pycache__"
    if not kept and not os.access(_CORE, os.W_OK):
        beside = Path(os.environ.get("PLINDRO_HOME") or "var") / "run"
    return beside / "ready.nbi"


def fingerprint() -> str:
    """A digest of the core's code as it is installed."""
    digest = hashlib.sha256(version("numba").encode())
    for path in sorted(_CORE.rglob("*.py")):
        status = path.stat()
        digest.update(f"{path} {status.st_size} {status.st_mtime_ns}\n".encode())
    return digest.hexdigest()


def compile_once() -> int:
    """Compile every kernel where that was not done for the installed code, with a bar on stderr."""
    ready, now = ready_file(), fingerprint()
    if ready.is_file() and ready.read_text() == now:
        return DONE
    if os.access(_CORE, os.W_OK):
        # Numba looks at a kernel's own file alone: of one that uses another, or has moved, it would take what is old.
        for old in [*_CORE.rglob("*.nbi"), *_CORE.rglob("*.nbc")]:
            old.unlink(missing_ok=True)
    from plindro.core.warm import warm_up

    with click.progressbar(length=1000, label="compiling the kernels", file=sys.stderr) as bar:
        shown = 0

        def advance(fraction: float, doing: str) -> None:
            nonlocal shown
            step = int(1000 * fraction) - shown
            if step > 0:
                bar.update(step)
                shown += step

        warm_up(advance)
    ready.parent.mkdir(parents=True, exist_ok=True)
    ready.write_text(now)
    return DONE
