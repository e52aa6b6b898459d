"""Reading shipments."""

from collections import Counter
from typing import Any, cast

from plindro.core.shipping import find_clash, owners_of, totals
from plindro.web.catalogue.entries import destination_named, one_moment
from plindro.web.shipping.left_behind import last_files, left_at
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.shipping.schemas import DeliveryState, ItemOut, PreviewRow, ShipmentOut, ShipmentRow
from plindro.web.shipping.services import archive_of, chosen_props, files_of_names, ship_names
from plindro.web.yard.queries import readiness


def _figures(shipment: Shipment, items: list[ShipmentItem]) -> ShipmentRow:
    states = Counter(item.state for item in items)
    sums = totals([item.record for item in items if item.record], 0.0)
    done = shipment.state != Shipment.State.RUNNING
    has_archive = done and archive_of(shipment).is_file()
    return ShipmentRow(
        id=shipment.pk,
        destination=shipment.destination,
        state=cast(Any, shipment.state),
        error=shipment.error,
        created=shipment.created,
        seconds=(shipment.finished - shipment.created).total_seconds() if shipment.finished else None,
        waiting=states["waiting"],
        shipped=states["shipped"],
        held=states["held"],
        failed=states["failed"],
        cancelled=states["cancelled"],
        bytes=sums["bytes"],
        triangles=sums["triangles"],
        archive=f"/api/shipments/{shipment.pk}/archive.zip" if has_archive else None,
    )


def ledger() -> list[ShipmentRow]:
    """All shipments, the latest first."""
    return [_figures(s, list(s.items.all())) for s in Shipment.objects.prefetch_related("items")]


def shipment_detail(shipment: Shipment) -> ShipmentOut:
    """One shipment with its items."""
    items = list(shipment.items.select_related("prop"))
    rows = [
        ItemOut(
            id=item.pk,
            prop=item.prop_id,
            prop_name=item.prop.name,
            name=item.name,
            state=cast(Any, item.state),
            error=item.error,
            files=item.record.get("files", []),
            levels=item.record.get("levels", []),
            findings=item.record.get("findings", []),
            seconds=item.record.get("seconds"),
        )
        for item in items
    ]
    delivery = DeliveryState.model_validate(shipment.delivery) if shipment.delivery else None
    return ShipmentOut(**_figures(shipment, items).model_dump(), items=rows, delivery=delivery)


def preview(prop_ids: list[int], destination: str) -> list[PreviewRow]:
    """The files and level names that a shipment would write."""
    profile = destination_named(destination)
    rows = []
    props = chosen_props(prop_ids)
    with one_moment():
        promised = {prop.name: ship_names(prop, profile) for prop in props}
    files = {name: files_of_names(names) for name, names in promised.items()}
    owners = owners_of(files.items())
    shipped = last_files(profile, prop_ids)
    for prop in props:
        names = promised[prop.name]
        ready = readiness(prop)
        clash = find_clash(prop.name, files[prop.name], owners)
        notes = {
            "held": "held back by a finding; nothing will be written",
            "failed": prop.error or "could not be built",
            "cancelled": "its build was cancelled; it is built for the shipment",
            "working": "still being built; it ships when it is done",
        }
        held = ready in ("held", "failed") or clash is not None
        rows.append(
            PreviewRow(
                prop=prop.pk,
                name=names[0].root,
                files=[] if held else files[prop.name],
                levels=list(names[0].levels),
                held=held,
                note=clash.message if clash else notes.get(ready, ""),
                left=[] if held else left_at(names, profile, shipped.get(prop.pk, [])),
            )
        )
    return rows
