"""Writing stand counts."""

from __future__ import annotations

from uuid import UUID

from cultrix_core.errors import Refusal, require_between
from cultrix_core.stand.openers import MOST_OPENERS
from cultrix_core.stand.row_lengths import count_in_quadrat, count_on_rows, hoop_area
from cultrix_core.units import parse_count
from django.db import transaction

from apps.accounts.models import User
from apps.base.quantities import fill, required
from apps.field.stand import models
from apps.field.stand.models import SamplingPlan, StandCount
from apps.field.stand.schemas import StandCountIn
from apps.records.keeping import keep, strip_of, when
from apps.trials.models import Trial


def put_stand_count(user: User, trial_id: UUID, count_id: UUID, body: StandCountIn) -> tuple[StandCount, bool]:
    """Store a count under the client's id. Refuses letters, fractions, sizes that are not positive."""
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        count = StandCount(id=count_id, strip=strip, method=body.method, by_eye=body.by_eye, recorded_at=when(body.recorded_at))
        if body.opener is not None:
            require_between(body.opener, 1, MOST_OPENERS, "opener", label="Row of the machine")
        count.opener = body.opener
        count.plants = parse_count(body.plants, field="plants", label="Plants")
        _fill_seen(count, body)
        count.plan = _plan(trial, body)
        count.place = body.place if count.plan is not None and not body.by_eye else None
        if body.method == "rows":
            _fill_rows(count, body)
        else:
            quantity, typed = (models.HOOP, body.diameter) if body.method == "hoop" else (models.COUNT_AREA, body.area)
            fill(count, quantity, typed)
            size = required(count, quantity)
            area = hoop_area(size) if body.method == "hoop" else size
            count.plants_per_m2 = count_in_quadrat(count.plants, area_m2=area).plants_per_m2
        return keep(user, trial, count, body.version)


def _fill_seen(count: StandCount, body: StandCountIn) -> None:
    """Gaps and doubles that were counted through; they change nothing in the stand, and say why it is uneven."""
    for name, value in (("gaps", body.gaps), ("doubles", body.doubles)):
        if value is not None:
            require_between(value, 0, 500, name)
            setattr(count, name, value)
    if count.doubles and 2 * count.doubles > count.plants:
        raise Refusal(
            "too_large",
            field="doubles",
            label="Doubles",
            value=count.doubles,
            limit=count.plants // 2,
            remedy="Each double is two of the plants counted.",
        )


def _plan(trial: Trial, body: StandCountIn) -> SamplingPlan | None:
    if body.plan_id is None:
        return None
    plan = trial.sampling_plans.filter(id=body.plan_id).first()
    if plan is None:
        raise Refusal("unknown_choice", field="plan_id", label="Plan", value=body.plan_id, limit="the plans of this trial")
    if body.place is not None:
        require_between(body.place, 1, plan.planned + plan.reserve, "place", label="Place")
    return plan


def _fill_rows(count: StandCount, body: StandCountIn) -> None:
    fill(count, models.COUNT_LENGTH, body.length)
    fill(count, models.COUNT_ROW_SPACING, body.row_spacing)
    count.rows = parse_count(body.rows or "1", field="rows", label="Rows counted")
    result = count_on_rows(
        count.plants,
        length_m=required(count, models.COUNT_LENGTH),
        rows=count.rows,
        row_spacing_m=required(count, models.COUNT_ROW_SPACING),
    )
    count.plants_per_m2 = result.plants_per_m2
