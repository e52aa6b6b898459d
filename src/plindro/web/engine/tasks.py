"""What a worker runs to import what a project noticed."""

from dataclasses import dataclass
from pathlib import Path

from plindro.core.destinations import Destination
from plindro.core.rehearsal.project import Imported, Noticed, import_assets
from plindro.web.work.progress import JobChannel


@dataclass(frozen=True, slots=True)
class ImportOrder:
    """What a worker imports."""

    folder: Path
    wanted: tuple[Noticed, ...]
    destination: Destination


def import_noticed(order: ImportOrder, channel: JobChannel) -> list[Imported]:
    """Read every asset that is wanted; raises ``OSError``."""
    report, done = channel.report(), []
    for number, result in enumerate(import_assets(order.folder, list(order.wanted), order.destination), 1):
        done.append(result)
        report.step(number / len(order.wanted), f"importing {result.path}")
    return done
