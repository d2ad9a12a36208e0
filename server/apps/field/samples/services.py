"""Writing samples of yield, weighed grain, and a workspace's own defaults."""

from __future__ import annotations

from uuid import UUID

from cultrix_core.crops import crop
from cultrix_core.errors import Refusal, require_between
from cultrix_core.estimate.grain_weight import thousand_weight_g, weight_in_range
from cultrix_core.estimate.methods import Field, Method, method_of
from cultrix_core.estimate.spots import MOST_PIECES
from cultrix_core.stand.row_lengths import count_on_rows
from cultrix_core.units import parse_count
from django.db import transaction

from apps.accounts.models import User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require
from apps.accounts.services import save_as
from apps.base.quantities import Quantity, fill
from apps.field.samples import models
from apps.field.samples.models import EstimateSetting, GrainSample, YieldSample
from apps.field.samples.queries import entry_of, field_value, weighed
from apps.field.samples.schemas import EstimateSettingIn, GrainSampleIn, YieldSampleIn
from apps.field.stand.models import SamplingPlan
from apps.records.keeping import keep, strip_of, when
from apps.trials.models import Trial
from apps.trials.profiles import profile_of
from apps.trials.queries import trial_for

MOST_LETTERS = 24


def put_yield_sample(user: User, trial_id: UUID, sample_id: UUID, body: YieldSampleIn) -> tuple[YieldSample, bool]:
    """Store a place as typed, once the core can read it; refuses what cannot be, naming the piece."""
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        method = method_of(body.method)
        plan = _plan(trial, body)
        sample = YieldSample(
            id=sample_id,
            strip=strip,
            plan=plan,
            place=body.place if plan is not None and not body.by_eye else None,
            method=method.key,
            pieces=_pieces(method, body.pieces),
            values=_texts(method.place_fields, body.values),
            by_eye=body.by_eye or plan is None,
            recorded_at=when(body.recorded_at),
        )
        named = {field.key for field in (*method.piece_fields, *method.place_fields)}
        sample.units = {key: unit[:12] for key, unit in body.units.items() if key in named}
        if method.counted:
            sample.number = parse_count(body.number, field="number", label=method.counted)
        _fill_area(sample, method, body)
        _check_choices(method, sample)
        _check_pieces(method, sample)
        entry_of(sample, method)
        return keep(user, trial, sample, body.version)


def _plan(trial: Trial, body: YieldSampleIn) -> SamplingPlan | None:
    if body.plan_id is None:
        return None
    plan = trial.sampling_plans.filter(id=body.plan_id, purpose="yield").first()
    if plan is None:
        raise Refusal("unknown_choice", field="plan_id", label="Plan", value=body.plan_id, limit="the plans of this trial")
    if body.place is not None:
        require_between(body.place, 1, plan.planned + plan.reserve, "place", label="Place")
    return plan


def _pieces(method: Method, pieces: list[dict[str, str]]) -> list[dict[str, str]]:
    require_between(len(pieces), 0, MOST_PIECES, "pieces", label=f"{method.pieces.capitalize()} measured")
    return [_texts(method.piece_fields, piece) for piece in pieces]


def _texts(fields: tuple[Field, ...], typed: dict[str, str]) -> dict[str, str]:
    return {field.key: typed[field.key].strip()[:MOST_LETTERS] for field in fields if typed.get(field.key, "").strip()}


def _fill_area(sample: YieldSample, method: Method, body: YieldSampleIn) -> None:
    """The area sampled: a frame, or rows of a length."""
    if body.area.text.strip():
        fill(sample, models.AREA, body.area)
        sample.sampled_m2 = sample.area.value or 0.0
        return
    if method.framed:
        raise Refusal("missing", field="area", label="The area cut", remedy="Type the area of the frame.")
    fill(sample, models.LENGTH, body.length)
    fill(sample, models.ROW_SPACING, body.row_spacing)
    sample.rows = parse_count(body.rows or "1", field="rows", label="Rows")
    on_rows = count_on_rows(
        1,
        length_m=required(sample, models.LENGTH),
        rows=sample.rows,
        row_spacing_m=required(sample, models.ROW_SPACING),
    )
    sample.sampled_m2 = on_rows.area_m2


def required(sample: YieldSample, quantity: Quantity) -> float:
    value = getattr(sample, quantity.value_column)
    if value is None:
        raise Refusal("missing", field=quantity.name, label=quantity.label, remedy="Without it there is no area.")
    return float(value)


def _check_choices(method: Method, sample: YieldSample) -> None:
    for field in method.place_fields:
        if field.dimension != "choice":
            continue
        typed = sample.values.get(field.key, "")
        if not typed and not field.optional:
            raise Refusal("missing", field=field.key, label=field.label, remedy="Choose one.")
        if typed and typed not in dict(field.choices):
            known = ", ".join(key for key, _ in field.choices)
            raise Refusal("unknown_choice", field=field.key, label=field.label, value=typed, limit=known)


def _check_pieces(method: Method, sample: YieldSample) -> None:
    """Read every entry of every piece, so that a refusal says which piece it is about."""
    for number, piece in enumerate(sample.pieces, start=1):
        for field in method.piece_fields:
            try:
                value = field_value(field, piece.get(field.key, ""), sample.units.get(field.key, ""))
                if value is None and not field.optional:
                    raise Refusal("missing", field=field.key, label=field.label, remedy="Measure it, or leave the piece out.")
            except Refusal as refusal:
                label = f"{method.piece.capitalize()} {number}: {str(refusal.params['label']).lower()}"
                raise Refusal(refusal.code, field="pieces", **(refusal.params | {"label": label})) from None


def put_grain_sample(user: User, trial_id: UUID, sample_id: UUID, body: GrainSampleIn) -> tuple[GrainSample, bool]:
    """Store a weighed sample of counted seeds."""
    with transaction.atomic():
        if body.strip_id is None:
            trial, strip = trial_for(user, trial_id), None
            require(user, trial.workspace, "record")
        else:
            trial, strip = strip_of(user, trial_id, body.strip_id)
        sample = GrainSample(id=sample_id, trial=trial, strip=strip, recorded_at=when(body.recorded_at))
        sample.seeds = parse_count(body.seeds, field="seeds", label="Seeds counted")
        fill(sample, models.MASS, body.mass)
        fill(sample, models.MOISTURE, body.moisture)
        if sample.mass.value is None:
            raise Refusal("missing", field="mass", label="The weight of the seeds", remedy="Weigh them without the bowl.")
        thousand_weight_g(weighed(sample), standard_moisture_pct=profile_of(trial).standard_moisture_pct)
        return keep(user, trial, sample, body.version)


def set_estimate_setting(user: User, workspace_id: UUID, crop_key: str, body: EstimateSettingIn) -> Workspace:
    """Set a workspace's own method, samples and grain weights of a crop; all empty goes back to the defaults."""
    with transaction.atomic():
        workspace = workspace_for(user, workspace_id)
        require(user, workspace, "design")
        key = crop(crop_key).key
        setting = EstimateSetting.objects.filter(workspace=workspace, crop=key).first() or EstimateSetting(
            workspace=workspace, crop=key
        )
        setting.method = method_of(body.method).key if body.method else ""
        setting.places, setting.pieces = body.places, body.pieces
        for number, name, most in ((body.places, "places", 20), (body.pieces, "pieces", MOST_PIECES)):
            if number is not None:
                require_between(number, 1, most, name, label=name.capitalize())
        for quantity, typed in (
            (models.STRESSED, body.stressed),
            (models.USUAL, body.usual),
            (models.EXCELLENT, body.excellent),
        ):
            fill(setting, quantity, typed, bushel_kg=crop(key).bushel_kg)
        _check_range(setting)
        setting.source = body.source.strip()[:120]
        if setting.usual.value is not None and not setting.source:
            raise Refusal("missing", field="source", label="The source", remedy="A grain weight without one cannot be weighed.")
        save_as(setting, user, "own way of estimating")
        return workspace


def _check_range(setting: EstimateSetting) -> None:
    given = (setting.stressed.value, setting.usual.value, setting.excellent.value)
    if any(given):
        for value, quantity in zip(given, (models.STRESSED, models.USUAL, models.EXCELLENT), strict=True):
            if value is None:
                raise Refusal("missing", field=quantity.name, label=quantity.label, remedy="A range needs all three, or none.")
        weight_in_range(stressed_g=given[0] or 0.0, usual_g=given[1] or 0.0, excellent_g=given[2] or 0.0)
