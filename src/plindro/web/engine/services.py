"""All writes of the simulated engine: importing, placing, forgetting."""

import math
from collections.abc import Sequence
from itertools import count

from django.db import transaction

from plindro.core.destinations import Destination
from plindro.core.rehearsal.project import Imported, Noticed, notice
from plindro.core.rehearsal.vertex_limit import SHORT
from plindro.web.catalogue.entries import destination_named
from plindro.web.engine.models import Asset, EngineProject
from plindro.web.engine.tasks import ImportOrder
from plindro.web.errors import NotFound, NotPossible
from plindro.web.shipping.deliveries import folder_below
from plindro.web.work.models import Job
from plindro.web.work.services import enqueue, is_active, subjects_at_work

IMPORT = "import"
"""Kind of the job that imports what a project noticed."""
_WIDE_LIMIT = 4_000_000_000
"""Vertices that 32-bit indices name."""
_BETWEEN, _STEP, _WIDE = 0.6, 0.5, 9.0
"""Metres between two assets, between two places that are tried, and of a row."""


def project_of(folder: str, destination: str = "plain") -> EngineProject:
    """The project that watches a folder, made where there is none; raises ``NotPossible`` where it is no folder's
    name."""
    folder_below(folder)
    return EngineProject.objects.get_or_create(folder=folder.strip().strip("/"), defaults={"destination": destination})[
        0
    ]


def find_project(project_id: int) -> EngineProject:
    """A project; raises ``NotFound``."""
    project = EngineProject.objects.filter(pk=project_id).first()
    if project is None:
        raise NotFound("there is no such engine project")
    return project


def read_as(project: EngineProject) -> Destination:
    """The destination that a project reads as, with its own width of indices."""
    known = destination_named(project.destination)
    limit = min(SHORT, known.max_engine_vertices) if project.indices == 16 else _WIDE_LIMIT
    return known.model_copy(update={"max_engine_vertices": limit})


def noticed(project: EngineProject) -> list[Noticed]:
    """How each asset of a project's folder stands to what was imported."""
    known = dict(project.assets.values_list("path", "digest"))
    return notice(folder_below(project.folder), known, read_as(project))


def set_up(project_id: int, destination: str, indices: int) -> EngineProject:
    """Have a project read as another destination or with other indices; what it imported is imported anew."""
    project = find_project(project_id)
    destination_named(destination)
    if indices not in (16, 32):
        raise NotPossible("indices have 16 or 32 bits")
    if is_active(IMPORT, project.pk):
        raise NotPossible("this project is importing; wait until it is done")
    if (destination, indices) != (project.destination, project.indices):
        project.destination, project.indices = destination, indices
        project.save(update_fields=["destination", "indices"])
        project.assets.update(digest="")
        if _due(project):
            start_import(project_id)
    return project


def _due(project: EngineProject) -> bool:
    """Whether anything is new or changed."""
    return any(asset.change in ("new", "changed") for asset in noticed(project))


def start_import(project_id: int) -> EngineProject:
    """Import what is new or changed; raises ``NotPossible`` where nothing is."""
    project = find_project(project_id)
    if is_active(IMPORT, project.pk):
        raise NotPossible("this project is importing already")
    if not _due(project):
        raise NotPossible("nothing in the folder is new or changed")
    with transaction.atomic():
        project.is_importing, project.error = True, ""
        project.save(update_fields=["is_importing", "error"])
        enqueue(IMPORT, project.pk, Job.Priority.BENCH)
    return project


def order_of(project: EngineProject) -> ImportOrder:
    """What is to be imported of a project now."""
    wanted = tuple(asset for asset in noticed(project) if asset.change in ("new", "changed"))
    return ImportOrder(folder_below(project.folder), wanted, read_as(project))


def imported(project: EngineProject, results: Sequence[Imported]) -> None:
    """Write down what was imported: over what was there, which keeps its place, or beside the others."""
    known = {asset.path: asset for asset in project.assets.all()}
    taken = [(asset.x, asset.z, _radius(asset.seen)) for asset in known.values()]
    for result in sorted(results, key=lambda one: (_radius(one.seen), one.path)):
        asset = known.get(result.path)
        if asset is None:
            own = _radius(result.seen)
            x, z = _free_place(taken, own)
            taken.append((x, z, own))
            asset = Asset(project=project, path=result.path, x=x, z=z, stamp=0)
        asset.digest, asset.seen, asset.error = result.digest, result.seen, result.error
        asset.findings, asset.distances = list(result.findings), list(result.distances)
        asset.stamp += 1
        asset.save()
    project.imports += 1
    project.save(update_fields=["imports"])


def import_ended(project: EngineProject, job: Job) -> None:
    """It imports no more; of a failure it says why."""
    project.is_importing = False
    project.error = "" if job.state == Job.State.DONE else job.error or "the import was called off"
    project.save(update_fields=["is_importing", "error"])


def settle_imports() -> None:
    """An import that waits without a job gets one."""
    for project in EngineProject.objects.filter(is_importing=True).exclude(pk__in=subjects_at_work(IMPORT)):
        enqueue(IMPORT, project.pk, Job.Priority.BENCH)


def place(project_id: int, asset_id: int, x: float, z: float, turn: float) -> Asset:
    """Put an asset elsewhere, in metres on the floor, turned by degrees."""
    asset = _find_asset(project_id, asset_id)
    if not all(math.isfinite(value) and abs(value) < 1e5 for value in (x, z, turn)):
        raise NotPossible("a place is given in metres, and a turn in degrees")
    asset.x, asset.z, asset.turn = x, z, turn % 360.0
    asset.save(update_fields=["x", "z", "turn"])
    return asset


def forget(project_id: int, asset_id: int) -> None:
    """Take an asset out of the project, with its place; its file stays where it is."""
    _find_asset(project_id, asset_id).delete()


def _find_asset(project_id: int, asset_id: int) -> Asset:
    asset = Asset.objects.filter(project=project_id, pk=asset_id).first()
    if asset is None:
        raise NotFound("this asset is not in the project any more")
    return asset


def _radius(seen: dict[str, list[float]] | None) -> float:
    """Metres from the pivot that a prop reaches on the floor."""
    if seen is None:
        return 0.5
    low, size = seen["lowest"], seen["size"]
    return math.hypot(*(max(abs(low[k]), abs(low[k] + size[k])) for k in (0, 2)))


def _free_place(taken: Sequence[tuple[float, float, float]], own: float) -> tuple[float, float]:
    """A place on the floor for something that reaches ``own`` metres, besides those ``taken``, (x, z, reach) of each:
    the first that is free, row after row away from where the walk begins."""
    step = max(own / 2, _STEP)
    for row in count():
        for column in range(int(_WIDE / step) + 1):
            x, z = column * step + own, -row * step - own
            if all(math.hypot(x - ox, z - oz) >= own + reach + _BETWEEN for ox, oz, reach in taken):
                return round(x, 2), round(z, 2)
    raise AssertionError("the floor has no end")
