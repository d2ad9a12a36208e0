"""Designs whose strips lie inside strips, or cross: split-plot, split-split-plot, strip-plot, strip-split-plot, factorials.

Model. All factors with all their interactions are fixed; each size of strip has an error of its own, a random term:

    factorial         none; blocks (rows and columns of a square) fixed
    split-plot        block, block:main
    split-split       block, block:main, block:main:sub
    strip-plot        block, block:first, block:second
    strip-split       block, block:first, block:second, block:first:second
    multi-env         in ``environments``

Fitted by ``mixed_model`` (REML, Kenward–Roger). With ``blocks="fixed"`` blocks move to the fixed terms, with "random" those
of a factorial to the random ones. Samples inside a strip add the strip as a random term. A covariate adds one fixed column,
and means are at its average. Where a combination of levels has no strip the model is additive: main effects only. Where the
data are balanced the classical strata are given beside it; where then a component is at zero they decide, since the mixed
model's tests run slightly above their level there.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, product
from math import sqrt
from typing import Literal

import numpy as np

from cultrix_core.errors import Refusal, require_between
from cultrix_core.stats.checks import Checks, check_mixed
from cultrix_core.stats.families import CellDifference, CellMean, Judge, every_place, family, judge_of, means_of
from cultrix_core.stats.linear_model import Column, Covariate, Factor, Term
from cultrix_core.stats.mixed_model import RESIDUAL, MixedFit, MixedTest, fit_mixed, incidence, term_test
from cultrix_core.stats.multiplicity import Adjust, t_critical
from cultrix_core.stats.polynomials import PolynomialTest, of_mixed, polynomials
from cultrix_core.stats.strata import Strata, StratumRow, strata_of

NestedDesign = Literal["factorial", "split-plot", "split-split", "strip-plot", "strip-split", "multi-env"]
FACTORS: dict[str, int] = {"split-plot": 2, "strip-plot": 2, "split-split": 3, "strip-split": 3}
BOUNDARY = (
    "The variance of {name} is estimated as zero: its strips vary no more than what lies inside them would make them. "
    "Degrees of freedom are not pooled."
)
MOST_NAMED = 3
CLASSICAL = "The calls rest on the classical strata, whose tests keep their level when a variance is estimated as zero."
ADDITIVE = (
    "No strip of {cells}: the factors are judged by an additive model, each as if its effect were the same at all levels of "
    "the others. Whether it is cannot be seen where combinations are missing."
)
NOT_A_REPLICATE = "A treatment stands more than once in a block; each row is taken as a strip of its own."


@dataclass(frozen=True, slots=True, kw_only=True)
class NestedAnalysis:
    """Everything the data say. ``means`` by the factors that make a table.

    ``deciding`` are the differences that calls rest on: the ``differences`` themselves, or the same ones by the classical
    strata; ``judge`` is what they are judged by. ``error_df`` are the degrees of freedom of the smallest strips' error (0 for
    several environments).
    """

    design: NestedDesign
    factors: tuple[str, ...]
    formula: str
    method: str
    n: int
    alpha: float
    anova: tuple[tuple[str, MixedTest], ...]
    strata: tuple[StratumRow, ...]
    components: Mapping[str, float]
    means: Mapping[Term, tuple[CellMean, ...]]
    differences: tuple[CellDifference, ...]
    deciding: tuple[CellDifference, ...]
    error_df: int
    cv_percent: float | None
    checks: Checks | None
    warnings: tuple[str, ...]
    polynomials: Mapping[str, tuple[PolynomialTest, ...]]
    fit: MixedFit
    judge: Judge


def analyse_nested(
    response: Sequence[float],
    columns: Mapping[str, Sequence[str]],
    *,
    design: NestedDesign,
    factors: Sequence[str],
    block: str | None = None,
    row: str | None = None,
    strip: str | None = None,
    covariate: tuple[str, Sequence[float]] | None = None,
    units: Mapping[str, str] | None = None,
    alpha: float = 0.10,
    adjust: Adjust = "none",
    control: Mapping[str, str] | None = None,
    blocks: Literal["random", "fixed"] | None = None,
    levels: Mapping[str, Sequence[str]] | None = None,
    positions: Sequence[float] = (),
    labels: Sequence[str] = (),
    amounts: Mapping[str, Mapping[str, float]] | None = None,
    names: Mapping[str, str] | None = None,
) -> NestedAnalysis:
    """Analyse one trial.

    Parameters
    ----------
    response : n finite values of strips, or of samples when ``strip`` names the column of strips.
    columns : labels by column name, each n long.
    factors : main, then sub (then subsub); for crossed strips the two crossed factors first. Factors beyond those of the
        design share the smallest strips with the last one.
    block, row : columns of the blocking; both for a square, neither when completely randomised (factorials only).
    covariate : name and amount of each row, measured before treatments began.
    units : column by factor that tells the strips of its size apart, where a strip got another level than was laid out.
    control : level by factor that ``dunnett`` compares with.
    blocks : fixed by default in a factorial, random in the others.
    amounts : amount by level of factors whose levels are amounts: gives their polynomial contrasts.
    names : what a reader calls the levels, themselves by default; used in warnings.

    Raises
    ------
    Refusal : ``missing`` factors or control, ``unknown_choice``, and those of ``fit_mixed``.
    """
    require_between(alpha, 0.001, 0.5, "alpha", label="Significance level")
    wanted = FACTORS.get(design)
    if len(factors) < (wanted or 1):
        raise Refusal("missing", field="factors", label="A factor", remedy=f"A {design} design has {wanted or 'one or more'}.")
    blocking = [name for name in (block, row) if name is not None]
    if design != "factorial" and not blocking:
        raise Refusal("missing", field="block", label="The blocks", remedy=f"A {design} design stands in blocks.")
    result = _columns(columns, factors, blocking, levels or {})
    missing = missing_cells(columns, factors)
    most = 1 if missing else len(factors)
    fixed: list[Term] = [term for size in range(1, most + 1) for term in combinations(factors, size)]
    random = random_terms(design, tuple(factors), block or "", units)
    outer: list[Term] = [(name,) for name in blocking]
    kept = blocks or ("fixed" if design == "factorial" else "random")
    random = [term for term in random if term not in outer]
    if kept == "random":
        random, outer = [*outer, *random], []
    result += [
        Factor.of(name, columns[name])
        for name in {item for term in random for item in term} - {factor.name for factor in result}
    ]
    if strip is not None:
        result.append(Factor.of("strip", _strips(columns, [*factors, *blocking], strip)))
        random.append(("strip",))
    measured: list[Term] = []
    everything: list[Column] = list(result)
    if covariate is not None:
        everything.append(Covariate(name=covariate[0], values=tuple(covariate[1])))
        measured = [(covariate[0],)]
    fit = fit_mixed(response, everything, [*outer, *measured, *fixed], random)
    strata = strata_of(fit, [*measured, *fixed], [*outer, *random]) if not units else None
    return told(
        fit,
        design=design,
        factors=list(factors),
        fixed=[*outer, *measured, *fixed],
        random=random,
        tested=[*measured, *fixed],
        strata=strata,
        alpha=alpha,
        adjust=adjust,
        control=control or {},
        positions=positions,
        labels=labels,
        warnings=[_additive_words(missing, names or {})] if missing else [],
        amounts=amounts or {},
        additive=bool(missing),
    )


def _additive_words(missing: Sequence[tuple[str, ...]], names: Mapping[str, str]) -> str:
    cells = [" with ".join(names.get(level, level) for level in cell) for cell in missing[:MOST_NAMED]]
    more = f" and {len(missing) - MOST_NAMED} more" if len(missing) > MOST_NAMED else ""
    return ADDITIVE.format(cells="; ".join(cells) + more)


def missing_cells(columns: Mapping[str, Sequence[str]], factors: Sequence[str]) -> list[tuple[str, ...]]:
    """Combinations of the levels that stand which no row has."""
    there = set(zip(*(columns[name] for name in factors), strict=True))
    return [cell for cell in product(*(dict.fromkeys(columns[name]) for name in factors)) if cell not in there]


def told(
    fit: MixedFit,
    *,
    design: NestedDesign,
    factors: Sequence[str],
    fixed: Sequence[Term],
    random: Sequence[Term],
    tested: Sequence[Term],
    strata: Strata | None,
    alpha: float,
    adjust: Adjust,
    control: Mapping[str, str],
    positions: Sequence[float],
    labels: Sequence[str],
    warnings: Sequence[str],
    amounts: Mapping[str, Mapping[str, float]],
    additive: bool = False,
) -> NestedAnalysis:
    """A fitted design as an analysis: tests, means, differences, checks. ``additive``: main effects alone."""
    judge = judge_of(fit)
    places = [(name, within) for name in factors for within in ([{}] if additive else every_place(fit, name, factors))]
    differences = [
        cell_difference
        for name, within in places
        for cell_difference in family(fit, name, within, alpha, adjust, control.get(name), judge)
    ]
    deciding, decide = differences, judge
    classical = strata is not None and bool(strata.rows) and fit.singular
    if classical:
        decide = judge_of(fit, strata)
        deciding = [
            cell_difference
            for name, within in places
            for cell_difference in family(fit, name, within, alpha, adjust, control.get(name), decide)
        ]
    tables = [term for term in fixed if set(term) <= set(factors)] + ([tuple(factors)] if additive else [])
    average = abs(float(np.mean(fit.y)))
    boundary = [BOUNDARY.format(name=name) for name, value in fit.components.items() if value == 0]
    return NestedAnalysis(
        design=design,
        factors=tuple(factors),
        formula=formula(fixed, random),
        method=f"{design}: {formula(fixed, random)}. REML, tests and degrees of freedom by Kenward and Roger.",
        n=fit.y.size,
        alpha=alpha,
        anova=tuple((":".join(term), term_test(fit, term)) for term in tested),
        strata=strata.rows if strata is not None else (),
        components=fit.components,
        means={term: means_of(fit, term, alpha, differences, judge) for term in tables},
        differences=tuple(differences),
        deciding=tuple(deciding),
        error_df=0 if design == "multi-env" else _error_df(fit),
        cv_percent=100 * sqrt(fit.components[RESIDUAL]) / average if average else None,
        checks=check_mixed(fit, factors, positions, labels),
        warnings=(*warnings, *boundary, *([CLASSICAL] if classical else [])),
        polynomials={name: tests for name in factors if (tests := _polynomials(fit, name, amounts.get(name)))},
        fit=fit,
        judge=decide,
    )


def _polynomials(fit: MixedFit, name: str, amounts: Mapping[str, float] | None) -> tuple[PolynomialTest, ...]:
    levels = fit.factor(name).levels
    own = [amounts[level] for level in levels if level in amounts] if amounts else []
    if len(own) < max(len(levels), 3) or len(set(own)) < len(own):
        return ()
    return tuple(polynomials(own, of_mixed(fit, name, levels)))


def _error_df(fit: MixedFit) -> int:
    """Degrees of freedom of the smallest strips: rows less what fixed and random terms take together."""
    sides = [fit.x, *(incidence(fit.factors, tuple(name.split(":"))) for name in fit.components if name != RESIDUAL)]
    return fit.y.size - int(np.linalg.matrix_rank(np.hstack(sides)))


def formula(fixed: Sequence[Term], random: Sequence[Term]) -> str:
    """The model as one line."""
    errors = ", ".join(":".join(term) for term in random)
    terms = " + ".join(":".join(term) for term in fixed)
    return f"{terms}; random: {errors}" if random else terms


def _columns(
    columns: Mapping[str, Sequence[str]], factors: Sequence[str], blocking: Sequence[str], levels: Mapping[str, Sequence[str]]
) -> list[Factor]:
    result = [Factor.of(name, columns[name], levels.get(name)) for name in (*factors, *blocking)]
    for factor in result[: len(factors)]:
        if len(factor.levels) < 2:
            raise Refusal("too_few_treatments", field=factor.name, value=len(factor.levels))
    for factor in result[len(factors) :]:
        if len(factor.levels) < 2:
            raise Refusal("too_few_blocks", field="blocks", value=len(factor.levels))
    return result


def random_terms(
    design: NestedDesign, factors: tuple[str, ...], block: str, units: Mapping[str, str] | None = None
) -> list[Term]:
    """The errors of a design, largest strips first; the residual is not among them."""
    first, second, *more = ((units or {}).get(name, name) for name in (*factors, ""))
    result: dict[str, list[Term]] = {
        "factorial": [],
        "split-plot": [(block,), (block, first)],
        "split-split": [(block,), (block, first), (block, first, second)],
        "strip-plot": [(block,), (block, first), (block, second, *more[:-1])],
        "strip-split": [(block,), (block, first), (block, second), (block, first, second)],
    }
    return list(result[design])


def _strips(columns: Mapping[str, Sequence[str]], names: Sequence[str], strip: str) -> list[str]:
    """A strip is told apart by its name inside its block and treatment, so that numbers may begin anew in each block."""
    return ["/".join(str(columns[name][row]) for name in (*names, strip)) for row in range(len(columns[strip]))]


def precision_of(differences: Sequence[CellDifference], alpha: float) -> list[tuple[str, float, float]]:
    """Standard error and least significant difference of every kind of comparison, unadjusted."""
    kinds: dict[str, list[CellDifference]] = {}
    for row in differences:
        inside = f" at one level of {' and '.join(row.within)}" if row.within else ""
        kinds.setdefault(f"two {row.factor} means{inside}", []).append(row)
    precision = []
    for words, rows in kinds.items():
        se = sqrt(sum(row.se**2 for row in rows) / len(rows))
        df = sum(row.df for row in rows) / len(rows)
        precision.append((words, se, t_critical(alpha, df) * se))
    return precision
