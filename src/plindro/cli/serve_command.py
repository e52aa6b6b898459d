"""``plindro serve`` and ``plindro warm``."""

import hashlib
import os
import socket
import sys
import webbrowser
from importlib.metadata import version
from pathlib import Path

import click

import plindro
from plindro.cli.output import DONE
from plindro.core.errors import InvalidSettings


def warm_kernels() -> int:
    """Compile everything once, with a bar on stderr."""
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
    return DONE


def serve(port: int, demo: bool, open_browser: bool) -> int:
    """Migrate, load the demo where asked for, and serve until stopped."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "plindro.web.settings")
    _check_port(port)
    import django

    django.setup()
    from django.conf import settings
    from django.core.management import call_command

    for folder in (settings.FILES, settings.SHIPMENTS, settings.RUN):
        Path(folder).mkdir(parents=True, exist_ok=True)
    call_command("migrate", verbosity=0)
    _warm_once(Path(settings.RUN) / "kernels")
    if demo:
        _load_demo()
    address = f"http://127.0.0.1:{port}/"
    click.echo(f"Plindro is at {address}  (Ctrl+C stops it)")
    if open_browser:
        webbrowser.open(address)
    import uvicorn

    uvicorn.run(
        "plindro.web.asgi:application", host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=2
    )
    return DONE


def code_fingerprint() -> str:
    """A digest of the core's code as it is installed, told without importing any of it: start-up waits for this."""
    core = Path(plindro.__file__).parent / "core"
    digest = hashlib.sha256(version("numba").encode())
    for path in sorted(core.rglob("*.py")):
        status = path.stat()
        digest.update(f"{path} {status.st_size} {status.st_mtime_ns}\n".encode())
    return digest.hexdigest()


def _warm_once(stamp: Path) -> None:
    """Compile the kernels where that was not done for the installed code; ``stamp`` is the file that tells."""
    now = code_fingerprint()
    if not stamp.is_file() or stamp.read_text() != now:
        warm_kernels()
        stamp.write_text(now)


def _check_port(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise InvalidSettings(f"port {port} is in use; choose another with --port N") from error


def _load_demo() -> None:
    from plindro.web.demo_data import load_demo

    def show(done: int, of: int, name: str) -> None:
        click.echo(f"\r  demo prop {min(done + 1, of)} of {of}: {name:<24}", nl=done == of, err=True)

    load_demo(show)
