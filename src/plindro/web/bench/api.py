"""Addresses of the Bench."""

from django.http import HttpRequest, HttpResponse
from ninja import File, Query, Router, UploadedFile

from plindro.web.answers import answer
from plindro.web.bench import hand_made, heights, previews, queries, services, source
from plindro.web.bench.disputes import Seen
from plindro.web.bench.schemas import (
    HeightsIn,
    LineIn,
    NameIn,
    PreviewOut,
    PropDetail,
    ReplaceOut,
    SettingsIn,
    StaleOut,
)
from plindro.web.schemas import WaiverOut
from plindro.web.yard import waivers
from plindro.web.yard.api import sorted_files
from plindro.web.yard.schemas import PropIds, RefusedFile

router = Router(tags=["bench"])
AUTHOR_HEADER = "X-Plindro-Browser"
DECIDED = {200: PropDetail, 409: StaleOut}


def author_of(request: HttpRequest) -> str:
    """The browser that decides, as it names itself; whoever does not is nobody in particular."""
    return request.headers.get(AUTHOR_HEADER, "")[:64]


def _seen(request: HttpRequest, version: int | None) -> Seen:
    return Seen(author_of(request), version)


@router.get("/props/{prop_id}", operation_id="props_read", response=PropDetail)
def read_prop(request: HttpRequest, prop_id: int) -> HttpResponse:
    """One prop with its settings, levels, findings and the address of its model."""
    return answer(request, *queries.detail_json(prop_id, author_of(request)))


@router.patch("/props/{prop_id}/settings", operation_id="props_decide", response=DECIDED)
def decide(request: HttpRequest, prop_id: int, body: SettingsIn) -> PropDetail:
    """Change settings of stations on this prop."""
    return queries.detail(services.decide(prop_id, body.changes, _seen(request, body.version)).pk, author_of(request))


@router.patch("/props/{prop_id}/name", operation_id="props_rename", response=DECIDED)
def rename(request: HttpRequest, prop_id: int, body: NameIn) -> PropDetail:
    """Give the prop another name."""
    return queries.detail(services.rename(prop_id, body.name, _seen(request, body.version)).pk, author_of(request))


@router.patch("/props/{prop_id}/line", operation_id="props_change_line", response=DECIDED)
def change_line(request: HttpRequest, prop_id: int, body: LineIn) -> PropDetail:
    """Put the prop on another line."""
    return queries.detail(services.change_line(prop_id, body.line, _seen(request, body.version)).pk, author_of(request))


@router.post("/props/{prop_id}/split", operation_id="props_split", response=PropIds)
def split(request: HttpRequest, prop_id: int) -> PropIds:
    """Put a prop on the board for each that the split gives, in place of this one."""
    return PropIds(ids=[prop.pk for prop in source.split(prop_id)])


@router.post("/props/{prop_id}/source", operation_id="props_replace_source", response={200: ReplaceOut, 409: StaleOut})
def replace_source(
    request: HttpRequest, prop_id: int, files: File[list[UploadedFile]], version: int | None = None
) -> ReplaceOut:
    """Take a new version of the source for this prop and all others of the same source."""
    with sorted_files(request, files) as upload:
        props = source.replace_source(prop_id, upload, _seen(request, version))
    refused = [RefusedFile(name=name, message=message) for name, message in upload.refused]
    return ReplaceOut(props=[prop.pk for prop in props], refused=refused)


@router.post("/props/{prop_id}/levels/{number}/mesh", operation_id="props_set_hand_made", response=DECIDED)
def set_hand_made(
    request: HttpRequest, prop_id: int, number: int, files: File[list[UploadedFile]], version: int | None = None
) -> PropDetail:
    """Take a mesh modelled by hand for one level, with its textures and material libraries."""
    with sorted_files(request, files) as upload:
        prop = hand_made.set_hand_made(prop_id, number, upload, _seen(request, version))
    return queries.detail(prop.pk, author_of(request))


@router.post("/props/{prop_id}/collision/mesh", operation_id="props_set_collision_mesh", response=DECIDED)
def set_collision_mesh(
    request: HttpRequest, prop_id: int, files: File[list[UploadedFile]], version: int | None = None
) -> PropDetail:
    """Take a mesh whose shells are the prop's collision proxies."""
    with sorted_files(request, files) as upload:
        prop = hand_made.set_collision_mesh(prop_id, upload, _seen(request, version))
    return queries.detail(prop.pk, author_of(request))


@router.post("/props/{prop_id}/preview", operation_id="props_preview", response=PreviewOut)
def preview(request: HttpRequest, prop_id: int, triangles: int) -> PreviewOut:
    """The level of so many triangles as it would ship; ask again while it is being made."""
    return previews.look(prop_id, triangles)


@router.get("/props/{prop_id}/heights/{image}", operation_id="props_heights", include_in_schema=False)
def draft_heights(request: HttpRequest, prop_id: int, image: str, draft: Query[HeightsIn]) -> HttpResponse:
    """The normals that a height map would give, as PNG, while its shares are being set."""
    return HttpResponse(heights.drafted_normals(prop_id, image, draft.strength, draft.shares), content_type="image/png")


@router.post("/props/{prop_id}/waivers", operation_id="props_waive", response=PropDetail)
def waive(request: HttpRequest, prop_id: int, body: WaiverOut) -> PropDetail:
    """Have findings of a code hold the prop back no more; somebody answers for that by name."""
    return queries.detail(waivers.waive(prop_id, body.code, body.by, body.reason).pk, author_of(request))


@router.delete("/props/{prop_id}/waivers/{code}", operation_id="props_withdraw_waiver", response=PropDetail)
def withdraw_waiver(request: HttpRequest, prop_id: int, code: str) -> PropDetail:
    """Have findings of a code hold the prop back again."""
    return queries.detail(waivers.withdraw(prop_id, code).pk, author_of(request))


@router.post("/props/{prop_id}/undo", operation_id="props_undo", response=PropDetail)
def undo(request: HttpRequest, prop_id: int, of_anyone: bool = False) -> PropDetail:
    """Take one's own last decision back, or with ``of_anyone`` the last of another where there is no own."""
    return queries.detail(services.undo(prop_id, author_of(request), of_anyone=of_anyone).pk, author_of(request))


@router.post("/props/{prop_id}/redo", operation_id="props_redo", response=PropDetail)
def redo(request: HttpRequest, prop_id: int) -> PropDetail:
    """Make the decision again that one took back last."""
    return queries.detail(services.redo(prop_id, author_of(request)).pk, author_of(request))
