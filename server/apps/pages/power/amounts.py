"""How well a plan would find the best amount, where a curve is to answer for it."""

from __future__ import annotations

from cultrix_core.design.amount_precision import AmountPrecision, amount_precision
from cultrix_core.design.detectable_difference import Stratum, strata
from cultrix_core.errors import Refusal
from cultrix_core.stats.effect_prior import usual_effect
from cultrix_core.unit_formatting import format_number
from django.core.cache import cache

from apps.accounts.models import User
from apps.analysis.power.queries import DesignPower, design_power
from apps.analysis.power.schemas import AmountPlanOut, MarginIn
from apps.analysis.verdict.amounts import USUAL_WITHIN
from apps.analysis.verdict.ladder import planned_slope, worth_of
from apps.trial_state.view import TrialView
from apps.trials.models import Factor
from apps.trials.naming import FACTOR_DIMENSION, ladder_amounts

SPREADS = 2  # the simulated yields fall by so many standard deviations of usual effects: common practice, no source
NEEDS = "A curve answers for the {what}. Give the expected yield, a price and what the {what} costs to see how well it would."


def amount_plan_out(user: User, view: TrialView, asked: MarginIn) -> AmountPlanOut:
    """In a sentence; empty where no curve is to answer."""
    factor = next((own for own in view.factors if ladder_amounts(own, view.treatments)), None)
    if factor is None or view.trial.amounts_by != "curve":
        return AmountPlanOut(sentence="")
    plan = design_power(user, view, asked)
    if not plan.size.kind.replicated:
        return AmountPlanOut(sentence="")
    slope, worth = planned_slope(view, factor), worth_of(view)
    if not plan.expected_kg_per_ha or slope is None or view.trial.price.value is None or worth <= 0:
        return AmountPlanOut(sentence=NEEDS.format(what=factor.title.lower()))
    result = _simulated(view, plan, factor, slope, worth)
    return AmountPlanOut(sentence=result if isinstance(result, str) else _words(view, plan, factor, result))


def _stratum(view: TrialView, plan: DesignPower, factor: Factor) -> Stratum:
    """The comparisons in which levels of the factor are told apart, over the others."""
    rows = strata(plan.size, plan.variation)
    named = [row for row in rows if plan.parts.get(row.key) == factor.title]
    mains = [row for row in rows if row.key == "main"]
    place = [item.pk for item in view.factors].index(factor.pk)
    return (named or mains[place : place + 1] or list(rows))[0]


def _simulated(view: TrialView, plan: DesignPower, factor: Factor, slope: float, worth: float) -> AmountPrecision | str:
    expected, stratum = plan.expected_kg_per_ha or 0.0, _stratum(view, plan, factor)
    within = view.trial.net_margin.value or USUAL_WITHIN
    share = usual_effect(view.profile.usual_effect_pct, [factor.kind])
    inputs = {
        "amounts": tuple(ladder_amounts(factor, view.treatments)),
        "level": expected,
        "sed": stratum.sed_pct * expected / 100,
        "df": float(stratum.df),
        "fall": SPREADS * share * expected,
        "alpha": plan.alpha,
        "price": worth,
        "cost": slope,
        "within": within,
    }
    key = f"amount-plan/{hash(tuple(inputs.values()))}"
    kept: AmountPrecision | None = cache.get(key)
    if kept is None:
        try:
            kept = amount_precision(inputs.pop("amounts"), **inputs)  # type: ignore[arg-type]
        except Refusal as refusal:
            return refusal.message
        cache.set(key, kept, 3600)
    return kept


def _words(view: TrialView, plan: DesignPower, factor: Factor, result: AmountPrecision) -> str:
    show, kind, what = view.show, FACTOR_DIMENSION[factor.kind][1], factor.title.lower()
    amounts = ladder_amounts(factor, view.treatments)
    level = format_number(100 * (1 - plan.alpha), 0)
    within = show.text(view.trial.net_margin.value or USUAL_WITHIN, "net_return")
    wide = show.text(result.interval, kind)
    told = (
        f"A curve answers for the {what}. Where the best lies inside {show.number(amounts[0], kind)} to "
        f"{show.text(amounts[-1], kind)}, its {level} % interval would be about {wide} wide, with "
        f"{show.text(result.at_stake, 'net_return')} between its best and its worst end. "
    )
    tenths = round(10 * result.shown)
    if result.shown_width is None or tenths == 0:
        told += f"No amount would be shown to return within {within} of the best."
    else:
        told += f"Amounts within {within} of the best would be shown in {tenths} of 10 trials, "
        told += f"a stretch of about {show.text(result.shown_width, kind)}."
    share = format_number(100 * SPREADS * usual_effect(view.profile.usual_effect_pct, [factor.kind]), 0)
    return (
        f"{told} From {result.trials} simulated trials whose yield falls by {share} % from the best to the farther end "
        "(common practice, no source)."
    )
