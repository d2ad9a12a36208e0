"""Sampling plans of a trial: how many counts, where, and in which order to walk them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from uuid import UUID
from zlib import crc32

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.estimate.methods import method_of
from cultrix_core.estimate.spots import MOST_PIECES
from cultrix_core.stand.places import (
    MOST_PLACES,
    CountGround,
    PastVariation,
    Place,
    draw_places,
    past_variation,
    variation_sums,
)
from cultrix_core.stand.precision import MOST_COUNTS, counts_wanted
from cultrix_core.units import parse_count
from django.db import transaction

from apps.accounts.models import User, Workspace
from apps.accounts.rights import require
from apps.base.errors import Conflict
from apps.base.quantities import fill
from apps.farms.remainders import remainders
from apps.field.stand import models
from apps.field.stand.models import SamplingPlan, StandCount
from apps.field.stand.schemas import SamplingPlanIn
from apps.field.visits.queries import day_of
from apps.records.keeping import keep, when
from apps.trials.models import Strip, Trial
from apps.trials.queries import trial_for

DRAWN_FROM = ("purpose", "method", "pieces", "planned", "sample_m", "end_m", "framed", "rows", "edge_rows", "wheel_rows")


MOST_STRIPS_LOOKED_AT = 400


def farm_variation(workspace: Workspace, crop: str) -> PastVariation:
    """Variation from count to count inside strips, over the workspace's latest counted strips of a crop."""
    of_trials = {"strip__trial__workspace": workspace, "strip__trial__crop": crop, "strip__trial__life__binned_at": None}
    counts = StandCount.objects.filter(**of_trials, voided=False)
    by_strip: dict[UUID, list[StandCount]] = {}
    for count in counts.order_by("-recorded_at")[: 20 * MOST_STRIPS_LOOKED_AT]:
        by_strip.setdefault(count.strip_id, []).append(count)
    erased = [(numbers["sum"], numbers["df"]) for _, numbers in remainders(workspace, "count", crop)]
    return past_variation([group for counts in by_strip.values() for group in _by_day(counts)], also=erased)


def count_sums(trial: Trial) -> dict[str, float]:
    """What a trial adds to the variation between counts; empty where it adds nothing."""
    by_strip: dict[UUID, list[StandCount]] = {}
    for count in StandCount.objects.filter(strip__trial=trial, voided=False):
        by_strip.setdefault(count.strip_id, []).append(count)
    total, df = variation_sums([group for counts in by_strip.values() for group in _by_day(counts)])
    return {"sum": total, "df": df} if df else {}


def _by_day(counts: Sequence[StandCount]) -> list[list[float]]:
    """Counts of one strip, day by day: what grew or died in between is not variation from place to place."""
    days: dict[date, list[float]] = {}
    for count in counts:
        days.setdefault(day_of(count), []).append(count.plants_per_m2)
    return list(days.values())


def wanted_counts(variation: PastVariation, wanted_pct: float) -> int:
    """Counts a strip for a wanted precision, at most what a plan can hold."""
    require_between(wanted_pct, 0.5, 50, "within_pct", label="Wanted within ±", unit=" %")
    return min(counts_wanted(variation.cv, wanted_share=wanted_pct / 100), MOST_PLACES, MOST_COUNTS)


def put_sampling_plan(user: User, trial_id: UUID, plan_id: UUID, body: SamplingPlanIn) -> tuple[SamplingPlan, bool]:
    """Store a plan under the client's id; its places are drawn from the trial's seed and the plan's number.

    A plan whose places have been counted keeps them: another draw is another plan.
    """
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        require(user, trial.workspace, "record")
        existing = SamplingPlan.objects.filter(pk=plan_id, trial=trial).first()
        plan = SamplingPlan(
            id=plan_id,
            trial=trial,
            number=existing.number if existing else 1 + SamplingPlan.objects.filter(trial=trial).count(),
            seed=existing.seed if existing else _seed(trial),
            purpose=body.purpose,
            name=body.name.strip()[:80] or ("Stand count" if body.purpose == "stand" else "Yield samples"),
            reserve=int(require_between(body.reserve, 0, MOST_PLACES, "reserve", label="Places in reserve")),
            framed=body.framed,
            rows=parse_count(body.rows, field="rows", label="Rows counted at once"),
            edge_rows=int(require_between(body.edge_rows, 0, 20, "edge_rows", label="Edge rows left out")),
            wheel_rows=" ".join(str(row) for row in wheel_rows(body.wheel_rows)),
            recorded_at=when(body.recorded_at),
        )
        require_between(plan.rows, 1, 48, "rows", label="Rows counted at once")
        _fill(plan, body)
        if body.purpose == "yield":
            _fill_yield(plan, body)
        else:
            plan.planned = (
                wanted_counts(farm_variation(trial.workspace, trial.crop), plan.wanted.value or 5.0)
                if body.planned is None
                else body.planned
            )
        require_between(plan.planned, 1, MOST_PLACES, "planned", label="Counts a strip")
        taken = existing is not None and (existing.counts.exists() or existing.yield_samples.exists())
        if existing is not None and taken and _drawn_from(existing) != _drawn_from(plan):
            raise Conflict(
                "would_orphan",
                "Places of this plan have been counted; drawn anew they would lose their place. Make another plan instead.",
            )
        kept, changed = keep(user, trial, plan, body.version)
        if changed:
            _require_places(trial, kept)
        return kept, changed


def _fill(plan: SamplingPlan, body: SamplingPlanIn) -> None:
    fill(plan, models.WANTED, body.wanted)
    fill(plan, models.SAMPLE, body.sample)
    fill(plan, models.END, body.end)
    if plan.wanted.value is not None:
        require_between(plan.wanted.value, 0.5, 50, "wanted", label="Wanted within ±", unit=" %")
    if plan.sample.value is None:
        raise Refusal("missing", field="sample", label="The length of a count", remedy="Row length, or the side of the frame.")
    require_positive(plan.sample.value, "sample", label="Length of a count", unit=" m")
    if plan.end.value is not None:
        require_between(plan.end.value, 0, 500, "end", label="Kept free at the ends", unit=" m")


def _fill_yield(plan: SamplingPlan, body: SamplingPlanIn) -> None:
    """A plan of yield samples: its method, places a strip and pieces a place, the method's own where not said."""
    method = method_of(body.method)
    plan.method = method.key
    plan.planned = method.places if body.planned is None else body.planned
    plan.pieces = (body.pieces or method.drawn) if method.counted else 0
    require_between(plan.pieces, 0, MOST_PIECES, "pieces", label=f"{method.pieces.capitalize()} drawn at a place")


def _drawn_from(plan: SamplingPlan) -> list[object]:
    return [getattr(plan, name) for name in DRAWN_FROM]


def _seed(trial: Trial) -> int:
    """The trial's own seed; a trial whose layout came from a file draws from its id."""
    return trial.seed if trial.seed is not None else crc32(trial.id.bytes)


def _require_places(trial: Trial, plan: SamplingPlan) -> None:
    """Refuse a plan that has no place on any strip, with the reason of the first."""
    strips = list(trial.strips.filter(lost=False))
    for strip in strips:
        if strip.length.value and strip.width.value:
            places_on(plan, strip, _row_spacing(trial, strip))
            return
    raise Refusal(
        "missing",
        field="sample",
        label="Length and width of the strips",
        remedy="Places can be drawn once the layout has them.",
    )


def _row_spacing(trial: Trial, strip: Strip) -> float | None:
    level = next((item for item in strip.received.levels.select_related("factor") if item.factor.kind == "row_spacing"), None)
    return level.amount.value if level else trial.row_spacing.value


def wheel_rows(text: str) -> tuple[int, ...]:
    """Rows under wheels as typed, such as “12, 13 28-29”.

    Raises
    ------
    Refusal : ``not_a_count``.
    """
    rows: set[int] = set()
    for part in text.replace(",", " ").replace(";", " ").replace("–", "-").split():
        first, _, last = part.partition("-")
        start = parse_count(first, field="wheel_rows", label="Wheel rows")
        end = parse_count(last, field="wheel_rows", label="Wheel rows") if last else start
        if not start <= end <= start + 20:
            raise Refusal("not_a_count", field="wheel_rows", label="Wheel rows", value=part)
        rows |= set(range(start, end + 1))
    return tuple(sorted(rows))


def places_on(plan: SamplingPlan, strip: Strip, spacing: float | None) -> tuple[Place, ...]:
    ground = CountGround(
        length_m=strip.length.value or 0.0,
        width_m=strip.width.value or 0.0,
        sample_m=plan.sample.value or 0.0,
        row_spacing_m=None if plan.framed else spacing,
        rows=1 if plan.framed else plan.rows,
        end_m=plan.end.value or 0.0,
        edge_rows=plan.edge_rows,
        wheel_rows=wheel_rows(plan.wheel_rows),
    )
    return draw_places(ground, planned=plan.planned, extra=plan.reserve, seed=(abs(plan.seed), plan.number, strip.order))


def plans_of(trial: Trial, purpose: str = "stand") -> list[SamplingPlan]:
    """Standing plans of a trial for stand counts or yield samples, the latest last."""
    return list(trial.sampling_plans.filter(voided=False, purpose=purpose))
