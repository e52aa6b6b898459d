"""Addresses of shipments."""

from django.http import HttpRequest
from django.http.response import HttpResponseBase
from ninja import Router

from plindro.web.errors import NotFound
from plindro.web.shipping import deliveries, queries, services
from plindro.web.shipping.left_behind import left_behind
from plindro.web.shipping.models import ShipmentItem
from plindro.web.shipping.schemas import (
    DeliverIn,
    DeliveryOut,
    LeftOut,
    PreviewRow,
    ShipmentIn,
    ShipmentOut,
    ShipmentRow,
)
from plindro.web.streaming import send_file
from plindro.web.yard.services import find_prop

router = Router(tags=["shipping"])


@router.get("/shipments", operation_id="shipments_list", response=list[ShipmentRow])
def list_shipments(request: HttpRequest) -> list[ShipmentRow]:
    """The ledger."""
    return queries.ledger()


@router.post("/shipments/preview", operation_id="shipments_preview", response=list[PreviewRow])
def preview(request: HttpRequest, body: ShipmentIn) -> list[PreviewRow]:
    """What a shipment would write, before anything is made."""
    return queries.preview(body.ids, body.destination)


@router.post("/shipments", operation_id="shipments_order", response=ShipmentOut)
def order(request: HttpRequest, body: ShipmentIn) -> ShipmentOut:
    """Ship props."""
    return queries.shipment_detail(services.order_shipment(body.ids, body.destination))


@router.get("/props/{prop_id}/left-behind", operation_id="props_left_behind", response=list[LeftOut])
def read_left_behind(request: HttpRequest, prop_id: int) -> list[LeftOut]:
    """Files of the prop's earlier shipments that it would write no more."""
    return left_behind(find_prop(prop_id))


@router.get("/shipments/{shipment_id}", operation_id="shipments_read", response=ShipmentOut)
def read(request: HttpRequest, shipment_id: int) -> ShipmentOut:
    """One shipment with the state of every prop."""
    return queries.shipment_detail(services.find_shipment(shipment_id))


@router.post("/shipments/{shipment_id}/cancel", operation_id="shipments_cancel", response=ShipmentOut)
def cancel(request: HttpRequest, shipment_id: int) -> ShipmentOut:
    """Call off what has not shipped yet."""
    return queries.shipment_detail(services.cancel_shipment(shipment_id))


@router.get("/shipments/{shipment_id}/delivery", operation_id="shipments_plan_delivery", response=DeliveryOut)
def plan_delivery(request: HttpRequest, shipment_id: int, folder: str) -> DeliveryOut:
    """What a delivery into a folder would do, before anything is written."""
    return deliveries.plan_of(shipment_id, folder)


@router.post("/shipments/{shipment_id}/deliver", operation_id="shipments_deliver", response=ShipmentOut)
def deliver(request: HttpRequest, shipment_id: int, body: DeliverIn) -> ShipmentOut:
    """Deliver a shipment into a folder on the server."""
    return queries.shipment_detail(deliveries.start_delivery(shipment_id, body.folder, body.removes))


@router.get("/shipments/{shipment_id}/archive.zip", operation_id="shipments_archive", include_in_schema=False)
def archive(request: HttpRequest, shipment_id: int) -> HttpResponseBase:
    """All files and the manifest as one zip."""
    path = services.archive_of(services.find_shipment(shipment_id))
    if not path.is_file():
        raise NotFound("this shipment has no archive yet")
    return send_file(request, path, name=f"plindro-shipment-{shipment_id}.zip")


@router.get("/shipments/items/{item_id}/{path:name}", operation_id="shipments_file", include_in_schema=False)
def file(request: HttpRequest, item_id: int, name: str) -> HttpResponseBase:
    """One shipped file."""
    item = ShipmentItem.objects.select_related("shipment").filter(pk=item_id).first()
    if item is None or name not in {entry["path"] for entry in item.record.get("files", [])}:
        raise NotFound("this file is not part of the shipment")
    path = services.folder_of(item.shipment) / name
    if not path.is_file():
        raise NotFound("this shipped file is gone from the disk; ship again")
    return send_file(request, path, name=path.name)
