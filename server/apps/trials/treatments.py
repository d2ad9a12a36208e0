"""Writing factors and treatments."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from uuid import UUID

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.seeding.rates import seeds_per_m2
from cultrix_core.units import parse_number
from django.db import transaction

from apps.accounts.models import User
from apps.accounts.services import save_as
from apps.audit.services import note
from apps.base.errors import Conflict
from apps.base.quantities import MeasuredValue, Quantity, TypedIn, fill, parse
from apps.trials import models, protocol
from apps.trials.costs import put_costs
from apps.trials.editing import saved, take_up_layout, writable
from apps.trials.lots import lot_of
from apps.trials.models import Factor, Level, Treatment, Trial
from apps.trials.naming import FACTOR_DIMENSION, level_dimension
from apps.trials.queries import sowings_of, treatments_of
from apps.trials.schemas import TreatmentIn, TreatmentsIn

MOST_FACTORS = 5
MOST_LINES = 60


def set_treatments(user: User, trial_id: UUID, body: TreatmentsIn) -> Trial:
    """Set the factors, the treatments and what their levels cost.

    Treatments are matched by id. Removing, adding or re-levelling them is refused while records hang on
    the strips; costs, control and wording may change at any time. A layout without records is taken up.
    """
    with transaction.atomic():
        trial = writable(user, trial_id, body.version)
        _check_list(body)
        before = protocol.plan_lines(trial)
        existing = {treatment.id: treatment for treatment in treatments_of(trial)}
        unknown = [row.id for row in body.treatments if row.id and row.id not in existing]
        if unknown:
            raise Refusal("unknown_choice", field="treatments", label="Treatment", value=unknown[0], limit="this trial's own")
        if _changes_levels(trial, body, existing):
            take_up_layout(trial, "The treatments")
        kept = {row.id for row in body.treatments if row.id}
        for gone in (treatment for key, treatment in existing.items() if key not in kept):
            gone.delete()
        levels = _put_levels(trial, _put_factors(trial, body), body)
        for position, row in enumerate(body.treatments):
            _put_treatment(user, trial, row, position, existing, levels)
        _drop_levels(trial)
        put_costs(trial, [(row, levels.get((row.factor, _name(row.level)))) for row in body.costs], list(levels.values()))
        note(user, "plan", "set treatments and costs", trial=trial, before=before, after=protocol.plan_lines(trial))
        return saved(trial, user, "set treatments", body.amendment)


def _drop_levels(trial: Trial) -> None:
    """Remove levels no treatment has any more; refuse where seed is bound to one, which would go with it unseen."""
    unused = Level.objects.filter(factor__trial=trial, treatments=None)
    bound = trial.sowings.filter(level__in=unused).select_related("lot", "level").first()
    if bound is not None and bound.level is not None:
        raise Conflict(
            "would_orphan",
            f"{bound.lot} is sown on “{bound.level.amount.text or bound.level.name}” only. "
            "Change what is sown on the Seed page first, then the treatments.",
        )
    unused.delete()


def rate_of(typed: TypedIn | None, trial: Trial, field: str = "seeding_rate") -> float | None:
    """Seeds per m² of a rate typed by count, weight, plants wanted or bags."""
    if typed is None or not typed.text.strip():
        return None
    value = parse_number(typed.text, field=field, label="Seeding rate")
    return seeds_per_m2(value, typed.unit, lot=lot_of(trial, sowings_of(trial)))


def reweigh_levels(trial: Trial) -> None:
    """Rates typed by weight, plants or bags follow what they were converted with; the trial itself is not saved."""
    for level in Level.objects.filter(factor__trial=trial, factor__kind="seeding_rate").exclude(amount_typed=""):
        typed = TypedIn(text=level.amount.text, unit=level.amount.unit)
        level.amount = replace(level.amount, value=rate_of(typed, trial))
        level.save()
    typed = TypedIn(text=trial.seeding_rate.text, unit=trial.seeding_rate.unit)
    fill(trial, models.SEEDING_RATE, typed, value=rate_of(typed, trial))


def _name(typed: TypedIn) -> str:
    return f"{' '.join(typed.text.split()).lower()} {typed.unit}".strip()


def _check_list(body: TreatmentsIn) -> None:
    if len(body.treatments) > 40:
        raise Refusal("too_large", field="treatments", value=len(body.treatments), limit=40)
    if not 1 <= len(body.factors) <= MOST_FACTORS:
        raise Refusal(
            "too_large",
            field="factors",
            label="The number of factors",
            value=len(body.factors),
            limit=MOST_FACTORS,
            remedy="One question at a time; the rest is held equal.",
        )
    for factor in body.factors:
        if factor.kind == "free" and not factor.name.strip():
            raise Refusal("missing", field="factor_name", label="What is varied", remedy="Name it in a word or two.")
    _check_rows(body)


def _check_rows(body: TreatmentsIn) -> None:
    kinds = [factor.name.strip().lower() or factor.kind for factor in body.factors]
    for kind in kinds:
        if kinds.count(kind) > 1:
            raise Refusal("duplicate", field="factors", label="Factor", value=kind.replace("_", " "), remedy="Vary it once.")
    if sum(row.is_control for row in body.treatments) > 1:
        raise Refusal(
            "duplicate", field="control", label="Control", value="chosen", remedy="One treatment is what the farm does now."
        )
    seen: set[str] = set()
    for row in body.treatments:
        if len(row.levels) != len(body.factors):
            raise Refusal(
                "lengths_differ",
                field="treatments",
                label="Levels of a treatment",
                value=len(row.levels),
                limit=len(body.factors),
            )
        if any(not level.text.strip() for level in row.levels):
            raise Refusal(
                "missing", field="treatments", label="A level", remedy="Every treatment needs one; remove the empty row."
            )
        name = " · ".join(_name(level) for level in row.levels)
        if name in seen:
            raise Refusal(
                "duplicate", field="treatments", label="Level", value=name, remedy="Each treatment needs a level of its own."
            )
        seen.add(name)
    if len(body.costs) > MOST_LINES:
        raise Refusal("too_large", field="costs", label="Cost lines", value=len(body.costs), limit=MOST_LINES)


def _changes_levels(trial: Trial, body: TreatmentsIn, existing: dict[UUID, Treatment]) -> bool:
    factors = list(trial.factors.all())
    if [factor.kind for factor in factors] != [factor.kind for factor in body.factors]:
        return True
    if {row.id for row in body.treatments} != set(existing):
        return True
    for row in body.treatments:
        assert row.id is not None
        for level, typed in zip(existing[row.id].levels.all(), row.levels, strict=True):
            if (typed.text.strip(), typed.unit) != (level.amount.text, level.amount.unit) and typed.text.strip() != level.name:
                return True
    return False


def _put_factors(trial: Trial, body: TreatmentsIn) -> list[Factor]:
    factors = list(trial.factors.all())
    for gone in factors[len(body.factors) :]:
        gone.delete()
    for position, row in enumerate(body.factors):
        factor = factors[position] if position < len(factors) else Factor(trial=trial)
        factor.position, factor.kind, factor.name = position, row.kind, row.name.strip()[:60]
        factor.hard_to_change = row.hard_to_change
        factor.save()
        if position >= len(factors):
            factors.append(factor)
    return factors[: len(body.factors)]


def _put_levels(trial: Trial, factors: Sequence[Factor], body: TreatmentsIn) -> dict[tuple[int, str], Level]:
    """One level for each amount or name typed under a factor; levels that stay keep their row."""
    levels: dict[tuple[int, str], Level] = {}
    for place, factor in enumerate(factors):
        there = {
            _name(TypedIn(text=item.amount.text or item.name, unit=item.amount.unit)): item for item in factor.levels.all()
        }
        for row in body.treatments:
            typed = row.levels[place]
            key = (place, _name(typed))
            if key in levels:
                continue
            level = there.get(key[1]) or Level(factor=factor)
            level.factor, level.position = factor, sum(1 for item in levels if item[0] == place)
            _fill_level(trial, level, typed)
            level.save()
            levels[key] = level
    return levels


def _fill_level(trial: Trial, level: Level, typed: TypedIn) -> None:
    kind = level.factor.kind
    if kind not in FACTOR_DIMENSION:
        level.name = " ".join(typed.text.split())[:60]
        level.amount = MeasuredValue("", "", None)
        return
    quantity = Quantity(name="amount", suffix="canonical", dimension=level_dimension(kind, typed.unit), kind="", label="Level")
    value = rate_of(typed, trial) if kind == "seeding_rate" else parse(quantity, typed)
    if value is not None:
        require_positive(value, "treatments", label="Level")
    fill(level, quantity, typed, value=value)
    level.name = ""


def _put_treatment(
    user: User,
    trial: Trial,
    row: TreatmentIn,
    position: int,
    existing: dict[UUID, Treatment],
    levels: dict[tuple[int, str], Level],
) -> None:
    treatment = existing[row.id] if row.id else Treatment(trial=trial)
    treatment.position, treatment.is_control = position, row.is_control
    fill(treatment, models.EXTRA_COST, row.extra_cost)
    if treatment.extra_cost.value is not None:
        require_between(treatment.extra_cost.value, -1e6, 1e6, "extra_cost", label="Extra cost")
    save_as(treatment, user, "set treatments")
    treatment.levels.set([levels[place, _name(typed)] for place, typed in enumerate(row.levels)])
