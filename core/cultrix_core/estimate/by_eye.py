"""What choosing by eye did: samples taken by eye beside drawn ones of the same strips.

Model. On every strip that has both, ln(mean by eye ÷ mean drawn) of seeds or weight per area; the mean over strips with
its t interval, strips being the units. Told as percent.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import exp, log, sqrt

import numpy as np
import scipy

from cultrix_core.estimate.propagate import LEVEL_ALPHA
from cultrix_core.estimate.spots import Spot


@dataclass(frozen=True, slots=True, kw_only=True)
class EyeEffect:
    """By eye over drawn, less 1, as fractions; limits None with a single strip."""

    strips: int
    over: float
    lower: float | None
    upper: float | None


def eye_effect(strips: Mapping[str, Sequence[Spot]], *, alpha: float = LEVEL_ALPHA) -> EyeEffect | None:
    """The effect over strips sampled both ways; None without such a strip."""
    ratios = []
    for spots in strips.values():
        eye = [spot.per_m2 for spot in spots if spot.by_eye]
        drawn = [spot.per_m2 for spot in spots if not spot.by_eye]
        if eye and drawn and sum(eye) > 0 and sum(drawn) > 0:
            ratios.append(log(float(np.mean(eye)) / float(np.mean(drawn))))
    if not ratios:
        return None
    mean, n = float(np.mean(ratios)), len(ratios)
    if n == 1:
        return EyeEffect(strips=1, over=exp(mean) - 1, lower=None, upper=None)
    half = float(scipy.stats.t.ppf(1 - alpha / 2, n - 1)) * float(np.std(ratios, ddof=1)) / sqrt(n)
    return EyeEffect(strips=n, over=exp(mean) - 1, lower=exp(mean - half) - 1, upper=exp(mean + half) - 1)
