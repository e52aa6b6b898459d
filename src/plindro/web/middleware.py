"""Writes come from the application's own pages, and those load nothing from elsewhere."""

import json
from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseForbidden
from django.middleware.csrf import CsrfViewMiddleware

SAFE = frozenset({"GET", "HEAD", "OPTIONS", "TRACE"})
POLICY = (
    "default-src 'none'",
    # The physics of the Collision station is compiled by the browser.
    "script-src 'self' 'wasm-unsafe-eval'",
    "font-src 'self'",
    "img-src 'self' data: blob:",
    "connect-src 'self' blob:",
    "worker-src 'self'",
    "base-uri 'none'",
    "form-action 'none'",
    "frame-ancestors 'none'",
)


def policy(nonce: str = "") -> str:
    """The content security policy of a page; styles made under a ``nonce`` are taken too."""
    styles = f"style-src 'self' 'nonce-{nonce}'" if nonce else "style-src 'self'"
    return "; ".join((*POLICY, styles))


def _checked(request: HttpRequest) -> HttpResponse:
    """Stands for every view: none is exempt, whatever a router says of its own."""
    raise NotImplementedError


class OwnPagesMiddleware(CsrfViewMiddleware):
    """Django's protection for all writes, and only with an ``Origin``, which every browser sends."""

    def process_view(self, request: HttpRequest, callback: Any, args: Any, kwargs: Any) -> HttpResponseForbidden | None:
        forced = not getattr(request, "_dont_enforce_csrf_checks", False)
        if forced and request.method not in SAFE and not request.headers.get("Origin"):
            return self._reject(request, "no origin")
        return super().process_view(request, _checked, args, kwargs)

    def _reject(self, request: HttpRequest, reason: str) -> HttpResponseForbidden:
        text = "this address takes changes from its own pages only; reload the page"
        return HttpResponseForbidden(json.dumps({"detail": text}), content_type="application/json")


class PolicyMiddleware:
    """Tells the browser what a page may load and run: what comes from this server, and nothing written inside pages."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self._get_response(request)
        response.headers.setdefault("Content-Security-Policy", policy())
        return response
