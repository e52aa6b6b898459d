"""``plindro serve``."""

import os
import socket
import warnings
import webbrowser
from pathlib import Path

import click

from plindro.cli.compiled import compile_once
from plindro.cli.output import DONE
from plindro.core.errors import InvalidSettings


def serve(port: int, demo: bool, open_browser: bool) -> int:
    """Migrate, load the demo where asked for, and serve until stopped."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "plindro.web.settings")
    # What the server and its workers make is their owner's alone, from the first byte.
    os.umask(0o077)
    _check_port(port)
    import django

    django.setup()
    from django.conf import settings
    from django.core.management import call_command

    for folder in (settings.FILES, settings.SHIPMENTS, settings.RUN):
        Path(folder).mkdir(parents=True, exist_ok=True)
    call_command("migrate", verbosity=0)
    compile_once()
    if demo:
        _load_demo()
    address = f"http://127.0.0.1:{port}/"
    click.echo(f"Plindro is at {address}  (Ctrl+C stops it)")
    if open_browser:
        webbrowser.open(address)
    import uvicorn

    # The page's own scripts and fonts are handed over piece by piece; they are small, and Django warns of it once.
    warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
    uvicorn.run(
        "plindro.web.asgi:application", host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=2
    )
    return DONE


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
