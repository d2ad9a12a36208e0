"""Joined days as they are sent and answered."""

from datetime import date, datetime
from uuid import UUID

from ninja import Schema

from apps.field.visits.queries import Task


class JoinedVisitIn(Schema):
    """Days of one task that are one visit; ``version`` only when editing."""

    task: Task
    first_on: date
    last_on: date
    note: str = ""
    recorded_at: datetime
    version: int | None = None


class JoinedVisitOut(Schema):
    id: UUID
    version: int
    task: Task
    first_on: date
    last_on: date
    note: str
    recorded_at: datetime
    recorded_by: str
