"""The call, its chance of being right, and the probability of a gain."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.stats.decision_rule import Settling, chance_of_no_difference, make_call, settle_design
from cultrix_core.stats.multiplicity import family_critical, t_critical
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats


@pytest.mark.parametrize(
    ("lower", "upper", "margin", "name", "beyond"),
    [
        (0.1, 0.9, 0.5, "gain", False),
        (0.6, 0.9, 0.5, "gain", True),
        (-0.9, -0.1, 0.5, "loss", False),
        (-0.9, -0.6, 0.5, "loss", True),
        (-0.4, 0.4, 0.5, "no_difference_that_matters", False),
        (0.1, 0.4, 0.5, "gain", False),  # real, and small
        (-0.4, -0.1, 0.5, "loss", False),
        (-0.5, 0.5, 0.5, "no_difference_that_matters", False),  # the border belongs to it
        (-0.4, 0.6, 0.5, "cannot_tell_yet", False),
        (-9.0, 9.0, 0.5, "cannot_tell_yet", False),
        (-0.4, 0.4, 0.0, "cannot_tell_yet", False),  # without a margin nothing is called equal
        (-0.4, 0.4, None, "cannot_tell_yet", False),
        (0.0, 0.9, 0.5, "cannot_tell_yet", False),
    ],
)
def test_the_rule(lower: float, upper: float, margin: float | None, name: str, beyond: bool) -> None:
    call = make_call(lower, upper, margin)
    assert (call.name, call.beyond_margin) == (name, beyond)
    assert call.excludes_zero == (lower > 0 or upper < 0)
    assert call.small == (call.excludes_zero and margin is not None and -margin <= lower and upper <= margin)


@given(st.floats(-5, 5), st.floats(0.01, 5), st.floats(0, 5))
def test_turning_the_difference_round_turns_the_call_round(centre: float, half: float, margin: float) -> None:
    turned = {"gain": "loss", "loss": "gain"}
    name = make_call(centre - half, centre + half, margin).name
    assert make_call(-centre - half, -centre + half, margin).name == turned.get(name, name)


def test_no_difference_is_two_one_sided_tests() -> None:
    """Inside ±m by the 90 % interval is TOST at 5 % a side: statsmodels' ``ttost_paired`` agrees."""
    from statsmodels.stats.weightstats import ttost_paired

    draw = np.random.default_rng(3)
    for scale in (0.2, 0.6, 1.2):
        pairs = draw.normal(0.1, scale, 9)
        half = t_critical(0.10, 8) * pairs.std(ddof=1) / 3
        call = make_call(pairs.mean() - half, pairs.mean() + half, 0.5)
        p, _, _ = ttost_paired(pairs, np.zeros(9), -0.5, 0.5)
        assert (call.name == "no_difference_that_matters" or call.small) == (p <= 0.05)


def settled(margin: float, sigma: float, treatments: int, comparisons: int) -> Settling:
    """From two complete blocks: SE σ √(2 ÷ 2), one degree of freedom less than treatments."""
    return settle_design(
        margin=margin,
        se=sigma,
        df=treatments - 1,
        blocks=2,
        critical=lambda df: family_critical("dunnett", 0.10, df, treatments, comparisons),
    )


def test_blocks_that_would_settle_it_against_textbook_power() -> None:
    """Two treatments in blocks are pairs: statsmodels' power of the paired t test, counted on the side of the gain."""
    settling = settled(1.0, 1.0, 2, 1)
    assert settling.blocks_if_margin is not None

    def power(blocks: int) -> float:
        df = blocks - 1
        return float(stats.nct.sf(stats.t.isf(0.05, df), df, np.sqrt(blocks / 2)))

    assert power(settling.blocks_if_margin) >= 0.80 > power(settling.blocks_if_margin - 1)
    from statsmodels.stats.power import TTestPower

    wanted = TTestPower().solve_power(effect_size=1 / np.sqrt(2), alpha=0.05, power=0.80, alternative="larger")
    assert settling.blocks_if_margin == int(np.ceil(wanted))


def test_chance_of_no_difference_by_simulation() -> None:
    """400 000 trials with no true difference: how often does the interval lie inside the margin and hold nought?"""
    df, margin_in_se = 12, 3.0
    critical = t_critical(0.10, df)
    draw = np.random.default_rng(8)
    estimate = draw.normal(size=400_000)
    scale = np.sqrt(draw.chisquare(df, 400_000) / df)
    reach = critical * scale
    seen = np.mean((np.abs(estimate) + reach <= margin_in_se) & (np.abs(estimate) <= reach))
    assert chance_of_no_difference(margin_in_se, critical, df) == pytest.approx(seen, abs=0.003)


def test_more_noise_asks_for_more_blocks() -> None:
    few = settled(1, 0.5, 3, 2)
    many = settled(1, 1.0, 3, 2)
    never = settled(1, 9.0, 3, 2)
    assert (few.blocks_if_margin or 0) < (many.blocks_if_margin or 0)
    assert (few.blocks_if_zero or 0) < (many.blocks_if_zero or 0)
    assert never == Settling(blocks_if_margin=None, blocks_if_zero=None, margin=1)
