"""A shipment beside the one before: what each prop has now and had then."""

from collections.abc import Mapping
from typing import Any

from plindro.web.shipping.items import find_shipment
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.shipping.schemas import ComparedOut, ComparedProp, ComparedSide
from plindro.web.yard.building import address_of

Key = tuple[str, int | None]


def before(shipment: Shipment) -> Shipment | None:
    """The last shipment before this one to the same destination that has any of its props."""
    props = shipment.items.values_list("prop", flat=True)
    earlier = Shipment.objects.filter(pk__lt=shipment.pk, destination=shipment.destination, items__prop__in=list(props))
    return earlier.order_by("-pk").first()


def compare(shipment_id: int, other_id: int | None = None) -> ComparedOut:
    """A shipment beside another, or the one before it; raises ``NotFound``."""
    shipment = find_shipment(shipment_id)
    other = find_shipment(other_id) if other_id is not None else before(shipment)
    if other is None:
        return ComparedOut(other=None, props=[], same=0)
    now, then = _items(shipment), _items(other)
    props = sorted({*now, *then}, key=lambda prop: _name(prop, now, then))
    rows = [_row(prop, then.get(prop), now.get(prop)) for prop in props]
    told = [row for row in rows if row.change != "same"]
    return ComparedOut(other=other.pk, props=told, same=len(rows) - len(told))


def _items(shipment: Shipment) -> dict[int, ShipmentItem]:
    return {item.prop_id: item for item in shipment.items.select_related("prop")}


def _name(prop: int, *sides: Mapping[int, ShipmentItem]) -> str:
    return next(side[prop].name for side in reversed(sides) if prop in side)


def _row(prop: int, then: ShipmentItem | None, now: ShipmentItem | None) -> ComparedProp:
    item = now or then
    if item is None:
        raise LookupError(prop)
    found = [_findings(side.record) if side else {} for side in (then, now)]
    if then is None or now is None:
        change = "added" if now else "gone"
    else:
        change = "same" if _is_same(then, now) else "changed"
    return ComparedProp(
        prop=prop,
        name=item.name,
        change=change,  # type: ignore[arg-type]
        before=_side(then),
        after=_side(now),
        appeared=[message for key, message in found[1].items() if key not in found[0]] if then else [],
        gone=[message for key, message in found[0].items() if key not in found[1]] if now else [],
    )


def _is_same(then: ShipmentItem, now: ShipmentItem) -> bool:
    return then.state == now.state and then.name == now.name and _digests(then.record) == _digests(now.record)


def _digests(record: Mapping[str, Any]) -> list[tuple[str, str]]:
    return [(file["path"], file["sha256"]) for file in record.get("files", [])]


def _findings(record: Mapping[str, Any]) -> dict[Key, str]:
    return {(f["code"], f["level"]): f["message"] for f in record.get("findings", []) if f["severity"] != "info"}


def _side(item: ShipmentItem | None) -> ComparedSide | None:
    if item is None:
        return None
    files = item.record.get("files", [])
    return ComparedSide(
        state=item.state,  # type: ignore[arg-type]
        triangles=[level["triangles"] for level in item.record.get("levels", [])],
        bytes=sum(file["bytes"] for file in files),
        files=[file["path"] for file in files],
        picture=address_of(item.picture, "png"),
    )
