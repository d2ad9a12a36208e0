"""What this request has typed, by field: so that a limit is refused in the unit typed, wherever below it is judged."""

from __future__ import annotations

from contextvars import ContextVar

from cultrix_core.errors import Refusal
from cultrix_core.typed_limits import TypedValue, in_typed_unit

_TYPED: ContextVar[dict[str, list[TypedValue]] | None] = ContextVar("typed", default=None)


def begin_request() -> None:
    """Forget what an earlier request in the same thread has typed."""
    _TYPED.set({})


def remember(field: str, typed: TypedValue) -> None:
    """Note what a field was typed as; a sheet has many rows of one field."""
    known = _TYPED.get()
    if known is not None:
        known.setdefault(field, []).append(typed)


def as_typed(refusal: Refusal) -> Refusal:
    """The refusal in the unit that its field was typed in, where that is known."""
    for typed in (_TYPED.get() or {}).get(refusal.field, []):
        worded = in_typed_unit(refusal, typed)
        if worded is not refusal:
            return worded
    return refusal
