"""Requests that change something must come from the application's own pages."""

from collections.abc import Callable
from urllib.parse import urlsplit

from django.http import HttpRequest, HttpResponse, JsonResponse

SAFE = frozenset({"GET", "HEAD", "OPTIONS"})


class SameOriginMiddleware:
    """Refuses writes that another site's page sends to this server.

    There is no log-in on a local server, so a cookie would protect nothing; browsers name the page's origin.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        origin = request.headers.get("Origin")
        if request.method not in SAFE and origin and urlsplit(origin).netloc != request.get_host():
            return JsonResponse({"detail": "this address takes changes from its own pages only"}, status=403)
        return self._get_response(request)
