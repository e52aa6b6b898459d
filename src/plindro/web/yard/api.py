"""Addresses of the Yard."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from typing import BinaryIO, cast

from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from ninja import File, Router, UploadedFile

from plindro.core.viewing import decoded_png
from plindro.web import store
from plindro.web.answers import answer, mark_of
from plindro.web.catalogue.entries import entries
from plindro.web.errors import NotFound
from plindro.web.schemas import JobOut
from plindro.web.streaming import send_file
from plindro.web.work.services import cancel_job
from plindro.web.yard import queries, services
from plindro.web.yard.schemas import (
    BoardChanges,
    Changed,
    DestinationOut,
    LineOut,
    ProjectIn,
    ProjectOut,
    PropIds,
    PropRow,
    RefusedFile,
    TexturesOut,
    UploadOut,
)
from plindro.web.yard.textures import textures_of_board
from plindro.web.yard.uploads import SortedUpload, sort_upload

router = Router(tags=["yard"])
SUFFIXES = frozenset({"bin", "png", "glb"})
YEAR = 31_536_000
_board = queries.Board()


@router.get("/project", operation_id="project_read", response=ProjectOut)
def read_project(request: HttpRequest) -> ProjectOut:
    """The project's name, and which lines and destinations there are."""
    return _project_out()


@router.patch("/project", operation_id="project_name", response=ProjectOut)
def name_project(request: HttpRequest, body: ProjectIn) -> ProjectOut:
    """Give the project a name."""
    services.name_project(body.name)
    return _project_out()


def _project_out() -> ProjectOut:
    project = services.project()
    return ProjectOut(
        name=project.name,
        has_demo=project.has_demo,
        lines=[LineOut(name=name, title=entry.value.title) for name, entry in entries("line").items()],
        destinations=[
            DestinationOut(name=name, title=e.value.title, max_engine_vertices=e.value.max_engine_vertices)
            for name, e in entries("destination").items()
        ],
    )


@router.get("/props", operation_id="props_list", response=list[PropRow])
def list_props(request: HttpRequest) -> HttpResponse:
    """All props on the board."""
    mark, rows = _board.read()
    return answer(request, mark, b"[" + b",".join(row.body for row in rows) + b"]")


@router.get("/props/changes", operation_id="props_changes", response=BoardChanges)
def read_changes(request: HttpRequest, since: datetime | None = None) -> HttpResponse:
    """The board for a page that has read it before: its order, and the rows that changed since then."""
    mark, rows = _board.read()
    order = b",".join(str(row.prop).encode() for row in rows)
    changed = b",".join(row.body for row in rows if since is None or row.changed >= since - queries.OVERLAP)
    return answer(request, mark_of(mark, since), b'{"order":[' + order + b'],"rows":[' + changed + b"]}")


@contextmanager
def sorted_files(request: HttpRequest, files: list[UploadedFile]) -> Iterator[SortedUpload]:
    """Uploaded files by what they are, under their paths below the dropped folder; what is not taken goes again."""
    names = request.POST.getlist("paths")
    paths = names if len(names) == len(files) else [file.name or "file" for file in files]
    with store.files().incoming() as folder:
        yield sort_upload(((path, cast(BinaryIO, file.file)) for path, file in zip(paths, files, strict=True)), folder)


@router.post("/props/upload", operation_id="props_upload", response=UploadOut)
def upload_props(request: HttpRequest, files: File[list[UploadedFile]]) -> UploadOut:
    """Take sources with their textures and material libraries, or zips of them; says what could not be used."""
    with sorted_files(request, files) as upload:
        props = services.import_upload(upload)
    refused = [RefusedFile(name=name, message=message) for name, message in upload.refused]
    if not props and upload.side_files:
        first = next(iter(upload.side_files))
        refused.append(
            RefusedFile(name=first, message="belongs to a source; give it together with its OBJ or glTF file")
        )
    return UploadOut(props=[prop.pk for prop in props], refused=refused)


@router.get("/textures", operation_id="textures_of_board", response=TexturesOut)
def read_textures(request: HttpRequest) -> TexturesOut:
    """Every texture of the board's props, each once."""
    return textures_of_board()


@router.post("/props/remove", operation_id="props_remove", response=Changed)
def remove_props(request: HttpRequest, body: PropIds) -> Changed:
    """Take props off the board."""
    return Changed(count=services.remove_props(body.ids))


@router.post("/props/restore", operation_id="props_restore", response=Changed)
def restore_props(request: HttpRequest, body: PropIds) -> Changed:
    """Put removed props back on the board."""
    return Changed(count=services.restore_props(body.ids))


@router.post("/props/{prop_id}/rebuild", operation_id="props_rebuild", response=PropRow)
def rebuild_prop(request: HttpRequest, prop_id: int) -> PropRow:
    """Build a prop again whose build failed or was called off."""
    prop = services.find_prop(prop_id)
    services.request_build(prop)
    return queries.row_of(services.find_prop(prop_id))


@router.post("/demo/rock", operation_id="demo_rock", response=JobOut)
def make_rock(request: HttpRequest) -> JobOut:
    """Grow the dense rock of a million triangles and put it on the board."""
    job = services.request_rock()
    return JobOut(id=job.pk, kind=job.kind, state="queued", fraction=0, doing="", subject=None)


@router.post("/jobs/{job_id}/cancel", operation_id="jobs_cancel", response=Changed)
def cancel(request: HttpRequest, job_id: int) -> Changed:
    """Ask a job to stop."""
    cancel_job(job_id)
    return Changed(count=1)


@router.get("/files/{digest}.{suffix}", operation_id="files_read", include_in_schema=False)
def read_file(request: HttpRequest, digest: str, suffix: str) -> HttpResponseBase:
    """A stored picture or model; its content never changes."""
    path = store.files().path_of(digest)
    if suffix not in SUFFIXES or not digest.isalnum() or not path.is_file():
        raise NotFound("this file is not there any more")
    response = send_file(request, path, kind=f".{suffix}")
    response["Cache-Control"] = f"public, max-age={YEAR}, immutable"
    return response


@router.get("/textures/{digest}.png", operation_id="textures_decoded", include_in_schema=False)
def read_decoded(request: HttpRequest, digest: str) -> HttpResponseBase:
    """A stored GPU texture as its blocks decode, for a browser that does not know them."""
    path = store.files().path_of(digest)
    if not digest.isalnum() or not path.is_file():
        raise NotFound("this texture is not there any more")
    response = HttpResponse(decoded_png(path.read_bytes(), "this texture"), content_type="image/png")
    response["Cache-Control"] = f"public, max-age={YEAR}, immutable"
    return response
