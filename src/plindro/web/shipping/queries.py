"""Reading shipments."""

from collections import Counter
from typing import Any, cast

from plindro.core.rehearsal import SeenProp
from plindro.core.rehearsal.folder import CONTACT_SHEET, REPORT
from plindro.core.shipping import totals
from plindro.web.errors import NotFound
from plindro.web.shipping import comparing, deliveries, items
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.shipping.packing import PACK, archive_of
from plindro.web.shipping.schemas import DeliveryState, ItemOut, RehearsalOut, ShipmentOut, ShipmentRow
from plindro.web.work.services import subjects_at_work
from plindro.web.yard.building import address_of


def _figures(shipment: Shipment, rows: list[ShipmentItem], packing: set[int]) -> ShipmentRow:
    states = Counter(item.state for item in rows)
    sums = totals([item.record for item in rows if item.record], 0.0)
    done = shipment.state != Shipment.State.RUNNING
    began = shipment.retried or shipment.created
    has_archive = done and shipment.pk not in packing and archive_of(shipment).is_file()
    return ShipmentRow(
        id=shipment.pk,
        destination=shipment.destination,
        state=cast(Any, shipment.state),
        error=shipment.error,
        created=shipment.created,
        seconds=(shipment.finished - began).total_seconds() if shipment.finished else None,
        waiting=states["waiting"],
        shipped=states["shipped"],
        held=states["held"],
        failed=states["failed"],
        cancelled=states["cancelled"],
        bytes=sums["bytes"],
        triangles=sums["triangles"],
        archive=f"/api/shipments/{shipment.pk}/archive.zip" if has_archive else None,
        is_packing=shipment.pk in packing,
        report=f"/api/shipments/{shipment.pk}/beside/{REPORT}" if REPORT in shipment.extras else None,
        contact_sheet=address_of(shipment.extras.get(CONTACT_SHEET), "png"),
        folder=shipment.delivery.get("folder", ""),
    )


def ledger() -> list[ShipmentRow]:
    """All shipments, the latest first."""
    packing = subjects_at_work(PACK)
    return [_figures(s, list(s.items.all()), packing) for s in Shipment.objects.prefetch_related("items")]


def shipment_detail(shipment: Shipment) -> ShipmentOut:
    """One shipment with its items."""
    rows = list(shipment.items.select_related("prop"))
    told = [
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
            waivers=item.record.get("waivers", []),
            picture=address_of(item.picture, "png"),
            is_seen="rehearsal" in item.record,
            seconds=item.record.get("seconds"),
        )
        for item in rows
    ]
    back, other = deliveries.delivered_before(shipment), comparing.before(shipment)
    return ShipmentOut(
        **_figures(shipment, rows, subjects_at_work(PACK)).model_dump(),
        items=told,
        delivery=DeliveryState.model_validate(shipment.delivery) if shipment.delivery else None,
        before=other.pk if other else None,
        goes_back_to=back.pk if back else None,
    )


def rehearsal_of(item_id: int) -> RehearsalOut:
    """What a receiving engine saw of an item when its files were read back; raises ``NotFound``."""
    item = ShipmentItem.objects.select_related("shipment").filter(pk=item_id).first()
    seen = item.record.get("rehearsal") if item else None
    if item is None or seen is None:
        raise NotFound("nothing of this prop was read back; ship it again")
    destination = items.destination_of(item.shipment)
    return RehearsalOut(
        item=item.pk,
        prop=item.prop_id,
        name=item.name,
        destination=destination.title,
        seen=SeenProp.model_validate(seen),
        findings=[f for f in item.record["findings"] if f["station"] is None],
        vertex_limit=destination.max_engine_vertices,
        wants_light_map=destination.light_map,
    )
