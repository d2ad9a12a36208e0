"""Headers that keep private answers private: nothing of them stays in a cache, no other site may use them."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponseBase

# Only what the field book uses, and only from this site.
POLICY = "camera=(self), geolocation=(self), microphone=(), payment=(), usb=(), serial=(), bluetooth=(), display-capture=()"


class PrivateMiddleware:
    """Outermost, so that files served as they lie have these headers too."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        response = self.get_response(request)
        if request.path.startswith(("/api/", "/shared/")):
            response.headers["Cache-Control"] = "no-store"
        response.headers.setdefault("Permissions-Policy", POLICY)
        if settings.HTTPS:
            response.headers.setdefault("Cross-Origin-Resource-Policy", "same-origin")
        return response
