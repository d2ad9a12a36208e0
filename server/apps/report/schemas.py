from datetime import datetime
from uuid import UUID

from ninja import Schema


class ReportShareIn(Schema):
    days: int = 30
    title: str = ""
    places: bool = False
    record: bool = False


class ReportShareOut(Schema):
    """A link; ``path`` only in the answer that makes it: its token is not kept."""

    id: UUID
    title: str
    places: bool
    record: bool
    created_at: datetime
    expires_at: datetime
    state: str
    opened: int
    path: str
