"""The API: routers mounted, errors mapped in one place."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import ValidationError

from plindro.core.errors import PlindroError
from plindro.web.bench.api import router as bench_router
from plindro.web.errors import NotFound
from plindro.web.events import router as events_router
from plindro.web.shipping.api import router as shipping_router
from plindro.web.yard.api import router as yard_router

api = NinjaAPI(title="Plindro", version="1", docs_url=None)
for mounted in (yard_router, bench_router, shipping_router, events_router):
    api.add_router("", mounted)


def _answer_own(request: HttpRequest, error: Any) -> HttpResponse:
    status = 404 if isinstance(error, NotFound) else 422
    return api.create_response(request, {"detail": str(error)}, status=status)


def _answer_validation(request: HttpRequest, error: Any) -> HttpResponse:
    first = error.errors[0]
    place = ".".join(str(part) for part in first["loc"][2:])
    return api.create_response(request, {"detail": f"{place or 'the request'}: {first['msg']}"}, status=422)


api.add_exception_handler(PlindroError, _answer_own)
api.add_exception_handler(ValidationError, _answer_validation)
