"""The ASGI application: Django, and the runner that lives as long as the server."""

import os
from collections.abc import Awaitable, Callable
from typing import Any

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "plindro.web.settings")
_django = get_asgi_application()

Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]


async def application(scope: dict[str, Any], receive: Receive, send: Send) -> None:
    """Requests go to Django; start and stop of the server start and stop the runner."""
    if scope["type"] == "lifespan":
        await _run_lifespan(receive, send)
    else:
        await _django(scope, receive, send)  # type: ignore[arg-type]


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
