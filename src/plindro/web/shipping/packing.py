"""A shipment whose items are done: its manifest, its report, its contact sheet and its archive."""

from pathlib import Path
from typing import Any

from django.conf import settings

from plindro.core.shipping import manifest_json
from plindro.web import store
from plindro.web.shipping import items
from plindro.web.shipping.models import Shipment
from plindro.web.shipping.tasks import PackOrder
from plindro.web.work.models import Job

PACK = "pack"
"""Kind of the job that packs a shipment when all its items are done."""


def archive_of(shipment: Shipment) -> Path:
    """The shipment as one zip."""
    return Path(settings.SHIPMENTS) / f"{shipment.pk}.zip"


def records_of(shipment: Shipment) -> list[dict[str, Any]]:
    """The records of all items that have one."""
    return [item.record for item in shipment.items.all() if item.record]


def manifest_of(shipment: Shipment) -> bytes:
    """Its manifest."""
    return manifest_json(records_of(shipment), shipment.destination, shipment.destination_version)


def pack_order(shipment: Shipment) -> PackOrder:
    """What is to be packed of a shipment."""
    all_items = list(shipment.items.all())
    kept = store.files()
    title = str(shipment.profile.get("title") or shipment.destination)
    return PackOrder(
        store=kept,
        archive=archive_of(shipment),
        title=f"Shipment for {title}",
        subtitle=f"destination {shipment.destination}, version {shipment.destination_version}",
        manifest=manifest_of(shipment),
        records=tuple(item.record for item in all_items if item.record),
        pictures={
            item.record["name"]: kept.path_of(item.picture) for item in all_items if item.picture and item.record
        },
        files=items.files_at(all_items),
        delivered=_delivered(shipment),
    )


def _delivered(shipment: Shipment) -> Path | None:
    """The folder that a shipment lies in; None where it lies in none."""
    told = shipment.delivery
    return Path(settings.DELIVERIES) / told["folder"] if told.get("state") == "done" else None


def packed(shipment: Shipment, extras: dict[str, str]) -> None:
    """Its archive is written, its report and contact sheet are in the store."""
    shipment.extras, shipment.error = extras, ""
    shipment.save(update_fields=["extras", "error"])


def packing_ended(shipment: Shipment, job: Job) -> None:
    """A shipment without its archive has failed, and says why; its files are there all the same."""
    if job.state == Job.State.FAILED:
        shipment.state, shipment.error = Shipment.State.FAILED, job.error
        shipment.save(update_fields=["state", "error"])
