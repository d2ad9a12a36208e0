"""Writing which days are one visit."""

from __future__ import annotations

from uuid import UUID

from cultrix_core.stand.visits import require_span
from django.db import transaction

from apps.accounts.models import User
from apps.accounts.rights import require
from apps.field.visits.models import JoinedVisit
from apps.field.visits.queries import joined_of
from apps.field.visits.schemas import JoinedVisitIn
from apps.records.keeping import keep, not_to_come, when
from apps.trials.queries import trial_for


def put_joined_visit(user: User, trial_id: UUID, record_id: UUID, body: JoinedVisitIn) -> tuple[JoinedVisit, bool]:
    """Store joined days under the client's id; refuses days that other joined days of the task hold already."""
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        require(user, trial.workspace, "record")
        others = [(visit.first_on, visit.last_on) for visit in joined_of(trial, body.task) if visit.id != record_id]
        require_span((body.first_on, not_to_come(body.last_on, "last_on")), others)
        record = JoinedVisit(
            id=record_id,
            trial=trial,
            task=body.task,
            first_on=body.first_on,
            last_on=body.last_on,
            note=body.note.strip()[:200],
            recorded_at=when(body.recorded_at),
        )
        return keep(user, trial, record, body.version)
