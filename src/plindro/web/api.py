"""The API: routers mounted, errors mapped in one place."""

import logging
from dataclasses import asdict
from typing import Any

from django.core.exceptions import SuspiciousOperation
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import ValidationError

from plindro.core.errors import PlindroError
from plindro.web.bench.api import router as bench_router
from plindro.web.catalogue.drafts import Faulty
from plindro.web.engine.api import router as engine_router
from plindro.web.errors import UNEXPECTED, NotFound, Stale, storage_words
from plindro.web.house.api import router as house_router
from plindro.web.sheets.api import router as sheets_router
from plindro.web.shipping.api import router as shipping_router
from plindro.web.upkeep.api import router as upkeep_router
from plindro.web.yard.api import router as yard_router

log = logging.getLogger(__name__)
api = NinjaAPI(title="Plindro", version="1", docs_url=None)
for mounted in (yard_router, bench_router, shipping_router, sheets_router, house_router, engine_router, upkeep_router):
    api.add_router("", mounted)


def _answer_own(request: HttpRequest, error: Any) -> HttpResponse:
    status = 404 if isinstance(error, NotFound) else 422
    return api.create_response(request, {"detail": str(error)}, status=status)


def _answer_faulty(request: HttpRequest, error: Any) -> HttpResponse:
    faults = [asdict(fault) for fault in error.faults]
    return api.create_response(request, {"detail": str(error), "faults": faults}, status=422)


def _answer_stale(request: HttpRequest, error: Any) -> HttpResponse:
    rows = [asdict(row) for row in error.rows]
    return api.create_response(request, {"detail": str(error), "version": error.version, "rows": rows}, status=409)


def _answer_validation(request: HttpRequest, error: Any) -> HttpResponse:
    first = error.errors[0]
    place = ".".join(str(part) for part in first["loc"][2:])
    return api.create_response(request, {"detail": f"{place or 'the request'}: {first['msg']}"}, status=422)


def _answer_storage(request: HttpRequest, error: Any) -> HttpResponse:
    words = storage_words(error)
    if words is None:
        return _answer_unexpected(request, error)
    log.error("%s %s: %s", request.method, request.path, error)
    return api.create_response(request, {"detail": words}, status=507)


def _answer_suspicious(request: HttpRequest, error: Any) -> HttpResponse:
    return api.create_response(request, {"detail": f"this request is not taken: {error}"}, status=400)


def _answer_unexpected(request: HttpRequest, error: Any) -> HttpResponse:
    log.error("%s %s failed", request.method, request.path, exc_info=error)
    return api.create_response(request, {"detail": UNEXPECTED}, status=500)


api.add_exception_handler(Exception, _answer_unexpected)
api.add_exception_handler(OSError, _answer_storage)
api.add_exception_handler(DatabaseError, _answer_storage)
api.add_exception_handler(SuspiciousOperation, _answer_suspicious)
api.add_exception_handler(PlindroError, _answer_own)
api.add_exception_handler(Faulty, _answer_faulty)
api.add_exception_handler(Stale, _answer_stale)
api.add_exception_handler(ValidationError, _answer_validation)
