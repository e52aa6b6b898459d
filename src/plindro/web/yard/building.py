"""Building props: what a result depends on, the order for a worker, and keeping what comes back."""

import hashlib
import json
from collections import Counter
from collections.abc import Iterable
from concurrent.futures import Executor, Future
from dataclasses import asdict, dataclass
from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from plindro.core.destinations import DEFAULT_DESTINATION, Destination
from plindro.core.errors import InvalidSettings, UnreadableFile
from plindro.core.line import Facts, Line, override
from plindro.core.lines import DEFAULT_LINE
from plindro.core.shipping import ROOM_VERSIONS
from plindro.core.stations.naming import NAMING
from plindro.core.stations.source import SOURCE
from plindro.core.waivers import Waiver
from plindro.web import store
from plindro.web.catalogue.entries import destination_named, line_named
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.yard import tasks
from plindro.web.yard.models import Built, KeptFile, Prop
from plindro.web.yard.tasks import BuildOrder, BuildResult

SOURCE_KIND = "source"
"""Kind of the file that shows a source as it came, kept by the source's key."""
_SHOWN_AS = "-".join(map(str, (ROOM_VERSIONS["reading"], SOURCE.version, ROOM_VERSIONS["viewing"])))
"""Its name: the versions of what makes it. One of before is shown until the next build of the source renews it."""


@dataclass(frozen=True, slots=True)
class SourceFiles:
    """A source's name and its digest, and those of the files that came with it."""

    name: str
    digest: str
    side_files: dict[str, str]

    @property
    def key(self) -> str:
        """Digest of all of them."""
        content = [self.name, self.digest, sorted(self.side_files.items())]
        return hashlib.sha256(json.dumps(content).encode()).hexdigest()


def source_of(prop: Prop) -> SourceFiles:
    """The source that a prop has now."""
    return SourceFiles(prop.source_name, prop.source, prop.side_files)


_FOR_PEOPLE = {"title"}
"""What of a line and a destination no result depends on."""


@dataclass(frozen=True, slots=True)
class KeyedOrder:
    """An order as rows know it: digests instead of bytes, and the key of its result."""

    source: SourceFiles
    line: Line
    destination: Destination
    is_preview: bool = False
    waivers: tuple[Waiver, ...] = ()

    @property
    def key(self) -> str:
        """Digest of everything the result depends on, the versions of what makes it included."""
        content = [
            self.line.station_versions(),
            ROOM_VERSIONS,
            self.source.name,
            self.source.digest,
            sorted(self.source.side_files.items()),
            self.line.model_dump(mode="json", exclude=_FOR_PEOPLE),
            self.destination.model_dump(mode="json", exclude=_FOR_PEOPLE),
            *(["preview"] if self.is_preview else []),
            *([asdict(waiver) for waiver in self.waivers]),
        ]
        return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()

    def order(self) -> BuildOrder:
        """The order as it travels to a worker; raises ``UnreadableFile`` where a stored file is gone."""
        kept, source = store.files(), self.source
        if any(not kept.path_of(digest).is_file() for digest in (source.digest, *source.side_files.values())):
            raise UnreadableFile(f"{source.name}: its stored file is gone; import it again")
        return BuildOrder(
            store=kept,
            name=source.name,
            source=source.digest,
            side_files=source.side_files,
            line=self.line.model_dump(mode="json"),
            destination=self.destination,
            source_key=source.key,
            wants_source_model=not _source_models(source.key).filter(name=_SHOWN_AS).exists(),
            is_preview=self.is_preview,
            waivers=self.waivers,
        )


def line_of(prop: Prop) -> Line:
    """The prop's line with its own settings, and its name; raises ``InvalidSettings`` where those do not fit it."""
    return override(line_named(prop.line), prop.own_settings).with_settings(NAMING, name=prop.name)


def fits(line: Line, station: str, values: dict[str, Any]) -> bool:
    """Whether a line's station takes these settings."""
    try:
        override(line, {station: values})
    except InvalidSettings:
        return False
    return True


def fitting_line(prop: Prop) -> tuple[Line, str]:
    """As ``line_of``, without the settings that do not fit this version's line; and a sentence why, else nothing.

    For what shows a prop: it must be seen to be mended.
    """
    try:
        return line_of(prop), ""
    except InvalidSettings as error:
        why = str(error)
    try:
        line = line_named(prop.line)
    except InvalidSettings:
        line = line_named(DEFAULT_LINE)
    line = override(line, {s: values for s, values in prop.own_settings.items() if fits(line, s, values)})
    return line.with_settings(NAMING, name=prop.name), f"its settings do not fit this version: {why}; decide them again"


def build_order(prop: Prop, destination: str = DEFAULT_DESTINATION) -> KeyedOrder:
    """The order that builds a prop as it is decided now."""
    return order_for(prop, destination_named(destination))


def order_for(prop: Prop, destination: Destination) -> KeyedOrder:
    """As ``build_order``, for a destination at hand."""
    return KeyedOrder(source_of(prop), line_of(prop), destination, waivers=waivers_of(prop))


def waivers_of(prop: Prop) -> tuple[Waiver, ...]:
    """The waivers that stand for a prop."""
    return tuple(Waiver(row.code, row.by, row.reason) for row in prop.waivers.all())


def submit_order(job: Job, order: KeyedOrder, channel: JobChannel, executor: Executor) -> Future[Any]:
    """Build an order, or take the result that is already there. The job remembers whose result it is."""
    job.key = order.key
    job.save(update_fields=["key"])
    known = find_built(order.key)
    if known is None:
        return executor.submit(tasks.build, order.order(), channel)
    ready: Future[Any] = Future()
    ready.set_result(known)
    return ready


def find_built(key: str) -> Built | None:
    """A result that is already there, with all of its files."""
    row, kept = Built.objects.filter(key=key).first(), store.files()
    if row is None or any(not kept.path_of(digest).is_file() for digest in files_of(row).values() if digest):
        return None
    # Whoever collects what nobody needs goes by this.
    Built.objects.filter(pk=row.pk).update(used=timezone.now())
    return row


@dataclass(frozen=True, slots=True)
class Ready:
    """A result that is there: the digests of the files that ship by path, that of its picture, its record."""

    key: str
    status: str
    record: dict[str, Any]
    shipped: dict[str, str]
    picture: str


def ready_of(built: Built) -> Ready:
    """A result that was just built or found."""
    return _ready(built, files_of(built))


def _ready(built: Built, files: dict[tuple[str, str], str]) -> Ready:
    shipped = {name: digest for (kind, name), digest in files.items() if kind == "shipped"}
    return Ready(built.key, built.status, built.record, shipped, files.get(("picture", ""), ""))


def ready_results(keys: Iterable[str]) -> dict[str, Ready]:
    """Those of the results that are there with all of their files, by key, in two queries."""
    wanted = list(keys)
    rows = Built.objects.filter(key__in=wanted).only("key", "status", "record")
    files: dict[str, dict[tuple[str, str], str]] = {}
    for row in KeptFile.objects.filter(key__in=wanted).order_by("pk"):
        files.setdefault(row.key, {})[row.kind, row.name] = row.digest
    found, kept = {}, store.files()
    for built in rows:
        own = files.get(built.key, {})
        if all(kept.path_of(digest).is_file() for digest in own.values() if digest):
            found[built.key] = _ready(built, own)
    Built.objects.filter(key__in=list(found)).update(used=timezone.now())
    return found


def write_result(key: str, result: BuildResult | Built) -> Built:
    """The row of a result, written down under its key with its files unless it is there already."""
    if isinstance(result, Built):
        return result
    with transaction.atomic():
        row, _ = Built.objects.update_or_create(
            key=key,
            defaults={
                "name": result.name,
                "status": result.status,
                "facts": result.facts,
                "findings": result.findings,
                "severities": Counter(finding["severity"] for finding in result.findings),
                "record": result.record,
                "seconds": result.seconds,
                "used": timezone.now(),
            },
        )
        KeptFile.objects.filter(key=key).delete()
        KeptFile.objects.bulk_create(
            KeptFile(key=key, kind=file.kind, name=file.name, digest=file.digest) for file in result.files
        )
        if result.source_model is not None:
            # Files of which nothing can be drawn have none, which is known from then on.
            defaults = {"digest": result.source_model}
            models = _source_models(result.source_key)
            models.update_or_create(key=result.source_key, kind=SOURCE_KIND, name=_SHOWN_AS, defaults=defaults)
            models.exclude(name=_SHOWN_AS).delete()
    return row


def files_of(built: Built) -> dict[tuple[str, str], str]:
    """The digests of what a build left behind, by kind and name."""
    rows = KeptFile.objects.filter(key=built.key).order_by("pk")
    return {(row.kind, row.name): row.digest for row in rows}


def address_of(digest: str | None, ending: str) -> str | None:
    """Where the browser gets a stored file; None where there is none."""
    return f"/api/files/{digest}.{ending}" if digest else None


def pictures_of(built: list[Built]) -> dict[str, str]:
    """The digests of the pictures of some results, by their keys, in one query."""
    rows = KeptFile.objects.filter(kind="picture", key__in=[row.key for row in built])
    return dict(rows.values_list("key", "digest"))


def shipped_files(result: BuildResult | Built) -> dict[str, str]:
    """The digests of the files that ship, by name."""
    if isinstance(result, BuildResult):
        return {file.name: file.digest for file in result.files if file.kind == "shipped"}
    return {name: digest for (kind, name), digest in files_of(result).items() if kind == "shipped"}


def source_model(prop: Prop) -> str:
    """Digest of the model of a prop's source as it came; empty where there is none."""
    row = _source_models(source_of(prop).key).first()
    return row.digest if row else ""


def _source_models(key: str) -> QuerySet[KeptFile]:
    return KeptFile.objects.filter(key=key, kind=SOURCE_KIND)


def facts_of(built: Built | None) -> Facts | None:
    """The facts of a result; None where there is none, or none that is known any more."""
    return built.known_facts if built else None
