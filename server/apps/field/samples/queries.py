"""Samples as numbers: what was typed, read by the core; estimates of strips, and the grain weight they rest on."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from cultrix_core.crops.profile import EstimateDefaults
from cultrix_core.errors import Refusal
from cultrix_core.estimate.crop_defaults import estimate_defaults
from cultrix_core.estimate.grain_weight import (
    GrainWeight,
    WeighedGrain,
    thousand_weight_g,
    weight_in_range,
    weight_of_past,
    weight_of_samples,
)
from cultrix_core.estimate.guards import Entry
from cultrix_core.estimate.methods import Field, Method, method_of
from cultrix_core.estimate.propagate import StripEstimate, Variation, strip_estimate, variation_of
from cultrix_core.estimate.spots import Spot, spot_of
from cultrix_core.units import parse_number, parse_quantity

from apps.accounts.models import Workspace
from apps.base.read_once import read_once
from apps.farms.remainders import remainders
from apps.field.samples.models import EstimateSetting, GrainSample, YieldSample
from apps.field.visits.queries import latest_of, spans_of
from apps.trials.models import Strip, Trial
from apps.trials.profiles import profile_of

MOST_SEASONS = 12
NOT_YIELD = "residue"


@dataclass(frozen=True, slots=True, kw_only=True)
class Read:
    """A sample with its entry as numbers."""

    sample: YieldSample
    entry: Entry

    @property
    def spot(self) -> Spot:
        """The place as numbers."""
        return self.entry.spot


@dataclass(frozen=True, slots=True, kw_only=True)
class Weights:
    """Grain weight of the trial, and by treatment id where every sampled treatment has weighed samples of its own."""

    common: GrainWeight | None
    by_treatment: Mapping[UUID, GrainWeight]

    def of(self, strip: Strip) -> GrainWeight | None:
        """The weight a strip is reckoned with."""
        return self.by_treatment.get(strip.received_id, self.common)


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialEstimates:
    """Everything the samples of a trial's latest look say. ``used``: by strip id, drawn samples where there are any."""

    method: Method
    defaults: EstimateDefaults
    read: tuple[Read, ...]
    used: Mapping[UUID, tuple[Read, ...]]
    variation: Variation
    weights: Weights
    strips: Mapping[UUID, StripEstimate]


def field_value(field: Field, text: str, unit: str) -> float | None:
    """A typed entry in canonical units; None when empty or a choice."""
    text = text.strip()
    if not text or field.dimension == "choice":
        return None
    if field.dimension == "number" or (field.dimension == "percent" and not unit):
        return parse_number(text, field=field.key, label=field.label)
    return parse_quantity(text, field.dimension, unit, field=field.key, label=field.label)


def entry_of(sample: YieldSample, method: Method) -> Entry:
    """The entry of a sample, read by its method; refuses what the core refuses."""
    units = {str(key): str(unit) for key, unit in sample.units.items()}

    def values(fields: Sequence[Field], typed: Mapping[str, object]) -> dict[str, float | None]:
        return {field.key: field_value(field, str(typed.get(field.key, "")), units.get(field.key, "")) for field in fields}

    pieces = [values(method.piece_fields, piece) for piece in sample.pieces]
    place = values(method.place_fields, sample.values)
    spot = spot_of(method, area_m2=sample.sampled_m2, number=sample.number, pieces=pieces, place=place, by_eye=sample.by_eye)
    return Entry(
        spot=spot,
        pieces=pieces,
        place=place,
        state=str(sample.values.get("state", "") or sample.values.get("phase", "")),
        wanted=sample.plan.pieces if sample.plan and not sample.by_eye else None,
    )


def setting_of(workspace: Workspace, crop_key: str) -> EstimateSetting | None:
    """The workspace's own setting for a crop."""
    return EstimateSetting.objects.filter(workspace=workspace, crop=crop_key).first()


def method_in_use(setting: EstimateSetting | None, crop_key: str) -> Method:
    """The method a crop is estimated by in this workspace."""
    return method_of(setting.method if setting and setting.method else estimate_defaults(crop_key).methods[0])


@read_once
def samples_of(trial: Trial) -> list[YieldSample]:
    """Standing samples in the order they were taken."""
    yield_samples = YieldSample.objects.filter(strip__trial=trial, voided=False)
    return list(yield_samples.select_related("plan", "recorded_by"))


def latest_look(trial: Trial, samples: Sequence[YieldSample]) -> list[YieldSample]:
    """Samples of the latest method and visit; residue aside."""
    yields = [sample for sample in samples if sample.method != NOT_YIELD]
    if not yields:
        return []
    same = [sample for sample in yields if sample.method == yields[-1].method]
    return latest_of(same, spans_of(trial, "yield"))


def read_all(samples: Sequence[YieldSample]) -> tuple[Read, ...]:
    """Samples as numbers; one that can no longer be read is left to the list of samples, where it says why."""
    result = []
    for sample in samples:
        try:
            result.append(Read(sample=sample, entry=entry_of(sample, method_of(sample.method))))
        except Refusal:
            continue
    return tuple(result)


def usual_range(setting: EstimateSetting | None, crop_key: str) -> GrainWeight | None:
    """The range of grain weight: the workspace's own, else the crop's; None where nothing is counted in seeds."""
    if setting and setting.usual.value and setting.stressed.value and setting.excellent.value:
        return weight_in_range(
            stressed_g=setting.stressed.value,
            usual_g=setting.usual.value,
            excellent_g=setting.excellent.value,
            words=f"your own range, {setting.source}",
        )
    grain = estimate_defaults(crop_key).grain_g
    if grain is None:
        return None
    return weight_in_range(
        stressed_g=grain[0], usual_g=grain[1], excellent_g=grain[2], words="the usual range, stressed to excellent"
    )


def past_weights(trial: Trial) -> list[float]:
    """Mean thousand-seed weights of earlier trials of the workspace and crop, in g, the latest first."""
    standard = profile_of(trial).standard_moisture_pct
    past = GrainSample.objects.filter(
        trial__workspace_id=trial.workspace_id, trial__crop=trial.crop, trial__season__lt=trial.season, voided=False
    ).filter(trial__life__binned_at=None)
    by_trial: dict[UUID, list[float]] = defaultdict(list)
    for sample in past.order_by("-trial__season"):
        by_trial[sample.trial_id].append(thousand_weight_g(weighed(sample), standard_moisture_pct=standard))
    erased = [numbers["mean_g"] for _, numbers in remainders(trial.workspace, "weight", trial.crop)]
    return [*(sum(values) / len(values) for values in by_trial.values()), *erased][:MOST_SEASONS]


def weight_sums(trial: Trial) -> dict[str, float]:
    """What a trial adds to the grain weights of earlier seasons; empty where none was weighed."""
    standard = profile_of(trial).standard_moisture_pct
    samples = GrainSample.objects.filter(trial=trial, voided=False)
    weights = [thousand_weight_g(weighed(sample), standard_moisture_pct=standard) for sample in samples]
    return {"mean_g": sum(weights) / len(weights)} if weights else {}


def weighed(sample: GrainSample) -> WeighedGrain:
    """A grain sample as the core takes it."""
    return WeighedGrain(seeds=sample.seeds, mass_g=1000 * (sample.mass.value or 0.0), moisture_pct=sample.moisture.value)


def weights_of(trial: Trial, setting: EstimateSetting | None, sampled: set[UUID], *, before: date | None = None) -> Weights:
    """Grain weight: samples of this trial, else earlier seasons of the farm, else the range.

    ``sampled``: treatment ids that have yield samples. ``before``: only grain weighed before that day is known.
    """
    usual = usual_range(setting, trial.crop)
    standard = profile_of(trial).standard_moisture_pct
    weighings = GrainSample.objects.filter(trial=trial, voided=False)
    if before is not None:
        weighings = weighings.filter(recorded_at__date__lt=before)
    grain_samples = list(weighings.select_related("strip"))
    if grain_samples:
        by_treatment: dict[UUID, list[WeighedGrain]] = defaultdict(list)
        for sample in grain_samples:
            if sample.strip is not None:
                by_treatment[sample.strip.received_id].append(weighed(sample))
        every = weight_of_samples([weighed(sample) for sample in grain_samples], standard_moisture_pct=standard)
        apart = len(by_treatment) > 1 and sampled <= set(by_treatment)
        split = {key: weight_of_samples(group, standard_moisture_pct=standard) for key, group in by_treatment.items()}
        return Weights(common=every, by_treatment=split if apart else {})
    if usual is None:
        return Weights(common=None, by_treatment={})
    return Weights(common=weight_of_past(past_weights(trial), usual), by_treatment={})


def estimates_of(
    trial: Trial,
    samples: Sequence[YieldSample],
    strips: Mapping[UUID, Strip],
    *,
    alpha: float,
    before: date | None = None,
) -> TrialEstimates | None:
    """Estimates of every strip that was sampled; None without a readable sample.

    ``before``: as they stood before that day, from what had been sampled and weighed by then.
    """
    if before is not None:
        samples = [sample for sample in samples if sample.recorded_at.date() < before]
    read = read_all(latest_look(trial, samples))
    if not read:
        return None
    setting = setting_of(trial.workspace, trial.crop)
    method = method_of(read[-1].sample.method)
    by_strip: dict[UUID, list[Read]] = defaultdict(list)
    for sample_read in read:
        by_strip[sample_read.sample.strip_id].append(sample_read)
    used = {
        strip_id: tuple([item for item in group if not item.spot.by_eye] or group)
        for strip_id, group in by_strip.items()
        if not strips[strip_id].lost
    }
    variation = variation_of({str(key): [item.spot for item in group] for key, group in used.items()})
    weights = Weights(common=None, by_treatment={})
    if method.gives == "seeds":
        weights = weights_of(trial, setting, {strips[key].received_id for key in used}, before=before)
    return TrialEstimates(
        method=method,
        defaults=estimate_defaults(trial.crop),
        read=read,
        used=used,
        variation=variation,
        weights=weights,
        strips={
            key: strip_estimate(
                [item.spot for item in group],
                variation,
                weights.of(strips[key]) if method.gives == "seeds" else None,
                alpha=alpha,
            )
            for key, group in used.items()
        },
    )


def estimates_of_trial(trial: Trial, *, alpha: float | None = None) -> TrialEstimates | None:
    """Estimates of a trial, read anew; None without samples."""
    samples = samples_of(trial)
    if not samples:
        return None
    strips = {strip.id: strip for strip in trial.strips.all()}
    return estimates_of(trial, samples, strips, alpha=trial.alpha if alpha is None else alpha)
