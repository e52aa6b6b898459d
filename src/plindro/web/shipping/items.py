"""The items of a shipment: what they are built from, what is written down of them, and where their files lie."""

from collections.abc import Iterable, Mapping
from dataclasses import asdict
from pathlib import Path
from typing import Any

from django.conf import settings
from pydantic import ValidationError

from plindro.core.destinations import Destination, describe
from plindro.core.errors import InvalidSettings
from plindro.core.findings import Finding
from plindro.core.line import StationLine
from plindro.core.shipping import failed_record, find_clash, held_record, owners_of
from plindro.core.waivers import Waiver
from plindro.web import store
from plindro.web.catalogue.entries import destination_named
from plindro.web.errors import NotFound
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.yard.building import KeyedOrder, Ready, SourceFiles, waivers_of
from plindro.web.yard.models import Prop


def find_shipment(shipment_id: int) -> Shipment:
    """A shipment; raises ``NotFound``."""
    shipment = Shipment.objects.filter(pk=shipment_id).first()
    if shipment is None:
        raise NotFound(f"there is no shipment {shipment_id}")
    return shipment


def paths_of(record: Mapping[str, Any]) -> list[str]:
    """The files that a record tells of."""
    return [file["path"] for file in record.get("files", [])]


def source_files(item: ShipmentItem) -> SourceFiles:
    """The source that an item was ordered with."""
    return SourceFiles(**item.source)


def build_order(item: ShipmentItem) -> KeyedOrder:
    """The order that builds an item as it was decided when it was ordered."""
    try:
        line = StationLine.model_validate(item.line)
    except ValidationError as error:
        text = f"its settings do not fit this version: {describe(error)}; ship the prop again"
        raise InvalidSettings(text) from error
    waivers = tuple(Waiver(**waiver) for waiver in item.waivers)
    return KeyedOrder(source_files(item), line, destination_of(item.shipment), waivers=waivers)


def destination_of(shipment: Shipment) -> Destination:
    """The destination of a shipment as it was ordered; those of an early version tell its name alone."""
    if not shipment.profile:
        return destination_named(shipment.destination)
    try:
        return Destination.model_validate(shipment.profile)
    except ValidationError as error:
        text = f"its destination does not fit this version: {describe(error)}; ship the prop again"
        raise InvalidSettings(text) from error


def take_waivers(item: ShipmentItem, prop: Prop) -> None:
    """Have an item built with the waivers that stand for its prop now."""
    item.waivers = [asdict(waiver) for waiver in waivers_of(prop)]


def hold(item: ShipmentItem, finding: Finding) -> None:
    """Note that the shipment itself holds an item back. Not saved."""
    item.state, item.files = ShipmentItem.State.HELD, {}
    item.record = {**held_record(item.name, source_files(item).name, finding, 0.0), **item.about}


def fail(item: ShipmentItem, error: str) -> None:
    """Note that an item could not be built. Not saved."""
    item.state, item.error, item.files = ShipmentItem.State.FAILED, error, {}
    item.record = {**failed_record(item.name, source_files(item).name, error, 0.0), **item.about}


def finish(item: ShipmentItem, ready: Ready, others: Iterable[ShipmentItem]) -> None:
    """Write down what came of an item, as the core made it. Not saved.

    Names were compared when it was ordered; what was built since may bear others, and is held back where one of them is
    that of another item's file.
    """
    item.key, item.picture, item.error = ready.key, ready.picture, ""
    # Textures that several props use are the same file, to the byte.
    known = {path: digest for other in others for path, digest in other.files.items()}
    own = [path for path, digest in ready.shipped.items() if known.get(path) != digest]
    clash = find_clash(item.prop.name, own, owners_of((other.prop.name, other.files) for other in others))
    if clash is not None:
        hold(item, clash)
        return
    item.record = {**ready.record, "source": source_files(item).name, **item.about}
    item.state = ShipmentItem.State.SHIPPED if ready.status == "shipped" else ShipmentItem.State.HELD
    item.files = ready.shipped


def file_at(shipment_id: int, path: str, digest: str) -> Path:
    """Where a shipped file lies: in the store, or, of shipments of an early version, in a folder of theirs."""
    stored = store.files().path_of(digest) if digest else None
    if stored is not None and stored.is_file():
        return stored
    return Path(settings.SHIPMENTS) / str(shipment_id) / path


def files_at(items: Iterable[ShipmentItem]) -> dict[str, Path]:
    """Where the files of these items lie, by their paths."""
    found: dict[str, Path] = {}
    for item in items:
        for row in item.record.get("files", []):
            found[row["path"]] = file_at(item.shipment_id, row["path"], item.files.get(row["path"], ""))
    return found
