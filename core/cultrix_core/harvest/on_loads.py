"""A log held against the scale: calibration on loads, agreement strip by strip, and strips that look swapped.

Calibration. Grain by scale ÷ grain by log over all loads, a ratio of sums [1], so that heavy loads count for more; each
load keeps its residual. Its standard error is that of a ratio estimator. Agreement of strips: differences scale − log with
limits of agreement. Swap. With blocks and treatments fitted, exchanging the yields of two strips of a block must shrink
the residual sum of squares to less than a given share of what it was; the pair that shrinks it most is pointed out, never
exchanged.

Reference: [1] Cochran (1977), Sampling Techniques, chapter 6 (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_positive
from cultrix_core.stats.compare import StripResponse

LEAST_LOADS = 1
FAR_LOAD = 0.06  # a load this far off the common factor is asked about: common practice, no source
SWAP_SHARE = 0.4  # of the residual sum of squares left after the exchange
LEAST_SWAP_DF = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadPair:
    """Grain of one load by scale and by log, in kg, at the same moisture."""

    name: str
    scale_kg: float
    log_kg: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Calibration:
    """``factor``: what the log is multiplied by; residuals by load as fractions of the scale; ``far``: loads far off."""

    factor: float
    se: float | None
    residuals: tuple[tuple[str, float], ...]
    far: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Swap:
    """Two strips whose yields look exchanged. ``share``: residual sum of squares left, of what it is now."""

    first: str
    second: str
    share: float


def calibrate(loads: Sequence[LoadPair]) -> Calibration:
    """Factor that brings the log to the scale.

    Raises
    ------
    Refusal : ``missing`` without a load, ``not_positive`` weights.
    """
    if len(loads) < LEAST_LOADS:
        raise Refusal("missing", field="loads", label="A scale load", remedy="Weigh at least one load to calibrate on.")
    for load in loads:
        require_positive(load.scale_kg, "scale", label=f"Scale weight of {load.name}", unit=" kg")
        require_positive(load.log_kg, "log", label=f"Logged weight of {load.name}", unit=" kg")
    n = len(loads)
    total = sum(load.log_kg for load in loads)
    factor = sum(load.scale_kg for load in loads) / total
    residuals = tuple((load.name, factor * load.log_kg / load.scale_kg - 1) for load in loads)
    squares = sum((load.scale_kg - factor * load.log_kg) ** 2 for load in loads)
    return Calibration(
        factor=factor,
        se=sqrt(squares / (n - 1) * n) / total if n > 1 else None,
        residuals=residuals,
        far=tuple(name for name, off in residuals if n > 1 and abs(off) > FAR_LOAD),
    )


def likely_swap(strips: Sequence[StripResponse]) -> Swap | None:
    """The two strips of a block whose exchange would explain most, None where none stands out.

    Strips need labels; treatments, blocks and responses as for a comparison in complete blocks.
    """
    if len({strip.treatment for strip in strips}) < 2 or len({strip.block for strip in strips}) < 2:
        return None
    basis, rank = _fitted(strips)
    if len(strips) - rank < LEAST_SWAP_DF:
        return None
    responses = np.array([strip.response for strip in strips])
    now = _left(basis, responses)
    if now <= 0:
        return None
    swaps: list[Swap] = []
    for item, other in combinations(range(len(strips)), 2):
        first, second = strips[item], strips[other]
        if first.block != second.block or first.treatment == second.treatment:
            continue
        tried = responses.copy()
        tried[item], tried[other] = responses[other], responses[item]
        swaps.append(Swap(first=first.label, second=second.label, share=_left(basis, tried) / now))
    best = min(swaps, key=lambda swap: swap.share, default=None)
    return best if best is not None and best.share < SWAP_SHARE else None


def _fitted(strips: Sequence[StripResponse]) -> tuple[NDArray[np.float64], int]:
    """Orthonormal basis of what blocks and treatments can explain, and its dimension."""
    columns = [
        [float(getattr(strip, name) == level) for strip in strips]
        for name in ("block", "treatment")
        for level in sorted({str(getattr(strip, name)) for strip in strips})
    ]
    left, size, _ = np.linalg.svd(np.array(columns).T, full_matrices=False)
    rank = int((size > 1e-9 * size[0]).sum())
    return left[:, :rank], rank


def _left(basis: NDArray[np.float64], responses: NDArray[np.float64]) -> float:
    """Residual sum of squares."""
    centred = responses - responses.mean()
    return float(((centred - basis @ (basis.T @ centred)) ** 2).sum())
