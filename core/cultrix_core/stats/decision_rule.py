"""The call: gain, loss, no difference that matters, not clear yet – from one interval.

Rule. With the two-sided 1 − alpha interval [lower, upper], adjusted for its family, and m ≥ 0 the smallest difference that
anybody would act on, in this order:
1. lower > 0 → gain (beyond m when lower > m; small when upper ≤ m);
2. upper < 0 → loss (likewise);
3. m > 0 and −m ≤ lower, upper ≤ m → no difference that matters (two one-sided tests at alpha/2 a side [1]);
4. otherwise not clear yet, with the number of blocks that would settle it.
Unreplicated: no call.

References: [1] Schuirmann (1987) J. Pharmacokinet. Biopharm. 15:657–680 (from memory).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy

from cultrix_core.errors import require_between, require_finite

CallName = Literal["gain", "loss", "no_difference_that_matters", "cannot_tell_yet"]
MOST_BLOCKS = 40
WANTED_CHANCE = 0.80


@dataclass(frozen=True, slots=True, kw_only=True)
class Call:
    """A call with what it rests on. ``beyond_margin``: the interval lies beyond m; ``small``: a gain or loss inside ± m."""

    name: CallName
    beyond_margin: bool
    excludes_zero: bool
    margin: float | None
    small: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Settling:
    """Blocks for an 80 % chance of the right call; None when more than ``MOST_BLOCKS`` are needed."""

    blocks_if_margin: int | None
    blocks_if_zero: int | None
    margin: float


def make_call(lower: float, upper: float, margin: float | None) -> Call:
    """Decide from an interval, in the unit of the response. ``margin`` None or 0: rule 1 is not available."""
    require_finite(lower, "lower")
    require_finite(upper, "upper")
    if margin is not None:
        require_between(margin, 0, float(np.finfo(float).max), "margin")
    excludes_zero = lower > 0 or upper < 0
    m = margin or 0.0
    name: CallName
    inside = m > 0 and -m <= lower and upper <= m
    if lower > 0:
        name = "gain"
    elif upper < 0:
        name = "loss"
    else:
        name = "no_difference_that_matters" if inside else "cannot_tell_yet"
    beyond = (name == "gain" and lower > m) or (name == "loss" and upper < -m)
    return Call(
        name=name,
        beyond_margin=beyond and m > 0,
        excludes_zero=excludes_zero,
        margin=margin,
        small=inside and excludes_zero,
    )


def agreed(call: Call, other: Call) -> Call:
    """The call that two analyses of one layout share; where they differ it is not clear yet."""
    if call.name == other.name:
        return Call(
            name=call.name,
            beyond_margin=call.beyond_margin and other.beyond_margin,
            excludes_zero=call.excludes_zero and other.excludes_zero,
            margin=call.margin,
            small=call.small and other.small,
        )
    return Call(name="cannot_tell_yet", beyond_margin=False, excludes_zero=False, margin=call.margin)


def equivalence_p(estimate: float, se: float, df: float, margin: float) -> float:
    """p of two one-sided tests against −margin and +margin: the larger of the two."""
    above_low = float(scipy.stats.t.sf((estimate + margin) / se, df))
    below_high = float(scipy.stats.t.cdf((estimate - margin) / se, df))
    return max(above_low, below_high)


def settle_design(*, margin: float, se: float, df: float, blocks: int, critical: Callable[[float], float]) -> Settling:
    """Blocks that would settle a comparison of any blocked design.

    The squared standard error shrinks and the degrees of freedom grow with blocks: SE² × b₀ ÷ b, df × (b − 1) ÷ (b₀ − 1),
    exact for every stratum of a balanced design.

    Parameters
    ----------
    margin, se : difference that matters and standard error with ``blocks`` blocks, unit of the response.
    critical : critical value of the family by degrees of freedom.
    """

    def standing(wanted: int) -> tuple[float, float, float]:
        value = df * (wanted - 1) / (blocks - 1)
        return margin / (se * float(np.sqrt(blocks / wanted))), critical(value), value

    def at_margin(wanted: int) -> float:
        shift, limit, own = standing(wanted)
        return float(scipy.stats.nct.sf(limit, own, shift))

    def at_zero(wanted: int) -> float:
        return chance_of_no_difference(*standing(wanted))

    return Settling(blocks_if_margin=_least_blocks(at_margin), blocks_if_zero=_least_blocks(at_zero), margin=margin)


def _least_blocks(chance: Callable[[int], float]) -> int | None:
    """Least number of blocks with the wanted chance, which grows with blocks; by halving."""
    if chance(MOST_BLOCKS) < WANTED_CHANCE:
        return None
    low, high = 2, MOST_BLOCKS
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if chance(middle) >= WANTED_CHANCE else (middle + 1, high)
    return high


def chance_of_no_difference(margin_in_se: float, critical: float, df: float) -> float:
    """P(called no difference | true difference 0), averaged over the error estimate s.

    Given s the interval lies inside ±m and holds 0: |d| ≤ m − c·s·SE and |d| ≤ c·s·SE; the scale s = √(χ²_ν/ν) is integrated
    out numerically.
    """
    nodes, weights = np.polynomial.legendre.leggauss(120)
    low, high = np.sqrt(scipy.stats.chi2.ppf([1e-12, 1 - 1e-12], df) / df)
    scale = (high - low) / 2 * nodes + (high + low) / 2
    density = 2 * df * scale * scipy.stats.chi2.pdf(df * scale**2, df) * weights * (high - low) / 2
    room = np.minimum(np.maximum(margin_in_se - critical * scale, 0.0), critical * scale)
    return float(density @ (2 * scipy.special.ndtr(room) - 1))
