"""Addresses of shared sheets."""

from typing import Any, cast

from django.http import HttpRequest
from ninja import Router

from plindro.web.sheets import services
from plindro.web.sheets.models import SharedSheet
from plindro.web.sheets.schemas import SheetIn, SheetOut
from plindro.web.work.models import Job
from plindro.web.yard.building import address_of

router = Router(tags=["sheets"])


@router.post("/sheets", operation_id="sheets_order", response=SheetOut)
def order(request: HttpRequest, body: SheetIn) -> SheetOut:
    """Put the textures of props onto one sheet; props with it come to the board beside them."""
    options = body.model_dump(include={"size", "padding", "tiling", "density"})
    return _told(services.order_sheet(body.ids, body.name, options))


@router.get("/sheets/{sheet_id}", operation_id="sheets_read", response=SheetOut)
def read(request: HttpRequest, sheet_id: int) -> SheetOut:
    """How far a sheet is, and what came of it."""
    return _told(services.find_sheet(sheet_id))


@router.post("/sheets/{sheet_id}/cancel", operation_id="sheets_cancel", response=SheetOut)
def cancel(request: HttpRequest, sheet_id: int) -> SheetOut:
    """Call a sheet off."""
    sheet = services.find_sheet(sheet_id)
    services.cancel_sheet(sheet)
    return _told(sheet)


def _told(sheet: SharedSheet) -> SheetOut:
    job = Job.objects.filter(kind=services.SHARE, subject=sheet.pk).last()
    outcome = sheet.outcome
    return SheetOut(
        id=sheet.pk,
        name=sheet.name,
        state=cast(Any, sheet.state),
        error=sheet.error,
        fraction=job.fraction if job else 0.0,
        doing=job.doing if job else "",
        members=[member["name"] for member in sheet.members],
        before=outcome.get("before"),
        after=outcome.get("after"),
        messages=[finding["message"] for finding in outcome.get("findings", [])],
        props=outcome.get("props", []),
        picture=address_of(sheet.picture, "png"),
    )
