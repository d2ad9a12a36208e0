"""What one answer asks for several times is read from the database once.

Only while a page is read: nothing changes under an answer to GET, so what was found first stands until it is sent. A request
that writes, a job and a command read anew each time.
"""

from __future__ import annotations

from collections.abc import Callable
from contextvars import ContextVar
from functools import wraps
from typing import Concatenate, ParamSpec, TypeVar

from django.db.models import Model
from django.http import HttpRequest, HttpResponse

Of = TypeVar("Of", bound=Model)
More = ParamSpec("More")
Found = TypeVar("Found")

_found: ContextVar[dict[object, object] | None] = ContextVar("found", default=None)


def read_once(read: Callable[Concatenate[Of, More], Found]) -> Callable[Concatenate[Of, More], Found]:
    """A query about a row (and plain values that can be a key) that an answer to GET makes once.

    What it returns is shared by everybody who asks: it must not be changed.
    """

    @wraps(read)
    def reading(of: Of, /, *args: More.args, **named: More.kwargs) -> Found:
        found = _found.get()
        if found is None:
            return read(of, *args, **named)
        key = (read, of._meta.label, of.pk, args, tuple(sorted(named.items())))
        if key not in found:
            found[key] = read(of, *args, **named)
        return found[key]  # type: ignore[return-value]

    return reading


class ReadOnceMiddleware:
    """Opens the memory for a request that only reads, and drops it with the answer."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if request.method not in ("GET", "HEAD"):
            return self.get_response(request)
        token = _found.set({})
        try:
            return self.get_response(request)
        finally:
            _found.reset(token)
