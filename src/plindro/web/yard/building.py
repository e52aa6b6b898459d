"""Building props: what a result depends on, the order for a worker, and keeping what comes back."""

import hashlib
import json
from collections import Counter
from concurrent.futures import Executor, Future
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from plindro.core.destinations import DEFAULT_DESTINATION, Destination, get_destination
from plindro.core.errors import UnreadableFile
from plindro.core.line import Facts, Line, StationsFacts, override
from plindro.core.lines import get_line
from plindro.core.shipping import ROOM_VERSIONS
from plindro.core.stations.naming import NAMING
from plindro.web import store
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.yard import tasks
from plindro.web.yard.models import Built, KeptFile, Prop
from plindro.web.yard.tasks import BuildOrder, BuildResult

SOURCE_KIND = "source"
"""Kind of the file that shows a source as it came, kept by the source's key."""


@dataclass(frozen=True, slots=True)
class KeyedOrder:
    """An order as rows know it: digests instead of bytes, and the key of its result."""

    prop: Prop
    line: Line
    destination: Destination

    @property
    def key(self) -> str:
        """Digest of everything the result depends on, the versions of what makes it included."""
        content = [
            self.line.station_versions(),
            ROOM_VERSIONS,
            self.prop.source_name,
            self.prop.source,
            sorted(self.prop.side_files.items()),
            self.line.model_dump(mode="json"),
            self.destination.model_dump(mode="json"),
        ]
        return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()

    def order(self) -> BuildOrder:
        """The order with its bytes; raises ``UnreadableFile`` where a stored file is gone."""
        try:
            return BuildOrder(
                name=self.prop.source_name,
                data=store.load(self.prop.source),
                side_files={name: store.load(digest) for name, digest in self.prop.side_files.items()},
                line=self.line.model_dump(mode="json"),
                destination=self.destination,
                wants_source_model=not KeptFile.objects.filter(key=source_key(self.prop), kind=SOURCE_KIND).exists(),
            )
        except FileNotFoundError as error:
            raise UnreadableFile(f"{self.prop.source_name}: its stored file is gone; import it again") from error


def source_key(prop: Prop) -> str:
    """Digest of the files that a prop's source is made of."""
    content = [prop.source_name, prop.source, sorted(prop.side_files.items())]
    return hashlib.sha256(json.dumps(content).encode()).hexdigest()


def line_of(prop: Prop) -> Line:
    """The prop's line with its own settings, and its name."""
    return override(get_line(prop.line), prop.overrides).with_settings(NAMING, name=prop.name)


def build_order(prop: Prop, destination: str = DEFAULT_DESTINATION) -> KeyedOrder:
    """The order that builds a prop as it is decided now."""
    return KeyedOrder(prop, line_of(prop), get_destination(destination))


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
    row = Built.objects.filter(key=key).first()
    if row is None or any(not store.path_of(digest).is_file() for _, digest in files_of(row).items() if digest):
        return None
    return row


def keep_result(key: str, prop: Prop, result: BuildResult | Built) -> Built:
    """The row of a result, written down under its key with its files unless it is there already."""
    if isinstance(result, Built):
        return result
    digests = [(file.kind, file.name, store.keep(file.data)) for file in result.files]
    source = None if result.source_model is None else store.keep(result.source_model) if result.source_model else ""
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
            },
        )
        KeptFile.objects.filter(key=key).delete()
        KeptFile.objects.bulk_create(
            KeptFile(key=key, kind=kind, name=name, digest=digest) for kind, name, digest in digests
        )
        if source is not None:
            KeptFile.objects.update_or_create(
                key=source_key(prop), kind=SOURCE_KIND, name="", defaults={"digest": source}
            )
    return row


def files_of(built: Built) -> dict[tuple[str, str], str]:
    """The digests of what a build left behind, by kind and name."""
    rows = KeptFile.objects.filter(key=built.key).order_by("pk")
    return {(row.kind, row.name): row.digest for row in rows}


def pictures_of(built: list[Built]) -> dict[str, str]:
    """The digests of the pictures of some results, by their keys, in one query."""
    rows = KeptFile.objects.filter(kind="picture", key__in=[row.key for row in built])
    return dict(rows.values_list("key", "digest"))


def shipped_files(built: Built) -> dict[str, str]:
    """The digests of the files that ship, by name."""
    return {name: digest for (kind, name), digest in files_of(built).items() if kind == "shipped"}


def source_model(prop: Prop) -> str:
    """Digest of the model of a prop's source as it came; empty where there is none."""
    row = KeptFile.objects.filter(key=source_key(prop), kind=SOURCE_KIND).first()
    return row.digest if row else ""


def facts_of(built: Built | None) -> Facts | None:
    """The facts of a result; None where it is of a version whose facts are not known any more."""
    if built is None:
        return None
    try:
        return StationsFacts.model_validate(built.facts)
    except ValidationError:
        return None
