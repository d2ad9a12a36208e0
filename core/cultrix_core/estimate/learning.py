"""Estimate against harvest: how far off, which way, and what to correct next time.

Model. For strips with both, the logarithm of estimate ÷ harvest; its mean is the bias and its spread gives limits of
agreement, mean ± 1.96 s, within which nine strips in ten and a half will fall [1]. Both are told as percent. Strips of one
trial share the grain weight that was guessed and the person who counted, so the bias is judged over trials where there
are two or more, and only over strips, which says less, where there is one.

Reference: [1] Bland & Altman (1986) Lancet 327:307–310 (from memory); on the logarithm as in their section on ratios.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, log, sqrt

import numpy as np
import scipy

from cultrix_core.errors import Refusal, require_positive
from cultrix_core.estimate.propagate import LEVEL_ALPHA

LIMITS = 1.96
LEAST_PAIRS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """A strip with both, in the same unit per area, at the same moisture."""

    trial: str
    strip: str
    estimate: float
    harvest: float

    @property
    def log_ratio(self) -> float:
        """ln(estimate ÷ harvest); refuses yields that are not positive."""
        require_positive(self.estimate, "estimate")
        require_positive(self.harvest, "harvest")
        return log(self.estimate / self.harvest)


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """Mean difference, its standard deviation, and the limits of agreement, in the unit of the differences."""

    mean: float
    sd: float
    lower: float
    upper: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Learned:
    """What pairs say. Fractions: bias 0.08 is an estimate 8 % over the harvest. ``correction``: factor for next time.

    ``shown``: whether the interval of the bias leaves 0 out; ``over_trials``: whether it rests on trials.
    """

    pairs: int
    trials: int
    bias: float
    lower: float
    upper: float
    limit_low: float
    limit_high: float
    correction: float
    shown: bool
    over_trials: bool


def limits_of_agreement(differences: Sequence[float]) -> Limits:
    """Mean difference ± 1.96 standard deviations; refuses fewer than two."""
    if len(differences) < 2:
        raise Refusal("too_small", field="differences", label="Differences", value=len(differences), limit=2)
    mean = float(np.mean(differences))
    squares = float(np.sum((np.asarray(differences) - mean) ** 2))
    return _limits_of_sums([PastPairs(number=len(differences), mean=mean, squares=squares)])


@dataclass(frozen=True, slots=True, kw_only=True)
class PastPairs:
    """Pairs of one trial that are not at hand any more: how many, mean of ln(estimate ÷ harvest), squares about that mean."""

    number: int
    mean: float
    squares: float


def sums_of(pairs: Sequence[Pair]) -> PastPairs:
    """What is kept of a trial's pairs; refuses none at all."""
    if not pairs:
        raise Refusal("too_small", field="pairs", label="Pairs", value=0, limit=1)
    ratios = [pair.log_ratio for pair in pairs]
    mean = float(np.mean(ratios))
    return PastPairs(number=len(ratios), mean=mean, squares=float(sum((ratio - mean) ** 2 for ratio in ratios)))


def _limits_of_sums(trials: Sequence[PastPairs]) -> Limits:
    """The limits of agreement of all pairs together, from the sums of each trial."""
    number = sum(trial.number for trial in trials)
    mean = sum(trial.number * trial.mean for trial in trials) / number
    squares = sum(trial.squares + trial.number * (trial.mean - mean) ** 2 for trial in trials)
    sd = sqrt(squares / (number - 1))
    return Limits(mean=mean, sd=sd, lower=mean - LIMITS * sd, upper=mean + LIMITS * sd)


def learned_from(pairs: Sequence[Pair], *, past: Sequence[PastPairs] = (), alpha: float = LEVEL_ALPHA) -> Learned | None:
    """Bias, limits and correction; None with fewer than three strips.

    ``past``: trials of which only sums are left; the answer is the same as with their pairs.
    """
    by_trial: dict[str, list[Pair]] = {}
    for pair in pairs:
        by_trial.setdefault(pair.trial, []).append(pair)
    trials = [*map(sums_of, by_trial.values()), *past]
    number = sum(trial.number for trial in trials)
    if number < LEAST_PAIRS:
        return None
    limits = _limits_of_sums(trials)
    over_trials = len(trials) > 1
    values = [trial.mean for trial in trials] if over_trials else [pair.log_ratio for pair in pairs]
    if not values:
        return None  # the strips of a single trial that is gone say nothing of themselves
    middle, n = float(np.mean(values)), len(values)
    half = float(scipy.stats.t.ppf(1 - alpha / 2, n - 1)) * float(np.std(values, ddof=1)) / sqrt(n)
    return Learned(
        pairs=number,
        trials=len(trials),
        bias=exp(middle) - 1,
        lower=exp(middle - half) - 1,
        upper=exp(middle + half) - 1,
        limit_low=exp(limits.lower) - 1,
        limit_high=exp(limits.upper) - 1,
        correction=exp(-middle),
        shown=abs(middle) > half,
        over_trials=over_trials,
    )
