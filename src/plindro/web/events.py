"""Server-sent events: what is being done, and when something on the board or in the ledger changed.

One reader looks for changes, for all tabs together, and only while there are any.
"""

import asyncio
import json
from collections.abc import AsyncIterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from django.db import connection
from django.db.models import Count, Max
from django.http import HttpRequest, StreamingHttpResponse
from ninja import Router

from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.work.models import Job
from plindro.web.work.registry import kinds_that_tell
from plindro.web.yard.models import Prop

router = Router(tags=["events"])
INTERVAL = 0.25
KEEP_ALIVE = 15.0


def snapshot() -> dict[str, Any]:
    """Active jobs, and marks that change whenever a prop or a shipment does."""
    props = Prop.objects.aggregate(changed=Max("changed"), count=Count("pk"), last=Max("pk"))
    removed = Prop.objects.filter(is_removed=True).count()
    states = sorted(ShipmentItem.objects.values_list("state").annotate(n=Count("pk")))
    shipments = [Shipment.objects.count(), Shipment.objects.filter(finished__isnull=False).count(), states]
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
        "props": f"{props['changed']}/{props['count']}/{props['last']}/{removed}",
        "shipments": json.dumps(shipments),
        "problem": {"id": failed.pk, "message": failed.error} if failed else None,
    }


class Reader:
    """Reads the database in a thread of its own whenever another connection has changed it, and wakes who listens."""

    def __init__(self) -> None:
        self._thread = ThreadPoolExecutor(1, thread_name_prefix="plindro-events")
        self._version = -1
        self._text = ""
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
            text = await loop.run_in_executor(self._thread, self._changed)
            if text and text != self._text:
                self._text = text
                for woken in self._listeners:
                    woken.set()
            await asyncio.sleep(INTERVAL)

    def _changed(self) -> str:
        """The snapshot where the database is another than at the last look."""
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA data_version")
            (version,) = cursor.fetchone()
        if version == self._version:
            return ""
        self._version = version
        return json.dumps(snapshot())


reader = Reader()


async def _stream() -> AsyncIterator[bytes]:
    async for text in reader.listen():
        yield f"data: {text}\n\n".encode() if text else b": still here\n\n"


@router.get("/events", operation_id="events", include_in_schema=False)
def events(request: HttpRequest) -> StreamingHttpResponse:
    """The stream; one event at every change."""
    response = StreamingHttpResponse(_stream(), content_type="text/event-stream")
    response["Cache-Control"] = "no-cache"
    response["X-Accel-Buffering"] = "no"
    return response
