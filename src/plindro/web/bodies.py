"""Bodies of requests: one that is larger than an upload may be is refused without being kept."""

import json
from collections.abc import Awaitable, Callable
from typing import Any

from django.conf import settings

from plindro.core.findings import grouped

Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]
Application = Callable[[dict[str, Any], Receive, Send], Awaitable[None]]


async def serve_limited(application: Application, scope: dict[str, Any], receive: Receive, send: Send) -> None:
    """Answer a request by ``application``; where its body is too large, with a sentence instead.

    A body that says its length is not read at all; of one that does not, no more than is allowed.
    """
    if int(dict(scope["headers"]).get(b"content-length", b"0")) > settings.MAX_UPLOAD:
        await _refuse(send)
        return
    read, is_refused = 0, False

    async def counted() -> dict[str, Any]:
        nonlocal read, is_refused
        message = await receive()
        read += len(message.get("body", b""))
        if read <= settings.MAX_UPLOAD:
            return message
        is_refused = True
        return {"type": "http.disconnect"}

    await application(scope, counted, send)
    if is_refused:
        await _refuse(send)


async def _refuse(send: Send) -> None:
    most = grouped(settings.MAX_UPLOAD // 2**20)
    body = json.dumps({"detail": f"more than {most} MiB came at once; give the files in smaller parts"}).encode()
    headers = [(b"content-type", b"application/json"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": 413, "headers": headers})
    await send({"type": "http.response.body", "body": body})
