"""Keeping records that clients name: the same post twice is one record, an edit names its version.

Same id and same content → the record as it is. Different content with the current version → a new
version. Different content otherwise → ``Conflict`` with what the server holds.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date, datetime, timedelta
from typing import Protocol, TypeVar
from uuid import UUID

from cultrix_core.errors import Refusal
from django.db import transaction
from django.utils import timezone

from apps.accounts.models import User, Workspace
from apps.accounts.rights import require
from apps.accounts.services import save_as
from apps.base.device_clock import corrected, offset_s
from apps.base.errors import Conflict, NotFound, RowProblems
from apps.base.typed_values import as_typed
from apps.records.kinds import KINDS, home_of, workspace_of
from apps.records.models import FieldRecord
from apps.trials.editing import require_open
from apps.trials.models import Strip, Trial
from apps.trials.queries import trial_for

MOST_SHEET_ROWS = 1_000


class Named(Protocol):
    """A row of a sheet under the client's id."""

    id: UUID


Row = TypeVar("Row", bound=Named)
Kept = TypeVar("Kept")
Record = TypeVar("Record", bound=FieldRecord)
OWN_COLUMNS = {"version", "voided", "void_reason", "recorded_at", "received_at", "recorded_by", "clock_shift_s"}


def keep(user: User, home: Trial | Workspace, candidate: Record, version: int | None) -> tuple[Record, bool]:
    """Store a candidate under its client-made id; returns the record and whether it is new or changed."""
    model = type(candidate)
    if isinstance(home, Trial):
        require_open(home)
    existing = model._default_manager.filter(pk=candidate.pk).first()
    if existing is None:
        candidate.recorded_by = user
        candidate.clock_shift_s = offset_s() or None
        offset = f"; the device's clock was off by {offset_s()} s" if offset_s() else ""
        save_as(candidate, user, f"recorded{offset}", new=True)
        return candidate, True
    if home_of(existing).pk != home.pk:
        raise NotFound
    if _content(existing) == _content(candidate):
        return existing, False
    if existing.voided:
        raise Conflict("voided", "This record was voided meanwhile. Restore it first, then change it.", _current(existing))
    if version != existing.version:
        raise Conflict(
            "stale",
            "This record was changed elsewhere meanwhile. Yours is kept on this device; look at both and decide.",
            _current(existing),
        )
    workspace = home.workspace if isinstance(home, Trial) else home
    require(user, workspace, "correct_own" if existing.recorded_by_id == user.pk else "correct_others")
    for name, value in _content(candidate).items():
        setattr(existing, name, value)
    existing.version += 1
    save_as(existing, user, "changed")
    return existing, True


def all_or_none(rows: Sequence[Row], put: Callable[[Row], Kept]) -> list[Kept]:
    """Put many rows in one transaction, each with an ``id``; problems and conflicts are listed by row, then nothing is kept."""
    if len(rows) > MOST_SHEET_ROWS:
        raise Refusal("too_large", field="rows", value=len(rows), limit=MOST_SHEET_ROWS)
    problems: list[dict[str, object]] = []
    kept = []
    with transaction.atomic():
        for number, row in enumerate(rows, start=1):
            try:
                kept.append(put(row))
            except Refusal as judged:
                refusal = as_typed(judged)
                problems.append({"row": number, "id": str(row.id), "field": refusal.field, "message": refusal.message})
            except Conflict as conflict:
                problems.append({"row": number, "id": str(row.id), "field": None, "message": conflict.message})
        if problems:
            raise RowProblems(problems)
    return kept


def when(recorded_at: datetime) -> datetime:
    """The moment by the device's clock, corrected where that is known to be wrong; refused more than a day ahead."""
    if timezone.is_naive(recorded_at):
        recorded_at = timezone.make_aware(recorded_at)
    recorded_at = corrected(recorded_at)
    if recorded_at > timezone.now() + timedelta(days=1):
        raise Refusal(
            "unknown_choice",
            field="recorded_at",
            label="The device's clock",
            value=f"{recorded_at:%Y-%m-%d}",
            limit="days up to today; set the clock right",
        )
    return recorded_at


def not_to_come(day: date, field: str) -> date:
    """A day that has come; refuses one after tomorrow."""
    if day > timezone.now().date() + timedelta(days=1):
        raise Refusal("unknown_choice", field=field, label="Date", value=day, limit="days up to today")
    return day


def strip_of(user: User, trial_id: UUID, strip_id: UUID) -> tuple[Trial, Strip]:
    """A trial this person may write and one of its strips."""
    trial = trial_for(user, trial_id)
    require(user, trial.workspace, "record")
    strip = trial.strips.filter(id=strip_id).first()
    if strip is None:
        raise NotFound
    return trial, strip


def strips_named(trial: Trial, ids: Sequence[UUID]) -> list[Strip]:
    """Strips of a trial by id; ``NotFound`` when one is not its own."""
    strips = list(trial.strips.filter(id__in=ids))
    if len(strips) != len(set(ids)):
        raise NotFound
    return strips


def void(user: User, kind: str, record_id: UUID, *, voided: bool, reason: str, version: int) -> FieldRecord:
    """Mark a record as voided (with a reason) or take the mark back; it is never deleted."""
    with transaction.atomic():
        record = KINDS[kind].model._default_manager.filter(pk=record_id).first()
        if record is None:
            raise NotFound
        reach = require(user, workspace_of(record), "correct_own" if record.recorded_by_id == user.pk else "void")
        home = home_of(record)
        if isinstance(home, Trial) and not reach.on(home.field.farm if home.field else None):
            raise NotFound
        if record.voided == voided:
            return record
        if isinstance(home, Trial):
            require_open(home)
        if version != record.version:
            raise Conflict("stale", "This record was changed elsewhere meanwhile. Look at it again.", _current(record))
        if voided and not reason.strip():
            raise Refusal("missing", field="reason", label="The reason", remedy="A voided record stays readable; say why.")
        record.voided, record.void_reason = voided, reason.strip()[:200] if voided else ""
        record.version += 1
        save_as(record, user, record.void_reason or "restored")
        after_void = KINDS[kind].after_void
        if after_void is not None:
            after_void(user, record)
    return record


def _content(record: FieldRecord) -> dict[str, object]:
    names: Sequence[str] = [field.attname for field in record._meta.concrete_fields]
    return {name: getattr(record, name) for name in names if name not in OWN_COLUMNS and name not in ("id", "recorded_by_id")}


def _current(record: FieldRecord) -> dict[str, object]:
    content = {name: str(value) if isinstance(value, UUID) else value for name, value in _content(record).items()}
    return {
        "version": record.version,
        "voided": record.voided,
        **{name: value.isoformat() if hasattr(value, "isoformat") else value for name, value in content.items()},
    }
