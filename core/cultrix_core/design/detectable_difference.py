"""The honest margin: what a design can detect, against the difference that pays.

For every comparison the verdict will make, the standard error of a difference follows from the design's own
stratum [1]:

    blocks, pairs, systematic, factorial   SED = σ √(1/n₁ + 1/n₂), error df of the layout
    split-plot (a main, b sub levels, r blocks), error mean squares on a strip basis, s_a² and s_b²:
        main      √(2 s_a²/(r b)),  (r−1)(a−1) df      sub   √(2 s_b²/(r a)),  a(r−1)(b−1) df
        sub at one main level   √(2 s_b²/r)      difference of differences   2 s_b/√r
    strip-plot: each way its own error, the crossing the third.

Power of a comparison: P(|T'| > c), T' noncentral t with df and δ/SED, c the critical value of the verdict's own
adjustment (Dunnett with a control, else Tukey), both tails counted. Of an F test: noncentral F with the least
favourable pair, λ = n δ²/(2σ²). Least detectable difference: the δ with the wanted power. Strip length enters as
variance ∝ length^−b [2].

References: [1] Cochran & Cox (1957) Experimental Designs, ch. 7; [2] Smith (1938) An empirical law describing
heterogeneity in the yields of agricultural crops, J. Agric. Sci. 28:1–23 (both from memory).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import sqrt
from typing import Literal

import numpy as np
import scipy

from cultrix_core.design.designs import Design, DesignKind, design_kind
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.stats.decision_rule import chance_of_no_difference
from cultrix_core.stats.multiplicity import dunnett_critical, t_critical, tukey_critical

WANTED = 0.80
SMITH_B = 0.5  # between 0.2 and 0.8 on most fields (from memory of Smith 1938); editable
MAIN_RATIO = 1.5  # error of main strips over that of strips, as CVs (common practice, no source); editable
MOST_BLOCKS = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class DesignSize:
    """A design in numbers.

    treatments : strips' treatments in all; blocks : replicates; main, sub : levels of the parts of a split or
    crossed design; factors : levels of each factor of a factorial in blocks; control : is there one.
    """

    design: Design
    treatments: int
    blocks: int
    main: int = 0
    sub: int = 0
    subsub: int = 0
    factors: tuple[int, ...] = ()
    control: bool = True

    @property
    def kind(self) -> DesignKind:
        """What the design is."""
        return design_kind(self.design)


@dataclass(frozen=True, slots=True, kw_only=True)
class Variation:
    """Strip-to-strip CV in % of the mean, of main strips too, at a strip length; Smith's b."""

    cv_pct: float
    cv_main_pct: float | None = None
    length_m: float | None = None
    reference_length_m: float | None = None
    smith_b: float = SMITH_B

    @property
    def shrink(self) -> float:
        """Factor on the standard deviation from the length of strips."""
        if not self.length_m or not self.reference_length_m:
            return 1.0
        return float((self.length_m / self.reference_length_m) ** (-self.smith_b / 2))

    @property
    def strip_sd(self) -> float:
        return self.cv_pct * self.shrink

    @property
    def main_sd(self) -> float:
        return (self.cv_main_pct if self.cv_main_pct is not None else MAIN_RATIO * self.cv_pct) * self.shrink


@dataclass(frozen=True, slots=True, kw_only=True)
class Stratum:
    """One family of comparisons: standard error of a difference in % of the mean, its df, and the family."""

    key: Literal["treatments", "main", "sub", "subsub", "interaction", "sub_within"]
    sed_pct: float
    df: int
    groups: int
    comparisons: int
    adjust: Literal["none", "dunnett", "tukey"]
    correlation: float = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Detection:
    """What a stratum can tell at ``alpha``: all differences in % of the mean."""

    stratum: Stratum
    critical: float
    least_detectable_pct: float
    power_at_margin: float | None
    power_at_twice: float | None
    chance_no_difference: float | None
    interval_half_pct: float


def strata(size: DesignSize, variation: Variation) -> tuple[Stratum, ...]:
    """The families of comparisons of a design, in the order the verdict makes them.

    Raises
    ------
    Refusal : ``too_few_blocks`` where no error is left, ``not_for_design`` for an unreplicated look.
    """
    if not size.kind.replicated:
        raise Refusal(
            "not_for_design",
            field="design",
            label="A margin",
            value="an unreplicated look",
            limit="it has no error to judge by",
            remedy="Repeat every treatment in blocks.",
        )
    require_positive(variation.cv_pct, "cv", label="Strip-to-strip variation", unit=" %")
    stratums = _split_strata(size, variation) if size.kind.split else _plain(size, variation)
    if any(stratum.df < 1 for stratum in stratums):
        raise Refusal("too_few_blocks", field="blocks", value=size.blocks)
    return stratums


def _family(groups: int, control: bool) -> tuple[int, Literal["none", "dunnett", "tukey"]]:
    if groups == 2:
        return 1, "none"
    return (groups - 1, "dunnett") if control else (groups * (groups - 1) // 2, "tukey")


def _stratum(key: str, sed: float, df: int, groups: int, control: bool, correlation: float = 0.5) -> Stratum:
    comparisons, adjust = _family(groups, control)
    return Stratum(
        key=key,  # type: ignore[arg-type]
        sed_pct=sed,
        df=df,
        groups=groups,
        comparisons=comparisons,
        adjust=adjust,
        correlation=correlation,
    )


def error_df(size: DesignSize) -> int:
    """Error degrees of freedom of a design whose strips have one error."""
    return size.kind.error_df(size.treatments, size.blocks)


def _plain(size: DesignSize, variation: Variation) -> tuple[Stratum, ...]:
    sigma, df = variation.strip_sd, error_df(size)
    kind = size.kind
    each = size.treatments if kind.blocking == "rows_and_columns" else size.blocks
    if len([levels for levels in size.factors if levels > 1]) > 1 and not kind.extra_control and kind.treatments is None:
        result = []
        for levels in size.factors:
            if levels > 1:
                behind = each * size.treatments / levels
                result.append(_stratum("main", sigma * sqrt(2 / behind), df, levels, size.control))
        result.append(_stratum("treatments", sigma * sqrt(2 / each), df, size.treatments, size.control))
        return (*result, _interaction(2 * sigma / sqrt(each), df))
    if kind.extra_control and size.control:
        # control twice a block: r₀ = 2r; correlation of two differences r/(r + r₀)
        return (_stratum("treatments", sigma * sqrt(1 / each + 1 / (2 * each)), df, size.treatments, True, 1 / 3),)
    return (_stratum("treatments", sigma * sqrt(2 / each), df, size.treatments, size.control),)


def _split_strata(size: DesignSize, variation: Variation) -> tuple[Stratum, ...]:
    a, b, c, r = size.main, size.sub, max(size.subsub, 1), size.blocks
    main, strip, control = variation.main_sd, variation.strip_sd, size.control
    if size.kind.crossed:
        return (
            _stratum("main", main * sqrt(2 / (r * b)), (r - 1) * (a - 1), a, control),
            _stratum("sub", main * sqrt(2 / (r * a)), (r - 1) * (b - 1), b, control),
            _interaction(2 * strip / sqrt(r), (r - 1) * (a - 1) * (b - 1)),
        )
    stratums = [
        _stratum("main", main * sqrt(2 / (r * b * c)), (r - 1) * (a - 1), a, control),
        _stratum("sub", strip * sqrt(2 / (r * a * c)), a * (r - 1) * (b - 1), b, control),
    ]
    if "subsub" in size.kind.parts:
        stratums.append(_stratum("subsub", strip * sqrt(2 / (r * a * b)), a * b * (r - 1) * (c - 1), c, control))
        stratums.append(_stratum("sub_within", strip * sqrt(2 / (r * c)), a * (r - 1) * (b - 1), b, control))
    else:
        stratums.append(_stratum("sub_within", strip * sqrt(2 / r), a * (r - 1) * (b - 1), b, control))
    return (*stratums, _interaction(2 * strip / sqrt(r * c), a * (r - 1) * (b - 1)))


def _interaction(sed: float, df: int) -> Stratum:
    """A difference of differences: does the effect of one factor depend on the other?"""
    return _stratum("interaction", sed, df, 2, True)


def critical_value(stratum: Stratum, alpha: float) -> float:
    """The verdict's own critical value for a stratum's family."""
    if stratum.adjust == "none":
        return t_critical(alpha, stratum.df)
    if stratum.adjust == "tukey":
        return tukey_critical(alpha, stratum.groups, stratum.df)
    size = stratum.comparisons
    matrix = np.full((size, size), stratum.correlation) + (1 - stratum.correlation) * np.eye(size)
    return dunnett_critical(alpha, matrix, stratum.df)


def detect(stratum: Stratum, *, alpha: float, margin_pct: float | None, wanted: float = WANTED) -> Detection:
    """Least detectable difference, power at the margin and at twice that, chance of “no difference that matters” at truth 0."""
    require_between(alpha, 0.001, 0.5, "alpha", label="Significance level")
    critical = critical_value(stratum, alpha)
    return Detection(
        stratum=stratum,
        critical=critical,
        least_detectable_pct=least_detectable(stratum.sed_pct, stratum.df, critical, wanted),
        power_at_margin=None if not margin_pct else power(margin_pct / stratum.sed_pct, stratum.df, critical),
        power_at_twice=None if not margin_pct else power(2 * margin_pct / stratum.sed_pct, stratum.df, critical),
        chance_no_difference=None
        if not margin_pct
        else chance_of_no_difference(margin_pct / stratum.sed_pct, critical, stratum.df),
        interval_half_pct=critical * stratum.sed_pct,
    )


def power(shift: float, df: float, critical: float) -> float:
    """P(|T'| > critical) with noncentrality ``shift`` = δ/SED; both tails."""
    value = float(scipy.stats.nct.sf(critical, df, shift) + scipy.stats.nct.cdf(-critical, df, shift))
    # with one or two degrees of freedom and far shifts SciPy's series gives out
    return value if np.isfinite(value) else _power_integrated(shift, df, critical)


def _power_integrated(shift: float, df: float, critical: float) -> float:
    """The same by integrating over the error estimate: given s, |d/SED| > c·s."""

    def given(share: float) -> float:
        reach = critical * sqrt(float(scipy.stats.chi2.ppf(share, df)) / df)
        return float(scipy.special.ndtr(shift - reach) + scipy.special.ndtr(-shift - reach))

    return float(scipy.integrate.quad(given, 0.0, 1.0, limit=200)[0])


def power_f(*, treatments: int, blocks: int, cv_pct: float, difference_pct: float, alpha: float) -> float:
    """Power of the F test of treatments in complete blocks: two treatments ±δ/2, the others in the middle."""
    df1, df2 = treatments - 1, (treatments - 1) * (blocks - 1)
    shift = blocks * difference_pct**2 / (2 * cv_pct**2)
    return float(scipy.stats.ncf.sf(scipy.stats.f.isf(alpha, df1, df2), df1, df2, shift))


def least_detectable(sed: float, df: float, critical: float, wanted: float = WANTED) -> float:
    """The difference, in the unit of ``sed``, found with chance ``wanted``."""
    high = critical + 4.0
    while power(high, df, critical) < wanted:
        high *= 1.5
    return float(scipy.optimize.brentq(lambda shift: power(shift, df, critical) - wanted, 0.0, high, xtol=1e-10)) * sed


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """A way to make the trial answer: what changes, the worst power afterwards, and the land it takes.

    ``amount``: blocks to have, length in m, years in all, or blocks that one treatment fewer leaves strips for.
    """

    kind: Literal["blocks", "length", "fewer", "years"]
    amount: float
    power: float
    extra_m2: float


def worst_power(size: DesignSize, variation: Variation, *, alpha: float, margin_pct: float, asked: str = "") -> float:
    """Power at the margin of the comparison asked about (a stratum's key), or the least of the main ones."""
    rows = [stratum for stratum in strata(size, variation) if stratum.key not in ("interaction", "sub_within")]
    chosen = [row for row in rows if row.key == asked] or rows
    return min(power(margin_pct / stratum.sed_pct, stratum.df, critical_value(stratum, alpha)) for stratum in chosen)


def cheapest_changes(
    size: DesignSize,
    variation: Variation,
    *,
    alpha: float,
    margin_pct: float,
    strip_area_m2: float,
    longest_m: float | None = None,
    most_blocks: int = MOST_BLOCKS,
    asked: str = "",
) -> tuple[Change, ...]:
    """The two changes that reach the wanted power on the least extra land, or get nearest to it.

    Considered: more blocks (up to ``most_blocks``, what the field holds), longer strips (up to ``longest_m``), one
    treatment fewer with its strips used as blocks, and the whole trial again for another year or two.
    """

    def reached(changed: DesignSize, varied: Variation = variation) -> float:
        return worst_power(changed, varied, alpha=alpha, margin_pct=margin_pct, asked=asked)

    units = size.treatments * size.blocks
    changes: list[Change] = []
    kind = size.kind
    if kind.blocks_asked:
        changes += _more_blocks(size, reached, strip_area_m2, min(most_blocks, MOST_BLOCKS))
        changes += [
            Change(kind="years", amount=years, power=reached(_more(size, years)), extra_m2=(years - 1) * units * strip_area_m2)
            for years in (2, 3)
        ]
    if variation.length_m and longest_m and longest_m > variation.length_m * 1.02:
        longer = reached(size, replace(variation, length_m=longest_m))
        more = units * strip_area_m2 * (longest_m / variation.length_m - 1)
        changes.append(Change(kind="length", amount=longest_m, power=longer, extra_m2=more))
    if size.treatments > 2 and kind.blocks_asked and not kind.split and kind.treatments is None and len(size.factors) < 2:
        blocks = min(MOST_BLOCKS, units // (size.treatments - 1))
        fewer = replace(size, treatments=size.treatments - 1, blocks=blocks)
        changes.append(Change(kind="fewer", amount=blocks, power=reached(fewer), extra_m2=0.0))
    good = sorted((item for item in changes if item.power >= WANTED), key=lambda item: item.extra_m2)
    rest = sorted((item for item in changes if item.power < WANTED), key=lambda item: -item.power)
    kept: list[Change] = []
    for change in [*good, *rest]:
        if all(change.kind != other.kind for other in kept):
            kept.append(change)
    return tuple(kept[:2])


def _more(size: DesignSize, times: int) -> DesignSize:
    return replace(size, blocks=min(MOST_BLOCKS, size.blocks * times))


def _more_blocks(size: DesignSize, reached: Callable[[DesignSize], float], strip_area_m2: float, most: int) -> list[Change]:
    low, high = size.blocks + 1, most
    if low > high:
        return []
    while low < high:  # power grows with blocks
        middle = (low + high) // 2
        low, high = (low, middle) if reached(replace(size, blocks=middle)) >= WANTED else (middle + 1, high)
    return [
        Change(
            kind="blocks",
            amount=high,
            power=reached(replace(size, blocks=high)),
            extra_m2=(high - size.blocks) * size.treatments * strip_area_m2,
        )
    ]
