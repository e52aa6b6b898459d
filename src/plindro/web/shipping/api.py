"""Addresses of shipments."""

from pathlib import Path

from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from ninja import Router

from plindro.core.rehearsal.folder import REPORT
from plindro.web import store
from plindro.web.errors import NotFound
from plindro.web.shipping import comparing, deliveries, items, previews, queries, selections, services
from plindro.web.shipping.left_behind import left_behind
from plindro.web.shipping.models import ShipmentItem
from plindro.web.shipping.packing import archive_of
from plindro.web.shipping.schemas import (
    ComparedOut,
    DeliverIn,
    DeliveryOut,
    LeftOut,
    RehearsalOut,
    SelectionIn,
    SelectionOut,
    ShipmentIn,
    ShipmentOut,
    ShipmentPreview,
    ShipmentRow,
)
from plindro.web.streaming import send_file
from plindro.web.yard.services import find_prop

router = Router(tags=["shipping"])


@router.get("/shipments", operation_id="shipments_list", response=list[ShipmentRow])
def list_shipments(request: HttpRequest) -> list[ShipmentRow]:
    """The ledger."""
    return queries.ledger()


@router.post("/shipments/preview", operation_id="shipments_preview", response=ShipmentPreview)
def preview(request: HttpRequest, body: ShipmentIn) -> ShipmentPreview:
    """What a shipment would write, before anything is made."""
    return previews.preview(body.ids, body.destination, body.folder)


@router.post("/shipments", operation_id="shipments_order", response=ShipmentOut)
def order(request: HttpRequest, body: ShipmentIn) -> ShipmentOut:
    """Ship props, and deliver them where a folder is given."""
    if body.folder:
        deliveries.folder_below(body.folder)
    asked = services.Asked(body.folder, body.removes) if body.folder else None
    return queries.shipment_detail(services.order_shipment(body.ids, body.destination, asked))


@router.get("/selections", operation_id="selections_list", response=list[SelectionOut])
def list_selections(request: HttpRequest) -> list[SelectionOut]:
    """Saved selections of props."""
    return [SelectionOut(name=row.name, props=props) for row, props in selections.selections()]


@router.post("/selections", operation_id="selections_save", response=list[SelectionOut])
def save_selection(request: HttpRequest, body: SelectionIn) -> list[SelectionOut]:
    """Keep props under a name."""
    selections.save_selection(body.name, body.props)
    return list_selections(request)


@router.delete("/selections/{name}", operation_id="selections_remove", response=list[SelectionOut])
def remove_selection(request: HttpRequest, name: str) -> list[SelectionOut]:
    """Forget a selection."""
    selections.remove_selection(name)
    return list_selections(request)


@router.get("/props/{prop_id}/left-behind", operation_id="props_left_behind", response=list[LeftOut])
def read_left_behind(request: HttpRequest, prop_id: int) -> list[LeftOut]:
    """Files of the prop's earlier shipments that it would write no more."""
    return left_behind(find_prop(prop_id))


@router.get("/shipments/{shipment_id}", operation_id="shipments_read", response=ShipmentOut)
def read(request: HttpRequest, shipment_id: int) -> ShipmentOut:
    """One shipment with the state of every prop."""
    return queries.shipment_detail(items.find_shipment(shipment_id))


@router.post("/shipments/{shipment_id}/cancel", operation_id="shipments_cancel", response=ShipmentOut)
def cancel(request: HttpRequest, shipment_id: int) -> ShipmentOut:
    """Call off what has not shipped yet."""
    return queries.shipment_detail(services.cancel_shipment(shipment_id))


@router.post("/shipments/{shipment_id}/retry", operation_id="shipments_retry", response=ShipmentOut)
def retry(request: HttpRequest, shipment_id: int) -> ShipmentOut:
    """Build again what failed, was called off or held back."""
    return queries.shipment_detail(services.retry_shipment(shipment_id))


@router.post("/shipments/{shipment_id}/repeat", operation_id="shipments_repeat", response=ShipmentOut)
def repeat(request: HttpRequest, shipment_id: int) -> ShipmentOut:
    """Ship the same props again, as they are decided now."""
    return queries.shipment_detail(services.repeat_shipment(shipment_id))


@router.get("/shipments/{shipment_id}/compare", operation_id="shipments_compare", response=ComparedOut)
def compare(request: HttpRequest, shipment_id: int, other: int | None = None) -> ComparedOut:
    """A shipment beside another, or the one before it."""
    return comparing.compare(shipment_id, other)


@router.get("/shipments/{shipment_id}/delivery", operation_id="shipments_plan_delivery", response=DeliveryOut)
def plan_delivery(request: HttpRequest, shipment_id: int, folder: str) -> DeliveryOut:
    """What a delivery into a folder would do, before anything is written."""
    return deliveries.plan_of(shipment_id, folder)


@router.post("/shipments/{shipment_id}/deliver", operation_id="shipments_deliver", response=ShipmentOut)
def deliver(request: HttpRequest, shipment_id: int, body: DeliverIn) -> ShipmentOut:
    """Deliver a shipment into a folder on the server."""
    return queries.shipment_detail(deliveries.start_delivery(shipment_id, body.folder, body.removes))


@router.post("/shipments/{shipment_id}/roll-back", operation_id="shipments_roll_back", response=ShipmentOut)
def roll_back(request: HttpRequest, shipment_id: int) -> ShipmentOut:
    """Bring the folder back to the shipment that was delivered before this one, which is the answer."""
    return queries.shipment_detail(deliveries.roll_back(shipment_id))


@router.get("/shipments/{shipment_id}/archive.zip", operation_id="shipments_archive", include_in_schema=False)
def archive(request: HttpRequest, shipment_id: int) -> HttpResponseBase:
    """All files, the manifest, the report and the contact sheet as one zip."""
    path = archive_of(items.find_shipment(shipment_id))
    if not path.is_file():
        raise NotFound("this shipment has no archive yet")
    return send_file(request, path, name=f"plindro-shipment-{shipment_id}.zip")


@router.get("/shipments/{shipment_id}/beside/report.html", operation_id="shipments_report", include_in_schema=False)
def report(request: HttpRequest, shipment_id: int) -> HttpResponseBase:
    """The report. Its one style sheet is its own; it runs nothing."""
    digest = items.find_shipment(shipment_id).extras.get(REPORT, "")
    path = store.files().path_of(digest) if digest else Path()
    if not path.is_file():
        raise NotFound("this shipment has no report yet")
    response = HttpResponse(path.read_bytes(), content_type="text/html; charset=utf-8")
    response["Content-Security-Policy"] = "default-src 'none'; img-src data:; style-src 'unsafe-inline'"
    return response


@router.get("/shipments/items/{item_id}/rehearsal", operation_id="shipments_rehearsal", response=RehearsalOut)
def rehearsal(request: HttpRequest, item_id: int) -> RehearsalOut:
    """What a receiving engine sees of an item's files."""
    return queries.rehearsal_of(item_id)


@router.get("/shipments/items/{item_id}/{path:name}", operation_id="shipments_file", include_in_schema=False)
def file(request: HttpRequest, item_id: int, name: str) -> HttpResponseBase:
    """One shipped file."""
    item = ShipmentItem.objects.filter(pk=item_id).first()
    if item is None or name not in items.paths_of(item.record):
        raise NotFound("this file is not part of the shipment")
    path = items.file_at(item.shipment_id, name, item.files.get(name, ""))
    if not path.is_file():
        raise NotFound("this shipped file is gone from the disk; ship again")
    return send_file(request, path, name=Path(name).name)
