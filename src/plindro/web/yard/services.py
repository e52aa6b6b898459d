"""All writes of the Yard: importing sources, building props, removing and restoring them."""

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Any

from django.db import transaction

from plindro.core.destinations import DEFAULT_DESTINATION, Destination, get_destination
from plindro.core.errors import PlindroError, UnreadableFile
from plindro.core.line import Line, get_line, override
from plindro.core.names import clean_name, unique_names
from plindro.web import store
from plindro.web.errors import NotThere
from plindro.web.work.models import Job
from plindro.web.work.services import enqueue
from plindro.web.work.tasks import BuildOrder, BuildResult
from plindro.web.yard.models import Built, Prop, SourceView
from plindro.web.yard.uploads import SortedUpload

BUILD_VERSION = 7
"""Raised when the same source and settings give other results, so that old ones are not taken for new."""


@dataclass(frozen=True, slots=True)
class KeyedOrder:
    """An order as rows know it: digests instead of bytes, and the key of its result."""

    prop: Prop
    line: Line
    destination: Destination

    @property
    def key(self) -> str:
        """Digest of everything the result depends on."""
        content = [
            BUILD_VERSION,
            self.prop.source_name,
            self.prop.source,
            sorted(self.prop.side_files.items()),
            self.line.model_dump(mode="json"),
            self.destination.model_dump(mode="json"),
        ]
        return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()

    @property
    def source_key(self) -> str:
        """Digest of the source's files alone."""
        return source_key(self.prop)

    def order(self) -> BuildOrder:
        """The order with its bytes; raises ``UnreadableFile`` where a stored file is gone."""
        try:
            return BuildOrder(
                name=self.prop.source_name,
                data=store.load(self.prop.source),
                side_files={name: store.load(digest) for name, digest in self.prop.side_files.items()},
                line=self.line,
                destination=self.destination,
                wants_source_view=not SourceView.objects.filter(key=self.source_key).exists(),
            )
        except FileNotFoundError as error:
            raise UnreadableFile(f"{self.prop.source_name}: its stored file is gone; import it again") from error


def source_key(prop: Prop) -> str:
    """Digest of the files that a prop's source is made of."""
    content = [prop.source_name, prop.source, sorted(prop.side_files.items())]
    return hashlib.sha256(json.dumps(content).encode()).hexdigest()


def source_view(prop: Prop) -> str:
    """Digest of the stored view of a prop's source; empty where there is none."""
    row = SourceView.objects.filter(key=source_key(prop)).first()
    return row.view if row else ""


def line_of(prop: Prop) -> Line:
    """The prop's line with its own settings, and its name."""
    line = override(get_line(prop.line), prop.overrides)
    return line.model_copy(update={"naming": line.naming.model_copy(update={"name": prop.name})})


def build_order(prop: Prop, destination: str = DEFAULT_DESTINATION) -> KeyedOrder:
    """The order that builds a prop as it is decided now."""
    return KeyedOrder(prop, line_of(prop), get_destination(destination))


def find_prop(prop_id: int) -> Prop:
    """A prop that is on the board; raises ``NotThere``."""
    prop = Prop.objects.select_related("built").filter(pk=prop_id, is_removed=False).first()
    if prop is None:
        raise NotThere("this prop is not on the board any more")
    return prop


def import_upload(
    upload: SortedUpload, *, line: str = "standing", overrides: dict[str, dict[str, Any]] | None = None
) -> list[Prop]:
    """Make a prop of every source and queue its building; names are kept apart from those on the board.

    ``overrides`` are settings of the props themselves, by station, which are valid.
    """
    side_files = {name: store.keep(data) for name, data in upload.side_files.items()}
    sources = [(name, store.keep(data), len(data)) for name, data in upload.sources.items()]
    props = []
    with transaction.atomic():
        taken = list(Prop.objects.filter(is_removed=False).order_by("pk").values_list("name", flat=True))
        wanted = [clean_name(PurePosixPath(name).stem) for name, _, _ in sources]
        names = unique_names([*taken, *wanted])[len(taken) :]
        for (path, digest, size), name in zip(sources, names, strict=True):
            prop = Prop.objects.create(
                name=name,
                source_name=PurePosixPath(path).name,
                source=digest,
                source_bytes=size,
                side_files=relative_files(side_files, path),
                line=line,
                overrides=overrides or {},
            )
            request_build(prop)
            props.append(prop)
    return props


def relative_files(side_files: dict[str, str], source: str) -> dict[str, str]:
    """Side files named as the source would name them: relative to its folder where they lie below it."""
    folder = PurePosixPath(source).parent
    result = {}
    for name, digest in side_files.items():
        path = PurePosixPath(name)
        result[str(path.relative_to(folder) if path.is_relative_to(folder) else path)] = digest
    return result


def request_build(prop: Prop) -> None:
    """Bring a prop's result up to date: from what is known, else by a job; an older job of it is called off."""
    Job.objects.filter(prop=prop, kind=Job.Kind.BUILD, state=Job.State.QUEUED).update(state=Job.State.CANCELLED)
    Job.objects.filter(prop=prop, kind=Job.Kind.BUILD, state=Job.State.RUNNING).update(cancel_requested=True)
    known = Built.objects.filter(key=build_order(prop).key).first()
    if known is not None:
        prop.built, prop.state, prop.error = known, Prop.State.BUILT, ""
    else:
        prop.state, prop.error = Prop.State.WORKING, ""
        enqueue(Job.Kind.BUILD, prop_id=prop.pk)
    prop.save(update_fields=["built", "state", "error", "changed"])


def build_outdated() -> int:
    """Queue the props whose result is of an earlier version of the program; returns how many.

    Until then they are shown as they were built.
    """
    outdated = []
    for prop in Prop.objects.filter(is_removed=False, state=Prop.State.BUILT).select_related("built"):
        try:
            if prop.built is None or prop.built.key != build_order(prop).key:
                outdated.append(prop)
        except PlindroError:
            # Its line or a setting is not there any more; the Bench says so.
            continue
    for prop in outdated:
        request_build(prop)
    return len(outdated)


def find_built(key: str) -> BuildResult | None:
    """A result that is already there, with its bytes."""
    row = Built.objects.filter(key=key).first()
    if row is None:
        return None
    try:
        return BuildResult(
            name=row.name,
            status=row.status,
            facts=row.facts,
            findings=row.findings,
            view=store.load(row.view) if row.view else None,
            picture=store.load(row.picture),
            seconds=row.seconds,
            files={path: store.load(digest) for path, digest in row.files.items()},
            sheet=store.load(row.sheet) if row.sheet else None,
            descent=store.load(row.descent) if row.descent else None,
            state_views={name: store.load(digest) for name, digest in row.state_views.items()},
        )
    except FileNotFoundError:
        return None


def keep_built(key: str, result: BuildResult) -> Built:
    """Write a result down under its key."""
    row, _ = Built.objects.update_or_create(
        key=key,
        defaults={
            "name": result.name,
            "status": result.status,
            "facts": result.facts,
            "findings": result.findings,
            "view": store.keep(result.view) if result.view else "",
            "picture": store.keep(result.picture),
            "files": {path: store.keep(data) for path, data in result.files.items()},
            "sheet": store.keep(result.sheet) if result.sheet else "",
            "descent": store.keep(result.descent) if result.descent else "",
            "state_views": {name: store.keep(data) for name, data in result.state_views.items()},
            "seconds": result.seconds,
        },
    )
    return row


def finish_build(job: Job, result: BuildResult) -> None:
    """Keep the result; it becomes the prop's where nothing was decided otherwise meanwhile."""
    prop = job.prop
    assert prop is not None
    built = keep_built(job.key, result)
    if result.source_view is not None:
        SourceView.objects.update_or_create(key=source_key(prop), defaults={"view": store.keep(result.source_view)})
    if build_order(prop).key != job.key:
        return
    prop.built, prop.state, prop.error = built, Prop.State.BUILT, ""
    prop.save(update_fields=["built", "state", "error", "changed"])


def build_ended(job: Job) -> None:
    """A build that failed or was called off leaves the prop saying so, its last result in place."""
    prop = job.prop
    if prop is None or job.state == Job.State.DONE:
        return
    if Job.objects.filter(prop=prop, kind=Job.Kind.BUILD, state__in=Job.ACTIVE).exists():
        return
    prop.state = Prop.State.FAILED if job.state == Job.State.FAILED else Prop.State.WAITING
    prop.error = job.error
    prop.save(update_fields=["state", "error", "changed"])


def finish_rock(job: Job, data: bytes) -> None:
    """Put the dense rock on the board."""
    upload = SortedUpload(sources={"skerry_rock.glb": data})
    import_upload(upload)


def request_rock() -> Job:
    """Queue the making of the dense rock."""
    return enqueue(Job.Kind.ROCK)


def remove_props(prop_ids: Sequence[int]) -> int:
    """Take props off the board; their files stay, so that this can be undone. Returns how many went."""
    with transaction.atomic():
        Job.objects.filter(prop_id__in=prop_ids, state__in=Job.ACTIVE).update(cancel_requested=True)
        return Prop.objects.filter(pk__in=prop_ids, is_removed=False).update(is_removed=True)


def restore_props(prop_ids: Sequence[int]) -> int:
    """Put removed props back; a name that was taken meanwhile is numbered. Returns how many came back."""
    with transaction.atomic():
        props = list(Prop.objects.filter(pk__in=prop_ids, is_removed=True))
        taken = list(Prop.objects.filter(is_removed=False).order_by("pk").values_list("name", flat=True))
        names = unique_names([*taken, *(prop.name for prop in props)])[len(taken) :]
        for prop, name in zip(props, names, strict=True):
            prop.name, prop.is_removed = name, False
            prop.save(update_fields=["name", "is_removed", "changed"])
            request_build(prop)
        return len(props)
