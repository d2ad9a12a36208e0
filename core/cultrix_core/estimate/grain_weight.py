"""Weight of a thousand grains before harvest: a range, last year's strips, or a weighed sample.

The trade speaks of it in three ways, which are one number: grams per 1000 seeds, seeds per pound, and the factor of the
ear method, 1000 ÷ kernels per bushel.  g/1000 = bushel in kg × 1000 × factor.

A range (stressed – usual – excellent) is read as holding nine fields in ten: its standard deviation is
(high − low) ÷ (2 × 1.645). Weighed samples are brought to standard moisture on dry matter and
averaged; their spread carries over, and a single one is given the usual spread between samples of a field. Earlier
trials of the same farm predict a new season with the spread from season to season, s √(1 + 1/k).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, inf, sqrt
from typing import Literal

import numpy as np
import scipy

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.harvest.loads import to_standard_moisture

NINE_IN_TEN = 1.6448536269514722
SAMPLE_CV = 0.04  # one weighed sample against the field: common practice, no source
STILL_FILLING_PCT = 36.0  # grain above this moisture has not reached its weight: common practice, no source
LEAST_SEEDS = 200  # fewer make the count itself uncertain: common practice, no source
Known = Literal["range", "past", "weighed"]


@dataclass(frozen=True, slots=True, kw_only=True)
class GrainWeight:
    """Thousand-seed weight in g at standard moisture with what it is known from.

    ``relative_sd``: standard error ÷ mean; ``low_g`` and ``high_g``: the stated range, or a 90 % interval.
    """

    mean_g: float
    relative_sd: float
    df: float
    low_g: float
    high_g: float
    known: Known
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WeighedGrain:
    """A sample of counted seeds. ``moisture_pct`` None: taken to be at standard moisture."""

    seeds: int
    mass_g: float
    moisture_pct: float | None = None


def factor_to_thousand_weight_g(factor: float, *, bushel_kg: float) -> float:
    """Grams per 1000 kernels at a factor of the ear method."""
    require_positive(factor, "factor", label="Weight factor")
    return require_positive(bushel_kg, "bushel") * 1000 * factor


def thousand_weight_to_factor(weight_g: float, *, bushel_kg: float) -> float:
    """Factor of the ear method at a thousand-kernel weight in g."""
    require_positive(weight_g, "weight", label="Thousand-kernel weight")
    return weight_g / (require_positive(bushel_kg, "bushel") * 1000)


def weight_in_range(*, stressed_g: float, usual_g: float, excellent_g: float, words: str = "") -> GrainWeight:
    """Grain weight as a range; refuses one that does not rise from stressed to excellent."""
    require_positive(stressed_g, "stressed", label="Stressed grain weight", unit=" g")
    if not stressed_g < usual_g < excellent_g:
        raise Refusal(
            "too_small",
            field="usual",
            label="Usual grain weight",
            value=f"{usual_g:g}",
            limit=f"{stressed_g:g} and below {excellent_g:g}",
            unit=" g",
            remedy="The range rises from stressed over usual to excellent.",
        )
    return GrainWeight(
        mean_g=usual_g,
        relative_sd=(excellent_g - stressed_g) / (2 * NINE_IN_TEN * usual_g),
        df=inf,
        low_g=stressed_g,
        high_g=excellent_g,
        known="range",
        words=words or "a range, stressed to excellent",
    )


def thousand_weight_g(sample: WeighedGrain, *, standard_moisture_pct: float | None) -> float:
    """Grams per 1000 seeds of one sample, at standard moisture.

    Raises
    ------
    Refusal : ``too_small`` number of seeds, ``not_positive`` weight, those of bringing to standard moisture.
    """
    require_between(sample.seeds, 1, 1_000_000, "seeds", label="Seeds counted")
    require_positive(sample.mass_g, "mass", label="Weight of the sample", unit=" g")
    weight = 1000 * sample.mass_g / sample.seeds
    if sample.moisture_pct is None or standard_moisture_pct is None:
        return weight
    return to_standard_moisture(weight, moisture_pct=sample.moisture_pct, standard_pct=standard_moisture_pct)


def weight_of_samples(samples: Sequence[WeighedGrain], *, standard_moisture_pct: float | None) -> GrainWeight:
    """Grain weight from weighed samples of this crop and season."""
    if not samples:
        raise Refusal("missing", field="samples", label="A weighed sample", remedy="Count and weigh seeds of this field.")
    weights = [thousand_weight_g(sample, standard_moisture_pct=standard_moisture_pct) for sample in samples]
    mean, n = float(np.mean(weights)), len(weights)
    spread = float(np.std(weights, ddof=1)) / mean if n > 1 else SAMPLE_CV
    return _known(
        mean,
        spread / sqrt(n),
        n - 1 if n > 1 else inf,
        "weighed",
        f"{n} weighed samples" if n > 1 else f"one weighed sample, ± {100 * SAMPLE_CV:g} % as usual",
    )


def weight_of_past(seasons: Sequence[float], usual: GrainWeight) -> GrainWeight:
    """Grain weight for a new season from the farm's mean weights of earlier ones, in g.

    A single season moves the middle of the usual range and leaves its width.
    """
    if not seasons:
        return usual
    mean, k = float(np.mean(seasons)), len(seasons)
    if k == 1:
        return _known(mean, usual.relative_sd, usual.df, "past", "one earlier trial of this farm, with the usual range")
    spread = float(np.std(seasons, ddof=1)) / mean
    return _known(mean, spread * sqrt(1 + 1 / k), k - 1, "past", f"{k} earlier trials of this farm")


def _known(mean: float, relative_sd: float, df: float, known: Known, words: str) -> GrainWeight:
    reach = exp((NINE_IN_TEN if df == inf else float(scipy.stats.t.ppf(0.95, df))) * relative_sd)
    return GrainWeight(
        mean_g=mean,
        relative_sd=relative_sd,
        df=df,
        low_g=mean / reach,
        high_g=mean * reach,
        known=known,
        words=words,
    )
