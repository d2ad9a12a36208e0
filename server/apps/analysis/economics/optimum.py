"""The amount that pays best, and what surrounds it, in the reader's units."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.economics.optimum import Around, around, best_amount
from cultrix_core.errors import Refusal
from cultrix_core.stats.averaged_curve import AveragedCurve
from cultrix_core.unit_formatting import format_number
from cultrix_core.working import Step, Working

from apps.analysis.economics.models import MoneyPlan
from apps.analysis.economics.schemas import OptimumOut
from apps.analysis.verdict.amounts import AmountVerdict, amount_verdict, interval_words
from apps.base.formatting import working_out
from apps.trial_state.view import TrialView
from apps.trials.models import Factor

EQUAL_SHARE = 0.01  # of the best return, where nobody said which money counts as equal: common practice, no source
NOT_INSIDE = (
    "So neither how flat it is around the best amount nor a margin of safety can be read off this curve. "
    "Try amounts beyond that end, or judge by the differences between the treatments."
)
BY_LEVEL = "The curves differ from level to level of the other factor: the verdict gives the best amount at each."
M = "money_per_area"


def optimum_out(view: TrialView, plan: MoneyPlan | None, prices: Sequence[float], factors: Sequence[float]) -> OptimumOut:
    """The best amount with interval, flat range, margin of safety, and the grid of best amounts."""
    optimum = OptimumOut(problem="", factor="", unit="", best="", flat="", safety="", grid=[], working=None)
    curve = money_curve(view)
    if isinstance(curve, str):
        optimum.problem = curve
        return optimum
    optimum.factor, optimum.unit = curve.factor.title, view.show.unit(curve.kind)
    best = curve.fit.profit
    assert best is not None
    ends = interval_words(view, curve.verdict, curve.fit, best)
    optimum.best = f"The best return is at {view.show.text(best.x, curve.kind)} ({ends})."
    unit_cost = view.trial.unit_cost.value or 0.0
    if best.at_end:
        optimum.problem = NOT_INSIDE
        return optimum
    optimum.grid = [[_best_cell(view, curve, price - unit_cost, factor) for price in prices] for factor in factors]
    within, loss = _limits(view, plan, curve)
    try:
        result = around(curve.fit, worth=curve.worth_per_kg, cost=curve.cost_per_x, within=within, loss=loss)
    except Refusal as refusal:
        optimum.problem = refusal.message
        return optimum
    optimum.flat = _flat(view, curve, result, within)
    if curve.factor.kind == "seeding_rate":
        optimum.safety = _safety(view, curve, result, loss)
    optimum.working = working_out(_working(view, curve, result, within, loss))
    return optimum


@dataclass(frozen=True, slots=True, kw_only=True)
class MoneyCurve:
    """The averaged curve over all strips with what a kg is worth and a unit of the amount costs, money per hectare."""

    verdict: AmountVerdict
    fit: AveragedCurve

    @property
    def kind(self) -> str:
        """The kind of quantity that the amount is."""
        return self.verdict.kind

    @property
    def factor(self) -> Factor:
        """What the amount is of."""
        return self.verdict.factor

    @property
    def worth_per_kg(self) -> float:
        """What one kg of yield is worth."""
        return self.verdict.worth_per_kg

    @property
    def cost_per_x(self) -> float:
        """What one unit of the amount costs."""
        return self.verdict.cost_per_x or 0.0


def money_curve(view: TrialView) -> MoneyCurve | str:
    """The curve ready for money, or why there is none."""
    verdict = amount_verdict(view)
    if isinstance(verdict, str):
        return verdict
    if not verdict.in_money:
        return verdict.words
    if verdict.cost_per_x is None:
        return f"{verdict.words} The verdict gives the best amount; what prices would move it to is told where costs are even."
    if len(verdict.readings) > 1:
        return BY_LEVEL
    return MoneyCurve(verdict=verdict, fit=verdict.readings[0].answer.curve)


def _limits(view: TrialView, plan: MoneyPlan | None, curve: MoneyCurve) -> tuple[float, float]:
    """Money that counts as equal, and the loss one would bear: as set, else the margin in money, else a share of the best."""
    x = best_amount(curve.fit, curve.cost_per_x / curve.worth_per_kg)
    usual = view.trial.net_margin.value or EQUAL_SHARE * max(curve.worth_per_kg * curve.fit.at(x), 1.0)
    within = plan.within.value if plan and plan.within.value else usual
    return within, plan.loss.value if plan and plan.loss.value else usual


def _best_cell(view: TrialView, curve: MoneyCurve, worth_per_t: float, factor: float) -> str:
    if worth_per_t <= 0:
        return "–"
    value = best_amount(curve.fit, factor * curve.cost_per_x / (worth_per_t / 1000))
    low, high = curve.fit.range
    edge = 1e-6 * (high - low)
    text = view.show.number(value, curve.kind)
    return f"≤ {text}" if value - low < edge else f"≥ {text}" if high - value < edge else text


def best_amount_words(view: TrialView, *, worth_per_t: float, factor: float) -> str:
    """The best amount at other prices in a sentence; empty without a curve."""
    curve = money_curve(view)
    if isinstance(curve, str):
        return ""
    return f"Best {curve.factor.title.lower()}: {_best_cell(view, curve, worth_per_t, factor)} {view.show.unit(curve.kind)}."


def _flat(view: TrialView, curve: MoneyCurve, result: Around, within: float) -> str:
    low, high = curve.fit.range
    ends = [
        view.show.text(end if end is not None else edge, curve.kind) + ("" if end is not None else f" ({word} tried)")
        for end, edge, word in ((result.flat_lower, low, "the least"), (result.flat_upper, high, "the most"))
    ]
    return f"From {ends[0]} to {ends[1]} the return is within {view.show.text(within, M)} of the best."


def _safety(view: TrialView, curve: MoneyCurve, result: Around, loss: float) -> str:
    money = view.show.text(loss, M)
    if result.safe_loss is None:
        return f"Even at the least rate tried the yield is not worth {money} less: the margin is wider than the trial."
    share = format_number(100 * result.safe_loss / result.x, 0)
    missing = view.show.text(result.safe_loss, curve.kind)
    text = f"Of what is sown at the best rate, {missing} ({share} %) may be missing before {money} of yield is lost"
    counted, expected = _counted_share(view), view.trial.emergence.value
    if counted is not None:
        plants, stand = (view.show.text(of * counted, curve.kind) for of in (result.safe_loss, result.x))
        text += f": about {plants} of the {stand} plants that the counts of this trial let expect there"
    elif expected is not None:
        plants = view.show.text(result.safe_loss * expected / 100, curve.kind)
        text += f": about {plants} plants at {expected:g} % emergence"
    return text + "."


def _counted_share(view: TrialView) -> float | None:
    """Plants counted for each seed sown, over the strips that have both; None without counts."""
    pairs = [
        (records.plants_per_m2, records.sown_per_m2 or view.seeds_per_m2(strip.received))
        for strip in view.strips
        if not strip.lost and (records := view.records[strip.id]).plants_per_m2 is not None
    ]
    known = [(plants, seeds) for plants, seeds in pairs if plants is not None and seeds]
    return sum(plants for plants, _ in known) / sum(seeds for _, seeds in known) if known else None


def _working(view: TrialView, curve: MoneyCurve, result: Around, within: float, loss: float) -> Working:
    show, per_unit = view.show, 1.0 / view.show.show(1.0, curve.kind).value
    cost, worth = show.text(curve.cost_per_x * per_unit, M), show.text(1000 * curve.worth_per_kg, "price")
    unit = show.unit(curve.kind)
    steps = [
        Step(
            label="Where profit is highest",
            formula="the amount whose last unit earns just what it costs",
            numbers=f"one {unit} costs {cost}, yield is worth {worth}",
            outcome=show.text(result.x, curve.kind),
            source="highest point of the averaged curve; checked against SciPy",
        ),
        Step(
            label="Flat range",
            formula="amounts with profit ≥ highest − money that counts as equal",
            numbers=f"{show.text(result.profit, M)} − {show.text(within, M)}",
            outcome=_flat(view, curve, result, within),
            source="definition",
        ),
    ]
    if curve.factor.kind == "seeding_rate":
        steps.append(
            Step(
                label="Margin of safety",
                formula="worth × (yield at the best − yield at what is left) = loss one would bear",
                numbers=show.text(loss, M),
                outcome=_safety(view, curve, result, loss),
                source="definition",
            )
        )
    return Working(
        title=f"Best {curve.factor.title.lower()}",
        outcome=show.text(result.x, curve.kind),
        steps=tuple(steps),
        assumption="The shapes that were averaged: none of them may be the true one.",
    )
