from uuid import UUID

from ninja import Schema


class VoidIn(Schema):
    """Void a record with a reason, or take it back with ``voided`` false."""

    voided: bool
    reason: str = ""
    version: int


class VoidedOut(Schema):
    id: UUID
    version: int
    voided: bool
