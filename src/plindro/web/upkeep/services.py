"""Removing what nothing refers to any more, once it is old enough to be sure that nobody wants it back."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django.db.models import OuterRef, Subquery
from django.utils import timezone

from plindro.web import store
from plindro.web.bench.models import Decision
from plindro.web.shipping.models import ShipmentItem
from plindro.web.upkeep.references import files_in_use, models_without_source
from plindro.web.work.models import Job
from plindro.web.yard.building import SOURCE_KIND
from plindro.web.yard.models import Built, KeptFile, Prop

HISTORY = 200
"""Decisions of a prop that can be undone; older ones go."""


AFTER_START = timedelta(minutes=10)


@dataclass(frozen=True, slots=True)
class Collected:
    """What was removed: files with their bytes, results, props that were taken off the board, jobs, decisions."""

    files: int
    bytes: int
    results: int
    props: int
    jobs: int
    decisions: int


def collect(grace: timedelta | None = None) -> Collected:
    """Remove what nothing has referred to for ``grace``, else for as long as the settings say."""
    before = timezone.now() - (settings.GRACE if grace is None else grace)
    with transaction.atomic():
        decisions = _collect_decisions()
        props = _collect_props(before)
        results = _collect_results(before)
        jobs, _ = Job.objects.exclude(state__in=Job.ACTIVE).filter(created__lt=before).delete()
    # A build or an upload under way has put files into the store whose rows are not written yet.
    under_way = timedelta(seconds=2 * settings.JOB_SECONDS)
    files, size = _collect_files(min(before, timezone.now() - under_way))
    textures, texture_bytes = store.files().textures.forget(before.timestamp())
    return Collected(files + textures, size + texture_bytes, results, props, jobs, decisions)


def _collect_decisions() -> int:
    """Decisions beyond the history of their prop."""
    newest = Decision.objects.filter(prop=OuterRef("prop")).order_by("-pk")
    oldest_kept = Subquery(newest.values("pk")[HISTORY - 1 : HISTORY])
    return Decision.objects.filter(pk__lt=oldest_kept).delete()[0]


def _collect_props(before: datetime) -> int:
    """Props that were taken off the board, but for those that the ledger tells of."""
    shipped = ShipmentItem.objects.values("prop")
    gone = Prop.objects.filter(is_removed=True, changed__lt=before).exclude(pk__in=shipped)
    count = gone.count()
    gone.delete()
    return count


def _collect_results(before: datetime) -> int:
    """Results that no prop shows and nobody has come back to."""
    gone = Built.objects.filter(prop__isnull=True, used__lt=before)
    keys = list(gone.values_list("key", flat=True))
    KeptFile.objects.filter(key__in=keys).exclude(kind=SOURCE_KIND).delete()
    KeptFile.objects.filter(pk__in=models_without_source()).delete()
    gone.delete()
    return len(keys)


def unused_files() -> Iterator[tuple[Path, int, datetime]]:
    """Stored files that no row refers to, with their bytes and the time when something last did."""
    in_use = files_in_use()
    for path in store.files().stored():
        if path.name not in in_use.sources and path.name not in in_use.results:
            status = path.stat()
            yield path, status.st_size, datetime.fromtimestamp(status.st_mtime, timezone.get_current_timezone())


def _collect_files(before: datetime) -> tuple[int, int]:
    count = total = 0
    for path, size, since in unused_files():
        if since < before and store.files().remove(path.name, before.timestamp()):
            count, total = count + 1, total + size
    return count, total


class Upkeep:
    """Collects once a day while the server runs, and not while it starts."""

    def __init__(self) -> None:
        self._next: datetime | None = None

    def __call__(self) -> None:
        now = timezone.now()
        if self._next is None:
            self._next = now + AFTER_START
        elif now >= self._next:
            self._next = now + timedelta(days=1)
            collect()
