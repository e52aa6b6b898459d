"""What a worker runs to finish a shipment: manifest, archive and delivery, each file whole or not at all."""

import zipfile
from dataclasses import dataclass
from pathlib import Path

from plindro.core.shipping import write_whole
from plindro.core.shipping.delivery import Delivered, Plan, deliver
from plindro.web.work.progress import JobChannel

MANIFEST = "manifest.json"
ZIP_TIME = (1980, 1, 1, 0, 0, 0)
"""Entries carry no time of their own, so that the same files give the same archive."""


@dataclass(frozen=True, slots=True)
class PackOrder:
    """The files of a shipment by their paths below ``folder``, its manifest, and the archive that holds them all."""

    folder: Path
    archive: Path
    manifest: bytes
    paths: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class DeliverOrder:
    """What is delivered: files by their paths below ``shipped``, into ``folder``."""

    shipped: Path
    folder: Path
    files: tuple[Delivered, ...]
    removes: bool


def deliver_files(order: DeliverOrder, channel: JobChannel) -> Plan:
    """Write what is new or other into the folder; raises ``OSError`` and ``InvalidSettings``."""
    report = channel.report()
    return deliver(
        order.folder,
        order.files,
        lambda path: (order.shipped / path).read_bytes(),
        removes=order.removes,
        on_share=report.step,
    )


def pack(order: PackOrder, channel: JobChannel) -> None:
    """Write manifest and archive; raises ``OSError`` where there is no room, and leaves nothing half-written."""
    report = channel.report()
    write_whole(order.folder / MANIFEST, order.manifest)
    part = order.archive.with_suffix(".part")
    paths = [MANIFEST, *sorted(order.paths)]
    try:
        with zipfile.ZipFile(part, "w") as target:
            for done, path in enumerate(paths):
                report.step(done / len(paths), f"packing {path}")
                entry = zipfile.ZipInfo(path, ZIP_TIME)
                entry.external_attr = 0o644 << 16
                target.writestr(entry, (order.folder / path).read_bytes(), zipfile.ZIP_DEFLATED, compresslevel=1)
        part.replace(order.archive)
    finally:
        part.unlink(missing_ok=True)
