"""Writing the season's log."""

from __future__ import annotations

from uuid import UUID

from cultrix_core.errors import Refusal, require_between
from django.db import transaction

from apps.accounts.models import User
from apps.accounts.rights import require
from apps.field.events.models import FieldEvent
from apps.field.events.schemas import FieldEventIn
from apps.records.keeping import keep, not_to_come, strips_named, when
from apps.trials.queries import trial_for


def put_field_event(user: User, trial_id: UUID, event_id: UUID, body: FieldEventIn) -> tuple[FieldEvent, bool]:
    """Store a line of the season's log, for all strips or the ones named."""
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        require(user, trial.workspace, "record")
        if not body.text.strip():
            raise Refusal("missing", field="text", label="What happened", remedy="A few words are enough.")
        not_to_come(body.happened_on, "happened_on")
        strips = strips_named(trial, body.strip_ids)
        event = FieldEvent(
            id=event_id,
            trial=trial,
            kind=body.kind,
            happened_on=body.happened_on,
            text=body.text.strip()[:400],
            reentry_hours=_reentry(body),
            recorded_at=when(body.recorded_at),
        )
        kept, changed = keep(user, trial, event, body.version)
        if changed:
            kept.strips.set(strips)
        return kept, changed


def _reentry(body: FieldEventIn) -> int | None:
    """Hours of the label before anybody goes in again; only sprays have them."""
    if body.reentry_hours is None or body.kind != "spray":
        return None
    return int(require_between(body.reentry_hours, 0, 24 * 60, "reentry_hours", label="Re-entry interval", unit=" h"))
