"""Addresses: the API, and the application's page for everything else."""

import secrets
import sys
from pathlib import Path

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from plindro.web.api import api
from plindro.web.errors import UNEXPECTED, storage_words
from plindro.web.middleware import policy

STYLE_NONCE = 'name="style-nonce" content=""'
"""Where the page holds the word under which its parts may make styles, made anew for each answer."""


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """The application's page; its router shows the view of the address."""
    index = Path(settings.UI_FOLDER) / "index.html"
    if not index.is_file():
        return HttpResponse(
            "The front end is not built; start with ./plindro demo.", status=503, content_type="text/plain"
        )
    nonce = secrets.token_urlsafe(16)
    html = index.read_text("utf-8").replace(STYLE_NONCE, STYLE_NONCE.replace('""', f'"{nonce}"'), 1)
    response = HttpResponse(html, content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    response["Content-Security-Policy"] = policy(nonce)
    return response


def failed(request: HttpRequest) -> JsonResponse:
    """What failed before the API could answer, as reading the body of an upload on a full disk."""
    words = storage_words(sys.exc_info()[1])
    return JsonResponse({"detail": words or UNEXPECTED}, status=507 if words else 500)


handler500 = failed
urlpatterns = [path("api/", api.urls), re_path(r"^(?!api/|assets/).*$", page)]
