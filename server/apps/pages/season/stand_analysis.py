"""What the counts of all visits say about a stand: emergence, survival, spacing, crowns, stage, and what to do about it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import date
from uuid import UUID

from cultrix_core.errors import Refusal
from cultrix_core.stand.crowns import FEW_DUG, Crowns, Dug, crowns_of, crowns_working, shoots_per_m2
from cultrix_core.stand.growth_stage import stage_rule, stand_stage
from cultrix_core.stand.nested import NestedStand, StripCounts, nested_stand
from cultrix_core.stand.tape import Spacings, spacings_of

from apps.analysis.stand_over_time import StandOverTime
from apps.analysis.strip_means import SPLIT_WORDS, treatment_values
from apps.base.formatting import shown, working_out
from apps.field.queries import counts_of, latest_counts
from apps.field.season.models import DugPlant, PlantMeasure, TapeRun
from apps.field.season.schemas import (
    CrownsOut,
    SpacingTreatmentOut,
    StageOfStandOut,
    StandAnalysisOut,
    StandVerdictOut,
)
from apps.field.season.services import positions_m
from apps.field.visits.queries import day_of, latest_of, spans_of, visits_of
from apps.pages.season.decisions import decisions
from apps.pages.season.emergence import emergence_out, measures_out, survival_out
from apps.pages.season.output import by_strip, rule_out
from apps.pages.stand.output import before_sowing
from apps.trial_state.view import TrialView
from apps.trials.models import Strip, Treatment

ByStrip = dict[UUID, list[float]]


def analysis_out(view: TrialView, *, today: date, short_of_feed: bool = False) -> StandAnalysisOut:
    """The Stand stage beyond the table of counts."""
    counts = counts_of(view.trial)
    over_time = StandOverTime(view=view, counts=counts)
    dug = by_strip(DugPlant, view)
    crowns = {treatment.id: _crowns(view, treatment, dug) for treatment in view.treatments}
    return StandAnalysisOut(
        emergence=emergence_out(over_time),
        emergence_measures=measures_out(over_time),
        left_out=before_sowing(view, ((count.strip_id, day_of(count)) for count in counts)),
        survival=survival_out(over_time),
        spacing=_spacing(view),
        crowns=[_crowns_out(view, treatment, found) for treatment in view.treatments if (found := crowns[treatment.id])],
        stages=_stages(view),
        rule=rule_out(view.trial.crop, view.show),
        verdict=_verdict(view, len(over_time.visits)),
        **decisions(view, crowns, today=today, short_of_feed=short_of_feed),
    )


def strips_of(view: TrialView, treatment: Treatment) -> list[Strip]:
    """Standing strips that got a treatment."""
    return [strip for strip in view.strips if strip.received.id == treatment.id and not strip.lost]


def _mean(values: Sequence[float]) -> float:
    return sum(values) / len(values)


def _spacing(view: TrialView) -> list[SpacingTreatmentOut]:
    """Spacing by treatment: mean of its strips' runs, positions only."""
    runs = by_strip(TapeRun, view)
    spacing = []
    for treatment in view.treatments:
        per_strip = [
            [spacings_of(positions_m(run), reference_m=run.reference_m or 0.0) for run in runs[strip.id] if not run.marks]
            for strip in strips_of(view, treatment)
        ]
        strips = [spacings for spacings in per_strip if spacings]
        if not strips:
            continue
        spacing.append(
            SpacingTreatmentOut(
                treatment_id=treatment.id,
                runs=sum(len(strip) for strip in strips),
                cv_pct=_over(strips, "cv_frac"),
                doubles_pct=_over(strips, "doubles_frac") or 0.0,
                skips_pct=_over(strips, "skips_frac") or 0.0,
                precision_pct=_over(strips, "precision_frac"),
            )
        )
    return spacing


def _over(strips: Sequence[Sequence[Spacings]], name: str) -> float | None:
    """Mean over strips of the mean over runs, in percent."""
    means = []
    for runs in strips:
        values = [value for run in runs if (value := getattr(run, name)) is not None]
        if values:
            means.append(_mean(values))
    return 100 * _mean(means) if means else None


def _crowns(view: TrialView, treatment: Treatment, dug: Mapping[UUID, Sequence[DugPlant]]) -> Crowns | None:
    spans = spans_of(view.trial, "dug")
    plants = [
        Dug(health=plant.health, shoots=plant.shoots)  # type: ignore[arg-type]
        for strip in strips_of(view, treatment)
        for plant in latest_of(dug[strip.id], spans)
    ]
    return crowns_of(plants, alpha=view.trial.alpha) if plants else None


def stand_now(view: TrialView, treatment: Treatment) -> float | None:
    """Stand of a treatment at each strip's latest visit."""
    means = [mean for strip in strips_of(view, treatment) if (mean := view.records[strip.id].plants_per_m2) is not None]
    return _mean(means) if means else None


def _crowns_out(view: TrialView, treatment: Treatment, crowns: Crowns) -> CrownsOut:
    stand = stand_now(view, treatment)
    return CrownsOut(
        treatment_id=treatment.id,
        dug=crowns.n,
        alive_pct=100 * crowns.alive_frac,
        lower_pct=100 * crowns.alive_lower,
        upper_pct=100 * crowns.alive_upper,
        shoots=shown(None if stand is None else shoots_per_m2(crowns, stand), "density", view.show),
        working=working_out(crowns_working(crowns, view.show, plants_per_m2=stand)),
        few=crowns.n < FEW_DUG,
    )


def _stages(view: TrialView) -> list[StageOfStandOut]:
    """Stage of each treatment from the leaves counted at the latest visit."""
    rule = stage_rule(view.trial.crop)
    if rule is None:
        return []
    leaves = list(PlantMeasure.objects.filter(strip__trial=view.trial, voided=False, trait="leaves"))
    visits = visits_of(view.trial, "measure", (day_of(leaf) for leaf in leaves))
    stages = []
    for treatment in view.treatments:
        strips = {strip.id for strip in strips_of(view, treatment)}
        counts = [leaf.value.value or 0.0 for leaf in leaves if leaf.strip_id in strips and day_of(leaf) in visits[-1]]
        if counts:
            words = view.show.words(stand_stage(counts, rule).words)
            stages.append(StageOfStandOut(treatment_id=treatment.id, words=words, on=visits[-1][-1]))
    return stages


def _verdict(view: TrialView, visit: int) -> StandVerdictOut | None:
    """Stands at the latest visit compared over strips, with counts as subsamples."""
    latest: ByStrip = defaultdict(list)
    for count in latest_counts(view.trial):
        latest[count.strip_id].append(count.plants_per_m2)
    if not latest:
        return None
    if view.design.split:
        return _no_verdict(visit, SPLIT_WORDS)
    strips = [
        StripCounts(
            treatment=str(strip.received.id),
            block=str(strip.block.number),
            row=str(strip.row),
            counts=tuple(latest[strip.id]),
            label=f"Strip {strip.order}",
        )
        for strip in view.strips
        if not strip.lost and strip.id in latest
    ]
    present = {strip.treatment for strip in strips}
    control = str(view.control.id) if view.control and str(view.control.id) in present else None
    try:
        stand = nested_stand(strips, design=view.design.family, alpha=view.trial.alpha, control=control)
    except Refusal as refusal:
        return _no_verdict(visit, refusal.message)
    means = {strip_id: _mean(values) for strip_id, values in latest.items()}
    grand = _mean(list(means.values()))
    return StandVerdictOut(
        visit=visit,
        strips=stand.strips,
        counts=stand.counts,
        honest_df=stand.comparison.residual_df if stand.comparison.replicated else None,
        pooled_df=stand.pooled_df if stand.comparison.replicated else None,
        within_cv_pct=_cv(stand.within_variance, grand),
        between_cv_pct=_cv(stand.between_variance, grand),
        words=_verdict_words(stand),
        treatments=treatment_values(view, means, stand.comparison, "density"),
        problem="",
    )


def _no_verdict(visit: int, problem: str) -> StandVerdictOut:
    return StandVerdictOut(
        visit=visit,
        strips=0,
        counts=0,
        honest_df=None,
        pooled_df=None,
        within_cv_pct=None,
        between_cv_pct=None,
        words=[],
        treatments=[],
        problem=problem,
    )


def _cv(variance: float | None, mean: float) -> float | None:
    return None if variance is None or mean <= 0 else 100 * variance**0.5 / mean


def _verdict_words(result: NestedStand) -> list[str]:
    comparison = result.comparison
    if not comparison.replicated:
        return list(result.warnings)
    words = [
        f"{result.counts} counts on {result.strips} strips. The strip is what was treated, so the comparison has "
        f"{comparison.residual_df} degrees of freedom; taking every count for a repeat would claim {result.pooled_df}."
    ]
    within, between = result.within_variance, result.between_variance
    if within is not None and between is not None:
        per_strip = result.counts / result.strips
        more = within / per_strip > between
        words.append(
            "Most of the uncertainty is from place to place inside strips: more counts a strip would sharpen this."
            if more
            else "Strips differ among themselves more than places inside them: more counts would not sharpen this, "
            "more blocks would."
        )
    return [*words, *result.warnings]
