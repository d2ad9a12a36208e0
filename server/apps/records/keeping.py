"""Keeping records that clients name: the same post twice is one record, an edit names its version.

Same id and same content → the record as it is. Different content with the current version → a new
version. Different content otherwise → ``Conflict`` with what the server holds.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar
from uuid import UUID

from cultrix_core.errors import Refusal
from django.db import transaction

from apps.accounts.faults import Conflict, NotHere
from apps.accounts.models import User
from apps.accounts.services import require_writer, save_as
from apps.records.models import FieldEvent, FieldRecord, HarvestLoad, StandCount
from apps.trials.models import Trial

Record = TypeVar("Record", bound=FieldRecord)
MODELS: dict[str, type[FieldRecord]] = {"stand-count": StandCount, "harvest-load": HarvestLoad, "field-event": FieldEvent}
OWN_COLUMNS = {"version", "struck", "struck_reason", "recorded_at", "received_at", "recorded_by"}


def trial_of(record: FieldRecord) -> Trial:
    """The trial a record belongs to."""
    if isinstance(record, FieldEvent):
        return record.trial
    assert isinstance(record, (StandCount, HarvestLoad))
    return record.strip.trial


def keep(user: User, trial: Trial, candidate: Record, version: int | None) -> tuple[Record, bool]:
    """Store a candidate under its client-made id; returns the record and whether it is new or changed."""
    model = type(candidate)
    existing = model._default_manager.filter(pk=candidate.pk).first()
    if existing is None:
        candidate.recorded_by = user
        save_as(candidate, user, "recorded")
        return candidate, True
    if trial_of(existing).id != trial.id:
        raise NotHere
    if _content(existing) == _content(candidate):
        return existing, False
    if existing.struck:
        raise Conflict(
            "struck", "This record was struck meanwhile. Take the strike back first, then change it.", _current(existing)
        )
    if version != existing.version:
        raise Conflict(
            "stale",
            "This record was changed elsewhere meanwhile. Yours is kept on this device; look at both and decide.",
            _current(existing),
        )
    for name, value in _content(candidate).items():
        setattr(existing, name, value)
    existing.version += 1
    save_as(existing, user, "changed")
    return existing, True


def strike(user: User, kind: str, record_id: UUID, *, struck: bool, reason: str, version: int) -> FieldRecord:
    """Mark a record as struck (with a reason) or take the mark back; it is never deleted."""
    with transaction.atomic():
        record = MODELS[kind]._default_manager.filter(pk=record_id).first()
        if record is None:
            raise NotHere
        require_writer(user, trial_of(record).workspace)
        if record.struck == struck:
            return record
        if version != record.version:
            raise Conflict("stale", "This record was changed elsewhere meanwhile. Look at it again.", _current(record))
        if struck and not reason.strip():
            raise Refusal("missing", field="reason", label="The reason", remedy="A struck record stays readable; say why.")
        record.struck, record.struck_reason = struck, reason.strip()[:200] if struck else ""
        record.version += 1
        save_as(record, user, record.struck_reason or "strike taken back")
    return record


def _content(record: FieldRecord) -> dict[str, object]:
    names: Sequence[str] = [field.attname for field in record._meta.concrete_fields]
    return {name: getattr(record, name) for name in names if name not in OWN_COLUMNS and name not in ("id", "recorded_by_id")}


def _current(record: FieldRecord) -> dict[str, object]:
    content = {name: str(value) if isinstance(value, UUID) else value for name, value in _content(record).items()}
    return {
        "version": record.version,
        "struck": record.struck,
        **{name: value.isoformat() if hasattr(value, "isoformat") else value for name, value in content.items()},
    }
