"""Trials of several crossed factors, whatever their layout: the model from the layout, and the comparisons that get calls.

The model follows from how strips lie (``nested_designs``); nobody chooses it. The family that a call is made in is the
differences of one factor, where ``factor_rule`` says: over the other factors, or inside their levels where the effect is
established to turn. With a control they are the differences to the control's level (Dunnett), else all pairs (Tukey). Where the
layout is balanced and a component is at zero, the classical strata decide.

A strip that got another level than was laid out counts as what it got; it stays in the main strip it lies in.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal, cast

import numpy as np
import scipy

from cultrix_core.design.designs import design_kind
from cultrix_core.errors import Refusal, require_between
from cultrix_core.stats.checks import Checks
from cultrix_core.stats.factor_rule import Family, Interaction, families_of, judge_interactions, simple_reach
from cultrix_core.stats.families import CellDifference, CellMean, family
from cultrix_core.stats.letters import compact_letters
from cultrix_core.stats.linear_model import Column, Covariate, Factor, Term
from cultrix_core.stats.mixed_model import cell_row, contrast, fit_mixed
from cultrix_core.stats.multiplicity import t_critical
from cultrix_core.stats.nested_designs import NestedAnalysis, NestedDesign, analyse_nested, precision_of
from cultrix_core.stats.polynomials import PolynomialTest
from cultrix_core.stats.strata import StratumRow

APART = "control"  # the factor of the family that holds a factorial against a control outside it
Layout = Literal["rcbd", "pairs", "systematic", "augmented", "crd", "latin", "split_plot", "split_split", "strip_plot"]


@dataclass(frozen=True, slots=True, kw_only=True)
class FactorStrip:
    """One strip with a response: level by factor as received, and as laid out where that differs from it."""

    response: float
    levels: Mapping[str, str]
    planned: Mapping[str, str]
    block: str = ""
    row: str = ""
    position: float | None = None
    label: str = ""
    covariate: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class AnovaLine:
    """Type III test of a term with its degrees of freedom."""

    term: str
    num_df: int
    den_df: float
    f: float
    p: float


@dataclass(frozen=True, slots=True, kw_only=True)
class MeansTable:
    """Means of some factors, the others averaged."""

    factors: tuple[str, ...]
    means: tuple[CellMean, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Precision:
    """Standard error and least significant difference of one kind of comparison."""

    comparison: str
    sed: float
    lsd: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FactorComparison:
    """Everything the data say about the factors of one trial; ``reach``: ``simple_reach`` of each factor."""

    layout: Layout
    factors: tuple[str, ...]
    formula: str
    method: str
    n: int
    alpha: float
    anova: tuple[AnovaLine, ...]
    strata: tuple[StratumRow, ...]
    components: tuple[tuple[str, float], ...]
    tables: tuple[MeansTable, ...]
    families: tuple[Family, ...]
    sizes: tuple[Family, ...]
    reach: tuple[tuple[str, float, float], ...]
    interactions: tuple[Interaction, ...]
    precision: tuple[Precision, ...]
    error_df: int
    cv_percent: float | None
    checks: Checks | None
    warnings: tuple[str, ...]
    polynomials: tuple[tuple[str, tuple[PolynomialTest, ...]], ...] = ()

    @property
    def cells(self) -> tuple[CellMean, ...]:
        """Means of the combinations of all factors."""
        return next(table.means for table in self.tables if table.factors == self.factors)

    @property
    def differences(self) -> tuple[CellDifference, ...]:
        """The differences that get calls, of all families."""
        return tuple(difference for family in self.families for difference in family.differences)


def _require_factors(strips: Sequence[FactorStrip], factors: Sequence[str]) -> None:
    if not strips:
        raise Refusal("no_response", field="response")
    if len(factors) < 2:
        raise Refusal(
            "not_for_design",
            field="factors",
            label="A comparison of factors",
            value="one factor",
            limit="it needs two",
            remedy="Compare its levels as treatments.",
        )


def compare_factors(
    strips: Sequence[FactorStrip],
    *,
    layout: Layout,
    factors: Sequence[str],
    alpha: float = 0.10,
    control: Mapping[str, str] | None = None,
    levels: Mapping[str, Sequence[str]] | None = None,
    amounts: Mapping[str, Mapping[str, float]] | None = None,
    names: Mapping[str, str] | None = None,
    drift: bool = False,
    apart: Sequence[FactorStrip] = (),
) -> FactorComparison:
    """Compare the levels of crossed factors.

    Parameters
    ----------
    strips : one row a strip that has a response; lost strips are simply absent.
    factors : those of the main strips first in a split layout, the two crossed ones first in crossed strips.
    control : level by factor of the control treatment; None: all pairs.
    levels : order of the levels of every factor; ``amounts`` : amount by level of factors that are amounts.
    names : what a reader calls the levels, themselves by default; used in warnings.
    drift : take a straight drift along the field in the place of blocks, the second look at an order that was not drawn;
        every strip then needs its position, and the layout is one without main strips.
    apart : strips of a control that stands outside the combinations, in a layout without main strips: a last family of one
        difference, of the factor ``APART``, holds the mean of all combinations against it.

    Raises
    ------
    Refusal : ``no_response``, ``not_for_design`` for fewer than two factors, ``empty_cells`` where not even main effects can be
        told apart, ``too_few_blocks``, ``no_variation``.
    """
    require_between(alpha, 0.001, 0.5, "alpha", label="Significance level")
    _require_factors(strips, factors)
    columns = {name: [strip.levels[name] for strip in strips] for name in factors}
    kind = design_kind(layout)
    units = _laid_out(strips, factors, columns) if kind.split else {}
    columns["block"] = [strip.block for strip in strips]
    columns["row"] = [strip.row for strip in strips]
    blocked = kind.blocking != "none" and len(set(columns["block"])) > 1 and not drift
    positions = [strip.position for strip in strips if strip.position is not None]
    amount = [strip.covariate for strip in strips if strip.covariate is not None]
    measured = ("covariate", amount) if len(amount) == len(strips) else None
    nested_analysis = analyse_nested(
        [strip.response for strip in strips],
        columns,
        design=cast(NestedDesign, layout.replace("_", "-")) if kind.split else "factorial",
        factors=factors,
        block="block" if blocked else None,
        row="row" if kind.blocking == "rows_and_columns" else None,
        units=units,
        covariate=("place", positions) if drift else measured,
        alpha=alpha,
        adjust="none",
        levels=levels,
        positions=positions if len(positions) == len(strips) else (),
        labels=[strip.label for strip in strips] if all(strip.label for strip in strips) else (),
        amounts=amounts,
        names=names,
    )
    result = _from(nested_analysis, layout, tuple(factors), control, len(strips))
    if not apart:
        return result
    outer = [name for name, there in (("block", blocked), ("row", kind.blocking == "rows_and_columns")) if there]
    beside = _beside(strips, apart, outer, [_place if drift else _covariate] if drift or measured else [], alpha)
    return replace(result, families=(*result.families, beside))


def _place(strip: FactorStrip) -> float:
    return strip.position or 0.0


def _covariate(strip: FactorStrip) -> float:
    return strip.covariate or 0.0


def _beside(
    strips: Sequence[FactorStrip],
    apart: Sequence[FactorStrip],
    outer: Sequence[str],
    measured: Sequence[Callable[[FactorStrip], float]],
    alpha: float,
) -> Family:
    """The mean of all combinations against a control outside them: one comparison, treatments and blocks fixed."""
    rows = [*strips, *apart]
    cells = ["/".join(strip.levels.values()) for strip in strips]
    columns: list[Column] = [Factor.of(APART, [*cells, *([APART] * len(apart))])]
    columns += [Factor.of(name, [getattr(strip, name) for strip in rows]) for name in outer]
    columns += [Covariate(name="measured", values=tuple(of(strip) for strip in rows)) for of in measured]
    fixed: list[Term] = [(column.name,) for column in (*columns[1:], columns[0])]
    fit = fit_mixed([strip.response for strip in rows], columns, fixed, [])
    own = np.mean([cell_row(fit, {APART: cell}) for cell in dict.fromkeys(cells)], axis=0)
    found = contrast(fit, own - cell_row(fit, {APART: APART}))
    critical = t_critical(alpha, found.df)
    p = float(2 * scipy.stats.t.sf(abs(found.estimate) / found.se, found.df))
    item = CellDifference(
        factor=APART,
        left="",
        right=APART,
        within={},
        estimate=found.estimate,
        se=found.se,
        df=found.df,
        t=found.estimate / found.se,
        p=p,
        p_adjusted=p,
        lower=found.estimate - critical * found.se,
        upper=found.estimate + critical * found.se,
        critical=critical,
    )
    return Family(factor=APART, within={}, against=APART, adjust="none", level=alpha, own_level=alpha, differences=(item,))


def _laid_out(strips: Sequence[FactorStrip], factors: Sequence[str], columns: dict[str, list[str]]) -> dict[str, str]:
    """Columns that tell main strips apart as they were laid out, where a strip got another level; put into ``columns``."""
    if all(strip.planned.get(name) == strip.levels[name] for strip in strips for name in factors):
        return {}
    for name in factors:
        columns[f"laid out {name}"] = [strip.planned.get(name, strip.levels[name]) for strip in strips]
    return {name: f"laid out {name}" for name in factors}


def _from(
    nested_analysis: NestedAnalysis, layout: Layout, factors: tuple[str, ...], control: Mapping[str, str] | None, n: int
) -> FactorComparison:
    interactions = judge_interactions(nested_analysis)
    by_factor = [
        families_of(nested_analysis, name, interactions, None if control is None else control[name]) for name in factors
    ]
    words = design_kind(layout).error_words or "Blocks are taken out before the factors are compared."
    errors = (
        "least squares" if len(nested_analysis.components) == 1 else "REML, tests and degrees of freedom by Kenward and Roger"
    )
    return FactorComparison(
        layout=layout,
        factors=factors,
        formula=nested_analysis.formula,
        method=f"response = {nested_analysis.formula}. {words.format(first=factors[0], second=factors[1])} Fitted by {errors}.",
        n=n,
        alpha=nested_analysis.alpha,
        anova=tuple(
            AnovaLine(term=term, num_df=test.num_df, den_df=test.den_df, f=test.f, p=test.p)
            for term, test in nested_analysis.anova
        ),
        strata=nested_analysis.strata,
        components=tuple(nested_analysis.components.items()),
        tables=tuple(
            MeansTable(factors=term, means=_lettered(nested_analysis, means, interactions))
            for term, means in nested_analysis.means.items()
        ),
        families=tuple(item for families in by_factor for item in families.called),
        sizes=tuple(item for families in by_factor for item in families.sizes),
        reach=tuple((name, *simple_reach(nested_analysis, name)) for name in factors),
        interactions=interactions,
        precision=tuple(
            Precision(comparison=words, sed=sed, lsd=lsd)
            for words, sed, lsd in precision_of(nested_analysis.deciding, nested_analysis.alpha)
        ),
        error_df=nested_analysis.error_df,
        cv_percent=nested_analysis.cv_percent,
        checks=nested_analysis.checks,
        warnings=nested_analysis.warnings,
        polynomials=tuple(nested_analysis.polynomials.items()),
    )


def _lettered(
    nested_analysis: NestedAnalysis, means: Sequence[CellMean], interactions: Sequence[Interaction]
) -> tuple[CellMean, ...]:
    """Letters by Tukey for one factor over the others, none where an interaction is established or for combinations."""
    names = tuple(means[0].levels)
    torn = any(interaction.established and set(names) & set(interaction.factors) for interaction in interactions)
    if len(names) != 1 or torn:
        return tuple(replace(mean, letters=None) for mean in means)
    pairs = family(nested_analysis.fit, names[0], {}, nested_analysis.alpha, "tukey", None, nested_analysis.judge)
    order = [mean.levels[names[0]] for mean in sorted(means, key=lambda mean: -mean.mean)]
    letters = compact_letters(order, [(pair.left, pair.right) for pair in pairs if pair.p_adjusted < nested_analysis.alpha])
    return tuple(replace(mean, letters=letters[mean.levels[names[0]]]) for mean in means)
