"""Server-sent events: what is being done, and when something on the board or in the ledger changed."""

import asyncio
import json
from collections.abc import AsyncIterator
from typing import Any

from asgiref.sync import sync_to_async
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


async def _stream() -> AsyncIterator[bytes]:
    last = ""
    quiet = 0.0
    while True:
        text = json.dumps(await sync_to_async(snapshot)())
        if text != last:
            last, quiet = text, 0.0
            yield f"data: {text}\n\n".encode()
        elif quiet >= KEEP_ALIVE:
            quiet = 0.0
            yield b": still here\n\n"
        await asyncio.sleep(INTERVAL)
        quiet += INTERVAL


@router.get("/events", operation_id="events", include_in_schema=False)
def events(request: HttpRequest) -> StreamingHttpResponse:
    """The stream; one event at every change."""
    response = StreamingHttpResponse(_stream(), content_type="text/event-stream")
    response["Cache-Control"] = "no-cache"
    response["X-Accel-Buffering"] = "no"
    return response
