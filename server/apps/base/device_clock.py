"""The clock of the device that sends: how far it is off, as the device found by comparing it with the server's.

A record names the moment by the device's clock. Where that clock is known to be wrong, the moment is corrected by the
difference and the record keeps by how much; nobody's record is refused for the clock of a phone.
"""

from __future__ import annotations

from collections.abc import Callable
from contextvars import ContextVar
from datetime import datetime, timedelta

from django.http import HttpRequest, HttpResponseBase

HEADER = "HTTP_X_CLOCK_OFFSET"
TOLERANCE_S = 120  # a clock that is off by less is as right as anybody needs
MOST_S = 50 * 366 * 86_400
_offset_s: ContextVar[int] = ContextVar("offset_s", default=0)


def offset_s() -> int:
    """Seconds to add to the moments of this request's device; 0 where its clock is right."""
    return _offset_s.get()


def corrected(moment: datetime) -> datetime:
    """A moment by the device's clock as the server's clock would have it; one no calendar holds stays as it is."""
    try:
        return moment + timedelta(seconds=offset_s())
    except OverflowError:
        return moment


def ClockMiddleware(  # noqa: N802 - named as what it is in the settings
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Reads the offset that a device sends with a write."""

    def middleware(request: HttpRequest) -> HttpResponseBase:
        token = _offset_s.set(_said(request.META.get(HEADER, "")))
        try:
            return get_response(request)
        finally:
            _offset_s.reset(token)

    return middleware


def _said(text: str) -> int:
    try:
        seconds = int(float(text)) if len(text) < 20 else 0
    except (ValueError, OverflowError):
        return 0
    return seconds if TOLERANCE_S <= abs(seconds) <= MOST_S else 0
