"""A crop of known yield, sampled by drawn plants and by picking the best looking.

Model. Plants stand along a row at spacings that vary (gamma with the given CV); a plant makes more where it stands alone:
weight = 1 + response × (its space ÷ the mean space − 1) + noise, never below 0. The drawn sample takes units by systematic
sampling with a random start at a random stretch; the picked one walks the same stretch, looks at ``seen`` neighbours at
a time and takes the largest. Both multiply the mean of their pieces by the number counted on the stretch. The truth is
the mean over every stretch, so the ratio of a sample to it is what the choice of pieces alone has done.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np

from cultrix_core.errors import require_between
from cultrix_core.estimate.drawn import drawn_pieces

PLANTS = 4_000
STRETCH = 30  # units on the area of one place
RESPONSE = 0.3  # of a plant's weight to its space: common practice, no source


@dataclass(frozen=True, slots=True, kw_only=True)
class Picked:
    """Ratios of simulated estimates to the truth, one for each sample; means with Monte-Carlo standard errors."""

    drawn: tuple[float, ...]
    picked: tuple[float, ...]
    drawn_mean: float
    drawn_se: float
    picked_mean: float
    picked_se: float


def simulate_picking(
    *, piece_cv: float, seed: int, samples: int = 400, pieces: int = 5, seen: int = 3, spacing_cv: float = 0.4
) -> Picked:
    """Sample a simulated crop both ways.

    Parameters
    ----------
    piece_cv : variation from piece to piece in the crop, as a fraction. seen : neighbours looked at for each one picked.

    Raises
    ------
    Refusal : limits of the numbers.
    """
    require_between(piece_cv, 0.01, 1.0, "piece_cv", label="Variation from piece to piece")
    require_between(samples, 10, 20_000, "samples")
    require_between(pieces * seen, 1, STRETCH, "pieces", label="Pieces looked at")
    rng = np.random.default_rng([seed, 6])
    weights = _crop(rng, piece_cv, spacing_cv)
    stretches = weights.reshape(-1, STRETCH)
    truth = float(stretches.sum(axis=1).mean())
    drawn, picked = [], []
    for _ in range(samples):
        stretch = stretches[rng.integers(len(stretches))]
        numbers = drawn_pieces(counted=STRETCH, wanted=pieces, start=float(rng.integers(10_000)) / 10_000)
        drawn.append(float(STRETCH * stretch[[number - 1 for number in numbers]].mean() / truth))
        groups = stretch[: pieces * seen].reshape(pieces, seen)
        picked.append(float(STRETCH * groups.max(axis=1).mean() / truth))
    return Picked(
        drawn=tuple(drawn),
        picked=tuple(picked),
        drawn_mean=float(np.mean(drawn)),
        drawn_se=float(np.std(drawn, ddof=1)) / sqrt(samples),
        picked_mean=float(np.mean(picked)),
        picked_se=float(np.std(picked, ddof=1)) / sqrt(samples),
    )


def _crop(rng: np.random.Generator, piece_cv: float, spacing_cv: float) -> np.ndarray:
    """Relative weights of the plants, of mean about 1 and the wanted variation."""
    shape = 1 / spacing_cv**2
    gaps = rng.gamma(shape, 1 / shape, PLANTS * 3 // 2 // STRETCH * STRETCH + 1)
    space = (gaps[:-1] + gaps[1:]) / 2
    of_space = min(RESPONSE * spacing_cv / sqrt(2), 0.9 * piece_cv)
    noise = sqrt(piece_cv**2 - of_space**2)
    weights = 1 + of_space / (spacing_cv / sqrt(2)) * (space - 1) + noise * rng.standard_normal(len(space))
    return np.maximum(weights, 0.0)
