"""All writes of shipments: ordering, writing files, finishing, calling off."""

import zipfile
from collections.abc import Sequence
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from plindro.core.destinations import get_destination
from plindro.core.line import StationLine
from plindro.core.shipping import failed_record, manifest_json, write_whole
from plindro.core.stations.naming import NAMING, root_name
from plindro.web import store
from plindro.web.errors import NotFound, NotPossible
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.work.models import Job
from plindro.web.work.services import cancel_about, enqueue
from plindro.web.yard.building import KeyedOrder, keep_result, line_of, shipped_files
from plindro.web.yard.models import Built, Prop
from plindro.web.yard.tasks import BuildResult

SHIP = "ship"
"""Kind of the job that ships one item."""
MANIFEST = "manifest.json"
ZIP_TIME = (1980, 1, 1, 0, 0, 0)
"""Entries carry no time of their own, so that the same files give the same archive."""


def folder_of(shipment: Shipment) -> Path:
    """Where a shipment's files lie."""
    return Path(settings.SHIPMENTS) / str(shipment.pk)


def archive_of(shipment: Shipment) -> Path:
    """The shipment as one zip."""
    return Path(settings.SHIPMENTS) / f"{shipment.pk}.zip"


def find_shipment(shipment_id: int) -> Shipment:
    """A shipment; raises ``NotFound``."""
    shipment = Shipment.objects.filter(pk=shipment_id).first()
    if shipment is None:
        raise NotFound(f"there is no shipment {shipment_id}")
    return shipment


def chosen_props(prop_ids: Sequence[int]) -> list[Prop]:
    """The props on the board among these, in the order of their names; raises ``NotPossible`` where none is."""
    props = list(Prop.objects.filter(pk__in=prop_ids, is_removed=False).select_related("built"))
    if not props:
        raise NotPossible("choose at least one prop to ship")
    return props


def order_shipment(prop_ids: Sequence[int], destination: str) -> Shipment:
    """Order a shipment; what is decided about its props later does not change it."""
    profile = get_destination(destination)
    with transaction.atomic():
        props = chosen_props(prop_ids)
        shipment = Shipment.objects.create(destination=profile.name)
        for prop in props:
            line = line_of(prop)
            name = root_name(prop.name, line.of(NAMING))
            item = ShipmentItem.objects.create(
                shipment=shipment, prop=prop, name=name, line=line.model_dump(mode="json")
            )
            enqueue(SHIP, item.pk)
    return shipment


def build_order(item: ShipmentItem) -> KeyedOrder:
    """The order that builds an item as it was decided when it was ordered."""
    return KeyedOrder(item.prop, StationLine.model_validate(item.line), get_destination(item.shipment.destination))


def finish_item(item: ShipmentItem, key: str, result: BuildResult | Built) -> None:
    """Write an item's files, whole, and keep the record that the core made of them."""
    built = keep_result(key, item.prop, result)
    for path, digest in shipped_files(built).items():
        write_whole(folder_of(item.shipment) / path, store.load(digest))
    item.record = {**built.record, "source": item.prop.source_name}
    item.state = ShipmentItem.State.SHIPPED if built.status == "shipped" else ShipmentItem.State.HELD
    item.save(update_fields=["record", "state"])


def item_ended(item: ShipmentItem, job: Job) -> None:
    """Note a failure or a call-off; the last item's end finishes the shipment."""
    if job.state == Job.State.FAILED:
        item.state, item.error = ShipmentItem.State.FAILED, job.error
        item.record = failed_record(item.name, item.prop.source_name, job.error, 0.0)
        item.save(update_fields=["state", "error", "record"])
    elif job.state == Job.State.CANCELLED:
        item.state = ShipmentItem.State.CANCELLED
        item.save(update_fields=["state"])
    finish_shipment(item.shipment)


def finish_shipment(shipment: Shipment) -> None:
    """When nothing is left to do: manifest and archive, then the state."""
    if shipment.items.filter(state=ShipmentItem.State.WAITING).exists():
        return
    items = list(shipment.items.all())
    records = [item.record for item in items if item.record]
    folder = folder_of(shipment)
    write_whole(folder / MANIFEST, manifest_json(records, shipment.destination))
    _write_archive(shipment, [file["path"] for record in records for file in record["files"]])
    cancelled = any(item.state == ShipmentItem.State.CANCELLED for item in items)
    shipment.state = Shipment.State.CANCELLED if cancelled else Shipment.State.DONE
    shipment.finished = timezone.now()
    shipment.save(update_fields=["state", "finished"])


def _write_archive(shipment: Shipment, paths: list[str]) -> None:
    archive = archive_of(shipment)
    part = archive.with_suffix(".part")
    try:
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as target:
            for path in [MANIFEST, *sorted(paths)]:
                entry = zipfile.ZipInfo(path, ZIP_TIME)
                entry.compress_type = zipfile.ZIP_DEFLATED
                entry.external_attr = 0o644 << 16
                target.writestr(entry, (folder_of(shipment) / path).read_bytes())
        part.replace(archive)
    finally:
        part.unlink(missing_ok=True)


def cancel_shipment(shipment_id: int) -> Shipment:
    """Call off what has not shipped; what has stays."""
    shipment = find_shipment(shipment_id)
    cancel_about(SHIP, shipment.items.values_list("pk", flat=True))
    return shipment
