from uuid import UUID

from ninja import Schema


class StrikeIn(Schema):
    """Strike a record with a reason, or take it back with ``struck`` false."""

    struck: bool
    reason: str = ""
    version: int


class StruckOut(Schema):
    id: UUID
    version: int
    struck: bool
