"""The values of what a trial is judged by, by strip: yield, net return, or anything else that its plan records.

Counts and measures on one strip are subsamples of it: the strip has their mean.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from uuid import UUID

from cultrix_core.season.responses import JudgedResponse, is_judged_response, response_of
from cultrix_core.stats.proportions import empirical_logit

from apps.analysis.responses import measured_visits, rated_visits
from apps.analysis.stand_over_time import StandOverTime
from apps.analysis.verdict.comparisons import Response, net_of, yield_of
from apps.field.harvest.models import HarvestLoad
from apps.field.queries import counts_of, loads_of, net_of_load
from apps.field.season.models import PlantMeasure
from apps.trial_state.view import TrialView
from apps.trials.models import Strip

KINDS = {"yield": "yield", "net_return": "net_return"}
NOUNS = {"yield": "yield", "net_return": "net return"}


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedValues:
    """The response of a trial that is neither yield nor money, its value by strip, and its logit where it is a proportion."""

    response: JudgedResponse
    values: Mapping[UUID, float]
    logits: Mapping[UUID, float]


def kind_of(response: str) -> str:
    """The kind of quantity that a response is shown as."""
    return KINDS.get(response) or response_of(response).kind


def noun_of(response: str) -> str:
    """A response inside a sentence."""
    return NOUNS.get(response) or response_of(response).noun


def judged_values(view: TrialView) -> JudgedValues | None:
    """What a trial is judged by beside yield and net return; None where it is judged by these."""
    if not is_judged_response(view.trial.primary_response):
        return None
    if "judged" not in view.memo:
        view.memo["judged"] = _judged_values(view, response_of(view.trial.primary_response))
    judged: JudgedValues = view.memo["judged"]
    return judged


def _judged_values(view: TrialView, response: JudgedResponse) -> JudgedValues:
    values, of = _values(view, response)
    logits = {
        strip_id: empirical_logit(min(max(value / 100, 0.0), 1.0) * of[strip_id], of[strip_id])
        for strip_id, value in values.items()
        if response.share_of and of.get(strip_id)
    }
    return JudgedValues(response=response, values=values, logits=logits)


def _values(view: TrialView, response: JudgedResponse) -> tuple[dict[UUID, float], dict[UUID, float]]:
    """Values by strip in the canonical unit, and of how many where it is a proportion."""
    if response.source == "stand":
        stands = {key: record.plants_per_m2 for key, record in view.records.items()}
        return {key: value for key, value in stands.items() if value is not None}, {}
    if response.source == "emergence":
        return _emergence(view, response)
    if response.source == "harvest":
        return _harvest(view, response), {}
    name = response.key.split(":", 1)[1]
    if response.source == "rating":
        visit = rated_visits(view).get(name)
        return ({} if visit is None else dict(visit.values)), {}
    measured = next((visit for (trait, _), visit in measured_visits(view).items() if trait == name), None)
    if measured is None:
        return {}, {}
    return dict(measured.values), _looked_at(view, name) if response.share_of else {}


def _emergence(view: TrialView, response: JudgedResponse) -> tuple[dict[UUID, float], dict[UUID, float]]:
    over_time = StandOverTime(view=view, counts=counts_of(view.trial))
    times = {UUID(strip.strip): strip for strip in over_time.by_strip.strips}
    if response.key == "half_emergence":
        known = {key: strip.half_days for key, strip in times.items()}
    elif response.key == "evenness":
        known = {key: strip.spread_days for key, strip in times.items()}
    else:
        seeds = {strip.id: view.records[strip.id].sown_per_m2 or view.seeds_per_m2(strip.received) for strip in view.strips}
        looked = over_time.area_by_strip
        shares = {key: _share(strip.curve.final_per_m2, seeds.get(key)) for key, strip in times.items()}
        numbers = {key: (seeds[key] or 0.0) * looked.get(key, 0.0) for key in times}
        return {key: value for key, value in shares.items() if value is not None}, numbers
    return {key: value for key, value in known.items() if value is not None}, {}


def _share(plants: float, seeds: float | None) -> float | None:
    return 100 * plants / seeds if seeds else None


def _harvest(view: TrialView, response: JudgedResponse) -> dict[UUID, float]:
    by_strip: dict[UUID, list[HarvestLoad]] = {}
    for load in loads_of(view.trial):
        by_strip.setdefault(load.strip_id, []).append(load)
    values = {}
    for strip_id, loads in by_strip.items():
        if response.key == "test_weight":
            weights = [load.test_weight.value for load in loads if load.test_weight.value is not None]
            if weights:
                values[strip_id] = sum(weights) / len(weights)
            continue
        counted = [load for load in loads if load.pieces and net_of_load(load) is not None]
        if counted:
            values[strip_id] = sum(net_of_load(load) or 0.0 for load in counted) / sum(load.pieces or 0 for load in counted)
    return values


def _looked_at(view: TrialView, trait: str) -> dict[UUID, float]:
    """Plants looked at by strip, all records together."""
    numbers: dict[UUID, float] = {}
    rows = PlantMeasure.objects.filter(strip__trial=view.trial, voided=False, trait=trait, sample_plants__isnull=False)
    for strip_id, plants in rows.values_list("strip_id", "sample_plants"):
        numbers[strip_id] = numbers.get(strip_id, 0.0) + (plants or 0)
    return numbers


def value_of(view: TrialView, response: str) -> Response:
    """What reads the value of a strip."""
    if response == "yield":
        return yield_of
    if response == "net_return":
        return net_of
    judged = judged_values(view)
    values = {} if judged is None else judged.values
    return lambda _view, strip: values.get(strip.id)


def strips_with(view: TrialView, response: str) -> list[Strip]:
    """Strips that a comparison of a response rests on, in its order of rows."""
    of = value_of(view, response)
    return [strip for strip in view.strips if not strip.lost and of(view, strip) is not None]
