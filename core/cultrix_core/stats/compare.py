"""Treatments compared in strips: means, differences, letters, intervals.

Model. Complete blocks: response = block + treatment + error, blocks fixed. Completely randomised:
response = treatment + error. A second look at layouts that alternate without a draw has a straight drift along the
field in the place of blocks: response = treatment + slope × place + error. Means are marginal means with equal weight
on blocks, so a lost strip shifts nobody's mean by its block. An unreplicated trial has no error term and gets a
description only.

Notation follows ``linear_model`` and ``multiplicity``; a difference is left − right.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_between
from cultrix_core.stats import multiplicity
from cultrix_core.stats.checks import Checks, check
from cultrix_core.stats.letters import compact_letters
from cultrix_core.stats.linear_model import Column, Covariate, Factor, FixedFit, TermTest, fit_fixed, term_tests
from cultrix_core.stats.multiplicity import Adjust
from cultrix_core.stats.polynomials import PolynomialTest, of_fixed, polynomials

Design = Literal["rcbd", "crd", "latin", "trend"]
Array = NDArray[np.float64]
LEAST_AMOUNTS = 3  # fewer have no shape


UNREPLICATED = (
    "One strip a treatment leaves nothing to measure the field's own variation with: "
    "the means are described, no probability is attached."
)


EXACT = "The strips agree exactly within blocks, so there is no variation to judge by: check the records."


@dataclass(frozen=True, slots=True, kw_only=True)
class StripResponse:
    """One strip: its block (ignored in a completely randomised design), treatment and response.

    ``row`` is the second blocking of a Latin square, whose columns are the blocks. ``label`` is what a reader
    calls it, "Strip 4"; without labels rows are counted. ``position``: its place across the field;
    ``covariate``: an amount measured on it before treatments began, used when every strip has one.
    """

    treatment: str
    response: float
    block: str = ""
    row: str = ""
    label: str = ""
    position: float | None = None
    covariate: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Mean:
    """Marginal mean of a treatment, in the unit of the response."""

    level: str
    n: int
    mean: float
    se: float | None
    df: float | None
    lower: float | None
    upper: float | None
    letters: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """left − right. ``p`` unadjusted; ``p_adjusted``, ``lower``, ``upper`` follow the family."""

    left: str
    right: str
    estimate: float
    se: float | None
    df: float | None
    t: float | None
    p: float | None
    p_adjusted: float | None
    lower: float | None
    upper: float | None
    critical: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """Everything the data say about the treatments of one trial."""

    design: Design
    method: str
    n: int
    alpha: float
    replicated: bool
    anova: tuple[TermTest, ...]
    residual_ss: float
    residual_df: int
    mse: float | None
    means: tuple[Mean, ...]
    pairs: tuple[Difference, ...]
    to_control: tuple[Difference, ...]
    pairs_adjust: Adjust
    control_adjust: Adjust
    cv_percent: float | None
    sed: float | None
    lsd: float | None
    checks: Checks | None
    warnings: tuple[str, ...]
    polynomials: tuple[PolynomialTest, ...] = ()


def compare(
    strips: Sequence[StripResponse],
    *,
    design: Design = "rcbd",
    alpha: float = 0.10,
    control: str | None = None,
    levels: Sequence[str] | None = None,
    pairs_adjust: Adjust = "tukey",
    control_adjust: Adjust = "dunnett",
    amounts: Mapping[str, float] | None = None,
) -> Comparison:
    """Compare treatments over strips.

    Parameters
    ----------
    strips : one row a strip that has a response; lost strips are simply absent.
    alpha : two-sided level of intervals and letters, 0 < alpha < 0.5.
    control : level that ``to_control`` compares with; None leaves it empty.
    amounts : amount by level, where levels are amounts of one thing: gives the polynomial contrasts.

    Raises
    ------
    Refusal : ``no_response``, ``too_few_treatments``, ``not_finite``, ``unknown_choice`` (control),
        ``not_estimable`` when no blocks link two treatments, ``not_replicates`` when a named strip comes twice.
    """
    require_between(alpha, 0.001, 0.5, "alpha", label="Significance level")
    _require_strips(strips)
    treatment = _treatment_of(strips, levels, control)
    factors, terms, warnings = _with_covariate(strips, design, *_model(strips, design, treatment))
    fit = fit_fixed([strip.response for strip in strips], factors, terms)
    replicated = fit.df_error > 0 and len(strips) > len(treatment.levels)
    if not replicated or fit.mse == 0:
        warnings.append(EXACT if replicated else UNREPLICATED)
    _require_linked(fit, treatment)
    pairs = _differences(fit, list(combinations(treatment.levels, 2)), alpha, pairs_adjust, replicated)
    against = [] if control is None else [(level, control) for level in treatment.levels if level != control]
    to_control = _differences(fit, against, alpha, control_adjust, replicated) if against else ()
    means = _means(fit, treatment, alpha, pairs, replicated)
    grand = float(np.mean(fit.y))
    sed = _typical_sed(pairs)
    t_limit = multiplicity.t_critical(alpha, fit.df_error) if replicated else None
    return Comparison(
        design=design,
        method=_method(design, pairs_adjust, control_adjust if control else None, replicated, ("covariate",) in terms),
        n=len(strips),
        alpha=alpha,
        replicated=replicated,
        anova=term_tests(fit),
        residual_ss=fit.sse,
        residual_df=fit.df_error,
        mse=fit.mse,
        means=means,
        pairs=pairs,
        to_control=to_control,
        pairs_adjust=pairs_adjust,
        control_adjust=control_adjust,
        cv_percent=100 * float(np.sqrt(fit.mse)) / abs(grand) if fit.mse and grand else None,
        sed=sed,
        lsd=sed * t_limit if sed is not None and t_limit is not None else None,
        checks=_checked(fit, strips) if replicated else None,
        warnings=tuple(warnings),
        polynomials=_polynomials(fit, treatment, amounts) if replicated and fit.mse else (),
    )


def _with_covariate(
    strips: Sequence[StripResponse], design: Design, factors: list[Column], terms: list[tuple[str, ...]], warnings: list[str]
) -> tuple[list[Column], list[tuple[str, ...]], list[str]]:
    """The model with the covariate, where every strip has one."""
    measured = [strip.covariate for strip in strips if strip.covariate is not None]
    if len(measured) < len(strips) or design == "trend":
        return factors, terms, warnings
    return [*factors, Covariate(name="covariate", values=tuple(measured))], [*terms, ("covariate",)], warnings


def _checked(fit: FixedFit, strips: Sequence[StripResponse]) -> Checks:
    """The checks with the names and places of strips, as far as all have them."""
    labels = [strip.label for strip in strips] if all(strip.label for strip in strips) else ()
    positions = [strip.position for strip in strips if strip.position is not None]
    return check(fit, "treatment", labels, positions if len(positions) == len(strips) else ())


def _polynomials(fit: FixedFit, treatment: Factor, amounts: Mapping[str, float] | None) -> tuple[PolynomialTest, ...]:
    """Contrasts over the amounts of the levels, where all have one and no two the same."""
    values = [amounts[level] for level in treatment.levels if level in amounts] if amounts else []
    if len(values) < len(treatment.levels) or len(set(values)) < len(values) or len(values) < LEAST_AMOUNTS:
        return ()
    return tuple(polynomials(values, of_fixed(fit, "treatment")))


def _require_strips(strips: Sequence[StripResponse]) -> None:
    """One response a strip: readings inside a strip would pass for replicates."""
    label, times = next(iter(Counter(strip.label for strip in strips if strip.label).most_common(1)), ("", 1))
    if times > 1:
        raise Refusal("not_replicates", field="response", label=label, value=times)


def _treatment_of(strips: Sequence[StripResponse], levels: Sequence[str] | None, control: str | None) -> Factor:
    treatment = Factor.of("treatment", [strip.treatment for strip in strips], levels)
    if not strips:
        raise Refusal("no_response", field="response")
    if len(treatment.levels) < 2:
        raise Refusal("too_few_treatments", field="treatment", value=len(treatment.levels))
    if control is not None and control not in treatment.levels:
        raise Refusal("unknown_choice", field="control", label="Control", value=control, limit=", ".join(treatment.levels))
    return treatment


def _model(
    strips: Sequence[StripResponse], design: Design, treatment: Factor
) -> tuple[list[Column], list[tuple[str, ...]], list[str]]:
    warnings: list[str] = []
    if design == "crd":
        return [treatment], [("treatment",)], warnings
    if design == "trend":
        place = Covariate(name="place", values=tuple(strip.position or 0.0 for strip in strips))
        return [treatment, place], [("treatment",), ("place",)], warnings
    block = Factor.of("block", [strip.block for strip in strips])
    if design == "latin":
        row = Factor.of("row", [strip.row for strip in strips])
        return [row, block, treatment], [("row",), ("block",), ("treatment",)], warnings
    if len({(strip.block, strip.treatment) for strip in strips}) < len(strips):
        warnings.append("A treatment stands more than once in a block; each row is taken as a strip of its own.")
    if len(block.levels) == 2 and len(treatment.levels) == 2:
        warnings.append("Two blocks of two strips leave one degree of freedom: intervals are very wide.")
    if len(block.levels) < 2:
        if len(strips) > len(treatment.levels):
            warnings.append("There is one block only, so the strips are compared as if completely randomised.")
        return [treatment], [("treatment",)], warnings
    return [block, treatment], [("block",), ("treatment",)], warnings


def _require_linked(fit: FixedFit, treatment: Factor) -> None:
    rows = fit.mean_rows("treatment")
    contrasts = rows[1:] - rows[0]
    linked = fit.estimable(contrasts)
    if not bool(np.all(linked)):
        first = int(np.argmin(linked)) + 1
        raise Refusal("not_estimable", field="treatment", value=f"{treatment.levels[0]} and {treatment.levels[first]}")


def _means(fit: FixedFit, treatment: Factor, alpha: float, pairs: tuple[Difference, ...], replicated: bool) -> tuple[Mean, ...]:
    rows = fit.mean_rows("treatment")
    estimates = rows @ fit.beta
    codes = treatment.codes()
    judged = bool(replicated and fit.mse)
    letters: dict[str, str] = {}
    if judged:
        order = [treatment.levels[place] for place in np.argsort(-estimates, kind="stable")]
        letters = compact_letters(
            order, [(pair.left, pair.right) for pair in pairs if pair.p_adjusted is not None and pair.p_adjusted < alpha]
        )
    means = []
    for place, level in enumerate(treatment.levels):
        se = reach = None
        if judged:
            se = float(np.sqrt((fit.mse or 0.0) * rows[place] @ fit.cov_unscaled @ rows[place]))
            reach = multiplicity.t_critical(alpha, fit.df_error) * se
        mean = float(estimates[place])
        means.append(
            Mean(
                level=level,
                n=int(np.sum(codes == place)),
                mean=mean,
                se=se,
                df=fit.df_error if judged else None,
                lower=None if reach is None else mean - reach,
                upper=None if reach is None else mean + reach,
                letters=letters.get(level),
            )
        )
    return tuple(means)


def _differences(
    fit: FixedFit, which: list[tuple[str, str]], alpha: float, adjust: Adjust, replicated: bool
) -> tuple[Difference, ...]:
    levels = fit.factor("treatment").levels
    mean_rows = fit.mean_rows("treatment")
    rows = np.array([mean_rows[levels.index(left)] - mean_rows[levels.index(right)] for left, right in which])
    estimates = rows @ fit.beta
    if not replicated or not fit.mse:
        return tuple(
            Difference(
                left=left,
                right=right,
                estimate=float(estimate),
                se=None,
                df=None,
                t=None,
                p=None,
                p_adjusted=None,
                lower=None,
                upper=None,
                critical=None,
            )
            for (left, right), estimate in zip(which, estimates, strict=True)
        )
    covariance = fit.mse * rows @ fit.cov_unscaled @ rows.T
    errors = np.sqrt(np.diag(covariance))
    t_values = estimates / errors
    p = 2 * scipy.stats.t.sf(np.abs(t_values), fit.df_error)
    df = np.full(t_values.size, float(fit.df_error))
    correlation = covariance / np.outer(errors, errors)
    critical, adjusted = multiplicity.family_limits(t_values, df, correlation, alpha, adjust, len(levels))
    return tuple(
        Difference(
            left=left,
            right=right,
            estimate=float(estimates[i]),
            se=float(errors[i]),
            df=fit.df_error,
            t=float(t_values[i]),
            p=float(p[i]),
            p_adjusted=float(adjusted[i]),
            lower=float(estimates[i] - critical[i] * errors[i]),
            upper=float(estimates[i] + critical[i] * errors[i]),
            critical=float(critical[i]),
        )
        for i, (left, right) in enumerate(which)
    )


def _typical_sed(pairs: tuple[Difference, ...]) -> float | None:
    errors = [pair.se for pair in pairs if pair.se is not None]
    return float(np.sqrt(np.mean(np.square(errors)))) if errors else None


_ADJUST_WORDS = {"none": "unadjusted", "tukey": "Tukey", "dunnett": "Dunnett", "holm": "Holm"}


def _method(design: Design, pairs: Adjust, control: Adjust | None, replicated: bool, adjusted: bool) -> str:
    if not replicated:
        return "Description only: one strip a treatment."
    model = {
        "rcbd": "response = block + treatment, blocks fixed",
        "latin": "response = row + column + treatment, rows and columns fixed",
        "crd": "response = treatment",
        "trend": "response = treatment + a straight drift along the field",
    }[design]
    model = model.replace("treatment", "treatment + slope × covariate", 1) if adjusted else model
    text = f"{model}; least squares; all pairs {_ADJUST_WORDS[pairs]}"
    return text + (f"; differences to the control {_ADJUST_WORDS[control]}" if control else "")
