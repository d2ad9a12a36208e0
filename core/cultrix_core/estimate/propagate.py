"""From places to the yield of a strip, with an interval and the share each part has in it.

Model. Places are drawn on a strip, pieces inside places (two-stage sampling [1]). A place gives z = units per m² × mean
product of its pieces; the strip's estimate is the mean of z over its n places times the grain weight w. Relative variances
add up (delta method on the logarithm [2]):

    CV²(estimate) = CV²(z) / n  +  CV²(w)

CV²(z) is pooled over the strips of the trial from the spread of places inside strips, so it holds the number of units,
the pieces, and how the two go together; it is never taken smaller than what the pieces alone bring. Their share is
CV²(pieces) (1 − m/N) / (n m) with m pieces measured out of N on the place; what is left is from place to place. Where
every strip has a single place, the usual variation from count to count stands in for what cannot be seen, and the
estimate says so. Degrees of freedom after Satterthwaite; the interval is estimate × exp(± t √CV²), which cannot fall
below zero.

References: [1] Cochran (1977), Sampling Techniques, chapters 10 and 11; [2] Casella & Berger (2002), Statistical Inference,
section 5.5.4 (both from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import exp, inf, sqrt

import scipy

from cultrix_core.errors import Refusal
from cultrix_core.estimate.grain_weight import GrainWeight
from cultrix_core.estimate.spots import Spot
from cultrix_core.stand.places import USUAL_CV

USUAL_PIECE_CV = 0.2  # piece to piece where only one was measured: common practice, no source
LEVEL_ALPHA = 0.10
SEEDS_TO_KG_PER_HA = 0.01  # seeds/m² × g per 1000 seeds ÷ 100 = kg/ha
KG_M2_TO_KG_HA = 10_000.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Variation:
    """Relative variances of a trial's samples. ``df`` 0 with ``assumed``: the usual value stands in for one not seen."""

    place_var: float
    place_df: int
    place_assumed: bool
    piece_var: float
    piece_df: int
    piece_assumed: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """One part of the uncertainty: its relative standard error and its share of the variance, in fractions."""

    key: str
    name: str
    relative_se: float
    share: float
    assumed: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class StripEstimate:
    """Estimate of one strip in kg/ha with its interval. ``per_m2``: seeds or kg per m².

    ``stressed`` and ``excellent``: the same seeds at the ends of the range of grain weight, None where pieces are weighed.
    ``product_of_means``: what averaging rows, lengths and numbers first would have said, in kg/ha.
    """

    value: float
    lower: float
    upper: float
    relative_se: float
    df: float
    spots: int
    pieces: int
    per_m2: float
    parts: tuple[Part, ...]
    product_of_means: float
    stressed: float | None
    excellent: float | None
    by_eye: int

    @property
    def half_frac(self) -> float:
        """Half the interval as a fraction of the estimate, upwards."""
        return self.upper / self.value - 1 if self.value else 0.0


def variation_of(strips: Mapping[str, Sequence[Spot]]) -> Variation:
    """Pooled relative variances from place to place inside strips, and from piece to piece inside places."""
    place_sum, place_df = 0.0, 0
    piece_sum, piece_df = 0.0, 0
    for spots in strips.values():
        values = [spot.per_m2 for spot in spots]
        mean = sum(values) / len(values) if values else 0.0
        if mean > 0 and len(values) > 1:
            place_sum += sum((value / mean - 1) ** 2 for value in values)
            place_df += len(values) - 1
        for spot in spots:
            own = spot.per_piece
            if own > 0 and spot.piece_df > 0:
                piece_sum += sum((piece / own - 1) ** 2 for piece in spot.pieces)
                piece_df += spot.piece_df
    piece_var = piece_sum / piece_df if piece_df else USUAL_PIECE_CV**2
    weighed = all(spot.counted == 1 and len(spot.pieces) == 1 for spots in strips.values() for spot in spots)
    piece_var = 0.0 if weighed else piece_var
    typical = _typical_piece_part(strips, piece_var)
    seen = place_df > 0 and place_sum > 0  # places alike to the last ear are no proof that places do not differ
    return Variation(
        place_var=max(place_sum / place_df, typical) if seen else USUAL_CV**2 + typical,
        place_df=place_df if seen else 0,
        place_assumed=not seen,
        piece_var=piece_var,
        piece_df=piece_df,
        piece_assumed=not piece_df and not weighed,
    )


def _typical_piece_part(strips: Mapping[str, Sequence[Spot]], piece_var: float) -> float:
    parts = [_piece_part(spot, piece_var) for spots in strips.values() for spot in spots]
    return sum(parts) / len(parts) if parts else 0.0


def _piece_part(spot: Spot, piece_var: float) -> float:
    """Relative variance of a place's mean piece; pieces are part of those that stand there."""
    measured = len(spot.pieces)
    left = max(1 - measured / spot.counted, 0.0) if spot.counted else 0.0
    return piece_var * left / measured


def strip_estimate(
    spots: Sequence[Spot], variation: Variation, weight: GrainWeight | None, *, alpha: float = LEVEL_ALPHA
) -> StripEstimate:
    """Yield of one strip from its places.

    Parameters
    ----------
    variation : of all strips of the trial, see ``variation_of``.
    weight : grain weight where pieces are counted in seeds; None where they are weighed.

    Raises
    ------
    Refusal : ``missing`` without a place.
    """
    if not spots:
        raise Refusal("missing", field="samples", label="A sample", remedy="Count at least one place on the strip.")
    n = len(spots)
    per_m2 = sum(spot.per_m2 for spot in spots) / n
    to_yield = KG_M2_TO_KG_HA if weight is None else weight.mean_g * SEEDS_TO_KG_PER_HA
    of_pieces = min(sum(_piece_part(spot, variation.piece_var) for spot in spots) / n**2, variation.place_var / n)
    of_places = variation.place_var / n - of_pieces
    of_weight = weight.relative_sd**2 if weight else 0.0
    total = of_pieces + of_places + of_weight
    df = _satterthwaite(((variation.place_var / n, variation.place_df or inf), (of_weight, weight.df if weight else inf)))
    reach = exp(quantile(alpha, df) * sqrt(total))
    value = per_m2 * to_yield
    return StripEstimate(
        value=value,
        lower=value / reach,
        upper=value * reach,
        relative_se=sqrt(total),
        df=df,
        spots=n,
        pieces=sum(len(spot.pieces) for spot in spots),
        per_m2=per_m2,
        parts=_parts(of_places, of_pieces, of_weight, variation, weight),
        product_of_means=product_of_means(spots) * to_yield,
        stressed=per_m2 * weight.low_g * SEEDS_TO_KG_PER_HA if weight else None,
        excellent=per_m2 * weight.high_g * SEEDS_TO_KG_PER_HA if weight else None,
        by_eye=sum(1 for spot in spots if spot.by_eye),
    )


def product_of_means(spots: Sequence[Spot]) -> float:
    """Mean number per m² times the mean of each factor over all pieces, per m²."""
    product = sum(spot.number_per_m2 for spot in spots) / len(spots)
    for column in zip(*(factors for spot in spots for factors in spot.factors), strict=False):
        product *= sum(column) / len(column)
    return product


def quantile(alpha: float, df: float) -> float:
    """Two-sided quantile of Student's t, of the normal where the degrees of freedom have no end."""
    return float(scipy.stats.norm.ppf(1 - alpha / 2) if df == inf else scipy.stats.t.ppf(1 - alpha / 2, df))


def _satterthwaite(parts: Sequence[tuple[float, float]]) -> float:
    total = sum(variance for variance, _ in parts)
    below = sum(variance**2 / df for variance, df in parts if df != inf)
    return total**2 / below if below else inf


def _parts(places: float, pieces: float, weight: float, variation: Variation, grain: GrainWeight | None) -> tuple[Part, ...]:
    total = places + pieces + weight or 1.0
    result = [("places", "from place to place", places, variation.place_assumed)]
    if pieces:
        result.append(("pieces", "from piece to piece", pieces, variation.piece_assumed))
    if grain:
        result.append(("weight", f"grain weight: {grain.words}", weight, grain.known == "range"))
    return tuple(
        Part(key=key, name=name, relative_se=sqrt(variance), share=variance / total, assumed=assumed)
        for key, name, variance, assumed in result
    )
