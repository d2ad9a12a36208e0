"""Pieces measured out of those that stand at a place: the part that was left out is all that can still be wrong."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.estimate.propagate import Variation, strip_estimate
from cultrix_core.estimate.spots import Spot

PIECE_VAR = 0.04


def variation() -> Variation:
    return Variation(place_var=0.09, place_df=8, place_assumed=False, piece_var=PIECE_VAR, piece_df=40, piece_assumed=False)


def of_pieces(measured: int, counted: int) -> float:
    """Relative variance of a strip's mean that comes from its pieces."""
    spot = Spot(number_per_m2=float(counted), counted=counted, pieces=(400.0,) * measured)
    estimate = strip_estimate([spot], variation(), None)
    part = {item.key: item.share for item in estimate.parts}.get("pieces", 0.0)
    return part * estimate.relative_se**2


def test_all_of_them_measured_leaves_nothing_open() -> None:
    assert of_pieces(12, 12) == 0


@pytest.mark.parametrize(("measured", "counted"), [(5, 30), (10, 20), (4, 5)])
def test_the_finite_population_factor_by_drawing(measured: int, counted: int) -> None:
    """Cochran (1977) Sampling Techniques, 2.6 (from memory): by 20 000 samples of one place drawn without putting back."""
    draw = np.random.default_rng(measured)
    stand = draw.normal(1, 0.2, counted)
    stand = 1 + (stand - stand.mean()) * PIECE_VAR**0.5 / stand.std(ddof=1)
    means = [draw.choice(stand, measured, replace=False).mean() for _ in range(20_000)]
    assert of_pieces(measured, counted) == pytest.approx(np.var(means), rel=0.04)
