"""Trials of several crossed factors, whatever their layout: the model from the layout, and the comparisons that get calls.

The model follows from how strips lie (``nested_designs``); nobody chooses it. The family that a call is made in is the
differences of one factor. With a control they are the differences to the control's level (Dunnett), else all pairs (Tukey).
Where the layout is balanced and a component is at zero, the classical strata decide.

Where a factor interacts with none (every p of its interactions at or above alpha) its levels are compared over the others.
Where it does they are compared inside each combination of those it interacts with, all places together one family
(Bonferroni over places). Choosing between the two by a test is a second chance of a false call, so the inner family has a
level of alpha only where the interaction is established (p below alpha² ÷ 2), else of alpha² ÷ 2. If nothing differs the
chance of a false call of the factor is then at most (1 − alpha) alpha + alpha² ÷ 2 + alpha² ÷ 2 = alpha, the average of a
factor being independent of its interactions in balanced data.

A strip that got another level than was laid out counts as what it got; it stays in the main strip it lies in.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations, product
from typing import Literal, cast

from cultrix_core.design.designs import design_kind
from cultrix_core.errors import Refusal, require_between
from cultrix_core.stats.checks import Checks
from cultrix_core.stats.families import CellDifference, CellMean, family
from cultrix_core.stats.letters import compact_letters
from cultrix_core.stats.multiplicity import Adjust
from cultrix_core.stats.nested_designs import NestedAnalysis, NestedDesign, analyse_nested, precision_of
from cultrix_core.stats.polynomials import PolynomialTest
from cultrix_core.stats.strata import StratumRow

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
class Family:
    """The comparisons of one factor at one place; ``against`` None: all pairs.

    ``level``: joint level of all places of the factor; ``own_level``: that of this place, by which its intervals are made.
    """

    factor: str
    within: Mapping[str, str]
    against: str | None
    adjust: Adjust
    level: float
    own_level: float
    differences: tuple[CellDifference, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Interaction:
    """Whether the effect of one factor depends on others: ``matters`` below alpha, ``established`` below alpha² ÷ 2."""

    factors: tuple[str, ...]
    f: float
    num_df: int
    den_df: float
    p: float
    matters: bool
    established: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Precision:
    """Standard error and least significant difference of one kind of comparison."""

    comparison: str
    sed: float
    lsd: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FactorComparison:
    """Everything the data say about the factors of one trial."""

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
) -> FactorComparison:
    """Compare the levels of crossed factors.

    Parameters
    ----------
    strips : one row a strip that has a response; lost strips are simply absent.
    factors : those of the main strips first in a split layout, the two crossed ones first in crossed strips.
    control : level by factor of the control treatment; None: all pairs.
    levels : order of the levels of every factor; ``amounts`` : amount by level of factors that are amounts.
    names : what a reader calls the levels, themselves by default; used in refusals.
    drift : take a straight drift along the field in the place of blocks, the second look at an order that was not drawn;
        every strip then needs its position, and the layout is one without main strips.

    Raises
    ------
    Refusal : ``no_response``, ``not_for_design`` for fewer than two factors, ``missing`` for combinations without a strip,
        ``too_few_blocks``, ``no_variation``.
    """
    require_between(alpha, 0.001, 0.5, "alpha", label="Significance level")
    _require_factors(strips, factors)
    columns = {name: [strip.levels[name] for strip in strips] for name in factors}
    _require_cells(columns, factors, levels or {}, names or {})
    kind = design_kind(layout)
    units = _laid_out(strips, factors, columns) if kind.split else {}
    columns["block"] = [strip.block for strip in strips]
    columns["row"] = [strip.row for strip in strips]
    blocked = kind.blocking != "none" and len(set(columns["block"])) > 1 and not drift
    positions = [strip.position for strip in strips if strip.position is not None]
    amount = [strip.covariate for strip in strips if strip.covariate is not None]
    measured = ("covariate", amount) if len(amount) == len(strips) else None
    found = analyse_nested(
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
    )
    return _from(found, layout, tuple(factors), control, len(strips))


def _laid_out(strips: Sequence[FactorStrip], factors: Sequence[str], columns: dict[str, list[str]]) -> dict[str, str]:
    """Columns that tell main strips apart as they were laid out, where a strip got another level; put into ``columns``."""
    if all(strip.planned.get(name) == strip.levels[name] for strip in strips for name in factors):
        return {}
    for name in factors:
        columns[f"laid out {name}"] = [strip.planned.get(name, strip.levels[name]) for strip in strips]
    return {name: f"laid out {name}" for name in factors}


def _require_cells(
    columns: Mapping[str, Sequence[str]], factors: Sequence[str], levels: Mapping[str, Sequence[str]], names: Mapping[str, str]
) -> None:
    """Every combination of the levels that stand must stand itself, or nothing can be averaged over them."""
    there = set(zip(*(columns[name] for name in factors), strict=True))
    own = [[one for one in levels.get(name, dict.fromkeys(columns[name])) if one in columns[name]] for name in factors]
    empty = [cell for cell in product(*own) if cell not in there]
    if empty:
        named = "; ".join(" with ".join(names.get(one, one) for one in cell) for cell in empty[:3])
        raise Refusal(
            "missing",
            field="response",
            label=f"A strip of {named}",
            remedy="Without it a mean over the other factor compares unlike things: compare the combinations that stand.",
        )


def _from(
    found: NestedAnalysis, layout: Layout, factors: tuple[str, ...], control: Mapping[str, str] | None, n: int
) -> FactorComparison:
    tests = dict(found.anova)
    interactions = tuple(
        Interaction(
            factors=term,
            f=test.f,
            num_df=test.num_df,
            den_df=test.den_df,
            p=test.p,
            matters=test.p < found.alpha,
            established=test.p < found.alpha**2 / 2,
        )
        for size in range(2, len(factors) + 1)
        for term in combinations(factors, size)
        if (test := tests.get(":".join(term))) is not None
    )
    families = [
        one for name in factors for one in _families(found, name, interactions, None if control is None else control[name])
    ]
    words = design_kind(layout).error_words or "Blocks are taken out before the factors are compared."
    errors = "least squares" if len(found.components) == 1 else "REML, tests and degrees of freedom by Kenward and Roger"
    return FactorComparison(
        layout=layout,
        factors=factors,
        formula=found.formula,
        method=f"response = {found.formula}. {words.format(first=factors[0], second=factors[1])} Fitted by {errors}.",
        n=n,
        alpha=found.alpha,
        anova=tuple(
            AnovaLine(term=term, num_df=test.num_df, den_df=test.den_df, f=test.f, p=test.p) for term, test in found.anova
        ),
        strata=found.strata,
        components=tuple(found.components.items()),
        tables=tuple(
            MeansTable(factors=term, means=_lettered(found, means, interactions)) for term, means in found.means.items()
        ),
        families=tuple(families),
        interactions=interactions,
        precision=tuple(
            Precision(comparison=words, sed=sed, lsd=lsd) for words, sed, lsd in precision_of(found.deciding, found.alpha)
        ),
        error_df=found.error_df,
        cv_percent=found.cv_percent,
        checks=found.checks,
        warnings=found.warnings,
        polynomials=tuple(found.polynomials.items()),
    )


def _families(found: NestedAnalysis, name: str, interactions: Sequence[Interaction], control: str | None) -> list[Family]:
    """The comparisons of one factor, where its interactions say they are to be made."""
    own = [interaction for interaction in interactions if name in interaction.factors and interaction.matters]
    inside = [factor for factor in found.factors if factor != name and any(factor in term.factors for term in own)]
    places = [dict(zip(inside, cell, strict=True)) for cell in product(*(found.fit.factor(one).levels for one in inside))]
    level = found.alpha if not own or any(one.established for one in own) else found.alpha**2 / 2
    adjust: Adjust = "tukey" if control is None else "dunnett"
    return [
        Family(
            factor=name,
            within=within,
            against=control,
            adjust=adjust,
            level=level,
            own_level=level / len(places),
            differences=tuple(family(found.fit, name, within, level / len(places), adjust, control, found.judge)),
        )
        for within in places
    ]


def _lettered(found: NestedAnalysis, means: Sequence[CellMean], interactions: Sequence[Interaction]) -> tuple[CellMean, ...]:
    """Letters by Tukey for one factor over the others, none where it interacts or for combinations."""
    names = tuple(means[0].levels)
    torn = any(interaction.matters and set(names) & set(interaction.factors) for interaction in interactions)
    if len(names) != 1 or torn:
        return tuple(replace(mean, letters=None) for mean in means)
    pairs = family(found.fit, names[0], {}, found.alpha, "tukey", None, found.judge)
    order = [mean.levels[names[0]] for mean in sorted(means, key=lambda mean: -mean.mean)]
    letters = compact_letters(order, [(pair.left, pair.right) for pair in pairs if pair.p_adjusted < found.alpha])
    return tuple(replace(mean, letters=letters[mean.levels[names[0]]]) for mean in means)
