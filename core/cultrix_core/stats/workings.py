"""The working of a comparison: from means to the call, in the reader's units."""

from __future__ import annotations

from cultrix_core.stats.compare import Comparison, Difference, Mean
from cultrix_core.stats.decision_rule import Call
from cultrix_core.stats.linear_model import TermTest
from cultrix_core.stats.multiplicity import Adjust, t_critical
from cultrix_core.unit_formatting import UnitFormatter, chance_text, format_number
from cultrix_core.working import Step, Working

CALL_WORDS = {
    "gain": "gain",
    "loss": "loss",
    "no_difference_that_matters": "no difference that matters",
    "cannot_tell_yet": "not clear yet",
}
ADJUST_SOURCE = {
    "none": "Student's t, this comparison alone",
    "tukey": "Tukey, all pairs",
    "dunnett": "Dunnett 1955, all comparisons with the control",
    "holm": "Bonferroni interval beside Holm's p",
}


def difference_working(
    result: Comparison,
    difference: Difference,
    show: UnitFormatter,
    kind: str,
    *,
    left: str,
    right: str,
    call: Call | None,
    probability: float | None,
    adjust: Adjust | None = None,
    prior: str = "",
) -> Working:
    """Arithmetic of one difference; ``kind`` is "yield" or "net_return". ``prior``: what its chance rests on beside strips."""
    means = {mean.level: mean for mean in result.means}
    estimate = show.text(difference.estimate, kind, signed=True)
    steps = [
        Step(
            label="Difference",
            formula=f"mean of {left} − mean of {right}, both with equal weight on blocks",
            numbers=f"{show.text(means[difference.left].mean, kind)} − {show.text(means[difference.right].mean, kind)}",
            outcome=estimate,
            source="marginal means; Searle, Speed & Milliken 1980, from memory",
        ),
        *_interval_steps(result, difference, show, kind, adjust or result.control_adjust),
        *judging_steps(
            difference.estimate,
            difference.se,
            difference.df,
            _interval(difference, show, kind),
            show,
            kind,
            call,
            probability,
            prior,
        ),
    ]
    return Working(
        title=f"{left} against {right}",
        outcome=estimate,
        steps=tuple(steps),
        assumption="Each block holds like ground: a gradient inside blocks adds to the variation and hides differences."
        if len(steps) > 1
        else "One strip a treatment: there is nothing to judge this difference with.",
    )


def _interval(difference: Difference, show: UnitFormatter, kind: str) -> str:
    if difference.lower is None or difference.upper is None:
        return ""
    return f"{show.text(difference.lower, kind, signed=True)} to {show.text(difference.upper, kind, signed=True)}"


def _interval_steps(result: Comparison, difference: Difference, show: UnitFormatter, kind: str, adjust: Adjust) -> list[Step]:
    """From the variation between strips to the interval; empty when nothing measures the variation."""
    if difference.se is None or result.mse is None or difference.critical is None or difference.lower is None:
        return []
    spread = result.mse**0.5
    level = format_number(100 * (1 - result.alpha), 0)
    estimate, se = show.text(difference.estimate, kind, signed=True), show.text(difference.se, kind)
    return [
        Step(
            label="Strip-to-strip variation",
            formula="√(residual sum of squares ÷ degrees of freedom)",
            numbers=f"{result.residual_df} degrees of freedom left after blocks and treatments",
            outcome=show.text(spread, kind),
            source="analysis of variance, blocks fixed",
        ),
        Step(
            label="Standard error of the difference",
            formula="variation × √(2 ÷ blocks) when no strip is missing; else × the design's own factor",
            numbers=f"{show.text(spread, kind)} × {difference.se / spread:.4f}",
            outcome=se,
        ),
        Step(
            label=f"{level} % interval",
            formula="difference ± critical value × standard error",
            numbers=f"{estimate} ± {difference.critical:.3f} × {se}",
            outcome=_interval(difference, show, kind),
            source=ADJUST_SOURCE[adjust],
        ),
    ]


def judging_steps(
    estimate: float,
    se: float | None,
    df: float | None,
    interval: str,
    show: UnitFormatter,
    kind: str,
    call: Call | None,
    probability: float | None,
    prior: str = "",
) -> list[Step]:
    """From a difference to its chance and its call."""
    steps = []
    if probability is not None and se and df is not None:
        steps.append(
            Step(
                label="Chance that the true difference is above 0",
                formula="prior of such differences × Student's t of the estimate, summed above 0",
                numbers=f"{show.text(estimate, kind, signed=True)}, standard error {show.text(se, kind)}, "
                f"{format_number(df, 0 if float(df).is_integer() else 1)} degrees of freedom",
                outcome=chance_text(probability),
                source=prior or "not adjusted for the family",
            )
        )
    if call is not None:
        margin = "not set" if not call.margin else f"±{show.text(call.margin, kind)}"
        steps.append(
            Step(
                label="Call",
                formula="interval against 0 and against the difference that matters",
                numbers=f"{interval}; difference that matters {margin}",
                outcome=CALL_WORDS[call.name],
            )
        )
    return steps


def mean_working(result: Comparison, mean: Mean, show: UnitFormatter, kind: str, *, name: str) -> Working:
    """Arithmetic of one treatment mean; ``kind`` is "yield" or "net_return"."""
    outcome = show.text(mean.mean, kind)
    steps = [
        Step(
            label="Mean",
            formula="mean of the model over all blocks, each block with equal weight; the plain mean when no strip is missing",
            numbers=f"{mean.n} strip{'s' if mean.n != 1 else ''} in the trial's {result.n}",
            outcome=outcome,
            source="marginal means; Searle, Speed & Milliken 1980, from memory",
        )
    ]
    if result.mse is not None and mean.se is not None and mean.lower is not None and mean.upper is not None:
        spread, se = result.mse**0.5, show.text(mean.se, kind)
        level = format_number(100 * (1 - result.alpha), 0)
        steps += [
            Step(
                label="Standard error",
                formula="variation between strips × √(1 ÷ blocks) when no strip is missing; else × the design's own factor",
                numbers=f"{show.text(spread, kind)} × {mean.se / spread:.4f}",
                outcome=se,
            ),
            Step(
                label=f"{level} % interval",
                formula="mean ± Student's t × standard error",
                numbers=f"{outcome} ± {t_critical(result.alpha, result.residual_df):.3f} × {se}",
                outcome=f"{show.text(mean.lower, kind)} to {show.text(mean.upper, kind)}",
                source="Student 1908, from memory; not adjusted for several means",
            ),
        ]
    return Working(
        title=f"Mean of {name}",
        outcome=outcome,
        steps=tuple(steps),
        assumption="Two such intervals may overlap while the difference is clear: compare by the differences, not by eye.",
    )


def anova_working(result: Comparison, test: TermTest, show: UnitFormatter, kind: str) -> Working:
    """Arithmetic of one line of the analysis of variance, in the square of the reader's unit."""
    assert result.mse is not None
    scale = show.show(1.0, kind).value ** 2
    square, residual = test.ss / test.num_df * scale, result.mse * scale
    steps = [
        Step(
            label="Mean square",
            formula="sum of squares ÷ degrees of freedom",
            numbers=f"{test.ss * scale:.5g} ÷ {test.num_df}",
            outcome=f"{square:.5g}",
        )
    ]
    if test.f is not None and test.p is not None:
        steps += [
            Step(
                label="F",
                formula="mean square ÷ residual mean square",
                numbers=f"{square:.5g} ÷ {residual:.5g}",
                outcome=f"{test.f:.4f}",
                source="Fisher, from memory",
            ),
            Step(
                label="p",
                formula="chance of an F this large or larger if nothing differed",
                numbers=f"F with {test.num_df} and {result.residual_df} degrees of freedom",
                outcome=f"{test.p:.4f}" if test.p >= 0.0001 else "under 0.0001",
            ),
        ]
    return Working(
        title=f"Analysis of variance: {test.term}",
        outcome=steps[-1].outcome,
        steps=tuple(steps),
        assumption="F asks whether anything differs at all; whether the difference matters, the intervals say.",
    )
