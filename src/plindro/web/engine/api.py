"""Addresses of the simulated engine."""

from django.http import HttpRequest
from django.http.response import HttpResponseBase
from ninja import Router

from plindro.core.rehearsal.disk import DiskFiles
from plindro.web.engine import queries, services
from plindro.web.engine.schemas import EngineIn, EngineOut, PlaceIn
from plindro.web.errors import NotFound
from plindro.web.shipping.deliveries import folder_below
from plindro.web.streaming import send_file

router = Router(tags=["engine"])


@router.get("/engine", operation_id="engine_read", response=EngineOut)
def read(request: HttpRequest, folder: str) -> EngineOut:
    """The project that watches a folder, and what it notices there."""
    return queries.project_detail(services.project_of(folder))


@router.patch("/engine/{project_id}", operation_id="engine_set_up", response=EngineOut)
def set_up(request: HttpRequest, project_id: int, body: EngineIn) -> EngineOut:
    """Have it read as another destination, or with other indices."""
    return queries.project_detail(services.set_up(project_id, body.destination, body.indices))


@router.post("/engine/{project_id}/import", operation_id="engine_import", response=EngineOut)
def start_import(request: HttpRequest, project_id: int) -> EngineOut:
    """Import what is new or changed."""
    return queries.project_detail(services.start_import(project_id))


@router.patch("/engine/{project_id}/assets/{asset_id}", operation_id="engine_place", response=EngineOut)
def place(request: HttpRequest, project_id: int, asset_id: int, body: PlaceIn) -> EngineOut:
    """Put an asset elsewhere."""
    services.place(project_id, asset_id, body.x, body.z, body.turn)
    return queries.project_detail(services.find_project(project_id))


@router.delete("/engine/{project_id}/assets/{asset_id}", operation_id="engine_forget", response=EngineOut)
def forget(request: HttpRequest, project_id: int, asset_id: int) -> EngineOut:
    """Take an asset out of the project."""
    services.forget(project_id, asset_id)
    return queries.project_detail(services.find_project(project_id))


@router.get("/engine/{project_id}/files/{stamp}/{path:name}", operation_id="engine_file", include_in_schema=False)
def file(request: HttpRequest, project_id: int, stamp: int, name: str) -> HttpResponseBase:
    """A file of the project's folder, as it lies there."""
    files = DiskFiles(folder_below(services.find_project(project_id).folder))
    path = files.path_of(name)
    if path is None:
        raise NotFound("this file is not in the folder any more")
    return send_file(request, path, kind=path.suffix.lower())
