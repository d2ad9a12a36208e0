"""Which amount: the answer of a trial whose treatments stand on a ladder, by the averaged curve."""

from __future__ import annotations

from dataclasses import dataclass

from cultrix_core.errors import Refusal
from cultrix_core.stats.amounts import AmountAnswer, answer_amounts, fit_amounts
from cultrix_core.stats.averaged_curve import AveragedCurve, Best, Loss
from cultrix_core.stats.decision_rule import Call, make_call
from cultrix_core.stats.factor_comparison import FactorComparison
from cultrix_core.unit_formatting import format_number
from django.core.cache import cache

from apps.analysis.verdict import ladder as ladders
from apps.analysis.verdict.comparisons import crossed_factors, factor_keys
from apps.analysis.verdict.confounding import Withholding
from apps.analysis.verdict.ladder import Ladder
from apps.analysis.verdict.queries import Computed, computed
from apps.trial_state.view import TrialView
from apps.trials.models import Factor
from apps.trials.naming import FACTOR_DIMENSION

# By simulation (docs/trust_answers.md): what the shown range promises, and where it holds less.
HELD = (
    "A shown range is meant to be wrong in at most 10 of 100 trials. In simulated trials it was in 0 to 7, but in up to 15 "
    "where the response bends sharply and strips scatter little."
)
USUAL_WITHIN = 10.0  # money per hectare that is given up without a thought, where no margin of net return is stated


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """The curve at one level of the other factors; ``level`` empty: over all of them."""

    level: str
    answer: AmountAnswer


@dataclass(frozen=True, slots=True, kw_only=True)
class AmountVerdict:
    """The curves that answer. ``kind``: of the amount; ``in_money``: whether losses are money, else yield.

    ``within``: the loss that would be put up with. ``own``: the amount of the control. ``words``: what a unit costs, or why
    none can be told; costs by level then lie on straight lines between the levels.
    """

    factor: Factor
    kind: str
    in_money: bool
    within: float | None
    cost_per_x: float | None
    worth_per_kg: float
    own: float | None
    words: str
    readings: tuple[Reading, ...]

    @property
    def loss_kind(self) -> str:
        """The kind of quantity that losses are."""
        return "net_return" if self.in_money else "yield"


def answered_by_curve(view: TrialView) -> Factor | None:
    """The factor that a curve answers for; None where pairs are compared or nothing is a ladder."""
    if view.trial.amounts_by != "curve":
        return None
    ladder = ladders.ladder_of(view)
    if ladder is None or (len(view.factors) > 1 and not crossed_factors(view)):
        return None
    return ladder.factor


def amount_verdict(view: TrialView) -> AmountVerdict | str:
    """The curves of a trial, or why there are none; remembered until what they rest on changes."""
    withheld = Withholding(view=view, response="yield").of_ladder(view.treatments)
    if withheld:  # it rests on records that the comparison does not know
        return withheld
    result = computed(view)
    key = f"amounts/{view.trial.id}/{view.trial.version}/{view.show.key}/{result.fingerprint}"
    told: AmountVerdict | str | None = cache.get(key)
    if told is None:
        told = _amount_verdict(view, result)
        cache.set(key, told, 3600)
    return told


def _amount_verdict(view: TrialView, result: Computed) -> AmountVerdict | str:
    ladder = ladders.ladder_of(view)
    if ladder is None:
        return ladders.why_no_ladder(view)
    slope, words = ladders.slope_of(view, ladder)
    worth = ladders.worth_of(view) if view.trial.price.value is not None and ladders.worth_of(view) > 0 else None
    within = view.practical_margin(None) if worth is None else view.trial.net_margin.value or USUAL_WITHIN
    costs = None if worth is None else slope if slope is not None else ladders.costs_of(view, ladder)
    blocked = view.design.blocking != "none" and len(set(ladder.block)) > 1
    block = ladder.block if blocked else ["1"] * len(ladder.block)
    places = _places(view, ladder, result)
    try:
        fit = fit_amounts(ladder.x, ladder.y, block, ladder.other, ladders.errors_of(view, ladder))
        readings = tuple(
            Reading(
                level=name,
                answer=answer_amounts(
                    fit,
                    at={"other": level} if level else None,
                    alpha=view.trial.alpha / len(places),
                    price=worth,
                    cost=costs,
                    within=within,
                ),
            )
            for level, name in places.items()
        )
    except Refusal as refusal:
        return refusal.message
    return AmountVerdict(
        factor=ladder.factor,
        kind=FACTOR_DIMENSION[ladder.factor.kind][1],
        in_money=worth is not None,
        within=within,
        cost_per_x=slope,
        worth_per_kg=worth or 0.0,
        own=_own(view, ladder),
        words=words,
        readings=readings,
    )


def _own(view: TrialView, ladder: Ladder) -> float | None:
    levels = view.control.levels.all() if view.control else ()
    return next((level.amount.value for level in levels if level.factor_id == ladder.factor.pk), None)


def _places(view: TrialView, ladder: Ladder, result: Computed) -> dict[str, str]:
    """Over the other factors; at each of their levels where the amount's effect is established to depend on them."""
    if len(set(ladder.other)) > 1 and isinstance(result.yield_, FactorComparison):
        factors = list(view.factors)
        key = factor_keys(factors)[next(place for place, own in enumerate(factors) if own.pk == ladder.factor.pk)]
        if any(item.established and key in item.factors for item in result.yield_.interactions):
            return ladders.other_names(view, ladder)
    return {"": ""}


def amount_sentences(view: TrialView, verdict: AmountVerdict) -> list[str]:
    """Does the amount matter, which is best, how flat is it there and where the farm's own lies."""
    return [sentence for reading in verdict.readings for sentence in _sentences(view, verdict, reading)]


def _sentences(view: TrialView, verdict: AmountVerdict, reading: Reading) -> list[str]:
    show, curve, test = view.show, reading.answer.curve, reading.answer.test
    what = verdict.factor.title + (f" at {reading.level}" if reading.level else "")
    p = "< 0.0001" if test.p < 0.0001 else f"{test.p:.4f}"
    how = f"(p {p} over {len(test.shapes)} shapes)"
    told = [
        f"{what} matters {how}." if _matters(reading) else f"It is not shown that {what[0].lower()}{what[1:]} matters {how}."
    ]
    best, aim = (curve.best, "highest yield") if curve.profit is None else (curve.profit, "best return")
    ends = interval_words(view, verdict, curve, best)
    if best.at_end:
        where = "at or beyond" if best.x > sum(curve.range) / 2 else "at or below"
        told.append(f"The {aim} lies {where} {show.text(best.x, verdict.kind)}, the end of what was tried ({ends}).")
    else:
        told.append(f"The {aim} is at {show.text(best.x, verdict.kind)} ({ends}).")
    if verdict.within is not None:
        told.append(_range_words(view, verdict, curve))
    return told


def best_amount(view: TrialView, verdict: AmountVerdict) -> tuple[Factor, str] | None:
    """The amount that one curve over all levels of the others found best; None where there are several curves."""
    if len(verdict.readings) != 1:
        return None
    curve = verdict.readings[0].answer.curve
    return verdict.factor, view.show.text((curve.profit or curve.best).x, verdict.kind)


def interval_words(view: TrialView, verdict: AmountVerdict, curve: AveragedCurve, best: Best) -> str:
    """The interval of a best amount with its level."""
    level = format_number(100 * (1 - curve.alpha), 0 if round(1000 * curve.alpha) % 10 == 0 else 1)
    number = view.show.number
    return f"{level} % interval {number(best.lower, verdict.kind)} to {number(best.upper, verdict.kind)}"


def _matters(reading: Reading) -> bool:
    return reading.answer.test.p < reading.answer.curve.alpha


def _range_words(view: TrialView, verdict: AmountVerdict, curve: AveragedCurve) -> str:
    """The amounts shown to be within the stated loss of the best, else why none is."""
    show, within = view.show, verdict.within
    assert within is not None
    loss = show.text(within, verdict.loss_kind)
    verb = "return" if verdict.in_money else "yield"
    stretch = curve.shown or curve.estimated
    if stretch is None:
        return ""
    low, high = show.number(stretch.lower, verdict.kind), show.text(stretch.upper, verdict.kind)
    own = verdict.own
    place = ""
    if own is not None:
        inside = stretch.lower <= own <= stretch.upper
        place = f"; your {show.text(own, verdict.kind)} lies {'inside' if inside else 'outside'}"
    if curve.shown is not None:
        least = f" The lowest shown is {show.text(stretch.lower, verdict.kind)}." if stretch.lower > curve.range[0] else ""
        return f"Shown to {verb} within {loss} of the best: {low} to {high}{place}.{least}"
    floor = show.text(min(curve.loss_limit), verdict.loss_kind)
    return (
        f"No amount is shown to {verb} within {loss} of the best: it cannot be narrowed below {floor}. Estimated: {low} to "
        f"{high}{place}."
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnAmount:
    """The best amount against the farm's own: gain (money or yield per hectare), its limits, and the call of it.

    ``least`` is above nought only where the amount matters and the farm's own lies outside the interval of the best.
    """

    name: str
    within: str
    loss: Loss
    least: float
    call: Call


def against_own(view: TrialView, verdict: AmountVerdict) -> list[OwnAmount]:
    """What the farm's own amount loses against the best, one row a reading; none without a control."""
    own, show = verdict.own, view.show
    if own is None:
        return []
    margin = view.trial.net_margin.value if verdict.in_money else view.practical_margin(None)
    rows = []
    for reading in verdict.readings:
        curve = reading.answer.curve
        best, loss = curve.profit or curve.best, curve.loss_at(own)
        apart = _matters(reading) and not best.lower <= own <= best.upper
        least = max(0.0, 2 * loss.size - loss.most) if apart else 0.0
        rows.append(
            OwnAmount(
                name=f"{show.text(best.x, verdict.kind)} (best) against {show.text(own, verdict.kind)}",
                within=reading.level,
                loss=loss,
                least=least,
                call=make_call(least, loss.most, margin),
            )
        )
    return rows


def own_sentence(view: TrialView, verdict: AmountVerdict) -> str:
    """What staying with the farm's own amount is estimated to lose, and the most that it loses."""
    show, kind = view.show, verdict.loss_kind
    told = []
    for row in against_own(view, verdict):
        at = f" at {row.within}" if row.within else ""
        verb = "return" if verdict.in_money else "yield"
        size, most = show.text(row.loss.size, kind), show.text(row.loss.most, kind)
        own = show.text(verdict.own or 0.0, verdict.kind)
        told.append(f"your {own}{at} is estimated to {verb} {size} less than the best, at most {most} less")
    return "; ".join(told) + "." if told else ""


def next_sentence(view: TrialView, verdict: AmountVerdict) -> str:
    """What to do next season with the amount, by the call of the best against the farm's own."""
    show, told = view.show, []
    for reading, row in zip(verdict.readings, against_own(view, verdict), strict=False):
        curve, at = reading.answer.curve, f" at {row.within}" if row.within else ""
        best, own = show.text((curve.profit or curve.best).x, verdict.kind), show.text(verdict.own or 0.0, verdict.kind)
        if row.call.name == "gain" and not row.call.small:
            told.append(f"Use {best}{at} rather than {own} where the field is alike.")
        elif curve.shown is not None and curve.shown.lower <= (verdict.own or 0.0) <= curve.shown.upper:
            told.append(f"Keep {own}{at}: it is shown to be near enough to the best.")
        else:
            told.append(f"Whether {best}{at} is better than {own} is open: leave a few strips of it beside yours another year.")
    return " ".join(told)
