"""Emergence and survival as the API carries them: by strip on its own clock, treatments compared over strips."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from statistics import median
from uuid import UUID

from cultrix_core.stand.emergence import CountedStand, Emergence, emergence_of, emergence_working, survival_of
from cultrix_core.stand.emergence_by_strip import (
    StripTimes,
    from_logs,
    on_logs,
)
from cultrix_core.stats.compare import Comparison
from cultrix_core.stats.means import strip_mean
from cultrix_core.unit_formatting import format_number

from apps.analysis.stand_over_time import StandOverTime
from apps.analysis.strip_means import compared, words_of
from apps.analysis.verdict.wording import p_text
from apps.base.formatting import shown, shown_value, working_out
from apps.field.season.schemas import (
    CurvePointOut,
    EmergenceMeasureOut,
    EmergenceOut,
    EmergenceValueOut,
    StripEmergenceOut,
    StripPointOut,
    SurvivalOut,
)
from apps.trial_state.view import TrialView
from apps.trials.models import Strip, Treatment
from apps.trials.naming import treatment_name

BY_WORDS = {
    "intervals": "Each strip's plants came up between two of its counts; a log-logistic time is fitted to those intervals, "
    "strip by strip, among the plants that came up. Treatments are compared over strips, days on a log scale.",
    "line": "Half of the final stand, by a straight line between the counts of each strip. With plants coming up in three "
    "intervals or more on every strip, times to half and to 90 % and their spread are fitted.",
}


def emergence_out(over_time: StandOverTime) -> list[EmergenceOut]:
    """Curves by treatment, with those of its strips."""
    every = (_of_treatment(over_time, treatment) for treatment in over_time.view.treatments)
    return [one for one in every if one is not None]


def _of_treatment(over_time: StandOverTime, treatment: Treatment) -> EmergenceOut | None:
    view = over_time.view
    points = _points(over_time, over_time.strips_of(treatment))
    if not points:
        return None
    seeds = view.seeds_per_m2(treatment)
    emergence = emergence_of([visit for visit, _ in points], seeds_per_m2=seeds)
    own = {str(strip.id): strip for strip in over_time.strips_of(treatment)}
    return EmergenceOut(
        treatment_id=treatment.id,
        points=[_point(view, emergence, visit, means) for visit, means in points],
        final=shown_value(emergence.final_per_m2, "density", view.show),
        final_pct=None if emergence.final_of_seed_frac is None else 100 * emergence.final_of_seed_frac,
        half_before=emergence.half_before,
        strips=[_strip_out(view, own[times.strip], times) for times in over_time.by_strip.strips if times.strip in own],
        working=working_out(
            emergence_working(emergence, view.show, name=treatment_name(treatment, view.show), seeds_per_m2=seeds)
        ),
    )


def _points(over_time: StandOverTime, strips: Sequence[Strip]) -> list[tuple[CountedStand, list[float]]]:
    """Mean stand of a treatment by age. Ages at which all its strips were counted, where there are any."""
    by_age: dict[int, dict[UUID, float]] = defaultdict(dict)
    for day, of in over_time.visits:
        for strip in strips:
            age = over_time.age(strip, day)
            if strip.id in of and age is not None:
                by_age[age][strip.id] = _mean(of[strip.id])
    counted = {key for of in by_age.values() for key in of}
    whole = {age: of for age, of in by_age.items() if set(of) == counted}
    return [
        (CountedStand(day=age, plants_per_m2=_mean(list(of.values()))), list(of.values()))
        for age, of in sorted((whole or by_age).items())
    ]


def _point(view: TrialView, result: Emergence, visit: CountedStand, means: Sequence[float]) -> CurvePointOut:
    fitted = next((counted_stand.plants_per_m2 for counted_stand in result.curve if counted_stand.day == visit.day), None)
    half = strip_mean(means).half_width(view.trial.alpha) if means else None
    return CurvePointOut(
        day=visit.day,
        counted=shown_value(visit.plants_per_m2, "density", view.show),
        fitted=shown(fitted, "density", view.show),
        lower=shown(None if half is None else max(visit.plants_per_m2 - half, 0.0), "density", view.show),
        upper=shown(None if half is None else visit.plants_per_m2 + half, "density", view.show),
    )


def _strip_out(view: TrialView, strip: Strip, times: StripTimes) -> StripEmergenceOut:
    return StripEmergenceOut(
        strip_id=strip.id,
        order=strip.order,
        sown_on=view.records[strip.id].sown_on,
        points=[
            StripPointOut(day=visit.day, counted=shown_value(visit.plants_per_m2, "density", view.show))
            for visit in times.curve.visits
        ],
        half_days=times.half_days,
        half_se_days=times.fit.se_t50 if times.fit else None,
        ninety_days=times.ninety_days,
        spread_days=times.spread_days,
        final=shown_value(times.curve.final_per_m2, "density", view.show),
    )


def _days(value: float) -> str:
    return f"{format_number(value, 1)} days"


def _percent(value: float) -> str:
    return f"{format_number(100 * (from_logs(value) - 1), 0, signed=True)} %"


def measures_out(over_time: StandOverTime) -> list[EmergenceMeasureOut]:
    """Days to half and to 90 %, their spread and the final stand, treatments compared over strips."""
    view, result = over_time.view, over_time.by_strip
    times = {UUID(strip.strip): strip for strip in result.strips}

    def on_days(of: Callable[[StripTimes], float | None]) -> dict[UUID, float]:
        known = {key: of(strip) for key, strip in times.items()}
        return {key: on_logs(value) for key, value in known.items() if value is not None and value > 0}

    measures = []
    for key, name, of in (
        ("half", "Days to half emergence", lambda strip: strip.half_days),
        ("ninety", "Days to 90 % emergence", lambda strip: strip.ninety_days),
        ("spread", "Days between first and last tenth", lambda strip: strip.spread_days),
    ):
        values = on_days(of)
        if values:
            words = BY_WORDS[result.by]
            measures.append(_measure(view, key, name, values, lambda value: _days(from_logs(value)), _percent, words))
    final = {key: strip.curve.final_per_m2 for key, strip in times.items()}
    if final:

        def density(value: float) -> str:
            return view.show.text(value, "density")

        def density_more(value: float) -> str:
            return view.show.text(value, "density", signed=True)

        words = "The highest stand of each strip, over strips."
        measures.append(_measure(view, "final", "Final emergence", final, density, density_more, words))
    return measures


def _measure(
    view: TrialView,
    key: str,
    name: str,
    values: Mapping[UUID, float],
    text: Callable[[float], str],
    more: Callable[[float], str],
    words: str,
) -> EmergenceMeasureOut:
    comparison = compared(view, values)
    replicated = comparison is not None and comparison.replicated
    told = words if replicated else f"{words} {words_of(view, comparison)}"
    return EmergenceMeasureOut(
        key=key,
        name=name,
        treatments=[
            _value(view, treatment, values, comparison if replicated else None, text, more) for treatment in view.treatments
        ],
        p=p_text(comparison.anova[-1].p) if comparison is not None and replicated and comparison.anova else None,
        level_pct=100 * (1 - view.trial.alpha),
        words=told,
    )


def _value(
    view: TrialView,
    treatment: Treatment,
    values: Mapping[UUID, float],
    comparison: Comparison | None,
    text: Callable[[float], str],
    more: Callable[[float], str],
) -> EmergenceValueOut:
    own = [
        values[strip.id] for strip in view.strips if strip.received.id == treatment.id and not strip.lost and strip.id in values
    ]
    means = {item.level: item for item in comparison.means} if comparison else {}
    mean = means.get(str(treatment.id))
    differences = {item.left: item for item in comparison.to_control} if comparison else {}
    difference = differences.get(str(treatment.id))
    middle = mean.mean if mean else _mean(own) if own else None
    return EmergenceValueOut(
        treatment_id=treatment.id,
        strips=len(own),
        mean="" if middle is None else text(middle),
        lower="" if mean is None or mean.lower is None else text(mean.lower),
        upper="" if mean is None or mean.upper is None else text(mean.upper),
        difference="" if difference is None else more(difference.estimate),
        difference_lower="" if difference is None or difference.lower is None else more(difference.lower),
        difference_upper="" if difference is None or difference.upper is None else more(difference.upper),
    )


def survival_out(over_time: StandOverTime) -> list[SurvivalOut]:
    """From the visit with the fullest stand to each later one, by treatment, on the strips counted at both."""
    return [share for treatment in over_time.view.treatments for share in _survival(over_time, treatment)]


def _survival(over_time: StandOverTime, treatment: Treatment) -> list[SurvivalOut]:
    strips = over_time.strips_of(treatment)
    stands = [(day, {strip.id: _mean(of[strip.id]) for strip in strips if strip.id in of}) for day, of in over_time.visits]
    stands = [stand for stand in stands if stand[1]]
    if len(stands) < 2 or any(over_time.view.records[strip.id].sown_on is None for strip in strips):
        return []
    full = max(range(len(stands)), key=lambda place: _mean(list(stands[place][1].values())))
    day_full, before = stands[full]
    survival = []
    for day, after in stands[full + 1 :]:
        both = [strip for strip in strips if before.get(strip.id, 0.0) > 0 and strip.id in after]
        ages = [(over_time.age(strip, day_full), over_time.age(strip, day)) for strip in both]
        known = [(start, end) for start, end in ages if start is not None and end is not None]
        if not known or len(known) < len(both):
            continue
        share = survival_of([(before[strip.id], after[strip.id]) for strip in both], alpha=over_time.view.trial.alpha)
        survival.append(
            SurvivalOut(
                treatment_id=treatment.id,
                from_day=round(median(start for start, _ in known)),
                to_day=round(median(end for _, end in known)),
                strips=share.strips,
                pct=100 * share.frac,
                lower_pct=None if share.lower is None else 100 * share.lower,
                upper_pct=None if share.upper is None else 100 * share.upper,
            )
        )
    return survival


def _mean(values: Sequence[float]) -> float:
    return sum(values) / len(values)
