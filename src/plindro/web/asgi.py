"""The ASGI application: Django, and the runner that lives as long as the server."""

import os
from typing import Any

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "plindro.web.settings")
_django = get_asgi_application()

# Its models can be loaded once Django is set up.
from plindro.web import events  # noqa: E402
from plindro.web.bodies import Receive, Send, serve_limited  # noqa: E402


async def application(scope: dict[str, Any], receive: Receive, send: Send) -> None:
    """Requests go to Django; start and stop of the server start and stop the runner."""
    if scope["type"] == "lifespan":
        await _run_lifespan(receive, send)
    elif scope["type"] == "http" and scope["path"] == events.PATH:
        await events.stream(scope, receive, send)
    else:
        await serve_limited(_django, scope, receive, send)  # type: ignore[arg-type]


async def _run_lifespan(receive: Receive, send: Send) -> None:
    from plindro.web.work.runner import Runner

    runner = Runner()
    while True:
        message = await receive()
        if message["type"] == "lifespan.startup":
            runner.start()
            await send({"type": "lifespan.startup.complete"})
        elif message["type"] == "lifespan.shutdown":
            runner.stop()
            await send({"type": "lifespan.shutdown.complete"})
            return
