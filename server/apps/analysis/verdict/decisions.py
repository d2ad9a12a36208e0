"""Every comparison of a verdict with its margin, chance and call, whatever the layout."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from cultrix_core.season.responses import is_judged_response
from cultrix_core.stats.compare import Comparison, Difference
from cultrix_core.stats.decision_rule import Call, Settling, agreed, make_call, settle_design
from cultrix_core.stats.factor_comparison import APART, FactorComparison
from cultrix_core.stats.factor_rule import call_of_factor
from cultrix_core.stats.families import CellDifference
from cultrix_core.stats.multiplicity import Adjust, family_critical
from cultrix_core.stats.workings import CALL_WORDS

from apps.analysis.verdict.amounts import answered_by_curve
from apps.analysis.verdict.chances import Prior, belief_of, mean_yield, prior_between
from apps.analysis.verdict.comparisons import (
    Compared,
    crossed_factors,
    factor_keys,
    factorial_treatments,
    level_names,
    levels_of,
)
from apps.analysis.verdict.confounding import Withholding, label_of
from apps.analysis.verdict.responses import noun_of
from apps.trial_state.view import TrialView
from apps.trials.models import Treatment

Differs = Difference | CellDifference


class Nowhere:
    """The other analysis does not compare there: it found another interaction."""


AGAINST_CONTROL = "Against the control"
NOWHERE = Nowhere()
NOT_COMPARED = Call(name="cannot_tell_yet", beyond_margin=False, excludes_zero=False, margin=None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """One comparison ready to be told. ``second``: the call of the other analysis ``other``, where there is one.

    ``chance`` is that of more yield or net return, ``returns`` that of a yield that pays, where net return is not analysed.
    ``level`` is that of the intervals of the whole family, ``own_level`` of those at this place. ``withheld``: why there is no
    call, where the two cannot be told apart from something else.
    """

    difference: Differs
    left: str
    right: str
    letter: str
    against: str
    factor: str
    within: str
    treatment: Treatment | None
    margin: float | None
    worth_more_than: float | None
    call: Call | None
    second: Call | None
    chance: float | None
    returns: float | None
    prior: Prior
    adjust: Adjust
    size: int
    levels: int
    level: float
    own_level: float
    withheld: str
    described: bool
    sides: tuple[tuple[Treatment, ...], tuple[Treatment, ...]]
    other: Differs | None


def decisions_for(
    view: TrialView, result: Compared, response: str, trend: Compared | None = None, *, every: bool = False
) -> list[Decision]:
    """The comparisons that get calls, in the order of their families.

    Pairs of an amount that a curve answers for are left out, or with ``every`` given without a call.
    """
    by_curve = answered_by_curve(view) if response in ("yield", "net_return") else None
    withholding = Withholding(view=view, response=response)
    made = (
        _by_factor(view, result, response, trend)
        if isinstance(result, FactorComparison)
        else _by_treatment(view, result, response, trend)
    )
    rows = [_withheld(row, withholding.between(*row.sides)) for row in made]
    if not judges(view, response):
        words = f"Described, not called: the trial is judged by {noun_of(view.trial.primary_response)}."
        rows = [replace(_withheld(row, row.withheld or words), described=True) for row in rows]
    if by_curve is None:
        return rows
    pairs = {id(row) for row in rows if row.factor in ("", by_curve.title)}
    return [replace(row, call=None, second=None) if id(row) in pairs else row for row in rows if every or id(row) not in pairs]


def _withheld(row: Decision, why: str) -> Decision:
    """A row whose ends cannot be told apart from something else has no call and no chance."""
    return replace(row, call=None, second=None, chance=None, returns=None, withheld=why) if why else row


def call_words(row: Decision) -> str:
    """The call in a few words; why there is none."""
    if row.call is not None:
        return CALL_WORDS[row.call.name]
    if row.described:
        return "described"
    return "no call: cannot be told apart" if row.withheld else "no call"


def judges(view: TrialView, response: str) -> bool:
    """Whether calls are made of a response: the one a trial is judged by; yield and money stand together."""
    primary = view.trial.primary_response
    return response == primary or (response in ("yield", "net_return") and not is_judged_response(primary))


def _by_treatment(view: TrialView, result: Comparison, response: str, trend: Compared | None) -> list[Decision]:
    rows = result.to_control or (result.pairs if view.control is None else ())
    adjust = result.control_adjust if result.to_control else result.pairs_adjust
    by_id = {str(treatment.id): treatment for treatment in view.treatments}
    others = _by_ends(trend) if isinstance(trend, Comparison) else {}
    base, made = mean_yield(view), []
    for row in rows:
        left, right = by_id[row.left], by_id[row.right]
        made.append(
            _judge(
                view,
                row,
                response,
                left=[left],
                right=[right],
                names=(label_of(view, left), label_of(view, right)),
                letters=(left.letter, right.letter),
                factor="",
                within="",
                treatment=left,
                other=others.get((row.left, row.right)),
                adjust=adjust,
                size=len(rows),
                levels=len(result.means),
                level=(result.alpha, result.alpha),
                base=base,
            )
        )
    return made


def _by_ends(result: Comparison) -> dict[tuple[str, str], Difference]:
    return {(difference.left, difference.right): difference for difference in (result.to_control or result.pairs)}


def _by_factor(view: TrialView, result: FactorComparison, response: str, trend: Compared | None) -> list[Decision]:
    factors = crossed_factors(view)
    keys, names = factor_keys(factors), level_names(view)
    titles = {key: factor.title for key, factor in zip(keys, factors, strict=True)} | {APART: AGAINST_CONTROL}
    cells = [(treatment, levels_of(treatment, factors)) for treatment in factorial_treatments(view)]
    others = (
        {_place(difference): difference for family in trend.families for difference in family.differences}
        if isinstance(trend, FactorComparison)
        else None
    )
    reach = {name: (low, high) for name, low, high in result.reach}
    base, made = mean_yield(view), []
    for family in result.families:
        inside = ", ".join(names[level] for level in family.within.values())
        count = len({end for difference in family.differences for end in (difference.left, difference.right)})
        for difference in family.differences:
            left, right = _sides(view, difference, cells)
            made.append(
                _judge(
                    view,
                    difference,
                    response,
                    left=left,
                    right=right,
                    names=(names[difference.left], names[difference.right]),
                    letters=(names[difference.left], names[difference.right]),
                    factor=titles[difference.factor],
                    within=inside,
                    treatment=None,
                    other=None if others is None else others.get(_place(difference), NOWHERE),
                    adjust=family.adjust,
                    size=len(family.differences),
                    levels=count,
                    level=(family.level, family.own_level),
                    base=base,
                    reach=reach.get(difference.factor),
                )
            )
    return made


def _sides(
    view: TrialView, difference: CellDifference, cells: Sequence[tuple[Treatment, dict[str, str]]]
) -> tuple[list[Treatment], list[Treatment]]:
    """The treatments on both sides of a difference."""
    if difference.factor == APART:
        return [treatment for treatment, _ in cells], [view.control] if view.control else []
    left, right = (
        [
            treatment
            for treatment, own in cells
            if own[difference.factor] == end and all(own[name] == level for name, level in difference.within.items())
        ]
        for end in (difference.left, difference.right)
    )
    return left, right


def _place(cell_difference: CellDifference) -> tuple[str, str, str, tuple[tuple[str, str], ...]]:
    return cell_difference.factor, cell_difference.left, cell_difference.right, tuple(sorted(cell_difference.within.items()))


def _judge(
    view: TrialView,
    item: Differs,
    response: str,
    *,
    left: Sequence[Treatment],
    right: Sequence[Treatment],
    names: tuple[str, str],
    letters: tuple[str, str],
    factor: str,
    within: str,
    treatment: Treatment | None,
    other: Differs | Nowhere | None,
    adjust: Adjust,
    size: int,
    levels: int,
    level: tuple[float, float],
    base: float,
    reach: tuple[float, float] | None = None,
) -> Decision:
    money = view.money_between(left, right)
    margin = view.trial.net_margin.value
    threshold = None
    if response == "yield":
        gain = money.gain_kg_per_ha if money else None
        margin = view.practical_margin(gain)
        if money is not None and gain is not None:
            threshold = gain if money.extra_cost_per_ha > 0 else -gain
    elif response != "net_return":
        margin = view.trial.response_margin.value
    prior = prior_between(view, left, right, base)
    belief = belief_of(item, response, prior, money) if response in ("yield", "net_return") else None
    call = _call(item, margin, reach)
    second = NOT_COMPARED if isinstance(other, Nowhere) else _call(other, margin, reach) if other is not None else None
    return Decision(
        difference=item,
        left=names[0],
        right=names[1],
        letter=letters[0],
        against=letters[1],
        factor=factor,
        within=within,
        treatment=treatment,
        margin=margin,
        worth_more_than=threshold,
        call=agreed(call, second) if call is not None and second is not None else call,
        second=second,
        chance=None if belief is None else belief.above(),
        returns=None if belief is None or threshold is None or view.control is not None else belief.above(threshold),
        prior=prior,
        adjust=adjust,
        size=size,
        levels=levels,
        level=level[0],
        own_level=level[1],
        sides=(tuple(left), tuple(right)),
        other=None if isinstance(other, Nowhere) else other,
        withheld="",
        described=False,
    )


def _call(item: Differs, margin: float | None, reach: tuple[float, float] | None) -> Call | None:
    if item.lower is None or item.upper is None:
        return None
    if isinstance(item, CellDifference) and reach is not None:
        return call_of_factor(item, margin, reach)
    return make_call(item.lower, item.upper, margin)


def settling_of(row: Decision, blocks: int) -> Settling | None:
    """What would settle an open comparison; None without a margin, blocks or an interval."""
    item = row.difference
    if row.margin is None or row.margin <= 0 or item.se is None or item.df is None or blocks < 2:
        return None

    def critical(df: float) -> float:
        return family_critical(row.adjust, row.own_level, df, row.levels, row.size)

    return settle_design(margin=row.margin, se=item.se, df=item.df, blocks=blocks, critical=critical)
