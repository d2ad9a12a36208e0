"""Treatments in the estimates: a provisional comparison, what narrows it, and what choosing by eye did."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import exp, hypot, inf
from uuid import UUID

import numpy as np
from cultrix_core.errors import Refusal
from cultrix_core.estimate.by_eye import eye_effect
from cultrix_core.estimate.forage import Yielded, land_equivalent_ratio, residue_used_frac
from cultrix_core.estimate.narrowing import ways_to_narrow
from cultrix_core.estimate.propagate import KG_M2_TO_KG_HA, SEEDS_TO_KG_PER_HA, quantile
from cultrix_core.estimate.spots import Spot
from cultrix_core.stand.nested import NestedStand, StripCounts, nested_stand
from cultrix_core.stats.compare import Mean
from cultrix_core.stats.means import strip_mean
from cultrix_core.unit_formatting import format_number

from apps.analysis.strip_means import LOOK_WORDS, SPLIT_WORDS
from apps.base.formatting import shown
from apps.field.samples.queries import Read, TrialEstimates
from apps.field.samples.schemas import EyeOut, LandOut, ResidueOut, TreatmentEstimateOut, WayOut
from apps.trial_state.view import TrialView
from apps.trials.models import Strip, Treatment


@dataclass(frozen=True, slots=True, kw_only=True)
class Treated:
    """Rows by treatment, and degrees of freedom: those of strips, and those that samples as replicates would claim."""

    rows: list[TreatmentEstimateOut]
    honest_df: int | None
    pooled_df: int | None
    words: tuple[str, ...] = ()


def treatments_out(view: TrialView, trial_estimates: TrialEstimates | None) -> Treated:
    """Every treatment with its interval, and differences to the control from the nested analysis."""
    if trial_estimates is None:
        return Treated(rows=[], honest_df=None, pooled_df=None)
    nested = _nested(view, trial_estimates)
    rows = [_treatment(view, trial_estimates, nested, treatment) for treatment in view.treatments]
    replicated = nested is not None and nested.comparison.replicated
    return Treated(
        rows=rows,
        honest_df=nested.comparison.residual_df if nested and replicated else None,
        pooled_df=nested.pooled_df if nested and replicated else None,
        words=() if replicated else (SPLIT_WORDS if view.design.split else LOOK_WORDS,),
    )


def to_yield(trial_estimates: TrialEstimates, strip: Strip) -> float:
    """What turns seeds or kg per m² of a strip into kg/ha."""
    weight = trial_estimates.weights.of(strip) if trial_estimates.method.gives == "seeds" else None
    return KG_M2_TO_KG_HA if weight is None else weight.mean_g * SEEDS_TO_KG_PER_HA


def _nested(view: TrialView, trial_estimates: TrialEstimates) -> NestedStand | None:
    if view.design.split:
        return None
    rows = [
        StripCounts(
            treatment=str(strip.received_id),
            block=str(strip.block.number),
            row=str(strip.row),
            label=f"Strip {strip.order}",
            counts=tuple(
                sample_read.spot.per_m2 * to_yield(trial_estimates, strip) for sample_read in trial_estimates.used[strip.id]
            ),
        )
        for strip in view.strips
        if strip.id in trial_estimates.used
    ]
    present = {row.treatment for row in rows}
    control = str(view.control.id) if view.control and str(view.control.id) in present else None
    try:
        design = view.design.family
        return nested_stand(rows, design=design, alpha=view.trial.alpha, control=control)
    except Refusal:
        return None


def _treatment(
    view: TrialView, trial_estimates: TrialEstimates, nested: NestedStand | None, treatment: Treatment
) -> TreatmentEstimateOut:
    strips = [strip for strip in view.strips if strip.received_id == treatment.id and strip.id in trial_estimates.strips]
    key = str(treatment.id)
    mean = next((item for item in nested.comparison.means if item.level == key), None) if nested else None
    difference = next((item for item in nested.comparison.to_control if item.left == key), None) if nested else None
    if nested is None or not nested.comparison.replicated:
        difference = None
    value = mean.mean if mean else _plain_mean([trial_estimates.strips[strip.id].value for strip in strips])
    lower, upper = _with_weight(view, trial_estimates, mean, strips)
    return TreatmentEstimateOut(
        treatment_id=treatment.id,
        strips=len(strips),
        mean=shown(value, "yield", view.show),
        lower=shown(lower, "yield", view.show),
        upper=shown(upper, "yield", view.show),
        difference=shown(difference.estimate, "yield", view.show, signed=True) if difference else None,
        difference_lower=shown(difference.lower, "yield", view.show, signed=True) if difference else None,
        difference_upper=shown(difference.upper, "yield", view.show, signed=True) if difference else None,
    )


def _plain_mean(values: Sequence[float]) -> float | None:
    return sum(values) / len(values) if values else None


def _with_weight(
    view: TrialView, trial_estimates: TrialEstimates, mean: Mean | None, strips: Sequence[Strip]
) -> tuple[float | None, float | None]:
    """The interval of a treatment's mean: strips and grain weight together; None where strips tell no error."""
    if mean is None or mean.se is None or not mean.mean or mean.df is None or not strips:
        return None, None
    weight = trial_estimates.weights.of(strips[0]) if trial_estimates.method.gives == "seeds" else None
    of_strips, of_weight = mean.se / mean.mean, weight.relative_sd if weight else 0.0
    total = hypot(of_strips, of_weight)
    below = of_strips**4 / mean.df + (of_weight**4 / weight.df if weight and weight.df != inf else 0.0)
    reach = exp(quantile(view.trial.alpha, total**4 / below if below else inf) * total)
    return mean.mean / reach, mean.mean * reach


def narrow_out(view: TrialView, trial_estimates: TrialEstimates | None) -> tuple[list[WayOut], int | None]:
    """The cheapest ways to narrow the widest strip."""
    if trial_estimates is None or not trial_estimates.strips:
        return [], None
    by_id = {strip.id: strip for strip in view.strips}
    widest = max(trial_estimates.strips, key=lambda key: (trial_estimates.strips[key].half_frac, -by_id[key].order))
    strip = by_id[widest]
    ways = ways_to_narrow(
        trial_estimates.method,
        [sample_read.spot for sample_read in trial_estimates.used[widest]],
        trial_estimates.variation,
        trial_estimates.weights.of(strip) if trial_estimates.method.gives == "seeds" else None,
        alpha=view.trial.alpha,
        where=f"on strip {strip.order}",
    )
    return [WayOut(words=way.words, minutes=way.minutes, half_pct=100 * way.half_frac) for way in ways], strip.order


def eye_out(view: TrialView, trial_estimates: TrialEstimates | None) -> EyeOut | None:
    """What choosing by eye did, where strips were sampled both ways."""
    if trial_estimates is None:
        return None
    by_strip: dict[str, list[Spot]] = defaultdict(list)
    for sample_read in trial_estimates.read:
        by_strip[str(sample_read.sample.strip_id)].append(sample_read.spot)
    effect = eye_effect(by_strip, alpha=view.trial.alpha)
    if effect is None:
        return None
    text = f"{format_number(100 * effect.over, 0, signed=True)} %"
    on = f"on {effect.strips} {'strip' if effect.strips == 1 else 'strips'} sampled both ways"
    if effect.lower is None or effect.upper is None:
        words = f"By eye {text} beside the drawn ones {on}: one strip, no interval."
    else:
        reach = f"{format_number(100 * effect.lower, 0, signed=True)} to {format_number(100 * effect.upper, 0, signed=True)} %"
        words = f"By eye {text} beside the drawn ones {on} ({reach})."
    return EyeOut(
        strips=effect.strips,
        over_pct=100 * effect.over,
        lower_pct=None if effect.lower is None else 100 * effect.lower,
        upper_pct=None if effect.upper is None else 100 * effect.upper,
        words=words,
    )


def _by_treatment(view: TrialView, values: Mapping[UUID, float]) -> dict[UUID, Yielded]:
    """Mean over strips with its standard error, by treatment."""
    groups: dict[UUID, list[float]] = defaultdict(list)
    for strip in view.strips:
        if strip.id in values:
            groups[strip.received_id].append(values[strip.id])
    means = {key: strip_mean(own) for key, own in groups.items()}
    return {
        key: Yielded(mean=mean.mean, se=mean.se or 0.0, df=inf if mean.df is None else mean.df) for key, mean in means.items()
    }


def land_out(view: TrialView, result: TrialEstimates | None) -> list[LandOut]:
    """Land-equivalent ratio of every mixture whose two crops also stand alone in the trial."""
    if result is None or result.method.key != "forage":
        return []
    main = {key: float(np.mean([sample_read.spot.per_m2 for sample_read in group])) for key, group in result.used.items()}
    companion = {
        key: float(np.mean([sample_read.spot.companion or 0.0 for sample_read in group]))
        for key, group in result.used.items()
        if any(read.spot.companion is not None for read in group)
    }
    mains, companions = _by_treatment(view, main), _by_treatment(view, companion)
    mixed = [key for key in mains if key in companions and mains[key].mean > 0]
    alone = [key for key in mains if key not in companions]
    other = [key for key in companions if mains[key].mean == 0]
    if not mixed or len(alone) != 1 or len(other) != 1:
        return []
    rows = []
    for key in mixed:
        ratio = land_equivalent_ratio(
            mixed_main=mains[key],
            alone_main=mains[alone[0]],
            mixed_companion=companions[key],
            alone_companion=companions[other[0]],
        )
        df = min(mains[key].df, mains[alone[0]].df, companions[key].df, companions[other[0]].df)
        half = quantile(view.trial.alpha, df) * ratio.se
        low, high = ratio.total - half, ratio.total + half
        says = "makes more" if low > 1 else "makes less" if high < 1 else "is not shown to make more or less"
        rows.append(
            LandOut(
                treatment_id=key,
                main=ratio.main,
                companion=ratio.companion,
                total=ratio.total,
                lower=low,
                upper=high,
                words=f"{ratio.main:.2f} + {ratio.companion:.2f} = {ratio.total:.2f} ({low:.2f} to {high:.2f}): the mixture "
                f"{says} of the land than the two crops apart.",
            )
        )
    return rows


def residue_out(view: TrialView, reads: Sequence[Read]) -> list[ResidueOut]:
    """Residue before and after grazing by treatment, in dry matter."""
    means: dict[str, dict[UUID, float]] = {"before": {}, "after": {}}
    for phase, group in means.items():
        by_strip: dict[UUID, list[float]] = defaultdict(list)
        for read in reads:
            if read.entry.state == phase:
                by_strip[read.sample.strip_id].append(read.spot.per_m2 * KG_M2_TO_KG_HA)
        group.update({key: float(np.mean(values)) for key, values in by_strip.items()})
    before, after = _by_treatment(view, means["before"]), _by_treatment(view, means["after"])
    rows = []
    for treatment in view.treatments:
        first, last = before.get(treatment.id), after.get(treatment.id)
        if first is None and last is None:
            continue
        used = None
        if first is not None and last is not None and first.mean > 0:
            used = residue_used_frac(before=first.mean, after=last.mean)
        words = "Cut before and after to see what was used." if used is None else f"{100 * used:.0f} % used or lost"
        if used is not None and used < 0:
            words = "More was found after than before: other places, or the samples were swapped?"
        rows.append(
            ResidueOut(
                treatment_id=treatment.id,
                before=shown(first.mean, "yield_by_weight", view.show) if first else None,
                after=shown(last.mean, "yield_by_weight", view.show) if last else None,
                used_pct=None if used is None else 100 * used,
                words=words,
            )
        )
    return rows
