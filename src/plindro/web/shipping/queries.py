"""Reading shipments."""

from collections import Counter
from typing import Any, cast

from plindro.core.destinations import get_destination
from plindro.core.shipping import file_names
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.shipping.schemas import ItemOut, PreviewRow, ShipmentOut, ShipmentRow
from plindro.web.shipping.services import archive_of, chosen_props, ship_name
from plindro.web.yard.models import Prop
from plindro.web.yard.queries import readiness
from plindro.web.yard.services import line_of


def _figures(shipment: Shipment, items: list[ShipmentItem]) -> ShipmentRow:
    states = Counter(item.state for item in items)
    files = [file for item in items for file in item.record.get("files", [])]
    shipped = [item for item in items if item.state == ShipmentItem.State.SHIPPED]
    done = shipment.state != Shipment.State.RUNNING
    has_archive = done and archive_of(shipment).is_file()
    return ShipmentRow(
        id=shipment.pk,
        destination=shipment.destination,
        state=cast(Any, shipment.state),
        created=shipment.created,
        seconds=(shipment.finished - shipment.created).total_seconds() if shipment.finished else None,
        waiting=states["waiting"],
        shipped=states["shipped"],
        held=states["held"],
        failed=states["failed"],
        cancelled=states["cancelled"],
        bytes=sum(file["bytes"] for file in files),
        triangles=sum(level["triangles"] for item in shipped for level in item.record["levels"]),
        archive=f"/api/shipments/{shipment.pk}/archive.zip" if has_archive else None,
    )


def ledger() -> list[ShipmentRow]:
    """All shipments, the latest first."""
    return [_figures(s, list(s.items.all())) for s in Shipment.objects.prefetch_related("items")]


def shipment_detail(shipment: Shipment) -> ShipmentOut:
    """One shipment with its items."""
    items = list(shipment.items.all())
    rows = [
        ItemOut(
            id=item.pk,
            prop=item.prop_id,
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
    return ShipmentOut(**_figures(shipment, items).model_dump(), items=rows)


def preview(prop_ids: list[int], destination: str) -> list[PreviewRow]:
    """The files and level names that a shipment would write."""
    profile = get_destination(destination)
    template = profile.level_template
    rows = []
    for prop in chosen_props(prop_ids):
        name = ship_name(line_of(prop))
        ready = readiness(prop)
        levels = (prop.built.facts.get("levels") or []) if prop.built else []
        notes = {
            "held": "held back by a finding; nothing will be written",
            "failed": prop.error or "could not be built",
            "working": "still being built; it ships when it is done",
        }
        held = ready in ("held", "failed")
        own_names = [name, *_states(prop, name)]
        rows.append(
            PreviewRow(
                prop=prop.pk,
                name=name,
                files=[] if held else [file for own in own_names for file in file_names(own, profile.format)],
                levels=[template.format(prop=name, level=level["index"]) for level in levels],
                held=held,
                note=notes.get(ready, ""),
            )
        )
    return rows


def _states(prop: Prop, name: str) -> list[str]:
    """The names under which the prop's other states ship, as it was built."""
    rows = prop.built.facts.get("states", []) if prop.built else []
    return [f"{name}_{row['name']}" for row in rows]
