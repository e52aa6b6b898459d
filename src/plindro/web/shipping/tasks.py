"""What a worker runs to finish a shipment: report, archive and delivery, each file whole or not at all."""

import hashlib
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from plindro.core.rehearsal.folder import CONTACT_SHEET, MANIFEST, REPORT
from plindro.core.shipping.delivery import Delivered, Plan, deliver
from plindro.web.shipping.report import write_contact_sheet, write_report
from plindro.web.store import Store
from plindro.web.work.progress import JobChannel

ZIP_TIME = (1980, 1, 1, 0, 0, 0)
"""Entries carry no time of their own, so that the same files give the same archive."""


@dataclass(frozen=True, slots=True)
class PackOrder:
    """What goes into a shipment's archive: where its files lie by their paths, its manifest, and what its report tells,
    with the props' pictures by name. Report and contact sheet lie in the folder ``delivered`` too, if it was."""

    store: Store
    archive: Path
    title: str
    subtitle: str
    manifest: bytes
    records: tuple[Mapping[str, Any], ...]
    pictures: Mapping[str, Path]
    files: Mapping[str, Path]
    delivered: Path | None


@dataclass(frozen=True, slots=True)
class DeliverOrder:
    """What is delivered into ``folder``: files with where they lie, and those that are given as bytes; ``owners`` are
    props whose other files are left behind."""

    folder: Path
    files: tuple[Delivered, ...]
    lie: Mapping[str, Path]
    given: Mapping[str, bytes]
    removes: bool
    owners: frozenset[str]


def deliver_files(order: DeliverOrder, channel: JobChannel) -> Plan:
    """Write what is new or other into the folder; raises ``OSError`` and ``InvalidSettings``."""
    report = channel.report()

    def load(path: str) -> bytes:
        return order.given[path] if path in order.given else order.lie[path].read_bytes()

    return deliver(order.folder, order.files, load, removes=order.removes, owners=order.owners, on_share=report.step)


def pack(order: PackOrder, channel: JobChannel) -> dict[str, str]:
    """Write report, contact sheet and archive; returns the digests of the first two. Raises ``OSError`` where there is
    no room, and leaves nothing half-written."""
    report = channel.report()
    report.step(0.0, "drawing the contact sheet")
    pictures = {name: path.read_bytes() for name, path in order.pictures.items() if path.is_file()}
    beside = {
        MANIFEST: order.manifest,
        REPORT: write_report(order.title, order.subtitle, order.records, pictures),
        CONTACT_SHEET: write_contact_sheet(order.title, order.records, pictures),
    }
    order.archive.parent.mkdir(parents=True, exist_ok=True)
    part = order.archive.with_suffix(".part")
    try:
        with zipfile.ZipFile(part, "w") as target:
            for path, data in beside.items():
                _put(target, path, data)
            for done, path in enumerate(sorted(order.files)):
                report.step(done / len(order.files), f"packing {path}")
                _put(target, path, order.files[path].read_bytes())
        part.replace(order.archive)
    finally:
        part.unlink(missing_ok=True)
    extras = {name: data for name, data in beside.items() if name != MANIFEST}
    if order.delivered is not None:
        rows = [Delivered(n, frozenset(), len(d), hashlib.sha256(d).hexdigest()) for n, d in extras.items()]
        deliver(order.delivered, rows, extras.__getitem__, removes=False)
    return {name: order.store.keep(data) for name, data in extras.items()}


def _put(archive: zipfile.ZipFile, path: str, data: bytes) -> None:
    entry = zipfile.ZipInfo(path, ZIP_TIME)
    entry.external_attr = 0o644 << 16
    archive.writestr(entry, data, zipfile.ZIP_DEFLATED, compresslevel=1)
