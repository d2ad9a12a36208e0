"""The ladder of a trial: strips by an amount that was tried at three levels or more, and what a unit of it costs."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from cultrix_core.unit_formatting import UnitFormatter

from apps.analysis.verdict.comparisons import compared_strips, crossed_factors, factorial_treatments, level_names, yield_of
from apps.trial_state.view import TrialView
from apps.trials.models import Factor, Strip, Treatment
from apps.trials.naming import FACTOR_DIMENSION, LEAST_AMOUNTS, ladder_amounts

NO_LADDER = "No factor of this trial is an amount with three levels or more."
NO_YIELDS = "Not harvested yet: a curve needs yields at three levels or more."
NO_REPEATS = "Each level stands on one strip: a curve needs every level in several blocks."
PROPORTIONAL = 0.02  # costs may lie so far off a straight line, as a share of their range: common practice, no source


@dataclass(frozen=True, slots=True)
class Ladder:
    """The strips of a ladder: amount, yield in kg/ha, block, and the levels of the other factors as one label; each n long."""

    factor: Factor
    x: list[float]
    y: list[float]
    block: list[str]
    other: list[str]
    strips: list[Strip]


def ladder_of(view: TrialView) -> Ladder | None:
    """The first factor that is an amount with three levels or more, with its strips; None without one or without repeats."""
    treatments = factorial_treatments(view)  # a control outside the combinations stands on no ladder
    inside = {treatment.id for treatment in treatments}
    strips = [strip for strip in compared_strips(view) if strip.received.id in inside]
    for factor in view.factors:
        if not ladder_amounts(factor, treatments):
            continue
        amounts = {
            treatment.id: next((own.amount.value for own in treatment.levels.all() if own.factor_id == factor.pk), None)
            for treatment in treatments
        }
        used = [(strip, amounts[strip.received.id], yield_of(view, strip)) for strip in strips]
        rows = [(strip, amount, value) for strip, amount, value in used if amount is not None and value is not None]
        if len({amount for _, amount, _ in rows}) < LEAST_AMOUNTS or not view.design.replicated:
            return None
        return Ladder(
            factor,
            [amount for _, amount, _ in rows],
            [value for _, _, value in rows],
            [str(strip.block.number) for strip, _, _ in rows],
            [others_of(strip.received, factor) for strip, _, _ in rows],
            [strip for strip, _, _ in rows],
        )
    return None


def why_no_ladder(view: TrialView) -> str:
    """Why no curve is drawn: no amount is varied, it is a look, or the yields are not there yet."""
    if not any(ladder_amounts(factor, factorial_treatments(view)) for factor in view.factors):
        return NO_LADDER
    return NO_YIELDS if view.design.replicated else NO_REPEATS


def others_of(treatment: Treatment, factor: Factor) -> str:
    """The levels of the other factors of a treatment, as one label of ids."""
    return "|".join(str(level.pk) for level in treatment.levels.all() if level.factor_id != factor.pk)


def other_names(view: TrialView, ladder: Ladder) -> dict[str, str]:
    """In the order of the treatments."""
    names = level_names(view)
    labels = dict.fromkeys(others_of(treatment, ladder.factor) for treatment in view.treatments)
    return {label: " · ".join(names[item] for item in label.split("|")) for label in labels if label in ladder.other}


def errors_of(view: TrialView, ladder: Ladder) -> list[tuple[str, ...]]:
    """Random terms of the layout in the words of ``fit_curves_by``; empty where blocks are fixed."""
    if not view.design.split:
        return []
    order = crossed_factors(view)
    first = "amount" if order and order[0].pk == ladder.factor.pk else "other"
    second = "other" if first == "amount" else "amount"
    if view.design.crossed:
        return [("block",), ("block", first), ("block", second)]
    return [("block",), ("block", first)]


def worth_of(view: TrialView) -> float:
    """What one kg of yield is worth: price less what comes with the yield, money per kg."""
    return ((view.trial.price.value or 0.0) - (view.trial.unit_cost.value or 0.0)) / 1000


def ratio_of(view: TrialView, ladder: Ladder) -> tuple[float | None, str]:
    """Cost of one unit of x ÷ worth of one kg, from what the treatments cost; and in words."""
    slope, words = slope_of(view, ladder)
    return None if slope is None else slope / worth_of(view), words


def slope_of(view: TrialView, ladder: Ladder) -> tuple[float | None, str]:
    """What one unit of x costs, from what the treatments cost; and in words."""
    if view.trial.price.value is None or worth_of(view) <= 0:
        return None, "No price is set, so only the amount for the highest yield is told."
    kind = FACTOR_DIMENSION[ladder.factor.kind][1]
    slope, off = _line(view, ladder.factor)
    if off > PROPORTIONAL:
        return None, "Costs do not rise in proportion to the amount: those between two levels are taken on a line between them."
    if slope < 0:
        return None, "Costs fall with the amount: those between two levels are taken on a line between them."
    step = view.show.text(slope * one_of(view.show, kind), "money_per_area")
    return slope, f"One {view.show.unit(kind)} more costs {step}; one more unit of yield is worth price less cost."


def planned_slope(view: TrialView, factor: Factor) -> float | None:
    """What one unit of a factor costs by the plan; None where costs fall with it."""
    slope, _ = _line(view, factor)
    return slope if slope >= 0 else None


def _line(view: TrialView, factor: Factor) -> tuple[float, float]:
    """Slope of costs over a factor within the levels of the others, and how far costs lie off it as a share of their range."""
    cells = [
        (level.amount.value, view.cost(treatment).per_ha, others_of(treatment, factor))
        for treatment in view.treatments
        for level in treatment.levels.all()
        if level.factor_id == factor.pk and level.amount.value is not None
    ]
    x, cost = np.array([cell[0] for cell in cells]), np.array([cell[1] for cell in cells])
    groups = [cell[2] for cell in cells]
    away = np.concatenate([[x[i] - x[[g == groups[i] for g in groups]].mean()] for i in range(len(cells))])
    rise = np.concatenate([[cost[i] - cost[[g == groups[i] for g in groups]].mean()] for i in range(len(cells))])
    slope = float(away @ rise) / float(away @ away)
    return slope, float(np.abs(rise - slope * away).max()) / float(np.ptp(cost) or 1.0)


def costs_of(view: TrialView, ladder: Ladder) -> list[float]:
    """What each amount costs per hectare, from the lowest; averaged over the other factors."""
    by: dict[float, list[float]] = {}
    for treatment in view.treatments:
        for level in treatment.levels.all():
            if level.factor_id == ladder.factor.pk and level.amount.value in ladder.x:
                by.setdefault(level.amount.value, []).append(view.cost(treatment).per_ha)
    return [sum(by[amount]) / len(by[amount]) for amount in sorted(set(ladder.x))]


def one_of(show: UnitFormatter, kind: str) -> float:
    """How much of the canonical unit one unit of the reader's is."""
    return 1.0 / show.show(1.0, kind).value
