"""Writing trials: question, treatments, layout, what really happened to a strip."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from uuid import UUID

from cultrix_core.crops import crop
from cultrix_core.design.randomise import PlannedStrip, complete_blocks, unreplicated
from cultrix_core.design.strips import fit_strips
from cultrix_core.economics.break_even import break_even
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.seeding.rates import MASS_UNITS, seeds_per_m2
from cultrix_core.units import parse_number, units_of
from django.db import transaction

from apps.accounts.faults import Conflict
from apps.accounts.models import User
from apps.accounts.selectors import workspace_for
from apps.accounts.services import require_writer, save_as
from apps.farms.models import Field
from apps.quantities import Quantity, TypedIn, fill, parse
from apps.records.selectors import tally
from apps.trials import models
from apps.trials.models import Block, Factor, Level, Strip, Treatment, Trial
from apps.trials.naming import FACTOR_DIMENSION, level_dimension
from apps.trials.schemas import LayoutIn, StripPatchIn, TreatmentIn, TreatmentsIn, TrialPatchIn
from apps.trials.selectors import strip_for, trial_for

FIRST_SEASON, LAST_SEASON = 1950, 2100
PLAIN = ("title", "series", "question", "guess", "primary_response", "planted_on")
LIMITS = {"title": 120, "series": 80, "question": 600, "guess": 600}
MONEY = (models.PRICE, models.UNIT_COST, models.PRACTICAL_MARGIN, models.NET_MARGIN)
SOWING = (models.ROW_SPACING, models.SEED_WEIGHT)


def add_trial(user: User, workspace_id: UUID, *, title: str, crop_key: str, season: int) -> Trial:
    """A new trial with a title, crop and season."""
    workspace = workspace_for(user, workspace_id)
    require_writer(user, workspace)
    trial = Trial(
        workspace=workspace,
        title=_checked_text("title", title),
        crop=crop(crop_key).key,
        season=_checked_season(season),
        created_by=user,
    )
    if not trial.title:
        raise Refusal("missing", field="title", label="A title", remedy="A few words to know the trial by.")
    save_as(trial, user, "added")
    return trial


def edit_trial(user: User, trial_id: UUID, body: TrialPatchIn) -> Trial:
    """Change what the body carries. Refuses a stale version (``Conflict``) and values that cannot be."""
    with transaction.atomic():
        trial = _writable(user, trial_id, body.version)
        sent = body.model_fields_set
        for name in PLAIN:
            if name in sent:
                value = getattr(body, name)
                setattr(trial, name, _checked_text(name, value) if name in LIMITS else value)
        if not trial.title:
            raise Refusal("missing", field="title", label="A title", remedy="A few words to know the trial by.")
        if "season" in sent and body.season is not None:
            trial.season = _checked_season(body.season)
        if "alpha" in sent and body.alpha is not None:
            trial.alpha = require_between(
                body.alpha,
                0.01,
                0.30,
                "alpha",
                label="Significance level",
                remedy="Research uses 0.05, farm decisions often 0.10 to 0.20.",
            )
        if "crop" in sent and body.crop is not None:
            _change_crop(trial, body.crop)
        if "field_id" in sent:
            _change_field(trial, body.field_id)
        _change_quantities(trial, body)
        return _saved(trial, user, f"changed {', '.join(sorted(sent - {'version'}))}")


def _change_quantities(trial: Trial, body: TrialPatchIn) -> None:
    sent, bushel = body.model_fields_set, crop(trial.crop).bushel_kg
    for quantity in (*MONEY, *SOWING):
        if quantity.name in sent:
            typed = getattr(body, quantity.name)
            fill(trial, quantity, typed, bushel_kg=bushel)
            value = getattr(trial, quantity.value_column)
            if value is not None:
                if quantity in (models.UNIT_COST, models.PRACTICAL_MARGIN, models.NET_MARGIN):
                    require_between(value, 0, 1e9, quantity.name, label=quantity.label)
                else:
                    require_positive(value, quantity.name, label=quantity.label)
    if "seeding_rate" in sent or "thousand_seed_weight" in sent:
        typed = (
            body.seeding_rate
            if "seeding_rate" in sent
            else TypedIn(text=trial.seeding_rate_typed, unit=trial.seeding_rate_unit)
        )
        fill(trial, models.SEEDING_RATE, typed, value=_rate(typed, trial))
    if "thousand_seed_weight" in sent:
        _reweigh_levels(trial)
    if trial.price_per_t is not None:
        break_even(extra_cost_per_ha=0.0, price_per_t=trial.price_per_t, unit_cost_per_t=trial.unit_cost_per_t or 0.0)


def _rate(typed: TypedIn | None, trial: Trial) -> float | None:
    """Seeds per m² of a rate typed by count or by weight."""
    if typed is None or not typed.text.strip():
        return None
    value = parse_number(typed.text, field="seeding_rate", label="Seeding rate")
    return seeds_per_m2(value, typed.unit, thousand_seed_weight_g=trial.thousand_seed_weight_g)


def _reweigh_levels(trial: Trial) -> None:
    """Rates typed by weight follow the seed weight they were converted with."""
    for level in Level.objects.filter(factor__trial=trial, factor__kind="seeding_rate", amount_unit__in=MASS_UNITS):
        level.amount_canonical = _rate(TypedIn(text=level.amount_typed, unit=level.amount_unit), trial)
        level.save()


def _change_crop(trial: Trial, key: str) -> None:
    if key == trial.crop:
        return
    crop(key)
    records = tally(trial.strips.all())
    if records.loads:
        raise Conflict(
            "would_orphan",
            f"The crop stays {crop(trial.crop).name.lower()}: {records.words} were reckoned at its "
            "standard moisture. Strike those loads first, with a reason.",
        )
    trial.crop = key


def _change_field(trial: Trial, field_id: UUID | None) -> None:
    if field_id == trial.field_id:
        return
    if trial.strips.exists():
        raise Conflict(
            "would_orphan", "The strips of this trial lie in its field. Draw the layout anew after choosing another."
        )
    field = Field.objects.filter(id=field_id, workspace=trial.workspace).first() if field_id else None
    if field_id and field is None:
        raise Refusal("unknown_choice", field="field_id", label="Field", value=field_id, limit="the fields in Setup")
    trial.field = field


def set_treatments(user: User, trial_id: UUID, body: TreatmentsIn) -> Trial:
    """Set the factor and its treatments.

    Treatments are matched by id. Removing, adding or re-levelling them is refused while records hang on
    the strips; costs, control and wording may change at any time. A layout without records is taken up.
    """
    with transaction.atomic():
        trial = _writable(user, trial_id, body.version)
        _check_list(body)
        existing = {treatment.id: treatment for treatment in trial.treatments.select_related("level__factor")}
        unknown = [row.id for row in body.treatments if row.id and row.id not in existing]
        if unknown:
            raise Refusal("unknown_choice", field="treatments", label="Treatment", value=unknown[0], limit="this trial's own")
        if _changes_levels(trial, body, existing):
            _take_up_layout(trial, "The treatments")
        factor = trial.factors.first() or Factor(trial=trial)
        factor.kind, factor.name = body.factor_kind, body.factor_name.strip()[:60]
        factor.save()
        kept = {row.id for row in body.treatments if row.id}
        for gone in (treatment for key, treatment in existing.items() if key not in kept):
            level = gone.level
            gone.delete()
            level.delete()
        for position, row in enumerate(body.treatments):
            _put_treatment(user, trial, factor, row, position, existing)
        return _saved(trial, user, "set treatments")


def _check_list(body: TreatmentsIn) -> None:
    if len(body.treatments) > 40:
        raise Refusal("too_large", field="treatments", value=len(body.treatments), limit=40)
    if body.factor_kind == "free" and not body.factor_name.strip():
        raise Refusal("missing", field="factor_name", label="What is varied", remedy="Name it in a word or two.")
    if sum(row.is_control for row in body.treatments) > 1:
        raise Refusal(
            "duplicate", field="control", label="Control", value="chosen", remedy="One treatment is what the farm does now."
        )
    seen: set[str] = set()
    for row in body.treatments:
        name = f"{' '.join(row.level.text.split()).lower()} {row.level.unit}".strip()
        if not row.level.text.strip():
            raise Refusal(
                "missing", field="treatments", label="A level", remedy="Every treatment needs one; remove the empty row."
            )
        if name in seen:
            raise Refusal(
                "duplicate", field="treatments", label="Level", value=name, remedy="Each treatment needs a level of its own."
            )
        seen.add(name)


def _changes_levels(trial: Trial, body: TreatmentsIn, existing: dict[UUID, Treatment]) -> bool:
    factor = trial.factors.first()
    if factor is None or factor.kind != body.factor_kind or {row.id for row in body.treatments} != set(existing):
        return True
    for row in body.treatments:
        level = existing[row.id].level if row.id else None
        typed = (row.level.text.strip(), row.level.unit)
        if level is None or (typed != (level.amount_typed, level.amount_unit) and row.level.text.strip() != level.name):
            return True
    return False


def _put_treatment(
    user: User, trial: Trial, factor: Factor, row: TreatmentIn, position: int, existing: dict[UUID, Treatment]
) -> None:
    treatment = existing[row.id] if row.id else Treatment(trial=trial, level=Level(factor=factor))
    level = treatment.level
    level.factor = factor
    _fill_level(trial, level, row.level)
    level.save()
    treatment.level, treatment.position, treatment.is_control = level, position, row.is_control
    fill(treatment, models.EXTRA_COST, row.extra_cost)
    if treatment.extra_cost_per_ha is not None:
        require_between(treatment.extra_cost_per_ha, -1e6, 1e6, "extra_cost", label="Extra cost")
    save_as(treatment, user, "set treatments")


def _fill_level(trial: Trial, level: Level, typed: TypedIn) -> None:
    kind = level.factor.kind
    if kind not in FACTOR_DIMENSION:
        level.name = " ".join(typed.text.split())[:60]
        level.amount_typed, level.amount_unit, level.amount_canonical = "", "", None
        return
    quantity = Quantity(name="amount", suffix="canonical", dimension=level_dimension(kind, typed.unit), kind="", label="Level")
    value = _rate(typed, trial) if kind == "seeding_rate" else parse(quantity, typed)
    if value is not None:
        require_positive(value, "treatments", label="Level")
    fill(level, quantity, typed, value=value)
    level.name = ""


def draw_layout(user: User, trial_id: UUID, body: LayoutIn) -> Trial:
    """Draw strips from a seed. Refused while records hang on the strips there are."""
    with transaction.atomic():
        trial = _writable(user, trial_id, body.version)
        _take_up_layout(trial, "The layout")
        treatments = list(trial.treatments.all())
        seed = body.seed if body.seed is not None else secrets.randbits(48)
        require_between(seed, 0, 2**53 - 1, "seed", label="Seed of the draw")
        names = [str(treatment.id) for treatment in treatments]
        plan = (
            complete_blocks(names, blocks=body.blocks, seed=seed) if body.design == "rcbd" else unreplicated(names, seed=seed)
        )
        _check_fit(trial, plan, body)
        trial.design, trial.seed, trial.drawn = body.design, seed, True
        lay_strips(
            user, trial, plan, {str(treatment.id): treatment for treatment in treatments}, body.strip_width, body.strip_length
        )
        return _saved(trial, user, f"drew {body.design}, {body.blocks} blocks, seed {seed}")


def lay_strips(
    user: User,
    trial: Trial,
    plan: Sequence[PlannedStrip],
    treatments: dict[str, Treatment],
    width: TypedIn | None,
    length: TypedIn | None,
    block_names: Sequence[str] = (),
) -> list[Strip]:
    """Write the strips of a plan. ``block_names`` names blocks in the order of their numbers."""
    blocks: dict[int, Block] = {}
    strips = []
    for planned in plan:
        if planned.block not in blocks:
            name = block_names[planned.block - 1] if block_names else ""
            blocks[planned.block] = Block.objects.create(trial=trial, number=planned.block, name=name)
        strip = Strip(trial=trial, block=blocks[planned.block], order=planned.order, treatment=treatments[planned.treatment])
        fill(strip, models.STRIP_WIDTH, width)
        fill(strip, models.STRIP_LENGTH, length)
        save_as(strip, user, "laid out")
        strips.append(strip)
    return strips


def _check_fit(trial: Trial, plan: Sequence[PlannedStrip], body: LayoutIn) -> None:
    sizes = []
    for quantity, typed in ((models.STRIP_WIDTH, body.strip_width), (models.STRIP_LENGTH, body.strip_length)):
        field = f"strip_{quantity.name}"
        value = parse(Quantity(name=field, suffix="", dimension="length", kind="", label=quantity.label), typed)
        if value is None:
            raise Refusal("missing", field=field, label=quantity.label, remedy="A whole number of passes of the machines.")
        sizes.append(require_positive(value, field, label=quantity.label, unit=" m"))
    if trial.field and trial.field.width_m and trial.field.length_m:
        fit_strips(
            strips=len(plan),
            strip_width_m=sizes[0],
            strip_length_m=sizes[1],
            field_width_m=trial.field.width_m,
            field_length_m=trial.field.length_m,
        )


def _take_up_layout(trial: Trial, what: str) -> None:
    """Remove strips without records; refuse when any record would lose its strip."""
    strips = list(trial.strips.all())
    records = tally(strips)
    marked = sum(1 for strip in strips if strip.lost or strip.sown_treatment_id)
    if records or marked or trial.field_events.filter(strips__in=strips).exists():
        words = records.words or (f"{marked} strip notes" if marked else "notes of the season")
        raise Conflict(
            "would_orphan",
            f"{what} cannot change any more: {words} hang on these strips and would lose their place. "
            "Costs, prices and the control may still change; for other treatments start a new trial.",
        )
    trial.strips.all().delete()
    trial.blocks.all().delete()


def mark_strip(user: User, strip_id: UUID, body: StripPatchIn) -> Strip:
    """Record that a strip was lost, or sown with another treatment; back to the plan with both empty."""
    with transaction.atomic():
        strip = strip_for(user, strip_id)
        require_writer(user, strip.trial.workspace)
        sown = None
        if body.sown_treatment_id and body.sown_treatment_id != strip.treatment_id:
            sown = strip.trial.treatments.filter(id=body.sown_treatment_id).first()
            if sown is None:
                raise Refusal(
                    "unknown_choice",
                    field="sown_treatment_id",
                    label="Treatment",
                    value=body.sown_treatment_id,
                    limit="this trial's own",
                )
        reason = body.reason.strip()[:300]
        if (body.lost or sown) and not reason:
            raise Refusal("missing", field="reason", label="The reason", remedy="Say what happened; it stands in the verdict.")
        strip.lost, strip.sown_treatment, strip.reason = body.lost, sown, reason if body.lost or sown else ""
        save_as(strip, user, reason or "back to the plan")
    return strip


def _writable(user: User, trial_id: UUID, version: int) -> Trial:
    trial = trial_for(user, trial_id)
    require_writer(user, trial.workspace)
    if version != trial.version:
        raise Conflict(
            "stale",
            "This trial was changed elsewhere meanwhile. What you typed is kept; look at what is there now and decide.",
            {"version": trial.version},
        )
    return trial


def _saved(trial: Trial, user: User, reason: str) -> Trial:
    trial.version += 1
    save_as(trial, user, reason)
    return trial


def _checked_text(name: str, value: str | None) -> str:
    text = (value or "").strip()
    if len(text) > LIMITS[name]:
        raise Refusal(
            "too_large",
            field=name,
            label=f"{name.capitalize()}, letters in it",
            value=len(text),
            limit=LIMITS[name],
            remedy="Shorten it.",
        )
    return text


def _checked_season(season: int) -> int:
    require_between(season, FIRST_SEASON, LAST_SEASON, "season", remedy="The year of harvest.")
    return season


def rate_units() -> list[str]:
    """Codes of units a seeding rate may be typed in."""
    return [unit.code for unit in units_of("areal_density")] + list(MASS_UNITS)
