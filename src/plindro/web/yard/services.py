"""All writes of the Yard: importing sources, building props, removing and restoring them."""

import io
from collections.abc import Mapping, Sequence
from pathlib import PurePosixPath
from typing import Any

from django.db import transaction
from django.utils import timezone

from plindro.core.errors import PlindroError
from plindro.core.names import clean_name, unique_names
from plindro.web import store
from plindro.web.catalogue.services import line_for
from plindro.web.errors import NotFound, NotPossible
from plindro.web.work.models import Job
from plindro.web.work.services import cancel_about, enqueue, supersede
from plindro.web.yard.building import build_order, find_built
from plindro.web.yard.models import Project, Prop
from plindro.web.yard.uploads import SortedUpload, sort_upload

NOT_THERE = "this prop is not on the board any more"
BUILD, ROCK = "build", "rock"
"""Kinds of the Yard's jobs."""


def project() -> Project:
    """The project of this installation; it has no name until its user gives it one."""
    row, _ = Project.objects.get_or_create(pk=1, defaults={"name": ""})
    return row


def name_project(name: str) -> Project:
    """Give the project a name; raises ``NotPossible`` where it is none."""
    row, plain = project(), " ".join(name.split())
    if not plain or len(plain) > 80:
        raise NotPossible("a project's name has 1 to 80 characters")
    row.name = plain
    row.save(update_fields=["name"])
    return row


def find_prop(prop_id: int) -> Prop:
    """A prop that is on the board; raises ``NotFound``."""
    prop = Prop.objects.select_related("built").filter(pk=prop_id, is_removed=False).first()
    if prop is None:
        raise NotFound(NOT_THERE)
    return prop


def import_upload(
    upload: SortedUpload, *, line: str | None = None, overrides: dict[str, dict[str, Any]] | None = None
) -> list[Prop]:
    """Make a prop of every source and queue its building; names are kept apart from those on the board.

    Without a ``line`` the house's rules choose one.

    ``overrides`` are settings of the props themselves, by station, which are valid.
    """
    kept = store.files()
    side_files = {name: kept.take(file) for name, file in upload.side_files.items()} if upload.sources else {}
    sources = [(name, kept.take(file), file.size) for name, file in upload.sources.items()]
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
                line=line or line_for(path),
                overrides=overrides or {},
            )
            request_build(prop)
            props.append(prop)
    return props


def import_bytes(
    files: Mapping[str, bytes], *, line: str | None = None, overrides: dict[str, dict[str, Any]] | None = None
) -> list[Prop]:
    """As ``import_upload``, of files in memory by name."""
    with store.files().incoming() as folder:
        upload = sort_upload(((name, io.BytesIO(data)) for name, data in files.items()), folder)
        return import_upload(upload, line=line, overrides=overrides)


def relative_files(side_files: dict[str, str], source: str) -> dict[str, str]:
    """Side files named as the source would name them: relative to its folder where they lie below it."""
    folder = PurePosixPath(source).parent
    result = {}
    for name, digest in side_files.items():
        path = PurePosixPath(name)
        result[str(path.relative_to(folder) if path.is_relative_to(folder) else path)] = digest
    return result


def request_build(prop: Prop, priority: Job.Priority = Job.Priority.BOARD) -> None:
    """Bring a prop's result up to date: from what is known, else by a job; an older job of it is called off."""
    supersede(BUILD, prop.pk)
    prop.is_stale = False
    known = find_built(build_order(prop).key)
    if known is not None:
        prop.built, prop.state, prop.error = known, Prop.State.BUILT, ""
    else:
        prop.state, prop.error = Prop.State.WORKING, ""
        enqueue(BUILD, prop.pk, priority)
    prop.save(update_fields=["built", "state", "error", "is_stale", "changed"])


def request_build_or_say_why(prop: Prop) -> bool:
    """As ``request_build``; a prop whose line or settings are not there any more fails with that reason instead."""
    try:
        request_build(prop)
    except PlindroError as error:
        prop.state, prop.error = Prop.State.FAILED, str(error)
        prop.save(update_fields=["state", "error", "changed"])
        return False
    return True


def build_outdated() -> int:
    """Queue the props whose result is of an earlier version of the program; returns how many.

    Until then they are shown as they were built.
    """
    props = Prop.objects.filter(is_removed=False, is_stale=False, state=Prop.State.BUILT).select_related("built")
    outdated = [prop for prop in props.prefetch_related("waivers") if not is_up_to_date(prop)]
    return sum(request_build_or_say_why(prop) for prop in outdated)


def is_up_to_date(prop: Prop) -> bool:
    """Whether a prop's result is what it would be built as now."""
    try:
        return prop.built is not None and prop.built.key == build_order(prop).key
    except PlindroError:
        return False


def request_rock() -> Job:
    """Queue the making of the dense rock."""
    return enqueue(ROCK)


def remove_props(prop_ids: Sequence[int]) -> int:
    """Take props off the board; their files stay, so that this can be undone. Returns how many went."""
    with transaction.atomic():
        cancel_about(BUILD, prop_ids)
        return Prop.objects.filter(pk__in=prop_ids, is_removed=False).update(is_removed=True, changed=timezone.now())


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
