"""Designs whose strips lie inside strips, or cross: split-plot, split-split-plot, strip-plot, strip-split-plot, factorials.

Model. All factors with all their interactions are fixed; each size of strip has an error of its own, a random term:

    split-plot        block, block:main
    split-split       block, block:main, block:main:sub
    strip-plot        block, block:first, block:second
    strip-split       block, block:first, block:second, block:first:second
    factorial         none; blocks fixed
    multi-env         environment, block in environment, treatment × environment; with fewer than five environments these
                      are fixed with their interaction, and the conclusion is for these environments only

Fitted by ``mixed_model`` (REML, Kenward–Roger). With ``blocks="fixed"`` blocks move to the fixed terms. Samples inside a
strip add the strip as a random term. Where the data are balanced the classical strata are given beside it: every fixed
term is then orthogonal to all strata but one, where it is tested against that stratum's residual [1].

Means of every set of factors are marginal, with equal weight on cells; differences are taken between levels of one factor,
over all others and inside each combination of the others.

Reference: [1] Nelder (1965) Proc. R. Soc. A 283:147–162, general balance (from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, product
from math import sqrt
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy import stats

from cultrix_core.errors import Refusal, require_between
from cultrix_core.stats import multiplicity
from cultrix_core.stats.letters import compact_letters
from cultrix_core.stats.linear_model import Factor, Term, design_matrix
from cultrix_core.stats.mixed_model import RESIDUAL, MixedFit, MixedTest, cell_row, contrast, fit_mixed, incidence, term_test
from cultrix_core.stats.multiplicity import Adjust

Array = NDArray[np.float64]
NestedDesign = Literal["factorial", "split-plot", "split-split", "strip-plot", "strip-split", "multi-env"]
FACTORS: dict[str, int] = {"split-plot": 2, "strip-plot": 2, "split-split": 3, "strip-split": 3}
LEAST_ENVIRONMENTS = 5  # fewer say too little of how environments vary to be taken as drawn from many
FEW = (
    "{count} environments are too few to stand for others: they are fixed, their interaction with the treatment is tested, "
    "and the conclusion is for these environments only."
)
BOUNDARY = (
    "The variance of {name} is estimated as zero: its strips vary no more than what lies inside them would make them. "
    "Degrees of freedom are not pooled."
)


@dataclass(frozen=True, slots=True, kw_only=True)
class CellMean:
    """Mean of one combination of levels of some factors, the others averaged."""

    levels: Mapping[str, str]
    mean: float
    se: float
    df: float
    lower: float
    upper: float
    letters: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class CellDifference:
    """Two levels of one factor, ``within`` levels of others (none: averaged over them). p unadjusted, the rest adjusted."""

    factor: str
    left: str
    right: str
    within: Mapping[str, str]
    estimate: float
    se: float
    df: float
    t: float
    p: float
    p_adjusted: float
    lower: float
    upper: float


@dataclass(frozen=True, slots=True, kw_only=True)
class StratumRow:
    """One line of the classical table; ``source`` residual ends a stratum."""

    stratum: str
    source: str
    df: int
    ss: float
    ms: float
    f: float | None
    p: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class NestedAnalysis:
    """Everything the data say. ``means`` and ``differences`` by the factors that make a table."""

    design: NestedDesign
    method: str
    n: int
    alpha: float
    anova: tuple[tuple[str, MixedTest], ...]
    strata: tuple[StratumRow, ...]
    components: Mapping[str, float]
    means: Mapping[Term, tuple[CellMean, ...]]
    differences: tuple[CellDifference, ...]
    cv_percent: float
    warnings: tuple[str, ...]


def analyse_nested(
    response: Sequence[float],
    columns: Mapping[str, Sequence[str]],
    *,
    design: NestedDesign,
    factors: Sequence[str],
    block: str,
    strip: str | None = None,
    alpha: float = 0.10,
    adjust: Adjust = "none",
    control: Mapping[str, str] | None = None,
    blocks: Literal["random", "fixed"] = "random",
    levels: Mapping[str, Sequence[str]] | None = None,
) -> NestedAnalysis:
    """Analyse one trial.

    Parameters
    ----------
    response : n finite values of strips, or of samples when ``strip`` names the column of strips.
    columns : labels by column name, each n long.
    factors : main, then sub (then subsub); for crossed strips the two crossed factors first.
    control : level by factor that ``dunnett`` compares with.

    Raises
    ------
    Refusal : ``missing`` factors or control, ``unknown_choice``, and those of ``fit_mixed``.
    """
    require_between(alpha, 0.001, 0.5, "alpha", label="Significance level")
    wanted = FACTORS.get(design)
    if wanted is not None and len(factors) != wanted or not factors:
        raise Refusal("missing", field="factors", label="A factor", remedy=f"A {design} design has {wanted or 'one or more'}.")
    made = [Factor.of(name, columns[name], (levels or {}).get(name)) for name in (*factors, block)]
    for factor in made[:-1]:
        if len(factor.levels) < 2:
            raise Refusal("too_few_treatments", field=factor.name, value=len(factor.levels))
    if len(made[-1].levels) < 2:
        raise Refusal("too_few_blocks", field="blocks", value=len(made[-1].levels))
    fixed: list[Term] = [term for size in range(1, len(factors) + 1) for term in combinations(factors, size)]
    random = random_terms(design, tuple(factors), block)
    if design == "factorial" or blocks == "fixed":
        fixed, random = [(block,), *fixed], [term for term in random if term != (block,)]
    if strip is not None:
        made.append(Factor.of("strip", _strips(columns, [*factors, block], strip)))
        random.append(("strip",))
    fit = fit_mixed(response, made, fixed, random)
    rows = [term for term in fixed if term != (block,)]
    differences = _differences(fit, list(factors), alpha, adjust, control or {})
    return NestedAnalysis(
        design=design,
        method=_method(design, fixed, random),
        n=len(response),
        alpha=alpha,
        anova=tuple((":".join(term), term_test(fit, term)) for term in rows),
        strata=_strata(fit, rows, [*([(block,)] if (block,) in fixed else []), *random]),
        components=fit.components,
        means={term: _means(fit, term, alpha, differences) for term in rows},
        differences=differences,
        cv_percent=100 * sqrt(fit.components[RESIDUAL]) / abs(float(np.mean(response))),
        warnings=tuple(BOUNDARY.format(name=name) for name, value in fit.components.items() if value == 0),
    )


def analyse_environments(
    response: Sequence[float],
    columns: Mapping[str, Sequence[str]],
    *,
    treatment: str,
    environment: str,
    block: str | None,
    alpha: float = 0.10,
    adjust: Adjust = "none",
    control: Mapping[str, str] | None = None,
) -> NestedAnalysis:
    """Several site-years of the same treatments; blocks are told apart inside their environment.

    Without replication inside environments treatment × environment is the error that treatments are judged by.

    Raises
    ------
    Refusal : ``too_few_treatments``, ``too_few_blocks`` for one environment, and those of ``fit_mixed``.
    """
    require_between(alpha, 0.001, 0.5, "alpha", label="Significance level")
    made = [Factor.of(name, columns[name]) for name in (treatment, environment)]
    if len(made[0].levels) < 2:
        raise Refusal("too_few_treatments", field=treatment, value=len(made[0].levels))
    places = len(made[1].levels)
    if places < 2:
        raise Refusal("too_few_treatments", field=environment, label="Environments", value=places)
    cells = len(set(zip(columns[treatment], columns[environment], strict=True)))
    repeated = cells < len(response)
    blocked = block is not None and len(set(zip(columns[environment], columns[block], strict=True))) > places
    if blocked and block is not None:
        made.append(Factor.of(block, columns[block]))
    inside: list[Term] = [(environment, block)] if blocked and block is not None else []
    warnings: list[str] = []
    if places < LEAST_ENVIRONMENTS:
        warnings.append(FEW.format(count=places))
        fixed: list[Term] = [(environment,), (treatment,), *([(treatment, environment)] if repeated else [])]
        random = inside
    else:
        fixed = [(treatment,)]
        random = [(environment,), *inside, *([(treatment, environment)] if repeated else [])]
    if not repeated:
        warnings.append(
            "Each treatment stands once in an environment: its interaction with the environment is the error it is judged by."
        )
    fit = fit_mixed(response, made, fixed, random)
    differences = _differences(fit, [treatment], alpha, adjust, control or {})
    return NestedAnalysis(
        design="multi-env",
        method=_method("multi-env", fixed, random),
        n=len(response),
        alpha=alpha,
        anova=tuple((":".join(term), term_test(fit, term)) for term in fixed if term != (environment,)),
        strata=(),
        components=fit.components,
        means={(treatment,): _means(fit, (treatment,), alpha, differences)},
        differences=differences,
        cv_percent=100 * sqrt(fit.components[RESIDUAL]) / abs(float(np.mean(response))),
        warnings=(*warnings, *(BOUNDARY.format(name=name) for name, value in fit.components.items() if value == 0)),
    )


def random_terms(design: NestedDesign, factors: tuple[str, ...], block: str) -> list[Term]:
    """The errors of a design, largest strips first; the residual is not among them."""
    first, second = factors[0], factors[1] if len(factors) > 1 else ""
    found: dict[str, list[Term]] = {
        "factorial": [],
        "split-plot": [(block,), (block, first)],
        "split-split": [(block,), (block, first), (block, first, second)],
        "strip-plot": [(block,), (block, first), (block, second)],
        "strip-split": [(block,), (block, first), (block, second), (block, first, second)],
    }
    return list(found[design])


def _strips(columns: Mapping[str, Sequence[str]], names: Sequence[str], strip: str) -> list[str]:
    """A strip is told apart by its name inside its block and treatment, so that numbers may begin anew in each block."""
    return ["/".join(str(columns[name][row]) for name in (*names, strip)) for row in range(len(columns[strip]))]


def _method(design: NestedDesign, fixed: Sequence[Term], random: Sequence[Term]) -> str:
    errors = ", ".join(":".join(term) for term in random)
    terms = " + ".join(":".join(term) for term in fixed)
    spread = f"; random: {errors}" if random else ""
    return f"{design}: {terms}{spread}. REML, tests and degrees of freedom by Kenward and Roger."


def _means(fit: MixedFit, term: Term, alpha: float, differences: Sequence[CellDifference]) -> tuple[CellMean, ...]:
    made = []
    for cell in product(*(fit.factor(name).levels for name in term)):
        named = dict(zip(term, cell, strict=True))
        found = contrast(fit, cell_row(fit, named))
        reach = multiplicity.t_critical(alpha, found.df) * found.se
        made.append((named, found, reach))
    letters: dict[str, str] = {}
    if len(term) == 1:
        own = [one for one in differences if one.factor == term[0] and not one.within]
        if len({(one.left, one.right) for one in own}) == len(made) * (len(made) - 1) // 2:
            order = [named[term[0]] for named, found, _ in sorted(made, key=lambda row: -row[1].estimate)]
            letters = compact_letters(order, [(one.left, one.right) for one in own if one.p_adjusted < alpha])
    return tuple(
        CellMean(
            levels=named,
            mean=found.estimate,
            se=found.se,
            df=found.df,
            lower=found.estimate - reach,
            upper=found.estimate + reach,
            letters=letters.get(named[term[0]]) if len(term) == 1 else None,
        )
        for named, found, reach in made
    )


def _differences(
    fit: MixedFit, factors: list[str], alpha: float, adjust: Adjust, control: Mapping[str, str]
) -> tuple[CellDifference, ...]:
    """Levels of every factor, over all others and inside every combination of some of them."""
    found: list[CellDifference] = []
    for name in factors:
        others = [one for one in factors if one != name]
        for size in range(len(others) + 1):
            for inside in combinations(others, size):
                for cell in product(*(fit.factor(one).levels for one in inside)):
                    within = dict(zip(inside, cell, strict=True))
                    found += _family(fit, name, within, alpha, adjust, control.get(name))
    return tuple(found)


def _family(
    fit: MixedFit, name: str, within: Mapping[str, str], alpha: float, adjust: Adjust, control: str | None
) -> list[CellDifference]:
    levels = fit.factor(name).levels
    if adjust == "dunnett" and control is not None and control not in levels:
        raise Refusal("unknown_choice", field="control", label="Control", value=control, limit=", ".join(levels))
    if adjust == "dunnett" and control is None:
        return []
    pairs = [(one, control) for one in levels if one != control] if adjust == "dunnett" else list(combinations(levels, 2))
    rows = [cell_row(fit, {**within, name: left}) - cell_row(fit, {**within, name: right or ""}) for left, right in pairs]
    made = [contrast(fit, row) for row in rows]
    t = np.array([one.estimate / one.se for one in made])
    df = np.array([one.df for one in made])
    p: Array = np.asarray(2 * stats.t.sf(np.abs(t), df), dtype=np.float64)
    critical, adjusted = _adjusted(fit, np.array(rows), t, df, p, alpha, adjust, len(levels))
    return [
        CellDifference(
            factor=name,
            left=left,
            right=right or "",
            within=dict(within),
            estimate=one.estimate,
            se=one.se,
            df=one.df,
            t=float(t[place]),
            p=float(p[place]),
            p_adjusted=float(adjusted[place]),
            lower=one.estimate - float(critical[place]) * one.se,
            upper=one.estimate + float(critical[place]) * one.se,
        )
        for place, ((left, right), one) in enumerate(zip(pairs, made, strict=True))
    ]


def _adjusted(
    fit: MixedFit, rows: Array, t: Array, df: Array, p: Array, alpha: float, adjust: Adjust, groups: int
) -> tuple[Array, Array]:
    """Critical values and adjusted p, each difference at its own degrees of freedom."""
    if adjust == "tukey":
        return (
            np.array([multiplicity.tukey_critical(alpha, groups, own) for own in df]),
            np.array([multiplicity.tukey_p(one, groups, own) for one, own in zip(t, df, strict=True)]),
        )
    if adjust == "dunnett":
        spread = rows @ fit.phi_adjusted @ rows.T
        errors = np.sqrt(np.diag(spread))
        correlation = spread / np.outer(errors, errors)
        return (
            np.array([multiplicity.dunnett_critical(alpha, correlation, float(own)) for own in df]),
            np.array([multiplicity.dunnett_p(one, correlation, float(own)) for one, own in zip(t, df, strict=True)]),
        )
    if adjust == "holm":
        return np.array([multiplicity.t_critical(alpha / len(p), own) for own in df]), multiplicity.holm(p)
    return np.array([multiplicity.t_critical(alpha, own) for own in df]), p


def _basis(parts: Array) -> Array:
    """Orthonormal basis of the column space."""
    left, size, _ = np.linalg.svd(parts, full_matrices=False)
    found: Array = left[:, size > 1e-9 * max(float(size[0]) if size.size else 0.0, 1e-300)]
    return found


def _strata(fit: MixedFit, fixed: Sequence[Term], errors: Sequence[Term]) -> tuple[StratumRow, ...]:
    """The classical table; empty where a fixed term is not wholly inside one stratum."""
    n = fit.y.size
    x, columns = design_matrix(n, fit.factors, fixed)
    before = np.ones((n, 1)) / sqrt(n)
    layers: list[tuple[str, Array]] = []
    for name, side in [*((":".join(term), incidence(fit.factors, term)) for term in errors), (RESIDUAL, np.eye(n))]:
        rest = side - before @ (before.T @ side)
        own = _basis(rest) if np.abs(rest).max() > 1e-9 else np.zeros((n, 0))
        layers.append((name, own))
        before = np.hstack([before, own])
    rows: list[StratumRow] = []
    placed = 0
    for name, own in layers:
        left, lines, spent = own.T @ fit.y, [], 0
        seen = np.zeros((own.shape[1], 0))
        for term in fixed:
            part = own.T @ x[:, columns[term]]
            part = part - seen @ (seen.T @ part)
            if not part.size or np.abs(part).max() < 1e-9:
                continue
            basis = _basis(part)
            ss = float(((basis.T @ left) ** 2).sum())
            lines.append((":".join(term), basis.shape[1], ss))
            seen = np.hstack([seen, basis])
            spent += basis.shape[1]
            placed += basis.shape[1]
        df = own.shape[1] - spent
        residual = float((left**2).sum()) - sum(ss for _, _, ss in lines)
        ms = residual / df if df > 0 else None
        for source, number, ss in lines:
            f = ss / number / ms if ms else None
            p = float(stats.f.sf(f, number, df)) if f is not None else None
            rows.append(StratumRow(stratum=name, source=source, df=number, ss=ss, ms=ss / number, f=f, p=p))
        if df > 0:
            rows.append(StratumRow(stratum=name, source="residual", df=df, ss=residual, ms=residual / df, f=None, p=None))
    wanted = sum(columns[term].stop - columns[term].start for term in fixed)
    return tuple(rows) if placed == wanted else ()
