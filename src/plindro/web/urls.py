"""Addresses: the API, and the application's page for everything else."""

from pathlib import Path

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse
from django.urls import path, re_path

from plindro.web.api import api


def page(request: HttpRequest) -> HttpResponse | FileResponse:
    """The application's page; its router shows the view of the address."""
    index = Path(settings.UI_FOLDER) / "index.html"
    if not index.is_file():
        return HttpResponse(
            "The front end is not built; start with ./plindro demo.", status=503, content_type="text/plain"
        )
    response = FileResponse(index.open("rb"), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


urlpatterns = [path("api/", api.urls), re_path(r"^(?!api/|assets/).*$", page)]
