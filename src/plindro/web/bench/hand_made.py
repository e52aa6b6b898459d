"""Meshes modelled by hand, for a level or as collision: taken with the prop's files, and undone like any decision."""

from pathlib import PurePosixPath
from typing import Any

from django.db import transaction

from plindro.core.line import override
from plindro.core.stations.levels import LEVELS, MAX_LEVELS
from plindro.web import store
from plindro.web.bench.disputes import Seen, refuse_stale
from plindro.web.bench.services import record, snapshot
from plindro.web.catalogue.entries import line_named
from plindro.web.errors import NotPossible
from plindro.web.yard.building import fitting_line
from plindro.web.yard.models import Prop
from plindro.web.yard.services import find_prop, relative_files
from plindro.web.yard.uploads import SortedUpload


def set_hand_made(prop_id: int, number: int, upload: SortedUpload, seen: Seen) -> Prop:
    """Take a mesh that was modelled by hand for LOD ``number``, or for one more level below the last.

    Raises ``NotPossible`` where there is not one mesh, or no such level; and ``Stale``.
    """
    name, files = _taken(upload, f"the one mesh of LOD{number}")
    with transaction.atomic():
        prop = find_prop(prop_id)
        targets = [level.model_dump() for level in fitting_line(prop)[0].of(LEVELS).levels]
        if not 1 <= number <= min(len(targets) + 1, MAX_LEVELS - 1):
            raise NotPossible(f"there is no LOD{number} to put a mesh in; add a level first")
        if number > len(targets):
            targets.append({})
        targets[number - 1]["hand_made"] = name
        refuse_stale(prop, {"levels.levels": targets}, seen)
        _decide(prop, "levels", {"levels": targets}, files, f"Levels: LOD{number} by hand, {name}", seen)
    return prop


def set_collision_mesh(prop_id: int, upload: SortedUpload, seen: Seen) -> Prop:
    """Take a mesh whose shells are the prop's collision proxies; raises ``NotPossible`` where there is not one, and
    ``Stale``."""
    name, files = _taken(upload, "the one mesh that holds the collision")
    with transaction.atomic():
        prop = find_prop(prop_id)
        refuse_stale(prop, {"collision.mesh": name}, seen)
        _decide(prop, "collision", {"mesh": name}, files, f"Collision: by hand, {name}", seen)
    return prop


def _taken(upload: SortedUpload, what: str) -> tuple[str, dict[str, str]]:
    """The name of the one mesh that was sent, and the digests of all files by their paths beside it."""
    if len(upload.sources) != 1:
        raise NotPossible(f"give {what}; {len(upload.sources)} were given")
    path, mesh = next(iter(upload.sources.items()))
    kept = store.files()
    name = PurePosixPath(path).name
    files = {name: kept.take(mesh)} | {key: kept.take(file) for key, file in upload.side_files.items()}
    return name, relative_files(files, path)


def _decide(prop: Prop, station: str, settings: dict[str, Any], files: dict[str, str], words: str, seen: Seen) -> None:
    """Change settings of a station on a prop that has these files from now on."""
    overrides = {**prop.own_settings, station: {**prop.own_settings.get(station, {}), **settings}}
    override(line_named(prop.line), overrides)
    changed = {"overrides": overrides, "side_files": {**prop.side_files, **files}}
    record(prop, words, {**snapshot(prop), **changed}, seen.author)
