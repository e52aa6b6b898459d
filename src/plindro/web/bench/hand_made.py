"""Meshes modelled by hand for single levels: taken with the prop's files, and undone like any decision."""

from pathlib import PurePosixPath

from django.db import transaction

from plindro.core.line import override
from plindro.core.lines import line_named
from plindro.core.stations.levels import LEVELS, MAX_LEVELS
from plindro.web import store
from plindro.web.bench.disputes import Seen, refuse_stale
from plindro.web.bench.services import record, snapshot
from plindro.web.errors import NotPossible
from plindro.web.yard.building import fitting_line
from plindro.web.yard.models import Prop
from plindro.web.yard.services import find_prop, relative_files
from plindro.web.yard.uploads import SortedUpload


def set_hand_made(prop_id: int, number: int, upload: SortedUpload, seen: Seen) -> Prop:
    """Take a mesh that was modelled by hand for LOD ``number``, or for one more level below the last.

    Raises ``NotPossible`` where there is not one mesh, or no such level; and ``Stale``.
    """
    if len(upload.sources) != 1:
        raise NotPossible(f"give the one mesh of LOD{number}; {len(upload.sources)} were given")
    path, mesh = next(iter(upload.sources.items()))
    name = PurePosixPath(path).name
    kept = store.files()
    files = {name: kept.take(mesh)} | {key: kept.take(file) for key, file in upload.side_files.items()}
    with transaction.atomic():
        prop = find_prop(prop_id)
        targets = [level.model_dump() for level in fitting_line(prop)[0].of(LEVELS).levels]
        if not 1 <= number <= min(len(targets) + 1, MAX_LEVELS - 1):
            raise NotPossible(f"there is no LOD{number} to put a mesh in; add a level first")
        if number > len(targets):
            targets.append({})
        targets[number - 1]["hand_made"] = name
        refuse_stale(prop, {"levels.levels": targets}, seen)
        levels = {**prop.own_settings.get("levels", {}), "levels": targets}
        overrides = {**prop.own_settings, "levels": levels}
        override(line_named(prop.line), overrides)
        changed = {"overrides": overrides, "side_files": {**prop.side_files, **relative_files(files, path)}}
        record(prop, f"Levels: LOD{number} by hand, {name}", {**snapshot(prop), **changed}, seen.author)
    return prop
