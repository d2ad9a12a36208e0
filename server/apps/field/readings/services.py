"""Writing readings of any kind: the entries of the kind say what is read and what cannot be."""

from __future__ import annotations

from uuid import UUID

from cultrix_core.errors import Refusal, require_between
from django.db import transaction

from apps.accounts.models import User
from apps.base.quantities import fill
from apps.field.readings.models import Reading
from apps.field.readings.queries import model_of
from apps.field.readings.schemas import ReadingIn
from apps.records.keeping import keep, strip_of, when
from apps.records.kinds import Kind


def put_reading(user: User, kind: Kind, trial_id: UUID, record_id: UUID, body: ReadingIn) -> tuple[Reading, bool]:
    """Store a reading under the client's id; every entry is needed, and refused outside its limits in the unit typed."""
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        record = model_of(kind)(
            id=record_id,
            strip=strip,
            by_eye=body.by_eye,
            note=body.note.strip()[:200],
            recorded_at=when(body.recorded_at),
        )
        for entry in kind.entries:
            fill(record, entry.quantity, getattr(body, entry.name))
            value: float | None = getattr(record, entry.quantity.value_column)
            if value is None:
                raise Refusal(
                    "missing", field=entry.name, label=entry.quantity.label, remedy="A reading is of no use without it."
                )
            require_between(value, entry.low, entry.high, entry.name, label=entry.quantity.label)
        return keep(user, trial, record, body.version)
