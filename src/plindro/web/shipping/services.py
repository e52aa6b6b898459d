"""All writes of shipments: ordering, finishing, calling off, trying again, repeating."""

from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass
from typing import Any, Literal

from django.db import transaction
from django.utils import timezone

from plindro.core.destinations import Destination
from plindro.core.errors import PlindroError
from plindro.core.line import Line
from plindro.core.shipping import find_clash, owners_of
from plindro.core.stations.levels import LEVELS
from plindro.core.stations.naming import NAMING, ShippedNames, names_of, root_name
from plindro.web.catalogue.entries import entries, entry_named, one_moment
from plindro.web.errors import NotPossible
from plindro.web.shipping import items
from plindro.web.shipping.deliveries import begin_asked
from plindro.web.shipping.items import find_shipment
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.shipping.packing import PACK
from plindro.web.work.models import Job
from plindro.web.work.services import cancel_about, enqueue, is_active, subjects_at_work
from plindro.web.yard.building import (
    KeyedOrder,
    Ready,
    facts_of,
    fitting_line,
    order_for,
    ready_results,
    source_of,
    waivers_of,
)
from plindro.web.yard.models import Prop

SHIP = "ship"
"""Kind of the jobs that build one item."""
State = ShipmentItem.State


@dataclass(frozen=True, slots=True)
class Asked:
    """Where a shipment is to be delivered as soon as it is done, and whether what is left behind goes."""

    folder: str
    removes: bool = False


def chosen_props(prop_ids: Sequence[int]) -> list[Prop]:
    """The props on the board among these, in the order of their names; raises ``NotPossible`` where none is."""
    chosen = Prop.objects.filter(pk__in=prop_ids, is_removed=False).select_related("built").defer("built__findings")
    props = list(chosen.prefetch_related("waivers"))
    if not props:
        raise NotPossible("choose at least one prop to ship")
    return props


def order_shipment(prop_ids: Sequence[int], destination: str, asked: Asked | None = None) -> Shipment:
    """Order a shipment; what is decided about its props later does not change it. What is built already is done at
    once."""
    with transaction.atomic(), one_moment():
        entry = entry_named("destination", destination)
        profile: Destination = entry.value
        shipment = Shipment.objects.create(
            destination=profile.name,
            destination_version=entry.number,
            profile=profile.model_dump(mode="json"),
            delivery={"folder": asked.folder, "removes": asked.removes, "state": "waiting"} if asked else {},
        )
        _add_items(shipment, chosen_props(prop_ids), profile)
        end_when_done(shipment)
    return shipment


def _add_items(shipment: Shipment, props: Sequence[Prop], profile: Destination) -> None:
    promised = {prop.name: files_of_names(ship_names(prop, profile)) for prop in props}
    owners = owners_of(promised.items())
    made, keys = [], {}
    for prop in props:
        line, misfit = fitting_line(prop)
        item = _new_item(shipment, prop, line)
        made.append(item)
        clash = find_clash(prop.name, promised[prop.name], owners)
        if misfit:
            items.fail(item, misfit)
        elif clash is not None:
            items.hold(item, clash)
        else:
            keys[prop.pk] = KeyedOrder(source_of(prop), line, profile, waivers=waivers_of(prop)).key
    ready = ready_results(keys.values())
    done: list[ShipmentItem] = []
    for item in made:
        known = ready.get(keys.get(item.prop_id, ""))
        if known is not None:
            items.finish(item, known, done)
        done.append(item)
    ShipmentItem.objects.bulk_create(made)
    for item in made:
        if item.state == State.WAITING:
            enqueue(SHIP, item.pk, Job.Priority.BATCH)


def _new_item(shipment: Shipment, prop: Prop, line: Line) -> ShipmentItem:
    """An item as its prop is decided now, not saved."""
    source = source_of(prop)
    known = entries("line").get(prop.line)
    item = ShipmentItem(
        shipment=shipment,
        prop=prop,
        name=root_name(prop.name, line.of(NAMING)),
        line=line.model_dump(mode="json"),
        source=asdict(source),
        about={
            "source_sha256": source.digest,
            "line": {"name": prop.line, "version": known.number if known else 0},
        },
    )
    items.take_waivers(item, prop)
    return item


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


def finish_item(item: ShipmentItem, ready: Ready) -> None:
    """Write down what came of an item."""
    others = item.shipment.items.exclude(pk=item.pk).exclude(files={}).select_related("prop").defer("record", "line")
    items.finish(item, ready, list(others))
    item.save(update_fields=["state", "record", "key", "files", "picture", "error"])


def item_ended(item: ShipmentItem, job: Job) -> None:
    """Note a failure or a call-off; the last item's end lets the shipment be packed."""
    if job.state == Job.State.FAILED:
        items.fail(item, job.error)
        item.save(update_fields=["state", "error", "record", "files"])
    elif job.state == Job.State.CANCELLED:
        item.state = State.CANCELLED
        item.save(update_fields=["state"])
    end_when_done(item.shipment)


def end_when_done(shipment: Shipment) -> None:
    """When no item is left to do, the shipment is done; it is delivered where that is asked, and packed."""
    if shipment.items.filter(state=State.WAITING).exists() or is_active(PACK, shipment.pk):
        return
    cancelled = shipment.items.filter(state=State.CANCELLED).exists()
    shipment.state = Shipment.State.CANCELLED if cancelled else Shipment.State.DONE
    shipment.finished = timezone.now()
    shipment.save(update_fields=["state", "finished"])
    if not begin_asked(shipment):
        enqueue(PACK, shipment.pk, Job.Priority.BATCH)


def settle_shipments() -> None:
    """An item that waits without a job gets one; a shipment whose items are done is ended, and packed."""
    shipping = subjects_at_work(SHIP)
    for shipment in Shipment.objects.filter(state=Shipment.State.RUNNING):
        for item in shipment.items.filter(state=State.WAITING).exclude(pk__in=shipping):
            enqueue(SHIP, item.pk, Job.Priority.BATCH)
        end_when_done(shipment)
    packing = subjects_at_work(PACK)
    ended = Shipment.objects.filter(finished__isnull=False, extras={}, error="", items__key__gt="").distinct()
    for shipment in ended.exclude(pk__in=packing):
        if shipment.delivery.get("state") != "running":
            enqueue(PACK, shipment.pk, Job.Priority.BATCH)


def cancel_shipment(shipment_id: int) -> Shipment:
    """Call off what has not shipped; what has stays."""
    shipment = find_shipment(shipment_id)
    cancel_about(SHIP, shipment.items.values_list("pk", flat=True))
    return shipment


def retry_shipment(shipment_id: int) -> Shipment:
    """Build again what failed, was called off or held back, as it was decided when it was ordered, with the waivers
    that stand now. Raises ``NotPossible`` where nothing is left to do."""
    shipment = find_shipment(shipment_id)
    with transaction.atomic():
        left = list(shipment.items.filter(state__in=(State.FAILED, State.CANCELLED, State.HELD)).select_related("prop"))
        if not left:
            raise NotPossible("everything of this shipment has shipped or is on its way")
        for item in left:
            items.take_waivers(item, item.prop)
            item.state, item.error, item.record, item.files = State.WAITING, "", {}, {}
            item.save(update_fields=["waivers", "state", "error", "record", "files"])
            enqueue(SHIP, item.pk, Job.Priority.BATCH)
        shipment.state, shipment.finished, shipment.error = Shipment.State.RUNNING, None, ""
        shipment.retried = timezone.now()
        shipment.save(update_fields=["state", "finished", "error", "retried"])
    return shipment


def repeat_shipment(shipment_id: int) -> Shipment:
    """Ship the same props to the same destination, as all of them are decided now; into the same folder, if it was
    delivered into one. Raises ``NotPossible`` where none of its props is on the board any more."""
    shipment = find_shipment(shipment_id)
    told: dict[str, Any] = shipment.delivery
    asked = Asked(told["folder"]) if told.get("folder") else None
    return order_shipment(list(shipment.items.values_list("prop", flat=True)), shipment.destination, asked)


@dataclass(frozen=True, slots=True)
class Standing:
    """How a prop stands to its last shipment to a destination, and the key of what it would be built as now; empty
    where it cannot be built as it is decided."""

    since: Literal["new", "changed", "same", "failed"]
    key: str


def standings(props: Sequence[Prop], profile: Destination) -> dict[int, Standing]:
    """How each of these props stands, by its number."""
    shipped = ShipmentItem.objects.filter(shipment__destination=profile.name, state=State.SHIPPED, prop__in=list(props))
    last = dict(shipped.order_by("pk").values_list("prop_id", "key"))
    return {prop.pk: _standing(prop, profile, last.get(prop.pk)) for prop in props}


def _standing(prop: Prop, profile: Destination, last: str | None) -> Standing:
    try:
        key = order_for(prop, profile).key
    except PlindroError:
        return Standing("failed", "")
    return Standing("new" if last is None else "same" if last == key else "changed", key)
