"""Faults as answers: JSON with a number that is in the log, never a page of HTML and never silence."""

from __future__ import annotations

import logging
import secrets
import sys

from apps.base.disk_space import FULL
from django.db import OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse

log = logging.getLogger("cultrix.faults")


def answer_of(request: HttpRequest, error: BaseException | None) -> tuple[int, dict[str, object]]:
    """Status and body for something unforeseen; written to the log under a reference number."""
    words = str(error).lower()
    if isinstance(error, OperationalError) and ("is full" in words or "disk i/o" in words):
        log.error("no room: %s %s: %s", request.method, request.path, error)
        return 507, {"code": "no_room", "message": FULL, "field": None}
    if isinstance(error, OSError) and error.errno in (28, 122):  # no space left, quota
        log.error("no room: %s %s: %s", request.method, request.path, error)
        return 507, {"code": "no_room", "message": FULL, "field": None}
    if isinstance(error, OperationalError) and "locked" in words:
        log.error("busy: %s %s: %s", request.method, request.path, error)
        return 503, {
            "code": "busy",
            "message": "The server is busy. Try again in a moment; what you typed is kept.",
            "field": None,
        }
    reference = secrets.token_hex(4)
    log.error("fault %s: %s %s", reference, request.method, request.path, exc_info=error)
    return 500, {
        "code": "fault",
        "message": f"An error occurred (reference {reference}). What you typed is kept; tell whoever runs the server.",
        "field": None,
        "reference": reference,
    }


def fault(request: HttpRequest) -> HttpResponse:
    """Django's handler of what nobody caught."""
    status, body = answer_of(request, sys.exc_info()[1])
    return JsonResponse(body, status=status)


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:  # noqa: ARG001 - Django's signature
    """Django's handler of requests that it refuses itself."""
    return JsonResponse({"code": "http", "message": "This request cannot be read.", "field": None}, status=400)


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:  # noqa: ARG001 - Django's signature
    """Django's handler of requests from another site."""
    return JsonResponse({"code": "csrf", "message": "This page is out of date. Load it again.", "field": None}, status=403)


def missing(request: HttpRequest, exception: Exception) -> HttpResponse:  # noqa: ARG001 - Django's signature
    """Django's handler of addresses that are none."""
    return JsonResponse({"code": "not_here", "message": "There is nothing at this address.", "field": None}, status=404)
