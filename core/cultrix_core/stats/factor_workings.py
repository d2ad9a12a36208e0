"""The working of a comparison of factors: from means of cells to the call, in the reader's units."""

from __future__ import annotations

from cultrix_core.stats.decision_rule import Call
from cultrix_core.stats.factor_comparison import AnovaLine, FactorComparison
from cultrix_core.stats.families import CellDifference, CellMean
from cultrix_core.stats.multiplicity import Adjust, t_critical
from cultrix_core.stats.workings import ADJUST_SOURCE, judging_steps
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

KENWARD_ROGER = "Kenward & Roger 1997, or the classical strata where the remarks say so"


def factor_difference_working(
    result: FactorComparison,
    cell_difference: CellDifference,
    show: UnitFormatter,
    kind: str,
    *,
    left: str,
    right: str,
    within: str,
    adjust: Adjust,
    call: Call | None,
    probability: float | None,
    level: float | None = None,
    prior: str = "",
) -> Working:
    """Arithmetic of two levels of a factor; ``within``: where, empty when averaged over the other factors.

    ``level`` is the joint level of the family, alpha by default.
    """
    estimate, se = show.text(cell_difference.estimate, kind, signed=True), show.text(cell_difference.se, kind)
    interval = f"{show.text(cell_difference.lower, kind, signed=True)} to {show.text(cell_difference.upper, kind, signed=True)}"
    scale = show.show(1.0, kind).value ** 2
    means = {tuple(mean.levels.items()): mean for table in result.tables for mean in table.means}
    ends = [
        _mean_at(means, {**cell_difference.within, cell_difference.factor: end})
        for end in (cell_difference.left, cell_difference.right)
    ]
    where = f"at {within}" if within else "averaged over the other factors with equal weight"
    steps = [
        Step(
            label="Difference",
            formula=f"mean of {left} − mean of {right}, {where}",
            numbers=" − ".join(show.text(mean.mean, kind) for mean in ends if mean is not None),
            outcome=estimate,
            source="marginal means; Searle, Speed & Milliken 1980, from memory",
        ),
        Step(
            label="Standard error of the difference",
            formula="from the errors of the strips that carry these levels",
            numbers="; ".join(f"{name} variance {scale * value:.4g}" for name, value in result.components),
            outcome=f"{se} on {format_number(cell_difference.df, 1)} degrees of freedom",
            source=KENWARD_ROGER,
        ),
        Step(
            label=f"{format_number(100 * (1 - (level or result.alpha)), 1)} % interval",
            formula="difference ± critical value × standard error",
            numbers=f"{estimate} ± {cell_difference.critical:.3f} × {se}",
            outcome=interval,
            source=ADJUST_SOURCE[adjust],
        ),
        *judging_steps(
            cell_difference.estimate, cell_difference.se, cell_difference.df, interval, show, kind, call, probability, prior
        ),
    ]
    return Working(
        title=f"{left} against {right}",
        outcome=estimate,
        steps=tuple(steps),
        assumption=result.method,
    )


def _mean_at(means: dict[tuple[tuple[str, str], ...], CellMean], levels: dict[str, str]) -> CellMean | None:
    return next((mean for own, mean in means.items() if dict(own) == levels), None)


def factor_mean_working(result: FactorComparison, mean: CellMean, show: UnitFormatter, kind: str, *, name: str) -> Working:
    """Arithmetic of one mean of a table of factors."""
    outcome, se = show.text(mean.mean, kind), show.text(mean.se, kind)
    level = format_number(100 * (1 - result.alpha), 0)
    return Working(
        title=f"Mean of {name}",
        outcome=outcome,
        steps=(
            Step(
                label="Mean",
                formula="mean of the model, cells of the other factors with equal weight",
                numbers=f"{mean.n} strip{'s' if mean.n != 1 else ''} in the trial's {result.n}",
                outcome=outcome,
                source="marginal means; Searle, Speed & Milliken 1980, from memory",
            ),
            Step(
                label=f"{level} % interval",
                formula="mean ± Student's t × standard error",
                numbers=f"{outcome} ± {t_critical(result.alpha, mean.df):.3f} × {se}",
                outcome=f"{show.text(mean.lower, kind)} to {show.text(mean.upper, kind)}",
                source=KENWARD_ROGER,
            ),
        ),
        assumption="A mean varies with its block, a difference does not: compare by the differences, not by these intervals.",
    )


def factor_anova_working(line: AnovaLine) -> Working:
    """What one line of the table of tests says."""
    p = f"{line.p:.4f}" if line.p >= 0.0001 else "under 0.0001"
    return Working(
        title=f"Test of {line.term}",
        outcome=p,
        steps=(
            Step(
                label="p",
                formula="chance of an F this large or larger if nothing differed, all other terms in the model",
                numbers=f"F {line.f:.4f} with {line.num_df} and {format_number(line.den_df, 1)} degrees of freedom",
                outcome=p,
                source=KENWARD_ROGER,
            ),
        ),
        assumption="F asks whether anything differs at all; whether the difference matters, the intervals say.",
    )
