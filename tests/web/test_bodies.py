"""A request that brings more than it may is refused without being kept, whether it says its length or not."""

import asyncio
import json
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest

from plindro.web.bodies import serve_limited

LIMIT = 1_000
PIECE = 300


async def _answer(headers: list[tuple[bytes, bytes]], pieces: int) -> tuple[int, dict[str, Any], int]:
    """Status and JSON of the answer to a body of so many pieces, and how many were read."""
    sent: list[dict[str, Any]] = []
    read = 0

    async def receive() -> dict[str, Any]:
        nonlocal read
        read += 1
        return {"type": "http.request", "body": b"x" * PIECE, "more_body": read < pieces}

    async def send(message: dict[str, Any]) -> None:
        sent.append(message)

    async def application(scope: dict[str, Any], receive: Any, send: Any) -> None:
        """As Django: the whole body first, and nothing more where the client is gone."""
        while (message := await receive())["type"] != "http.disconnect":
            if not message["more_body"]:
                await send({"type": "http.response.start", "status": 200, "headers": []})
                await send({"type": "http.response.body", "body": b"{}"})
                return

    await serve_limited(application, {"type": "http", "headers": headers}, receive, send)
    return sent[0]["status"], json.loads(sent[1]["body"]), read


@pytest.mark.parametrize(
    ("headers", "pieces", "status", "read"),
    [
        ([(b"content-length", b"900")], 3, 200, 3),
        ([(b"content-length", b"1001")], 4, 413, 0),
        ([], 3, 200, 3),
        ([], 50, 413, 4),
    ],
    ids=["fits", "says that it is too long", "fits, unsaid", "goes on and on"],
)
def test_too_large_a_body_is_refused_in_words_and_not_read_to_its_end(settings, headers, pieces, status, read) -> None:
    settings.MAX_UPLOAD = LIMIT
    # In a thread of its own: in this one the browser of other tests may keep a loop running.
    with ThreadPoolExecutor(1) as thread:
        answer = thread.submit(asyncio.run, _answer(headers, pieces)).result()
    assert (answer[0], answer[2]) == (status, read)
    if status == 413:
        assert answer[1]["detail"] == "more than 0 MiB came at once; give the files in smaller parts"
