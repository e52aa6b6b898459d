"""All writes of shipments: ordering, writing files, finishing, calling off."""

from collections.abc import Iterable, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone
from pydantic import ValidationError

from plindro.core.destinations import Destination, describe
from plindro.core.errors import InvalidSettings
from plindro.core.findings import Finding
from plindro.core.line import Line, StationLine
from plindro.core.shipping import failed_record, find_clash, held_record, manifest_json, owners_of, write_whole
from plindro.core.stations.levels import LEVELS
from plindro.core.stations.naming import NAMING, ShippedNames, names_of, root_name
from plindro.web import store
from plindro.web.catalogue.entries import destination_named
from plindro.web.errors import NotFound, NotPossible
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.shipping.tasks import PackOrder
from plindro.web.work.models import Job
from plindro.web.work.services import cancel_about, enqueue, is_active, subjects_at_work
from plindro.web.yard.building import (
    KeyedOrder,
    SourceFiles,
    facts_of,
    fitting_line,
    shipped_files,
    source_of,
    write_result,
)
from plindro.web.yard.models import Built, Prop
from plindro.web.yard.tasks import BuildResult

SHIP, PACK = "ship", "pack"
"""Kinds of the jobs that ship one item, and that pack a shipment when all its items are done."""


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
    profile = destination_named(destination)
    with transaction.atomic():
        props = chosen_props(prop_ids)
        shipment = Shipment.objects.create(destination=profile.name, profile=profile.model_dump(mode="json"))
        files = {prop.name: files_of_names(ship_names(prop, profile)) for prop in props}
        owners = owners_of(files.items())
        for prop in props:
            line, misfit = fitting_line(prop)
            name = root_name(prop.name, line.of(NAMING))
            item = ShipmentItem.objects.create(
                shipment=shipment,
                prop=prop,
                name=name,
                line=line.model_dump(mode="json"),
                source=asdict(source_of(prop)),
            )
            clash = find_clash(prop.name, files[prop.name], owners)
            if misfit:
                _fail(item, misfit)
            elif clash is not None:
                _hold(item, clash)
            else:
                enqueue(SHIP, item.pk, Job.Priority.BATCH)
        pack_when_done(shipment)
    return shipment


def files_of_names(names: Iterable[ShippedNames]) -> list[str]:
    """The files of a prop and its states."""
    return [path for own in names for path in own.files]


def ship_names(prop: Prop, destination: Destination, line: Line | None = None) -> tuple[ShippedNames, ...]:
    """The names under which a prop and its states would ship, with as many levels as it was built with; by its own line
    unless another is given."""
    facts, line = facts_of(prop.built), line or fitting_line(prop)[0]
    chain = facts.of(LEVELS) if facts else None
    states = [(state.name, len(state.levels)) for state in chain.states] if chain else []
    return names_of(prop.name, line.of(NAMING), destination, len(chain.levels) if chain else 0, states)


def _hold(item: ShipmentItem, finding: Finding) -> None:
    item.state, item.record = ShipmentItem.State.HELD, held_record(item.name, source_files(item).name, finding, 0.0)
    item.save(update_fields=["state", "record"])


def _fail(item: ShipmentItem, error: str) -> None:
    item.state, item.error = ShipmentItem.State.FAILED, error
    item.record = failed_record(item.name, source_files(item).name, error, 0.0)
    item.save(update_fields=["state", "error", "record"])


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
    return KeyedOrder(source_files(item), line, _destination_of(item.shipment))


def _destination_of(shipment: Shipment) -> Destination:
    """The destination of a shipment as it was ordered; those of an early version tell its name alone."""
    if not shipment.profile:
        return destination_named(shipment.destination)
    try:
        return Destination.model_validate(shipment.profile)
    except ValidationError as error:
        text = f"its destination does not fit this version: {describe(error)}; ship the prop again"
        raise InvalidSettings(text) from error


def keep_item_files(item: ShipmentItem, result: BuildResult | Built) -> Finding | None:
    """Put an item's files into its shipment, whole, unless one of them bears the name of another item's.

    Names were compared when it was ordered; what was built since may bear others. Returns the clash.
    """
    digests = shipped_files(result)
    others = item.shipment.items.exclude(pk=item.pk).select_related("prop")
    # Textures that several props use are the same file, to the byte.
    shared = {path for other in others for path, digest in _digests_of(other.record) if digests.get(path) == digest}
    written = owners_of((other.prop.name, paths_of(other.record)) for other in others)
    clash = find_clash(item.prop.name, (path for path in digests if path not in shared), written)
    if clash is None:
        for path, digest in digests.items():
            write_whole(folder_of(item.shipment) / path, store.files().load(digest))
    return clash


def finish_item(item: ShipmentItem, key: str, result: BuildResult | Built, clash: Finding | None) -> None:
    """Write an item's record down, as the core made it."""
    built = write_result(key, result)
    if clash is not None:
        _hold(item, clash)
        return
    item.record = {**built.record, "source": source_files(item).name}
    item.state = ShipmentItem.State.SHIPPED if built.status == "shipped" else ShipmentItem.State.HELD
    item.save(update_fields=["record", "state"])


def _digests_of(record: dict[str, Any]) -> list[tuple[str, str]]:
    return [(file["path"], file.get("sha256", "")) for file in record.get("files", [])]


def paths_of(record: dict[str, Any]) -> list[str]:
    """The files that a record tells of."""
    return [file["path"] for file in record.get("files", [])]


def item_ended(item: ShipmentItem, job: Job) -> None:
    """Note a failure or a call-off; the last item's end lets the shipment be packed."""
    if job.state == Job.State.FAILED:
        _fail(item, job.error)
    elif job.state == Job.State.CANCELLED:
        item.state = ShipmentItem.State.CANCELLED
        item.save(update_fields=["state"])
    pack_when_done(item.shipment)


def pack_when_done(shipment: Shipment) -> None:
    """When no item is left to do, the archive is."""
    if shipment.items.filter(state=ShipmentItem.State.WAITING).exists() or is_active(PACK, shipment.pk):
        return
    enqueue(PACK, shipment.pk, Job.Priority.BATCH)


def pack_order(shipment: Shipment) -> PackOrder:
    """What is to be packed of a shipment."""
    records = [item.record for item in shipment.items.all() if item.record]
    return PackOrder(
        folder=folder_of(shipment),
        archive=archive_of(shipment),
        manifest=manifest_json(records, shipment.destination),
        paths=tuple(dict.fromkeys(path for record in records for path in paths_of(record))),
    )


def finish_shipment(shipment: Shipment) -> None:
    """Its archive is written."""
    cancelled = shipment.items.filter(state=ShipmentItem.State.CANCELLED).exists()
    shipment.state = Shipment.State.CANCELLED if cancelled else Shipment.State.DONE
    shipment.finished = timezone.now()
    shipment.save(update_fields=["state", "finished"])


def packing_ended(shipment: Shipment, job: Job) -> None:
    """A shipment without its archive has failed, and says why; its files lie in its folder all the same."""
    if job.state == Job.State.FAILED:
        shipment.state, shipment.error, shipment.finished = Shipment.State.FAILED, job.error, timezone.now()
        shipment.save(update_fields=["state", "error", "finished"])


def settle_shipments() -> None:
    """An item that waits without a job gets one; a shipment whose items are done is packed."""
    shipping = subjects_at_work(SHIP)
    for shipment in Shipment.objects.filter(state=Shipment.State.RUNNING):
        waiting = shipment.items.filter(state=ShipmentItem.State.WAITING)
        for item in waiting.exclude(pk__in=shipping):
            enqueue(SHIP, item.pk, Job.Priority.BATCH)
        pack_when_done(shipment)


def cancel_shipment(shipment_id: int) -> Shipment:
    """Call off what has not shipped; what has stays."""
    shipment = find_shipment(shipment_id)
    cancel_about(SHIP, shipment.items.values_list("pk", flat=True))
    return shipment
