"""Delivering shipments into folders on the server, below the one that the installation names."""

import re
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from plindro.core.shipping.delivery import Delivered, Plan, plan_delivery
from plindro.web.errors import NotPossible
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.shipping.schemas import DeliveryFile, DeliveryOut
from plindro.web.shipping.services import find_shipment, folder_of
from plindro.web.shipping.tasks import DeliverOrder
from plindro.web.work.models import Job
from plindro.web.work.services import enqueue, subjects_at_work

DELIVER = "deliver"
"""Kind of the job that delivers a shipment."""
_FOLDER = re.compile(r"[A-Za-z0-9_-][A-Za-z0-9_. -]*(/[A-Za-z0-9_-][A-Za-z0-9_. -]*)*")


def folder_below(name: str) -> Path:
    """The folder of this name below the installation's; raises ``NotPossible`` where it is no name for one."""
    plain = name.strip().strip("/")
    root = Path(settings.DELIVERIES)
    if not _FOLDER.fullmatch(plain) or not (root / plain).resolve().is_relative_to(root):
        raise NotPossible(f"'{name}' is no folder below {root}; use letters, digits, _ - . and / between folders")
    return root / plain


def plan_of(shipment_id: int, folder: str) -> DeliveryOut:
    """What a delivery of a shipment into a folder would do."""
    shipment = find_shipment(shipment_id)
    return told(plan_delivery(folder_below(folder), files_of(shipment)), folder)


def start_delivery(shipment_id: int, folder: str, removes: bool) -> Shipment:
    """Have a shipment delivered; raises ``NotPossible`` where another is on its way into the same folder."""
    shipment = find_shipment(shipment_id)
    lies = folder_below(folder)
    if shipment.state == Shipment.State.RUNNING:
        raise NotPossible("this shipment is not done yet; deliver it when it is")
    if not files_of(shipment):
        raise NotPossible("nothing of this shipment was shipped, so there is nothing to deliver")
    with transaction.atomic():
        for other in Shipment.objects.filter(pk__in=subjects_at_work(DELIVER)):
            if folder_below(other.delivery["folder"]) == lies:
                raise NotPossible(f"shipment {other.pk} is being delivered into that folder; wait until it is done")
        shipment.delivery = {"folder": folder, "removes": removes, "state": "running"}
        shipment.save(update_fields=["delivery"])
        enqueue(DELIVER, shipment.pk, Job.Priority.BENCH)
    return shipment


def order_of(shipment: Shipment) -> DeliverOrder:
    """What a worker does for it."""
    asked = shipment.delivery
    return DeliverOrder(
        folder_of(shipment), folder_below(asked["folder"]), tuple(files_of(shipment)), bool(asked["removes"])
    )


def files_of(shipment: Shipment) -> list[Delivered]:
    """The files of a shipment; a prop is known by its number, whatever it is called."""
    found: dict[str, Delivered] = {}
    for item in shipment.items.filter(state=ShipmentItem.State.SHIPPED):
        for row in item.record.get("files", []):
            known = found.get(row["path"])
            props = (known.props if known else frozenset()) | {str(item.prop_id)}
            found[row["path"]] = Delivered(row["path"], props, row["bytes"], row["sha256"])
    return list(found.values())


def delivered(shipment: Shipment, plan: Plan) -> None:
    """Note what was done."""
    out = told(plan, shipment.delivery["folder"])
    _end(shipment, state="done", **_counts(out))


def _end(shipment: Shipment, **told_of_it: Any) -> None:
    """Note how the delivery ended, and when, by which pages know that it did."""
    shipment.delivery = {**shipment.delivery, "at": timezone.now().isoformat(), **told_of_it}
    shipment.save(update_fields=["delivery"])


def _counts(out: DeliveryOut) -> dict[str, Any]:
    changes = [row.change for row in out.files]
    return {change: changes.count(change) for change in ("made", "replaced", "same", "foreign")}


def delivery_ended(shipment: Shipment, job: Job) -> None:
    """Note a failure or a call-off; what was written by then is whole."""
    if job.state != Job.State.DONE:
        words = job.error or "called off; what was written by then is whole"
        _end(shipment, state="failed", error=words)


def settle_deliveries() -> None:
    """A delivery that waits without a job gets one."""
    running = Shipment.objects.filter(delivery__state="running").exclude(pk__in=subjects_at_work(DELIVER))
    for shipment in running:
        enqueue(DELIVER, shipment.pk, Job.Priority.BENCH)


def told(plan: Plan, folder: str) -> DeliveryOut:
    """A plan as the API tells it."""
    return DeliveryOut(
        root=str(settings.DELIVERIES),
        folder=folder,
        files=[
            DeliveryFile(path=row.file.path, change=row.change, bytes=row.file.bytes, bytes_before=row.bytes_before)
            for row in plan.files
        ],
        left=list(plan.left),
        changed=sorted(plan.changed),
    )
