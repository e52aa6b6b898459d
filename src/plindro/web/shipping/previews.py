"""What a shipment would write, before anything is made."""

from collections.abc import Iterable
from typing import Any

from django.conf import settings

from plindro.core.destinations import Destination
from plindro.core.rehearsal.folder import MANIFEST
from plindro.core.shipping import Owners, find_clash, owners_of
from plindro.core.shipping.delivery import Plan, plan_delivery
from plindro.core.stations.naming import ShippedNames
from plindro.web.catalogue.entries import entry_named, one_moment
from plindro.web.schemas import FindingOut
from plindro.web.shipping import deliveries
from plindro.web.shipping.left_behind import last_files, left_at
from plindro.web.shipping.schemas import PreviewFile, PreviewRow, ShipmentPreview
from plindro.web.shipping.services import chosen_props, files_of_names, ship_names, standings
from plindro.web.yard.building import Ready, ready_results
from plindro.web.yard.models import Prop
from plindro.web.yard.queries import readiness

_NOTES = {
    "failed": "could not be built",
    "cancelled": "its build was cancelled; it is built for the shipment",
    "working": "still being built; it ships when it is done",
}


def preview(prop_ids: list[int], destination: str, folder: str = "") -> ShipmentPreview:
    """The files, sizes and findings of a shipment, and what becomes of each file in the folder that it goes into."""
    profile: Destination = entry_named("destination", destination).value
    props = chosen_props(prop_ids)
    with one_moment():
        promised = {prop.pk: ship_names(prop, profile) for prop in props}
        stands = standings(props, profile)
    built = ready_results(one.key for one in stands.values() if one.key)
    ready = {pk: built[one.key] for pk, one in stands.items() if one.key in built}
    plan = _plan(ready, folder) if folder else None
    there = _Folder(plan, folder)
    owners = owners_of((prop.name, files_of_names(promised[prop.pk])) for prop in props)
    shipped = last_files(profile, prop_ids)
    rows = []
    for prop in props:
        row = _row(prop, promised[prop.pk], ready.get(prop.pk), owners, there)
        left = [] if row.held else left_at(promised[prop.pk], profile, shipped.get(prop.pk, []))
        rows.append(row.model_copy(update={"left": left, "since": stands[prop.pk].since}))
    return ShipmentPreview(
        root=str(settings.DELIVERIES),
        rows=rows,
        left=list(plan.left) if plan else [],
        changed=sorted(plan.changed) if plan else [],
    )


def _plan(ready: dict[int, Ready], folder: str) -> Plan:
    """What delivering those that are built would do; the manifest apart, which is made of all."""
    load = deliveries.load_of(((pk, one.record) for pk, one in ready.items() if one.status == "shipped"), {}, b"")
    files = [file for file in load.files if file.path != MANIFEST]
    return plan_delivery(deliveries.folder_below(folder), files)


class _Folder:
    """What is known of the folder that is delivered into."""

    def __init__(self, plan: Plan | None, folder: str) -> None:
        self._changes: dict[str, Any] = {row.file.path: row.change for row in plan.files} if plan else {}
        self._folder = deliveries.folder_below(folder) if folder else None

    def change(self, path: str) -> Any:
        """What becomes of a file; None where it goes into no folder."""
        if self._folder is None:
            return None
        return self._changes.get(path) or ("unknown" if (self._folder / path).is_file() else "made")


def _row(
    prop: Prop, names: tuple[ShippedNames, ...], ready: Ready | None, owners: Owners, there: _Folder
) -> PreviewRow:
    clash = find_clash(prop.name, files_of_names(names), owners)
    # Until it is built for this destination, what is known of it is what the board knows.
    is_held = ready.status != "shipped" if ready else readiness(prop) in ("held", "failed")
    findings: Iterable[dict[str, Any]] = ready.record["findings"] if ready else _findings_of(prop)
    waived = {waiver.code for waiver in prop.waivers.all()}
    stops = [f for f in findings if f["severity"] == "stop" and f["code"] not in waived]
    files = _files(names, ready, there)
    return PreviewRow(
        prop=prop.pk,
        name=names[0].root,
        files=[] if is_held or clash else files,
        levels=list(names[0].levels),
        held=is_held or clash is not None,
        stops=[FindingOut.model_validate(stop) for stop in stops] if is_held else [],
        note=clash.message if clash else _note(prop, is_built=ready is not None),
        left=[],
        since="new",
        is_built=ready is not None,
    )


def _note(prop: Prop, *, is_built: bool) -> str:
    if is_built:
        return ""
    return prop.error or _NOTES.get(readiness(prop), "built for this destination when it ships")


def _findings_of(prop: Prop) -> list[dict[str, Any]]:
    return prop.built.findings if prop.built else []


def _files(names: tuple[ShippedNames, ...], ready: Ready | None, there: _Folder) -> list[PreviewFile]:
    if ready is None:
        known: list[tuple[str, int | None]] = [(path, None) for path in files_of_names(names)]
    else:
        known = [(file["path"], file["bytes"]) for file in ready.record["files"]]
    return [PreviewFile(path=path, bytes=size, change=there.change(path)) for path, size in known]
