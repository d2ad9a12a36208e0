"""Response curves of a trial: yield against a factor whose levels are amounts, in the reader's units."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from cultrix_core.errors import Refusal
from cultrix_core.stats.amounts import AmountAnswer, answer_amounts, fit_amounts
from cultrix_core.stats.curves import SHAPES, CurveFit, Optimum, Shape, fit_curves
from cultrix_core.stats.curves_by import fit_curves_by
from cultrix_core.stats.mixed_model import MixedTest
from cultrix_core.unit_formatting import UnitFormatter, format_number
from django.core.cache import cache

from apps.analysis.verdict import wording
from apps.analysis.verdict.comparisons import compared_strips, crossed_factors, level_names, yield_of
from apps.analysis.verdict.queries import computed
from apps.analysis.verdict.schemas import (
    BandPointOut,
    BestOut,
    FreedStripOut,
    ResponseCurveOut,
    ResponseCurvesOut,
    ShapeOut,
)
from apps.trial_state.view import TrialView
from apps.trials.models import Factor, Strip, Treatment
from apps.trials.naming import FACTOR_DIMENSION

LEAST_LEVELS = 3
USUAL_WITHIN = 10.0  # money per hectare that is given up without a thought, where no margin of net return is stated
NO_LADDER = "No factor of this trial is an amount with three levels or more."
GRID = 61
PROPORTIONAL = 0.02  # costs may lie so far off a straight line, as a share of their range: common practice, no source
NAMES = {
    "linear": ("straight line", "y = a + b x"),
    "quadratic": ("parabola", "y = a + b x + c x²"),
    "linear_plateau": ("straight line to a plateau", "y = a + b min(x, x0)"),
    "quadratic_plateau": ("parabola to a plateau", "y = a + b (u − u² ÷ 2 x0), u = min(x, x0)"),
    "mitscherlich": ("levelling off", "y = a + b (1 − exp(−c x))"),
}
STATUS = {"fitted": "", "no_interior_join": "no join inside the range tried", "too_few_levels": "too few strips for it"}


@dataclass(frozen=True, slots=True)
class _Ladder:
    factor: Factor
    x: list[float]
    y: list[float]
    block: list[str]
    other: list[str]
    strips: list[Strip]


def curves_out(view: TrialView) -> ResponseCurvesOut:
    """Curves over the first factor that is an amount with three levels or more."""
    show = view.show
    base = ResponseCurvesOut(
        problem="",
        factor="",
        x_unit="",
        y_unit=show.unit("yield"),
        level_pct=100 * (1 - view.trial.alpha),
        money="",
        points=[],
        curves=[],
        differ="",
        answer=[],
    )
    ladder = _ladder(view)
    if ladder is None:
        base.problem = NO_LADDER
        return base
    kind = FACTOR_DIMENSION[ladder.factor.kind][1]
    base.factor, base.x_unit = ladder.factor.title, show.unit(kind)
    ratio, base.money = _ratio(view, ladder)
    blocks = ladder.block if view.design.blocking != "none" and len(set(ladder.block)) > 1 else ["1"] * len(ladder.block)
    try:
        if len(set(ladder.other)) > 1:
            random = _errors(view, ladder)
            curves_by = fit_curves_by(
                ladder.x, ladder.y, blocks, ladder.other, random=random, ratio=ratio, alpha=view.trial.alpha
            )
            names = _other_names(view, ladder)
            base.curves = [
                _curve(curves_by.over, "", show, kind),
                *(_curve(curves_by.at[level], name, show, kind) for level, name in names.items() if level in curves_by.at),
            ]
            base.differ = _differ(curves_by.differ, view.trial.alpha)
        else:
            base.curves = [_curve(fit_curves(ladder.x, ladder.y, blocks, ratio=ratio, alpha=view.trial.alpha), "", show, kind)]
    except Refusal as refusal:
        base.problem = refusal.message
        return base
    base.points = _points(view, ladder, kind)
    base.answer = _answer(view, ladder, blocks, kind)
    return base


def _answer(view: TrialView, ladder: _Ladder, blocks: list[str], kind: str) -> list[str]:
    """Does the amount matter, which is best, how flat is it there and where the farm's own lies; remembered with its inputs."""
    key = f"amounts/{view.trial.id}/{view.show.key}/{computed(view).fingerprint}"
    told: list[str] | None = cache.get(key)
    if told is None:
        slope, _ = _slope(view, ladder)
        within = (view.trial.net_margin.value or USUAL_WITHIN) if slope is not None else None
        try:
            answer = answer_amounts(
                fit_amounts(ladder.x, ladder.y, blocks, ladder.other, _errors(view, ladder)),
                alpha=view.trial.alpha,
                price=None if slope is None else _worth(view),
                cost=slope,
                within=within,
            )
        except Refusal as refusal:
            return [refusal.message]
        told = _answer_words(view, ladder, answer, within, kind)
        cache.set(key, told, 3600)
    return told


def _answer_words(view: TrialView, ladder: _Ladder, answer: AmountAnswer, within: float | None, kind: str) -> list[str]:
    show, curve, what = view.show, answer.curve, ladder.factor.title
    p = wording.p_text(answer.test.p)
    matters = answer.test.p < view.trial.alpha
    told = [
        f"{what} matters (p {p} over {len(answer.test.shapes)} shapes)."
        if matters
        else f"It is not shown that {what.lower()} matters (p {p} over {len(answer.test.shapes)} shapes)."
    ]
    best, aim = (curve.best, "highest yield") if curve.profit is None else (curve.profit, "best return")
    level = format_number(100 * (1 - curve.alpha), 0)
    ends = f"{level} % interval {show.number(best.lower, kind)} to {show.number(best.upper, kind)}"
    if best.at_end:
        where = "at or beyond" if best.x > (curve.x[0] + curve.x[-1]) / 2 else "at or below"
        told.append(f"The {aim} lies {where} {show.text(best.x, kind)}, the end of what was tried ({ends}).")
    else:
        told.append(f"The {aim} is at {show.text(best.x, kind)} ({ends}), averaged over shapes by how well they fit.")
    if within is None or curve.estimated is None:
        return told
    loss = show.text(within, "net_return")
    own = (
        next((own.amount.value for own in view.control.levels.all() if own.factor_id == ladder.factor.pk), None)
        if view.control
        else None
    )
    if curve.shown is not None:
        stretch, sure = curve.shown, "Shown to return"
    else:
        stretch, sure = curve.estimated, "No amount is shown, but these are estimated to return"
    place = ""
    if own is not None:
        inside = stretch.lower <= own <= stretch.upper
        place = f"; your {show.text(own, kind)} lies {'inside' if inside else 'outside'}"
    told.append(
        f"{sure} within {loss} of the best: {show.number(stretch.lower, kind)} to {show.text(stretch.upper, kind)}{place}."
    )
    return told


def _ladder(view: TrialView) -> _Ladder | None:
    strips = compared_strips(view)
    for factor in view.factors:
        if factor.kind not in FACTOR_DIMENSION:
            continue
        amounts = {
            treatment.id: next((own.amount.value for own in treatment.levels.all() if own.factor_id == factor.pk), None)
            for treatment in view.treatments
        }
        values = {amount for amount in amounts.values() if amount is not None}
        if len(values) < LEAST_LEVELS or None in amounts.values():
            continue
        used = [(strip, amounts[strip.received.id], yield_of(view, strip)) for strip in strips]
        rows = [(strip, amount, value) for strip, amount, value in used if amount is not None and value is not None]
        if len({amount for _, amount, _ in rows}) < LEAST_LEVELS or not view.design.replicated:
            return None
        return _Ladder(
            factor,
            [amount for _, amount, _ in rows],
            [value for _, _, value in rows],
            [str(strip.block.number) for strip, _, _ in rows],
            [_others(strip.received, factor) for strip, _, _ in rows],
            [strip for strip, _, _ in rows],
        )
    return None


def _others(treatment: Treatment, factor: Factor) -> str:
    """The levels of the other factors of a treatment, as one label of ids."""
    return "|".join(str(level.pk) for level in treatment.levels.all() if level.factor_id != factor.pk)


def _other_names(view: TrialView, ladder: _Ladder) -> dict[str, str]:
    """In the order of the treatments."""
    names = level_names(view)
    labels = dict.fromkeys(_others(treatment, ladder.factor) for treatment in view.treatments)
    return {label: " · ".join(names[item] for item in label.split("|")) for label in labels if label in ladder.other}


def _errors(view: TrialView, ladder: _Ladder) -> list[tuple[str, ...]]:
    """Random terms of the layout in the words of ``fit_curves_by``; empty where blocks are fixed."""
    if not view.design.split:
        return []
    order = crossed_factors(view)
    first = "amount" if order and order[0].pk == ladder.factor.pk else "other"
    second = "other" if first == "amount" else "amount"
    if view.design.crossed:
        return [("block",), ("block", first), ("block", second)]
    return [("block",), ("block", first)]


@dataclass(frozen=True, slots=True, kw_only=True)
class MoneyCurve:
    """The curve over all strips with what a kg is worth and a unit of the amount costs, money per hectare."""

    fit: CurveFit
    worth_per_kg: float
    cost_per_x: float
    kind: str
    factor: Factor


def money_curve(view: TrialView) -> MoneyCurve | str:
    """The response curve ready for money, or why there is none; remembered until what it rests on changes."""
    key = f"money-curve/{view.trial.id}/{view.show.key}/{computed(view).fingerprint}"
    curve: MoneyCurve | str | None = cache.get(key)
    if curve is None:
        curve = _money_curve(view)
        cache.set(key, curve, 3600)
    return curve


def _money_curve(view: TrialView) -> MoneyCurve | str:
    ladder = _ladder(view)
    if ladder is None:
        return NO_LADDER
    slope, words = _slope(view, ladder)
    if slope is None:
        return words
    blocks = ladder.block if view.design.blocking != "none" and len(set(ladder.block)) > 1 else ["1"] * len(ladder.block)
    try:
        if len(set(ladder.other)) > 1:
            random = _errors(view, ladder)
            fit = fit_curves_by(
                ladder.x, ladder.y, blocks, ladder.other, random=random, ratio=slope / _worth(view), alpha=view.trial.alpha
            ).over
        else:
            fit = fit_curves(ladder.x, ladder.y, blocks, ratio=slope / _worth(view), alpha=view.trial.alpha)
    except Refusal as refusal:
        return refusal.message
    return MoneyCurve(
        fit=fit,
        worth_per_kg=_worth(view),
        cost_per_x=slope,
        kind=FACTOR_DIMENSION[ladder.factor.kind][1],
        factor=ladder.factor,
    )


def _worth(view: TrialView) -> float:
    return ((view.trial.price.value or 0.0) - (view.trial.unit_cost.value or 0.0)) / 1000


def _ratio(view: TrialView, ladder: _Ladder) -> tuple[float | None, str]:
    """Cost of one unit of x ÷ worth of one kg, from what the treatments cost; and in words."""
    slope, words = _slope(view, ladder)
    return None if slope is None else slope / _worth(view), words


def _slope(view: TrialView, ladder: _Ladder) -> tuple[float | None, str]:
    """What one unit of x costs, from what the treatments cost; and in words."""
    worth = _worth(view)
    if view.trial.price.value is None or worth <= 0:
        return None, "No price is set, so only the amount for the highest yield is told."
    kind = FACTOR_DIMENSION[ladder.factor.kind][1]
    cells = [
        (level.amount.value, view.cost(treatment).per_ha, _others(treatment, ladder.factor))
        for treatment in view.treatments
        for level in treatment.levels.all()
        if level.factor_id == ladder.factor.pk and level.amount.value is not None
    ]
    x, cost = np.array([cell[0] for cell in cells]), np.array([cell[1] for cell in cells])
    groups = [cell[2] for cell in cells]
    away = np.concatenate([[x[i] - x[[g == groups[i] for g in groups]].mean()] for i in range(len(cells))])
    rise = np.concatenate([[cost[i] - cost[[g == groups[i] for g in groups]].mean()] for i in range(len(cells))])
    slope = float(away @ rise) / float(away @ away)
    if float(np.abs(rise - slope * away).max()) > PROPORTIONAL * float(np.ptp(cost) or 1.0):
        return None, "Costs do not rise in proportion to the amount, so the amount that pays best is not told."
    if slope < 0:
        return None, "Costs fall with the amount, so the amount that pays best is not told."
    step = view.show.text(slope * _one(view.show, kind), "money_per_area")
    return slope, f"One {view.show.unit(kind)} more costs {step}; one more unit of yield is worth price less cost."


def _one(show: UnitFormatter, kind: str) -> float:
    """How much of the canonical unit one unit of the reader's is."""
    return 1.0 / show.show(1.0, kind).value


def _curve(result: CurveFit, level: str, show: UnitFormatter, kind: str) -> ResponseCurveOut:
    chosen = next(shape for shape in result.shapes if shape.name == result.chosen)
    low, high = result.range
    grid = np.linspace(low, high, GRID)
    middle = chosen.at(grid)
    lower, upper = chosen.band(grid, result.alpha)
    named = NAMES[result.chosen][0]
    optimum = _best(result.optimum, show, kind, "highest yield")
    profit = None if result.profit_optimum is None else _best(result.profit_optimum, show, kind, "best return")
    tail = f" {profit.text}" if profit is not None else ""
    return ResponseCurveOut(
        level=level,
        sentence=f"The strips are best described by a {named}. {optimum.text}{tail}",
        chosen=named,
        shapes=[
            _shape(shape, result.chosen, show, kind)
            for shape in sorted(result.shapes, key=lambda shape: SHAPES.index(shape.name))
        ],
        band=[
            BandPointOut(
                x=show.show(float(x), kind).value,
                y=show.show(float(y), "yield").value,
                lower=show.show(float(a), "yield").value,
                upper=show.show(float(b), "yield").value,
            )
            for x, y, a, b in zip(grid, middle, lower, upper, strict=True)
        ],
        optimum=optimum,
        profit=profit,
        warnings=list(result.warnings),
    )


def best_text(optimum: Optimum, show: UnitFormatter, kind: str, what: str) -> str:
    """A best amount in a sentence, with its interval or the reason why there is none."""
    if optimum.x is None:
        return f"The amount for the {what} is not found: {_first_low(optimum.words)}"
    ends = [show.number(end, kind) if end is not None else None for end in (optimum.lower, optimum.upper)]
    interval = f"{ends[0] or 'below the range tried'} to {ends[1] or 'above the range tried'}"
    return f"The {what} is at {show.text(optimum.x, kind)} (profile interval {interval})."


def _best(optimum: Optimum, show: UnitFormatter, kind: str, what: str) -> BestOut:
    text = best_text(optimum, show, kind, what)
    if optimum.x is None:
        return BestOut(text=text, x=None, lower=None, upper=None)
    return BestOut(
        text=text,
        x=show.show(optimum.x, kind).value,
        lower=None if optimum.lower is None else show.show(optimum.lower, kind).value,
        upper=None if optimum.upper is None else show.show(optimum.upper, kind).value,
    )


def _first_low(words: str) -> str:
    return words[0].lower() + words[1:]


def _scale(shape: str, parameter: str, y: float, x: float) -> float:
    """What turns a parameter into the reader's units, whose unit of yield is ``y`` and of the amount ``x`` canonical ones."""
    levelling = {"a": y, "b": y, "c": 1 / x}
    plain = {"a": y, "b": y / x, "c": y / x**2, "x0": x}
    return (levelling if shape == "mitscherlich" else plain)[parameter]


def _shape(shape: Shape, chosen: str, show: UnitFormatter, kind: str) -> ShapeOut:
    name, formula = NAMES[shape.name]
    y, x = show.show(1.0, "yield").value, show.show(1.0, kind).value
    scale = {part.name: _scale(shape.name, part.name, y, x) for part in shape.parameters}
    parameters = ", ".join(
        f"{part.name} {part.estimate * scale[part.name]:.4g}{'' if part.se is None else f' ± {part.se * scale[part.name]:.2g}'}"
        for part in shape.parameters
    )
    return ShapeOut(
        name=name,
        formula=formula,
        status=STATUS[shape.status],
        aicc="" if shape.aicc is None else format_number(shape.aicc, 1),
        parameters=parameters,
        chosen=shape.name == chosen,
    )


def _differ(test: MixedTest | None, alpha: float) -> str:
    if test is None:
        return "Too few strips to test whether the curves differ."
    told = f"F {test.f:.3f} on {test.num_df} and {format_number(test.den_df, 1)} df, p {wording.p_text(test.p)}"
    if test.p < alpha:
        return f"The curves differ ({told}): read the one of the level you have."
    return f"No sign that the curves differ ({told}); that is not proof that they do not."


def _points(view: TrialView, ladder: _Ladder, kind: str) -> list[FreedStripOut]:
    """Strips freed of their block's own level, so that the curve and they compare."""
    y = np.array(ladder.y)
    blocks = np.array(ladder.block)
    levels = {block: float(y[blocks == block].mean()) for block in set(ladder.block)}
    names = _other_names(view, ladder) if len(set(ladder.other)) > 1 else {}
    free = [value - levels[block] + float(y.mean()) for value, block in zip(ladder.y, ladder.block, strict=True)]
    return [
        FreedStripOut(
            strip=strip.order,
            x=view.show.show(x, kind).value,
            y=view.show.show(value, "yield").value,
            group=names.get(other, ""),
        )
        for strip, x, value, other in zip(ladder.strips, ladder.x, free, ladder.other, strict=True)
    ]
