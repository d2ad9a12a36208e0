"""Means and families of differences of a mixed fit: marginal, simple, adjusted, with letters.

Means of every set of factors are marginal, with equal weight on cells; differences are taken between levels of one factor,
over all others and inside each combination of the others. A family is the differences of one factor at one place.

Standard errors and degrees of freedom are Kenward and Roger's, or those of the classical strata where a ``Strata`` is given.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, product

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import Refusal
from cultrix_core.stats import multiplicity
from cultrix_core.stats.letters import compact_letters
from cultrix_core.stats.linear_model import Term
from cultrix_core.stats.mixed_model import Contrast, MixedFit, cell_row, contrast
from cultrix_core.stats.multiplicity import Adjust
from cultrix_core.stats.strata import Strata

Array = NDArray[np.float64]
Judge = Callable[[Array], Contrast]


@dataclass(frozen=True, slots=True, kw_only=True)
class CellMean:
    """Mean of one combination of levels of some factors, the others averaged; ``n`` strips (or samples) in it."""

    levels: Mapping[str, str]
    n: int
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
    critical: float


def judge_of(fit: MixedFit, strata: Strata | None = None) -> Judge:
    """How a combination of β is judged: by Kenward and Roger, or by the strata it lies in."""

    def judge(row: Array) -> Contrast:
        classical = strata.contrast(row) if strata is not None and strata.rows else None
        return contrast(fit, row) if classical is None else classical

    return judge


def means_of(
    fit: MixedFit, term: Term, alpha: float, differences: Sequence[CellDifference], judge: Judge
) -> tuple[CellMean, ...]:
    """Means of every cell of a set of factors; letters where all its pairs were compared."""
    made = []
    for cell in product(*(fit.factor(name).levels for name in term)):
        named = dict(zip(term, cell, strict=True))
        result = judge(cell_row(fit, named))
        made.append((named, result, multiplicity.t_critical(alpha, result.df) * result.se))
    letters = _letters(term, made, alpha, differences)
    return tuple(
        CellMean(
            levels=named,
            n=_count(fit, named),
            mean=found.estimate,
            se=found.se,
            df=found.df,
            lower=found.estimate - reach,
            upper=found.estimate + reach,
            letters=letters.get(named[term[0]]) if len(term) == 1 else None,
        )
        for named, found, reach in made
    )


def _count(fit: MixedFit, levels: Mapping[str, str]) -> int:
    there = np.ones(fit.y.size, dtype=bool)
    for name, level in levels.items():
        there &= np.array(fit.factor(name).labels) == level
    return int(there.sum())


def _letters(
    term: Term, made: Sequence[tuple[dict[str, str], Contrast, float]], alpha: float, differences: Sequence[CellDifference]
) -> dict[str, str]:
    if len(term) != 1:
        return {}
    cell_differences = [difference for difference in differences if difference.factor == term[0] and not difference.within]
    if (
        len({(cell_difference.left, cell_difference.right) for cell_difference in cell_differences})
        != len(made) * (len(made) - 1) // 2
    ):
        return {}
    order = [named[term[0]] for named, result, _ in sorted(made, key=lambda row: -row[1].estimate)]
    return compact_letters(
        order,
        [
            (cell_difference.left, cell_difference.right)
            for cell_difference in cell_differences
            if cell_difference.p_adjusted < alpha
        ],
    )


def every_place(fit: MixedFit, factor: str, factors: Sequence[str]) -> list[dict[str, str]]:
    """Where levels of a factor are compared: over all others, then inside each combination of some of them."""
    others = [name for name in factors if name != factor]
    return [
        dict(zip(inside, cell, strict=True))
        for size in range(len(others) + 1)
        for inside in combinations(others, size)
        for cell in product(*(fit.factor(name).levels for name in inside))
    ]


def family(
    fit: MixedFit, name: str, within: Mapping[str, str], alpha: float, adjust: Adjust, control: str | None, judge: Judge
) -> list[CellDifference]:
    """All differences of a factor at one place, or those to the control with ``dunnett`` (none without a control)."""
    levels = fit.factor(name).levels
    if adjust == "dunnett" and control is not None and control not in levels:
        raise Refusal("unknown_choice", field="control", label="Control", value=control, limit=", ".join(levels))
    if adjust == "dunnett" and control is None:
        return []
    pairs = [(level, control) for level in levels if level != control] if adjust == "dunnett" else list(combinations(levels, 2))
    rows = [cell_row(fit, {**within, name: left}) - cell_row(fit, {**within, name: right or ""}) for left, right in pairs]
    contrasts = [judge(row) for row in rows]
    t = np.array([item.estimate / item.se for item in contrasts])
    df = np.array([round(item.df, 8) for item in contrasts])
    p: Array = np.asarray(2 * scipy.stats.t.sf(np.abs(t), df), dtype=np.float64)
    spread = np.array(rows) @ fit.phi_adjusted @ np.array(rows).T
    errors = np.sqrt(np.diag(spread))
    critical, adjusted = multiplicity.family_limits(t, df, spread / np.outer(errors, errors), alpha, adjust, len(levels))
    return [
        CellDifference(
            factor=name,
            left=left,
            right=right or "",
            within=dict(within),
            estimate=item.estimate,
            se=item.se,
            df=item.df,
            t=float(t[place]),
            p=float(p[place]),
            p_adjusted=float(adjusted[place]),
            lower=item.estimate - float(critical[place]) * item.se,
            upper=item.estimate + float(critical[place]) * item.se,
            critical=float(critical[place]),
        )
        for place, ((left, right), item) in enumerate(zip(pairs, contrasts, strict=True))
    ]
