"""The ASGI application: Django, and the runner that lives as long as the server."""

import os
from typing import Any

import django
from asgiref.sync import sync_to_async
from django.core.handlers.asgi import ASGIHandler
from django.db import connections
from django.http import HttpRequest
from django.http.response import HttpResponseBase

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "plindro.web.settings")
django.setup(set_prefix=False)
READS = frozenset({"GET", "HEAD"})


class _Handler(ASGIHandler):
    """Django's handler for views that are all synchronous: a request goes to a thread once, and stays there.

    As it comes it changes threads for every middleware, and opens a thread and the database for every request: nine
    tenths of what a quick read takes. Reads share one thread, which keeps its connection; what writes, as an upload
    that goes on for minutes, has a thread of its own.
    """

    def load_middleware(self, is_async: bool = False) -> None:
        super().load_middleware(is_async=False)

    async def get_response_async(self, request: HttpRequest) -> HttpResponseBase:
        answer = self.get_response if request.method in READS else self._write
        return await sync_to_async(answer, thread_sensitive=True)(request)

    def _write(self, request: HttpRequest) -> HttpResponseBase:
        """Answer in a thread that ends with its request, and its connection with it."""
        try:
            return self.get_response(request)
        finally:
            connections.close_all()

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["method"] in READS:
            await self.handle(scope, receive, send)
        else:
            await super().__call__(scope, receive, send)


_django = _Handler()

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
        await serve_limited(_django, scope, receive, send)


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
