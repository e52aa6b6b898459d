"""What a worker runs to import what a project noticed."""

from plindro.core.rehearsal.project import Imported, import_assets
from plindro.web.engine.services import ImportOrder
from plindro.web.work.progress import JobChannel


def import_noticed(order: ImportOrder, channel: JobChannel) -> list[Imported]:
    """Read every asset that is wanted; raises ``OSError``."""
    report, done = channel.report(), []
    for number, result in enumerate(import_assets(order.folder, list(order.wanted), order.destination), 1):
        done.append(result)
        report.step(number / len(order.wanted), f"importing {result.path}")
    return done
