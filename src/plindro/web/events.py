"""Server-sent events: what is being done, and when something on the board or in the ledger changed.

One reader looks for changes, for all tabs together, and only while there are any.
"""

import asyncio
import json
import logging
from collections.abc import AsyncIterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.models import Count, Max
from django.db.models.fields.json import KT
from django.http.request import split_domain_port, validate_host

from plindro.web.bodies import Receive, Send
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.work.models import Job
from plindro.web.work.registry import kinds_that_tell
from plindro.web.yard.queries import board_mark

log = logging.getLogger(__name__)
PATH = "/api/events"
INTERVAL = 0.25
"""Seconds between two looks while there are jobs; without any they are twice as long."""
KEEP_ALIVE = 15.0


def snapshot() -> dict[str, Any]:
    """Active jobs, and marks that change whenever a prop or a shipment does."""
    states = sorted(ShipmentItem.objects.values_list("state").annotate(n=Count("pk")))
    done = Shipment.objects.filter(finished__isnull=False).count()
    # When the last delivery ended: one may begin and end between two looks.
    delivered = Shipment.objects.aggregate(last=Max(KT("delivery__at")))["last"]
    # That one is packed, or could not be, is seen by nothing else.
    packed = [Shipment.objects.exclude(extras={}).count(), Shipment.objects.filter(state="failed").count()]
    shipments = [Shipment.objects.count(), done, delivered, packed, states]
    failed = Job.objects.filter(kind__in=kinds_that_tell(), state=Job.State.FAILED).last()
    return {
        "jobs": [
            {
                "id": job.pk,
                "kind": job.kind,
                "state": job.state,
                "fraction": round(job.fraction, 3),
                "doing": job.doing,
                "subject": job.subject,
            }
            for job in Job.objects.filter(state__in=Job.ACTIVE)
        ],
        "props": board_mark(),
        "shipments": json.dumps(shipments),
        "problem": {"id": failed.pk, "message": failed.error} if failed else None,
    }


class Reader:
    """Reads the database in a thread of its own whenever another connection has changed it, and wakes who listens."""

    def __init__(self) -> None:
        self._thread = ThreadPoolExecutor(1, thread_name_prefix="plindro-events")
        self._version = -1
        self._text = ""
        self._is_busy = False
        self._listeners: set[asyncio.Event] = set()
        self._task: asyncio.Task[None] | None = None

    async def listen(self) -> AsyncIterator[str]:
        """What is heard now, and at every change; an empty text now and then where there is none."""
        woken, heard = asyncio.Event(), ""
        self._listeners.add(woken)
        if self._task is None or self._task.done():
            self._task = asyncio.create_task(self._read())
        try:
            while True:
                if self._text != heard:
                    heard = self._text
                    yield heard
                woken.clear()
                try:
                    await asyncio.wait_for(woken.wait(), KEEP_ALIVE)
                except TimeoutError:
                    yield ""
        finally:
            self._listeners.discard(woken)

    async def _read(self) -> None:
        loop = asyncio.get_running_loop()
        self._version = -1
        while self._listeners:
            text = await loop.run_in_executor(self._thread, self._looked)
            if text and text != self._text:
                self._text = text
                for woken in self._listeners:
                    woken.set()
            await asyncio.sleep(INTERVAL if self._is_busy else 2 * INTERVAL)

    def _looked(self) -> str:
        """As ``_changed``; a look that fails, as at a locked database, is taken again at the next."""
        try:
            return self._changed()
        except DatabaseError as error:
            log.error("events: %s", error)
            self._version = -1
            return ""

    def _changed(self) -> str:
        """The snapshot where the database is another than at the last look."""
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA data_version")
            (version,) = cursor.fetchone()
        if version == self._version:
            return ""
        self._version = version
        heard = snapshot()
        self._is_busy = bool(heard["jobs"])
        return json.dumps(heard)


reader = Reader()


async def stream(scope: dict[str, Any], receive: Receive, send: Send) -> None:
    """Answer a request for the stream: one event at every change.

    Not by a view of Django's, which would hold a thread for as long as a tab is open.
    """
    host = dict(scope["headers"]).get(b"host", b"").decode("latin-1")
    if not validate_host(split_domain_port(host)[0], settings.ALLOWED_HOSTS):
        await send({"type": "http.response.start", "status": 400, "headers": []})
        await send({"type": "http.response.body", "body": b""})
        return
    headers = [(b"content-type", b"text/event-stream"), (b"cache-control", b"no-cache"), (b"x-accel-buffering", b"no")]
    await send({"type": "http.response.start", "status": 200, "headers": headers})
    telling = asyncio.create_task(_tell(send))
    while (await receive())["type"] != "http.disconnect":
        pass
    telling.cancel()


async def _tell(send: Send) -> None:
    async for text in reader.listen():
        body = f"data: {text}\n\n".encode() if text else b": still here\n\n"
        await send({"type": "http.response.body", "body": body, "more_body": True})
