"""What a reading comes in as and goes out as; the entries of a kind make the schema it comes in as."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from ninja import Schema
from pydantic import create_model

from apps.base.formatting import QuestionOut
from apps.base.quantities import TypedIn, TypedOut
from apps.records.kinds import Kind


class ReadingIn(Schema):
    """What every reading has beside its values, which stand under their names."""

    strip_id: UUID
    by_eye: bool = False
    note: str = ""
    recorded_at: datetime
    version: int | None = None


class ReadingOut(Schema):
    """A reading; ``values`` by name, ``text`` all of them in the reader's units."""

    id: UUID
    kind: str
    strip_id: UUID
    version: int
    values: dict[str, TypedOut]
    text: str
    by_eye: bool
    note: str
    questions: list[QuestionOut]
    recorded_at: datetime
    clock_shift_s: int | None
    recorded_by: str


def reading_in(kind: Kind) -> type[ReadingIn]:
    """The schema of what is sent for a kind: one typed value for each of its entries."""
    title = "".join(part.capitalize() for part in kind.name.split("-")) + "In"
    entries: dict[str, Any] = {entry.name: (TypedIn, ...) for entry in kind.entries}
    return create_model(title, __base__=ReadingIn, __doc__=f"{kind.words}, as it was read.", **entries)
