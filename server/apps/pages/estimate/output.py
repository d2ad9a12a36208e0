"""The Estimate stage as the API carries it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, cast
from uuid import UUID

from cultrix_core.crops import crop
from cultrix_core.errors import Refusal
from cultrix_core.estimate.crop_defaults import estimate_defaults
from cultrix_core.estimate.drawn import start_of
from cultrix_core.estimate.grain_weight import (
    LEAST_SEEDS,
    STILL_FILLING_PCT,
    GrainWeight,
    thousand_weight_g,
    thousand_weight_to_factor,
)
from cultrix_core.estimate.guards import Entry, questions_on
from cultrix_core.estimate.methods import METHODS, Field, Method, method_of
from cultrix_core.estimate.propagate import KG_M2_TO_KG_HA, LEVEL_ALPHA, StripEstimate, strip_estimate, variation_of
from cultrix_core.estimate.workings import strip_working, yield_text
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.units import units_of

from apps.base.formatting import QuestionOut, shown, shown_value, working_out
from apps.base.quantities import TypedOut, out
from apps.field.samples import models
from apps.field.samples.models import EstimateSetting, GrainSample, YieldSample
from apps.field.samples.queries import (
    NOT_YIELD,
    Read,
    TrialEstimates,
    Weights,
    entry_of,
    estimates_of,
    method_in_use,
    read_all,
    samples_of,
    setting_of,
    usual_range,
    weighed,
    weights_of,
)
from apps.field.samples.schemas import (
    DrawnPlaceOut,
    EntryOut,
    EstimateSettingOut,
    EstimatesOut,
    GrainSampleOut,
    GrainWeightOut,
    MethodOut,
    StripEstimateOut,
    StripSamplesOut,
    UncertaintyOut,
    YieldSampleOut,
)
from apps.field.stand.models import SamplingPlan
from apps.field.stand.sampling import plans_of
from apps.field.visits.queries import day_of, other_visits
from apps.pages.estimate.treatments import eye_out, land_out, narrow_out, residue_out, treatments_out
from apps.pages.stand.output import place_out, plan_out, spacing_of
from apps.trial_state.sampling_places import DrawnPlan, drawn
from apps.trial_state.view import TrialView
from apps.trials.models import Strip

BESIDE_DAYS = 10  # samples further apart are not held against each other for slips
PROVISIONAL = (
    "An estimate from samples, with the error of the samples in its intervals: no verdict. Treatments are compared over "
    "strips; places and pieces inside a strip are samples of it, not replicates."
)


def estimates_out(view: TrialView) -> EstimatesOut:
    """Everything the stage and the field book need."""
    samples = samples_of(view.trial)
    strips = {strip.id: strip for strip in view.strips}
    setting = setting_of(view.trial.workspace, view.trial.crop)
    method = method_in_use(setting, view.trial.crop)
    plans = plans_of(view.trial, "yield")
    plan = drawn(view, plans[-1]) if plans else None
    if plan is not None:
        method = method_of(plan.plan.method)
    trial_estimates = estimates_of(view.trial, samples, strips, alpha=view.trial.alpha)
    treated = treatments_out(view, trial_estimates)
    narrow, narrow_strip = narrow_out(view, trial_estimates)
    return EstimatesOut(
        methods=[_method_out(item, view.show) for item in _methods(view, method)],
        method=cast(Any, method.key),
        setting=setting_out(view, setting, method),
        plan=plan_out(view, plan) if plan else None,
        pieces=(plan.plan.pieces or 0) if plan else method.drawn,
        sample=_usual_sample(view, method, plan),
        strips=_strips(view, samples, trial_estimates, plan),
        grain=_grain_out(view, trial_estimates, setting, method),
        grain_samples=[grain_sample_out(view, grain_sample) for grain_sample in _grain(view)],
        answer=_answer(view, trial_estimates),
        words=[*_words(trial_estimates), *treated.words],
        left_out=_left_out(view, samples, trial_estimates),
        treatments=treated.rows,
        honest_df=treated.honest_df,
        pooled_df=treated.pooled_df,
        narrow=narrow,
        narrow_strip=narrow_strip,
        eye=eye_out(view, trial_estimates),
        land=land_out(view, trial_estimates),
        residue=residue_out(view, read_all([sample for sample in samples if sample.method == NOT_YIELD])),
        by_eye=sum(1 for sample_read in trial_estimates.read if sample_read.spot.by_eye) if trial_estimates else 0,
        looked_on=trial_estimates.read[-1].sample.recorded_at.date() if trial_estimates else None,
    )


def _methods(view: TrialView, first: Method) -> list[Method]:
    """The crop's methods with the one in use first, then all others."""
    methods = [method_of(key) for key in estimate_defaults(view.trial.crop).methods]
    return list(dict.fromkeys([first, *methods, *METHODS]))


def _method_out(method: Method, show: UnitFormatter) -> MethodOut:
    return MethodOut(
        key=cast(Any, method.key),
        name=method.name,
        piece=method.piece,
        pieces=method.pieces,
        counted=method.counted,
        piece_fields=[_entry_out(field, show) for field in method.piece_fields],
        place_fields=[_entry_out(field, show) for field in method.place_fields],
        framed=method.framed,
        formula=method.formula,
        caution=method.caution,
        calculator="pods_area" if method.key == "pods" else method.key,
    )


def _entry_out(field: Field, show: UnitFormatter) -> EntryOut:
    units: list[list[str]] = []
    if field.dimension not in ("number", "choice"):
        name = show.unit_code(field.kind)
        known = sorted(units_of(field.dimension), key=lambda unit: unit.code != name)
        units = [[unit.code, unit.label] for unit in known]
    return EntryOut(
        key=field.key,
        label=field.label,
        units=units,
        choices=[list(pair) for pair in field.choices],
        optional=field.optional,
        whole=field.whole,
    )


def setting_out(view: TrialView, setting: EstimateSetting | None, method: Method) -> EstimateSettingOut:
    """The defaults in use."""
    usual = usual_range(setting, view.trial.crop)

    def typed(quantity: Any, value: float | None) -> TypedOut:
        if setting is not None and setting.usual.value is not None:
            return out(setting, quantity, view.show)
        text = None if value is None else view.show.text(value, "seed_mass")
        return TypedOut(text="", unit=view.show.unit_code("seed_mass"), shown=text)

    return EstimateSettingOut(
        method=cast(Any, method_in_use(setting, view.trial.crop).key),
        places=(setting.places if setting else None) or method.places,
        pieces=(setting.pieces if setting else None) or method.drawn,
        stressed=typed(models.STRESSED, usual.low_g if usual else None),
        usual=typed(models.USUAL, usual.mean_g if usual else None),
        excellent=typed(models.EXCELLENT, usual.high_g if usual else None),
        source=setting.source if setting else "",
        own=setting is not None,
    )


def _usual_sample(view: TrialView, method: Method, plan: DrawnPlan | None) -> TypedOut:
    """The length of row or area of a place: the plan's, else what is handy."""
    acres = view.show.system == "us"
    if plan is not None and not plan.plan.framed:
        return TypedOut(text=plan.plan.sample.text, unit=plan.plan.sample.unit, shown=None)
    if plan is not None:
        side = plan.plan.sample.value or 0.0
        return TypedOut(text=f"{side * side:.4g}", unit="m2", shown=None)
    if method.framed:
        return TypedOut(text="2.5", unit="ft2", shown=None) if acres else TypedOut(text="0.25", unit="m2", shown=None)
    sparse = view.profile.sparse_stand
    if acres:
        return TypedOut(text="17.5" if sparse else "3", unit="ft", shown=None)
    return TypedOut(text="5" if sparse else "1", unit="m", shown=None)


def _strips(
    view: TrialView, samples: Sequence[YieldSample], trial_estimates: TrialEstimates | None, plan: DrawnPlan | None
) -> list[StripSamplesOut]:
    beside = Beside.of(view, samples)
    return [
        StripSamplesOut(
            strip_id=strip.id,
            row_spacing=spacing_of(view, strip),
            places=[
                DrawnPlaceOut(**place_out(view, place).dict(), start=_start(plan.plan, strip, place.number))
                for place in plan.places.get(strip.id, ())
            ]
            if plan
            else [],
            samples=[sample_out(view, sample, beside) for sample in samples if sample.strip_id == strip.id],
            estimate=_estimate_out(view, strip, trial_estimates),
        )
        for strip in view.strips
    ]


def _start(plan: SamplingPlan, strip: Strip, place: int) -> float:
    return start_of((abs(plan.seed), plan.number, strip.order), place)


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    """What a sample is told by: the others of its trial, and the grain weights in use."""

    reads: tuple[Read, ...]
    weights: Weights

    @classmethod
    def of(cls, view: TrialView, samples: Sequence[YieldSample]) -> Beside:
        """Read once for all samples of a trial."""
        received = {strip.id: strip.received_id for strip in view.strips}
        setting = setting_of(view.trial.workspace, view.trial.crop)
        sampled = {received[sample.strip_id] for sample in samples}
        return cls(reads=read_all(samples), weights=weights_of(view.trial, setting, sampled))


def sample_out(view: TrialView, sample: YieldSample, beside: Beside) -> YieldSampleOut:
    """A sample with what it says and what it raises."""
    method, show = method_of(sample.method), view.show
    words, problem, questions = "", "", []
    try:
        entry = entry_of(sample, method)
        others = [read.entry for read in beside.reads if _beside(read.sample, sample)]
        words = _sample_words(view, sample, method, entry, beside)
        questions = [
            QuestionOut(code=asked.code, field=asked.field, text=asked.text)
            for asked in questions_on(method, entry, others, estimate_defaults(view.trial.crop), show)
        ]
    except Refusal as refusal:
        problem = refusal.message
    return YieldSampleOut(
        id=sample.id,
        strip_id=sample.strip_id,
        version=sample.version,
        method=cast(Any, sample.method),
        plan_id=sample.plan_id,
        place=sample.place,
        area=shown_value(sample.sampled_m2, "sample_area", show),
        number=sample.number,
        pieces=sample.pieces,
        values=sample.values,
        units=sample.units,
        by_eye=sample.by_eye,
        words=words,
        problem=problem,
        questions=questions,
        recorded_at=sample.recorded_at,
        recorded_by=sample.recorded_by.get_full_name(),
    )


def _beside(yield_sample: YieldSample, sample: YieldSample) -> bool:
    """Others a sample is held against: the same method and look; residue by its phase."""
    return (
        yield_sample.id != sample.id
        and yield_sample.method == sample.method
        and abs((yield_sample.recorded_at - sample.recorded_at).days) <= BESIDE_DAYS
        and yield_sample.values.get("phase") == sample.values.get("phase")
    )


def _sample_words(view: TrialView, sample: YieldSample, method: Method, entry: Entry, beside: Beside) -> str:
    spot, show = entry.spot, view.show
    strip = next(strip for strip in view.strips if strip.id == sample.strip_id)
    weight = beside.weights.of(strip) if method.gives == "seeds" else None
    estimate = strip_estimate([spot], variation_of({"": [spot]}), weight, alpha=LEVEL_ALPHA)
    parts = []
    if method.counted:
        survived = entry.place.get("planted")
        of = f" of {survived:g} planted ({100 * spot.counted / survived:.0f} %)" if survived else ""
        parts.append(f"{spot.counted} counted{of}, {len(spot.pieces)} {method.pieces} measured")
    parts.append(yield_text(estimate.value, show) if weight or method.gives == "mass" else "no grain weight")
    if spot.companion is not None:
        parts.append(f"companion {show.text(KG_M2_TO_KG_HA * spot.companion, 'yield_by_weight')}")
    return ", ".join(parts)


def _estimate_out(view: TrialView, strip: Strip, trial_estimates: TrialEstimates | None) -> StripEstimateOut | None:
    estimate = trial_estimates.strips.get(strip.id) if trial_estimates else None
    if trial_estimates is None or estimate is None:
        return None
    weight = trial_estimates.weights.of(strip) if trial_estimates.method.gives == "seeds" else None
    working = strip_working(
        trial_estimates.method,
        [sample_read.spot for sample_read in trial_estimates.used[strip.id]],
        estimate,
        weight,
        view.show,
        level=1 - view.trial.alpha,
    )
    return StripEstimateOut(
        value=shown_value(estimate.value, "yield", view.show),
        lower=shown_value(estimate.lower, "yield", view.show),
        upper=shown_value(estimate.upper, "yield", view.show),
        half_pct=100 * estimate.half_frac,
        places=estimate.spots,
        pieces=estimate.pieces,
        by_eye=estimate.by_eye,
        stressed=shown(estimate.stressed, "yield", view.show),
        excellent=shown(estimate.excellent, "yield", view.show),
        means_pct=100 * (estimate.product_of_means / estimate.value - 1) if estimate.value else 0.0,
        parts=_parts(estimate),
        working=working_out(working),
    )


def _parts(estimate: StripEstimate) -> list[UncertaintyOut]:
    return [
        UncertaintyOut(
            key=cast(Any, part.key),
            name=part.name,
            pct=100 * part.relative_se,
            share_pct=100 * part.share,
            assumed=part.assumed,
        )
        for part in estimate.parts
    ]


def _grain(view: TrialView) -> list[GrainSample]:
    return list(GrainSample.objects.filter(trial=view.trial, voided=False).select_related("recorded_by"))


def grain_sample_out(view: TrialView, sample: GrainSample) -> GrainSampleOut:
    """A weighed sample with its weight at standard moisture and what it raises."""
    weight = thousand_weight_g(weighed(sample), standard_moisture_pct=view.profile.standard_moisture_pct)
    questions = []
    if sample.seeds < LEAST_SEEDS:
        text = f"Only {sample.seeds} seeds; count at least {LEAST_SEEDS}, or one seed too many shifts the weight."
        questions.append(QuestionOut(code="few_seeds", field="seeds", text=text))
    if sample.moisture.value is None:
        text = "No moisture: taken to be at standard moisture. Was it measured?"
        questions.append(QuestionOut(code="no_moisture", field="moisture", text=text))
    elif sample.moisture.value > STILL_FILLING_PCT:
        text = f"Grain at {sample.moisture.value:g} % moisture is still filling: it will weigh more when ripe."
        questions.append(QuestionOut(code="still_filling", field="moisture", text=text))
    grain = estimate_defaults(view.trial.crop).grain_g
    if grain and not 0.6 * grain[0] <= weight <= 1.5 * grain[2]:
        text = f"{view.show.text(weight, 'seed_mass')} is unusual for this crop. Right count, right scale?"
        questions.append(QuestionOut(code="odd_weight", field="mass", text=text))
    return GrainSampleOut(
        id=sample.id,
        strip_id=sample.strip_id,
        version=sample.version,
        seeds=sample.seeds,
        mass=out(sample, models.MASS, view.show),
        moisture=out(sample, models.MOISTURE, view.show),
        weight=shown_value(weight, "seed_mass", view.show),
        questions=questions,
        recorded_at=sample.recorded_at,
        recorded_by=sample.recorded_by.get_full_name(),
    )


def _grain_out(
    view: TrialView, trial_estimates: TrialEstimates | None, setting: EstimateSetting | None, method: Method
) -> GrainWeightOut | None:
    if method.gives != "seeds":
        return None
    sampled: set[UUID] = {strip.received_id for strip in view.strips if trial_estimates and strip.id in trial_estimates.used}
    weight = trial_estimates.weights.common if trial_estimates else weights_of(view.trial, setting, sampled).common
    if weight is None:
        return None
    return grain_weight_out(view, weight, spoken=method.key == "ears")


def grain_weight_out(view: TrialView, weight: GrainWeight, *, spoken: bool) -> GrainWeightOut:
    """A grain weight; ``spoken``: as the factor of the ear method as well."""
    bushel = crop(view.trial.crop).bushel_kg
    factor = ""
    if bushel and spoken:
        value = thousand_weight_to_factor(weight.mean_g, bushel_kg=bushel)
        factor = f"factor {value:.5f}, {format_number(1000 / value, 0)} kernels in a bushel"
    return GrainWeightOut(
        mean=shown_value(weight.mean_g, "seed_mass", view.show),
        low=shown_value(weight.low_g, "seed_mass", view.show),
        high=shown_value(weight.high_g, "seed_mass", view.show),
        known=weight.known,
        words=weight.words,
        factor=factor,
    )


def _answer(view: TrialView, trial_estimates: TrialEstimates | None) -> str:
    if trial_estimates is None or not trial_estimates.strips:
        return "No strip sampled yet"
    values = [strip.value for strip in trial_estimates.strips.values()]
    standing = sum(1 for strip in view.strips if not strip.lost)
    low, high = yield_text(min(values), view.show), yield_text(max(values), view.show)
    return f"{len(values)} of {standing} strips sampled: {low} to {high} expected"


def _left_out(view: TrialView, samples: Sequence[YieldSample], trial_estimates: TrialEstimates | None) -> list[str]:
    """Strips that were sampled on other days only, which the estimate therefore leaves out."""
    if trial_estimates is None:
        return []
    orders = {strip.id: strip.order for strip in view.strips if not strip.lost}
    days = tuple({day_of(read.sample) for read in trial_estimates.read})
    rows = ((orders[sample.strip_id], day_of(sample)) for sample in samples if sample.strip_id in orders)
    return other_visits(rows, days, verb="sampled")


def _words(trial_estimates: TrialEstimates | None) -> list[str]:
    if trial_estimates is None:
        return []
    words = [PROVISIONAL]
    if trial_estimates.method.gives == "seeds" and not trial_estimates.weights.by_treatment:
        words.append(
            "Grain weight is taken alike on all strips, so it moves all treatments together. Thin stands often fill heavier "
            "grain: weigh samples of every treatment to tell them apart."
        )
    left_out = sum(
        1
        for sample_read in trial_estimates.read
        if not any(sample_read is used for used in trial_estimates.used.get(sample_read.sample.strip_id, ()))
    )
    if left_out:
        words.append(
            f"{left_out} {'sample' if left_out == 1 else 'samples'} taken by eye or on lost strips stand beside the estimate, "
            "not in it."
        )
    eye_only = sum(1 for group in trial_estimates.used.values() if all(sample_read.spot.by_eye for sample_read in group))
    if eye_only:
        words.append(f"{eye_only} {'strip rests' if eye_only == 1 else 'strips rest'} on samples taken by eye alone.")
    if trial_estimates.variation.place_assumed:
        words.append("One place a strip: how places differ is not seen, and the usual 15 % stands in for it.")
    return words
