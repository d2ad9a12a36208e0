"""Response curves of a trial: yield against a factor whose levels are amounts, in the reader's units."""

from __future__ import annotations

import numpy as np
from cultrix_core.errors import Refusal
from cultrix_core.stats.curves import SHAPES, CurveFit, Shape, fit_curves
from cultrix_core.stats.curves_by import fit_curves_by
from cultrix_core.stats.mixed_model import MixedTest
from cultrix_core.unit_formatting import UnitFormatter, format_number

from apps.analysis.verdict import wording
from apps.analysis.verdict.amounts import AmountVerdict, Reading, amount_sentences, amount_verdict
from apps.analysis.verdict.ladder import Ladder, errors_of, ladder_of, other_names, ratio_of, why_no_ladder
from apps.analysis.verdict.schemas import (
    AveragedOut,
    BandPointOut,
    FreedStripOut,
    NamedOut,
    ResponseCurveOut,
    ResponseCurvesOut,
    ShapeOut,
)
from apps.trial_state.view import TrialView
from apps.trials.naming import FACTOR_DIMENSION

GRID = 61
SHOWN_WEIGHT = 0.005
NAMES = {
    "linear": ("straight line", "y = a + b x"),
    "quadratic": ("parabola", "y = a + b x + c x²"),
    "linear_plateau": ("straight line to a plateau", "y = a + b min(x, x0)"),
    "quadratic_plateau": ("parabola to a plateau", "y = a + b (u − u² ÷ 2 x0), u = min(x, x0)"),
    "mitscherlich": ("levelling off", "y = a + b (1 − exp(−c x))"),
}
STATUS = {"fitted": "", "no_interior_join": "no join inside the range tried", "too_few_levels": "too few strips for it"}


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
        averaged=[],
    )
    ladder = ladder_of(view)
    if ladder is None:
        base.problem = why_no_ladder(view)
        return base
    kind = FACTOR_DIMENSION[ladder.factor.kind][1]
    base.factor, base.x_unit = ladder.factor.title, show.unit(kind)
    ratio, base.money = ratio_of(view, ladder)
    blocks = ladder.block if view.design.blocking != "none" and len(set(ladder.block)) > 1 else ["1"] * len(ladder.block)
    try:
        if len(set(ladder.other)) > 1:
            random = errors_of(view, ladder)
            curves_by = fit_curves_by(
                ladder.x, ladder.y, blocks, ladder.other, random=random, ratio=ratio, alpha=view.trial.alpha
            )
            names = other_names(view, ladder)
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
    verdict = amount_verdict(view)
    if isinstance(verdict, AmountVerdict):
        base.answer = amount_sentences(view, verdict)
        base.averaged = [_averaged(reading, show, kind) for reading in verdict.readings]
    return base


def _averaged(reading: Reading, show: UnitFormatter, kind: str) -> AveragedOut:
    """The averaged curve at some of its points, with the band of each and the share of every shape."""
    curve = reading.answer.curve
    step = max(1, (len(curve.x) - 1) // (GRID - 1))
    points = list(zip(curve.x, curve.y, curve.lower, curve.upper, strict=True))[::step]
    weights = sorted(curve.weights.items(), key=lambda pair: -pair[1])
    return AveragedOut(
        level=reading.level,
        band=[
            BandPointOut(x=show.show(x, kind).value, y=at(y), lower=at(lower), upper=at(upper))
            for at in [lambda value: show.show(value, "yield").value]
            for x, y, lower, upper in points
        ],
        best=show.show((curve.profit or curve.best).x, kind).value,
        shown=[show.show(end, kind).value for end in (curve.shown.lower, curve.shown.upper)] if curve.shown else None,
        estimated=[show.show(end, kind).value for end in (curve.estimated.lower, curve.estimated.upper)]
        if curve.estimated
        else None,
        weights=[
            NamedOut(name=name.replace("-", " "), text=f"{format_number(100 * weight, 0)} %")
            for name, weight in weights
            if weight >= SHOWN_WEIGHT
        ],
        level_pct=100 * (1 - curve.alpha),
    )


def _curve(result: CurveFit, level: str, show: UnitFormatter, kind: str) -> ResponseCurveOut:
    return ResponseCurveOut(
        level=level,
        chosen=NAMES[result.chosen][0],
        shapes=[
            _shape(shape, result.chosen, show, kind)
            for shape in sorted(result.shapes, key=lambda shape: SHAPES.index(shape.name))
        ],
        warnings=list(result.warnings),
    )


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


def _points(view: TrialView, ladder: Ladder, kind: str) -> list[FreedStripOut]:
    """Strips freed of their block's own level, so that the curve and they compare."""
    y = np.array(ladder.y)
    blocks = np.array(ladder.block)
    levels = {block: float(y[blocks == block].mean()) for block in set(ladder.block)}
    names = other_names(view, ladder) if len(set(ladder.other)) > 1 else {}
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
