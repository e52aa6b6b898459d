"""Delivering shipments into folders on the server, below the one that the installation names."""

import hashlib
import json
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from plindro.core.errors import PlindroError
from plindro.core.rehearsal.folder import MANIFEST
from plindro.core.shipping import manifest_json
from plindro.core.shipping.delivery import Delivered, Plan, plan_delivery
from plindro.web import store
from plindro.web.errors import NotPossible
from plindro.web.shipping import items
from plindro.web.shipping.items import find_shipment
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.shipping.packing import PACK, records_of
from plindro.web.shipping.schemas import DeliveryFile, DeliveryOut
from plindro.web.shipping.tasks import DeliverOrder
from plindro.web.work.models import Job
from plindro.web.work.services import enqueue, is_active, subjects_at_work

DELIVER = "deliver"
"""Kind of the job that delivers a shipment."""
_FOLDER = re.compile(r"[A-Za-z0-9_-][A-Za-z0-9_. -]*(/[A-Za-z0-9_-][A-Za-z0-9_. -]*)*")


def folder_below(name: str) -> Path:
    """The folder of this name below the installation's; raises ``NotPossible`` where it is no name for one."""
    plain = name.strip().strip("/")
    root = Path(settings.DELIVERIES)
    if not _FOLDER.fullmatch(plain) or not (root / plain).resolve().is_relative_to(root):
        raise NotPossible(f"'{name}' is no folder below {root}; use letters, digits, _ - . and / between folders")
    return root / plain


@dataclass(frozen=True, slots=True)
class Load:
    """What a delivery brings: the files, where they lie, and the bytes of those that are made for the folder."""

    files: tuple[Delivered, ...]
    lie: Mapping[str, Path]
    given: Mapping[str, bytes]


def load_of(records: Iterable[tuple[int, Mapping[str, Any]]], lie: Mapping[str, Path], manifest: bytes) -> Load:
    """The files of props' records, with a manifest; a prop is known by its number, whatever it is called."""
    found: dict[str, Delivered] = {}
    for prop, record in records:
        for row in record.get("files", []):
            known = found.get(row["path"])
            props = (known.props if known else frozenset()) | {str(prop)}
            found[row["path"]] = Delivered(row["path"], props, row["bytes"], row["sha256"])
    if found:
        digest = hashlib.sha256(manifest).hexdigest()
        found[MANIFEST] = Delivered(MANIFEST, frozenset(), len(manifest), digest)
    return Load(tuple(found.values()), lie, {MANIFEST: manifest})


def _load(shipment: Shipment, folder: Path, gone: frozenset[str] = frozenset()) -> Load:
    """What a shipment brings into a folder from which some files go."""
    shipped = list(shipment.items.filter(state=ShipmentItem.State.SHIPPED))
    lie = items.files_at(shipped)
    own = [(item.prop_id, item.record) for item in shipped]
    load = load_of(own, lie, merged_manifest(folder, shipment, records_of(shipment), gone))
    if not load.files:
        return load
    extras = {name: store.files().path_of(digest) for name, digest in shipment.extras.items()}
    beside = [
        Delivered(name, frozenset(), path.stat().st_size, shipment.extras[name])
        for name, path in extras.items()
        if path.is_file()
    ]
    return Load((*load.files, *beside), {**lie, **extras}, load.given)


def merged_manifest(folder: Path, shipment: Shipment, records: list[dict[str, Any]], gone: frozenset[str]) -> bytes:
    """The manifest of a folder with these props, and with those that lie there from earlier deliveries and are not
    about to be ``gone``. Of a prop that is held back now it tells what lies there of it."""
    try:
        told = json.loads((folder / MANIFEST).read_text("utf-8"))["props"]
        names = {record["name"] for record in records if record["files"]}
        paths = {path for record in records for path in items.paths_of(record)}
        kept = [
            record
            for record in told
            if record["name"] not in names
            and record["files"]
            and all((folder / path).is_file() and path not in gone for path in items.paths_of(record))
            and not ({record["files"][0]["path"]} & paths)
        ]
    except (OSError, ValueError, KeyError, TypeError):
        kept = []
    lying = {record["name"] for record in kept}
    now = [record for record in records if record["name"] not in lying]
    both = sorted([*kept, *now], key=lambda record: str(record["name"]))
    return manifest_json(both, shipment.destination, shipment.destination_version)


def plan_of(shipment_id: int, folder: str) -> DeliveryOut:
    """What a delivery of a shipment into a folder would do."""
    shipment = find_shipment(shipment_id)
    lies = folder_below(folder)
    return told(plan_delivery(lies, _load(shipment, lies).files, _owners(shipment, folder)), folder)


def start_delivery(shipment_id: int, folder: str, removes: bool, *, rolls_back: bool = False) -> Shipment:
    """Have a shipment delivered; raises ``NotPossible`` where another is on its way into the same folder.

    One that ``rolls_back`` takes what later shipments to the folder brought with it.
    """
    shipment = find_shipment(shipment_id)
    lies = folder_below(folder)
    if shipment.state == Shipment.State.RUNNING:
        raise NotPossible("this shipment is not done yet; deliver it when it is")
    if not shipment.items.filter(state=ShipmentItem.State.SHIPPED).exists():
        raise NotPossible("nothing of this shipment was shipped, so there is nothing to deliver")
    with transaction.atomic():
        for other in Shipment.objects.filter(pk__in=subjects_at_work(DELIVER)):
            if folder_below(other.delivery["folder"]) == lies:
                raise NotPossible(f"shipment {other.pk} is being delivered into that folder; wait until it is done")
        shipment.delivery = {"folder": folder, "removes": removes, "rolls_back": rolls_back, "state": "running"}
        shipment.save(update_fields=["delivery"])
        enqueue(DELIVER, shipment.pk, Job.Priority.BENCH)
    return shipment


def roll_back(shipment_id: int) -> Shipment:
    """Deliver the shipment that was delivered into the same folder before this one; raises ``NotPossible``."""
    shipment = find_shipment(shipment_id)
    before = delivered_before(shipment)
    if before is None:
        raise NotPossible("no earlier shipment was delivered into that folder, so there is nothing to go back to")
    return start_delivery(before.pk, shipment.delivery["folder"], removes=True, rolls_back=True)


def delivered_before(shipment: Shipment) -> Shipment | None:
    """The last shipment before this one that was delivered into the same folder."""
    folder = shipment.delivery.get("folder")
    if not folder or shipment.delivery.get("state") != "done":
        return None
    earlier = Shipment.objects.filter(pk__lt=shipment.pk, delivery__folder=folder, delivery__state="done")
    return earlier.order_by("-pk").first()


def _owners(shipment: Shipment, folder: str) -> frozenset[str]:
    """Where a delivery rolls back: the props of all later shipments into the folder, whose files go with them."""
    if not shipment.delivery.get("rolls_back"):
        return frozenset()
    later = ShipmentItem.objects.filter(shipment__pk__gt=shipment.pk, shipment__delivery__folder=folder)
    return frozenset(str(prop) for prop in later.values_list("prop", flat=True))


def begin_asked(shipment: Shipment) -> bool:
    """Deliver a shipment that is done, where that was asked when it was ordered; returns whether that has begun."""
    asked = shipment.delivery
    if asked.get("state") != "waiting":
        return False
    try:
        start_delivery(shipment.pk, asked["folder"], bool(asked.get("removes")))
    except PlindroError as error:
        _end(shipment, state="failed", error=str(error))
        return False
    shipment.refresh_from_db()
    return True


def order_of(shipment: Shipment) -> DeliverOrder:
    """What a worker does for it."""
    asked = shipment.delivery
    folder = folder_below(asked["folder"])
    owners = _owners(shipment, asked["folder"])
    gone = frozenset[str]()
    if asked["removes"]:
        plan = plan_delivery(folder, _load(shipment, folder).files, owners)
        gone = frozenset(plan.left) - plan.changed
    load = _load(shipment, folder, gone)
    return DeliverOrder(folder, load.files, load.lie, load.given, bool(asked["removes"]), owners)


def delivered(shipment: Shipment, plan: Plan) -> None:
    """Note what was done."""
    out = told(plan, shipment.delivery["folder"])
    removed = len(set(plan.left) - plan.changed) if shipment.delivery["removes"] else 0
    _end(shipment, state="done", **_counts(out), removed=removed)


def _end(shipment: Shipment, **told_of_it: Any) -> None:
    """Note how the delivery ended, and when, by which pages know that it did."""
    shipment.delivery = {**shipment.delivery, "at": timezone.now().isoformat(), **told_of_it}
    shipment.save(update_fields=["delivery"])


def _counts(out: DeliveryOut) -> dict[str, Any]:
    changes = [row.change for row in out.files]
    return {change: changes.count(change) for change in ("made", "replaced", "same", "foreign")}


def delivery_ended(shipment: Shipment, job: Job) -> None:
    """Note a failure or a call-off; what was written by then is whole. A shipment that was delivered at once is packed
    now."""
    if not shipment.extras and not is_active(PACK, shipment.pk):
        enqueue(PACK, shipment.pk, Job.Priority.BATCH)
    if job.state != Job.State.DONE:
        words = job.error or "called off; what was written by then is whole"
        _end(shipment, state="failed", error=words)


def settle_deliveries() -> None:
    """A delivery that waits without a job gets one."""
    running = Shipment.objects.filter(delivery__state="running").exclude(pk__in=subjects_at_work(DELIVER))
    for shipment in running:
        enqueue(DELIVER, shipment.pk, Job.Priority.BENCH)


def told(plan: Plan, folder: str) -> DeliveryOut:
    """A plan as the API tells it."""
    return DeliveryOut(
        root=str(settings.DELIVERIES),
        folder=folder,
        files=[
            DeliveryFile(path=row.file.path, change=row.change, bytes=row.file.bytes, bytes_before=row.bytes_before)
            for row in plan.files
        ],
        left=list(plan.left),
        changed=sorted(plan.changed),
    )
