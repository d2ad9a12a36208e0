"""Estimate against harvest, over the trials of a workspace: the farm learns how its samples err.

The estimate is the one that stood before the first load: grain weighed with the harvest would make it look better.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from cultrix_core.crops import crop
from cultrix_core.estimate.learning import Learned, Pair, PastPairs, learned_from, sums_of
from cultrix_core.estimate.methods import method_of
from cultrix_core.unit_formatting import format_number
from django.db.models import Prefetch

from apps.base.formatting import shown_value
from apps.farms.remainders import remainders
from apps.field.harvest.models import HarvestLoad
from apps.field.queries import loads_of, yields_of
from apps.field.samples.models import YieldSample
from apps.field.samples.queries import NOT_YIELD, estimates_of
from apps.field.samples.schemas import LearnedOut, LearningOut, PairOut
from apps.trial_state.view import TrialView
from apps.trials.models import Trial

MOST_TRIALS = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Both:
    """A strip with estimate and harvest, its crop, method and the person who took most of its samples."""

    trial: Trial
    order: int
    pair: Pair
    method: str
    person: str
    by_eye: bool


def learning_out(view: TrialView) -> LearningOut:
    """Every strip of the workspace's trials with both; groups by crop and method, by crop, by person."""
    both = _both(view)
    here = [pair for pair in both if pair.trial.crop == view.trial.crop and _is_seen(view, pair.trial)]
    groups = _groups(view, both)
    problem = ""
    if not both:
        problem = "No strip has both an estimate and a harvest yet. Sample before the combine comes; the farm learns from both."
    elif not groups:
        problem = "Fewer than three strips have both: too few to say how estimates err."
    return LearningOut(
        unit=view.show.unit("yield"), pairs=[_pair_out(view, pair) for pair in here], groups=groups, problem=problem
    )


def _is_seen(view: TrialView, trial: Trial) -> bool:
    """Whether the reader may see single strips of a trial; those of other farms stay in the pool, without a name."""
    return view.reach is None or view.reach.on(trial.field.farm if trial.field else None)


def _both(view: TrialView) -> list[Both]:
    ids = YieldSample.objects.filter(strip__trial__workspace=view.trial.workspace, voided=False).exclude(method=NOT_YIELD)
    loaded = HarvestLoad.objects.filter(strip__trial__workspace=view.trial.workspace, voided=False)
    trials = (
        Trial.objects.filter(workspace=view.trial.workspace, life__binned_at=None)
        .filter(id__in=ids.values("strip__trial_id"))
        .filter(id__in=loaded.values("strip__trial_id"))
        .select_related("workspace", "field")
        .prefetch_related(
            "strips",
            Prefetch(
                "strips__yield_samples",
                queryset=YieldSample.objects.filter(voided=False).select_related("plan", "recorded_by"),
            ),
        )
        .order_by("-season", "title")[:MOST_TRIALS]
    )
    return [pair for trial in trials for pair in _of_trial(trial)]


def _of_trial(trial: Trial) -> list[Both]:
    strips = {strip.id: strip for strip in trial.strips.all()}
    samples = sorted(
        (yield_sample for strip in strips.values() for yield_sample in strip.yield_samples.all()),
        key=lambda yield_sample: yield_sample.recorded_at,
    )
    loads = loads_of(trial)
    if not loads:
        return []
    first = min(load.recorded_at.date() for load in loads)
    trial_estimates = estimates_of(trial, samples, strips, alpha=trial.alpha, before=first)
    if trial_estimates is None:
        return []
    yields = yields_of(loads)
    rows = []
    for key, estimate in trial_estimates.strips.items():
        if key not in yields or estimate.value <= 0 or yields[key] <= 0:
            continue
        people = Counter(sample_read.sample.recorded_by.get_full_name() for sample_read in trial_estimates.used[key])
        rows.append(
            Both(
                trial=trial,
                order=strips[key].order,
                pair=Pair(trial=str(trial.id), strip=str(key), estimate=estimate.value, harvest=yields[key]),
                method=trial_estimates.method.key,
                person=people.most_common(1)[0][0],
                by_eye=estimate.by_eye > 0,
            )
        )
    return rows


def _pair_out(view: TrialView, pair: Both) -> PairOut:
    estimate, harvest = pair.pair.estimate, pair.pair.harvest
    return PairOut(
        trial_id=pair.trial.id,
        trial_title=pair.trial.title,
        strip=pair.order,
        here=pair.trial.id == view.trial.id,
        estimate=shown_value(estimate, "yield", view.show),
        harvest=shown_value(harvest, "yield", view.show),
        middle=shown_value((estimate * harvest) ** 0.5, "yield", view.show).value,
        difference_pct=100 * (estimate / harvest - 1),
        by_eye=pair.by_eye,
        person=pair.person,
    )


def _groups(view: TrialView, both: Sequence[Both]) -> list[LearnedOut]:
    """Bias of this crop by method, of every other crop, and by person over all crops."""
    named: dict[str, list[Pair]] = defaultdict(list)
    for pair in sorted(both, key=lambda one: one.trial.crop != view.trial.crop):
        named[f"{crop(pair.trial.crop).name}, {method_of(pair.method).name.lower()}"].append(pair.pair)
    for item in (one for one in both if _is_seen(view, one.trial)):
        named[f"Sampled by {item.person}"].append(item.pair)
    for one in both:
        if one.by_eye:
            named["Taken by eye"].append(one.pair)
    past: dict[str, list[PastPairs]] = defaultdict(list)
    for of, numbers in remainders(view.trial.workspace, "estimate"):
        past[f"{crop(of).name}, {method_of(numbers['method']).name.lower()}"].append(_past(numbers))
    rows = []
    for name in dict.fromkeys([*named, *past]):
        learned = learned_from(named.get(name, []), past=past.get(name, []), alpha=view.trial.alpha)
        if learned is not None:
            rows.append(_learned_out(name, learned))
    return rows


def _past(numbers: dict[str, Any]) -> PastPairs:
    return PastPairs(number=numbers["number"], mean=numbers["mean"], squares=numbers["squares"])


def estimate_sums(trial: Trial) -> dict[str, Any]:
    """What a trial adds to how estimates err; empty where no strip has both."""
    both = _of_trial(trial)
    if not both:
        return {}
    sums = sums_of([one.pair for one in both])
    return {"method": both[0].method, "number": sums.number, "mean": sums.mean, "squares": sums.squares}


def _learned_out(name: str, learned: Learned) -> LearnedOut:
    return LearnedOut(
        group=name,
        pairs=learned.pairs,
        trials=learned.trials,
        bias_pct=100 * learned.bias,
        lower_pct=100 * learned.lower,
        upper_pct=100 * learned.upper,
        limit_low_pct=100 * learned.limit_low,
        limit_high_pct=100 * learned.limit_high,
        correction=learned.correction,
        words=learned_words(learned),
    )


def learned_words(learned: Learned) -> str:
    """What the farm has learned, in a sentence."""
    way = "over" if learned.bias > 0 else "under"
    size = f"{format_number(abs(100 * learned.bias), 0)} %"
    if not learned.over_trials:
        rest = "one trial: its strips share grain weight and sampler, so another season may differ"
        return f"{size} {way} the harvest, from {rest}."
    if not learned.shown:
        return f"No bias shown over {learned.trials} trials ({size} {way}); nothing to correct."
    return f"{size} {way} the harvest over {learned.trials} trials: multiply the next estimate by {learned.correction:.2f}."
