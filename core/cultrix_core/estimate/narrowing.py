"""The cheapest way to a narrower estimate: more pieces, another place, or a weighed sample.

Each way is reckoned with the same variances as the estimate; what counts is how much of the interval's half-width a
minute of work takes off. Minutes are common practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import exp, inf, sqrt

from cultrix_core.estimate.grain_weight import SAMPLE_CV, GrainWeight
from cultrix_core.estimate.methods import Method
from cultrix_core.estimate.propagate import LEVEL_ALPHA, Variation, quantile, strip_estimate
from cultrix_core.estimate.spots import Spot

PLACE_MINUTES = 5.0
PIECE_MINUTES = 1.0
WEIGHED_MINUTES = 15.0
MORE_PIECES = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """One way, its minutes, and the half-width it leads to as a fraction of the estimate."""

    key: str
    words: str
    minutes: float
    half_frac: float
    gain_per_minute: float


def ways_to_narrow(
    method: Method,
    spots: Sequence[Spot],
    variation: Variation,
    weight: GrainWeight | None,
    *,
    alpha: float = LEVEL_ALPHA,
    where: str = "",
) -> tuple[Way, ...]:
    """Ways that narrow the interval of one strip, the most for a minute's work first; ``where`` such as “on strip 7”."""
    now = strip_estimate(spots, variation, weight, alpha=alpha)
    if not now.value:
        return ()
    fewest = min(spots, key=lambda spot: len(spot.pieces))
    drawn = max(len(fewest.pieces), 1)
    at = f" {where}" if where else ""
    ways = []
    one_more = (
        "one more cut" if not method.counted else f"one more place of {drawn} {method.pieces if drawn > 1 else method.piece}"
    )
    minutes = PLACE_MINUTES + (PIECE_MINUTES * (len(fewest.weighings) or drawn) if method.counted else 0)
    ways.append(
        ("place", f"{one_more}{at}", minutes, strip_estimate([*spots, fewest], variation, weight, alpha=alpha).half_frac)
    )
    room = sum(max(spot.counted - len(spot.pieces), 0) for spot in spots)
    more = min(MORE_PIECES, room)
    if method.counted and more:
        few = method.piece if more == 1 else method.pieces
        ways.append(
            ("pieces", f"{more} more {few}{at}", more * PIECE_MINUTES, _with_pieces(spots, more, variation, weight, alpha))
        )
    if weight is not None and weight.known != "weighed":
        weighed = replace(weight, relative_sd=min(SAMPLE_CV, weight.relative_sd), df=inf, known="weighed")
        better = strip_estimate(spots, variation, weighed, alpha=alpha).half_frac
        ways.append(("weigh", "weigh a counted sample of ripe grain", WEIGHED_MINUTES, better))
    result = [
        Way(key=key, words=words, minutes=minutes, half_frac=half, gain_per_minute=(now.half_frac - half) / minutes)
        for key, words, minutes, half in ways
        if half < now.half_frac * 0.995
    ]
    return tuple(sorted(result, key=lambda way: -way.gain_per_minute))


def _with_pieces(spots: Sequence[Spot], more: int, variation: Variation, weight: GrainWeight | None, alpha: float) -> float:
    """Half-width with ``more`` pieces spread over the places: only the pieces' part of the variance falls."""
    n = len(spots)

    def part(extra: float) -> float:
        value = 0.0
        for spot in spots:
            measured = min(len(spot.pieces) + extra / n, spot.counted)
            value += variation.piece_var * max(1 - measured / spot.counted, 0.0) / measured if spot.counted else 0.0
        return value / n**2

    saved = min(part(0) - part(more), variation.place_var / n)
    now = strip_estimate(spots, variation, weight, alpha=alpha)
    return exp(quantile(alpha, now.df) * sqrt(max(now.relative_se**2 - saved, 0.0))) - 1
