"""Ratings that do not scatter are told with an exact p, not as no difference."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from cultrix_core.season.agreement import StripPair, agreement_of


def pairs(ours: float, theirs: float, blocks: int = 4) -> list[StripPair]:
    draw = np.random.default_rng(2)
    return [
        StripPair(treatment=name, block=str(block), rating=rating, measured=float(draw.normal(50, 3)))
        for block in range(blocks)
        for name, rating in (("new", ours), ("old", theirs))
    ]


def test_three_points_lower_on_every_strip() -> None:
    """4 against 7 in four blocks: 2 ÷ 2⁴ of all ways to turn blocks round are as far apart (counted here one by one)."""
    found = agreement_of(pairs(4, 7), design="rcbd", control="old", rating_up=True, measured_up=True).both[0]
    far = [abs(sum(3 * sign for sign in signs)) >= 12 for signs in itertools.product((1, -1), repeat=4)]
    assert found.eye == "worse"
    assert f"scored it 3 points lower on every strip (exact p {np.mean(far):.3g} by permutation)" in found.words
    assert "no difference" not in found.words.split(",")[0]


def test_without_blocks_all_choices_count() -> None:
    found = agreement_of(pairs(8, 7, 3), design="crd", control="old", rating_up=True, measured_up=True).both[0]
    assert found.eye == "better"
    assert "1 point higher on every strip (exact p 0.1 by permutation)" in found.words, "2 of the 20 ways to choose 3 of 6"


@pytest.mark.parametrize("blocks", [3, 5])
def test_the_same_on_every_strip_is_no_difference(blocks: int) -> None:
    found = agreement_of(pairs(6, 6, blocks), design="rcbd", control="old", rating_up=True, measured_up=True).both[0]
    assert found.eye == "none"
    assert "scored it the same on every strip" in found.words
