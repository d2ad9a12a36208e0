from datetime import date, datetime
from typing import Literal
from uuid import UUID

from ninja import Schema

EventKind = Literal[
    "rain",
    "frost",
    "hail",
    "spray",
    "missed",
    "leak",
    "irrigation",
    "cut",
    "nutrients",
    "weeds",
    "pests",
    "disease",
    "lodging",
    "machine",
    "note",
]


class FieldEventIn(Schema):
    kind: EventKind
    happened_on: date
    text: str
    strip_ids: list[UUID] = []
    reentry_hours: int | None = None
    recorded_at: datetime
    version: int | None = None


class FieldEventOut(Schema):
    id: UUID
    version: int
    kind: str
    kind_label: str
    happened_on: date
    text: str
    reentry_hours: int | None
    reentry_until: datetime | None
    strip_ids: list[UUID]
    recorded_by: str
