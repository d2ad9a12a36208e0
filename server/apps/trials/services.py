"""Writing trials: the question and its money, the seed, and what really happened to a strip."""

from __future__ import annotations

from uuid import UUID

from cultrix_core.crops import crop
from cultrix_core.economics.break_even import break_even
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.season.responses import response_of
from cultrix_core.units import parse_number, parse_quantity
from django.db import transaction

from apps.accounts.models import User, Workspace
from apps.accounts.queries import region_of, workspace_for
from apps.accounts.rights import reach_in, require, require_farm
from apps.accounts.services import save_as
from apps.base.errors import Conflict
from apps.base.quantities import MeasuredValue, Quantity, TypedIn, fill
from apps.farms import models as farms
from apps.farms.merged import found
from apps.farms.models import Field
from apps.trials import models
from apps.trials.editing import require_open, saved, writable
from apps.trials.hooks import standard_moisture_changed, tally
from apps.trials.models import Strip, Trial
from apps.trials.queries import strip_for
from apps.trials.schemas import StripPatchIn, TrialPatchIn
from apps.trials.treatment_package import checked
from apps.trials.treatments import rate_of, reweigh_levels

FIRST_SEASON, LAST_SEASON = 1950, 2100
PLAIN = ("title", "series", "question", "guess", "primary_response", "amounts_by", "planted_on", "price_source")
LIMITS = {"title": 120, "series": 80, "question": 600, "guess": 600, "price_source": 160}
MONEY = (models.PRICE, models.UNIT_COST, models.PRACTICAL_MARGIN, models.NET_MARGIN, models.EXPECTED_YIELD, farms.BAG_PRICE)
NOT_NEGATIVE = (models.UNIT_COST, models.PRACTICAL_MARGIN, models.NET_MARGIN, farms.BAG_PRICE)
SOWING = (models.STANDARD_MOISTURE, models.ROW_SPACING, farms.SEED_WEIGHT, models.EMERGENCE, models.SURVIVAL, models.DEPTH)
LOT = {"thousand_seed_weight", "emergence", "emergence_of", "survival", "bag_seeds"}
SHARES = (models.EMERGENCE, models.SURVIVAL)


PRICED = {"price", "unit_cost", "net_margin", "bag_price", "bag_seeds", "price_source"}


def add_trial(user: User, workspace_id: UUID, *, title: str, crop_key: str, season: int, field_id: UUID | None = None) -> Trial:
    """A new trial with a title, crop and season; in a field, where the person's part reaches some farms only."""
    workspace = workspace_for(user, workspace_id)
    reach = require(user, workspace, "design")
    field = _field_named(workspace, field_id)
    require_farm(reach, field.farm if field else None)
    trial = Trial(
        workspace=workspace,
        field=field,
        title=_checked_text("title", title),
        crop=crop(crop_key).key,
        season=_checked_season(season),
        created_by=user,
        responsible=user,
        alpha=region_of(workspace).alpha,
    )
    if not trial.title:
        raise Refusal("missing", field="title", label="A title", remedy="A few words to know the trial by.")
    save_as(trial, user, "added")
    return trial


def edit_trial(user: User, trial_id: UUID, body: TrialPatchIn) -> Trial:
    """Change what the body carries. Refuses a stale version (``Conflict``) and values that cannot be."""
    with transaction.atomic():
        sent = body.model_fields_set
        priced = sent & PRICED
        trial = writable(user, trial_id, body.version, "prices" if priced else "design")
        if sent - PRICED - {"version", "amendment"}:
            require(user, trial.workspace, "design")
        for name in PLAIN:
            if name in sent:
                value = getattr(body, name)
                setattr(trial, name, _checked_text(name, value) if name in LIMITS else value)
        if not trial.title:
            raise Refusal("missing", field="title", label="A title", remedy="A few words to know the trial by.")
        _change_response(trial, body)
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
        if body.package is not None:
            trial.package = checked(body.package)
        if "field_id" in sent:
            _change_field(user, trial, body.field_id)
        _change_quantities(trial, body)
        kept = saved(trial, user, f"changed {', '.join(sorted(sent - {'version', 'amendment'}))}", body.amendment)
        if "standard_moisture" in sent:
            standard_moisture_changed(user, kept)
        return kept


def _change_response(trial: Trial, body: TrialPatchIn) -> None:
    """What the trial is judged by, with its margin in its own unit; another response takes the margin away."""
    sent = body.model_fields_set
    if trial.primary_response in ("yield", "net_return"):
        trial.response_margin = MeasuredValue("", "", None)
        return
    response = response_of(trial.primary_response)
    if "primary_response" in sent and "response_margin" not in sent:
        trial.response_margin = MeasuredValue("", "", None)
    if "response_margin" not in sent:
        return
    typed = body.response_margin
    if typed is None or not typed.text.strip():
        trial.response_margin = MeasuredValue("", "", None)
        return
    value = parse_quantity(
        typed.text,
        response.dimension,
        typed.unit,
        field="response_margin",
        label="Margin",
        bushel_kg=crop(trial.crop).bushel_kg,
    )
    require_positive(value, "response_margin", label="Margin")
    trial.response_margin = MeasuredValue(typed.text.strip(), typed.unit, value)


def _change_quantities(trial: Trial, body: TrialPatchIn) -> None:
    sent, bushel = body.model_fields_set, crop(trial.crop).bushel_kg
    for quantity in (*MONEY, *SOWING):
        if quantity.name in sent:
            typed = getattr(body, quantity.name)
            fill(trial, quantity, typed, bushel_kg=bushel)
            value = getattr(trial, quantity.value_column)
            if value is not None:
                _require_sense(quantity, value, trial)
    if body.emergence_of is not None:
        trial.emergence_of = body.emergence_of
    if "bag_seeds" in sent:
        _fill_count(trial, body.bag_seeds)
    if sent & {"seeding_rate", *LOT}:
        if "seeding_rate" in sent:
            fill(trial, models.SEEDING_RATE, body.seeding_rate, value=rate_of(body.seeding_rate, trial))
        reweigh_levels(trial)
    if trial.price.value is not None:
        break_even(extra_cost_per_ha=0.0, price_per_t=trial.price.value, unit_cost_per_t=trial.unit_cost.value or 0.0)


def _require_sense(quantity: Quantity, value: float, trial: Trial) -> None:
    """Refuse what cannot be, each kind of quantity by its own limits."""
    if quantity in NOT_NEGATIVE:
        require_between(value, 0, 1e9, quantity.name, label=quantity.label)
    elif quantity == models.EXPECTED_YIELD:
        top = 2 * crop(trial.crop).believable_yield_kg_per_ha
        require_between(value, 50, top, quantity.name, label=quantity.label, unit=" kg/ha", remedy="Check the unit.")
    elif quantity == models.STANDARD_MOISTURE:
        require_between(value, 0, 60, quantity.name, label=quantity.label, unit=" %")
    elif quantity in SHARES:
        require_between(value, 1, 100, quantity.name, label=quantity.label, unit=" %")
    else:
        require_positive(value, quantity.name, label=quantity.label)


def _fill_count(trial: Trial, typed: TypedIn | None) -> None:
    value = None
    if typed is not None and typed.text.strip():
        value = parse_number(typed.text, field="bag_seeds", label=farms.BAG_SEEDS.label)
        require_positive(value, "bag_seeds", label=farms.BAG_SEEDS.label)
    fill(trial, farms.BAG_SEEDS, typed, value=value)


def _change_crop(trial: Trial, key: str) -> None:
    if key == trial.crop:
        return
    crop(key)
    records = tally(list(trial.strips.all()))
    if records.loads:
        raise Conflict(
            "would_orphan",
            f"The crop stays {crop(trial.crop).name.lower()}: {records.words} were reckoned at its "
            "standard moisture. Void those loads first, with a reason.",
        )
    chosen = trial.sowings.filter(part="crop").select_related("lot").first()
    if chosen is not None and chosen.lot.crop != key:
        raise Conflict(
            "would_orphan",
            f"{chosen.lot} is {crop(chosen.lot.crop).name.lower()}. Take it off the Seed page first, then change the crop.",
        )
    trial.crop = key


def _field_named(workspace: Workspace, field_id: UUID | None) -> Field | None:
    field = found(Field, workspace, field_id) if field_id else None
    if field_id and field is None:
        raise Refusal("unknown_choice", field="field_id", label="Field", value=field_id, limit="the fields in Setup")
    return field


def _change_field(user: User, trial: Trial, field_id: UUID | None) -> None:
    if field_id == trial.field_id:
        return
    if trial.strips.exists():
        raise Conflict(
            "would_orphan", "The strips of this trial lie in its field. Draw the layout anew after choosing another."
        )
    field = _field_named(trial.workspace, field_id)
    require_farm(reach_in(user, trial.workspace), field.farm if field else None)
    trial.field = field


def mark_strip(user: User, strip_id: UUID, body: StripPatchIn) -> Strip:
    """Record that a strip was lost, or sown with another treatment; back to the plan with both empty."""
    with transaction.atomic():
        strip = strip_for(user, strip_id)
        require(user, strip.trial.workspace, "record")
        require_open(strip.trial)
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
