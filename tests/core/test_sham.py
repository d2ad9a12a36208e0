"""Sham trials: the counting itself, the promise on a small scale, and curves and series through the core."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.design.null_simulation import ShamPlan, limit_above, sham_trials
from cultrix_core.errors import Refusal
from cultrix_core.simulate.variation import FieldVariation
from cultrix_core.stats.curves_by import averaged, fit_curves_by
from cultrix_core.stats.environments import combine
from scipy import stats

GROUND = FieldVariation(cv_pct=5)
SMALL = [
    ShamPlan(design="rcbd", levels=(4,), blocks=5),
    ShamPlan(design="pairs", levels=(2,), blocks=6),
    ShamPlan(design="latin", levels=(4,), blocks=4),
    ShamPlan(design="split_plot", levels=(2, 3), blocks=4),
    ShamPlan(design="strip_plot", levels=(2, 3), blocks=4),
    ShamPlan(design="site_years", levels=(3,), blocks=3, sites=5, site_spread_pct=2),
]


@pytest.mark.slow
@pytest.mark.parametrize("ground", [None, GROUND], ids=["wheat map", "simulated"])
@pytest.mark.parametrize("plan", SMALL, ids=lambda item: item.design)
def test_randomised_designs_keep_their_level(plan: ShamPlan, ground: FieldVariation | None) -> None:
    """Not above 10 % beyond what chance allows once in a hundred; docs/trust.md has thousands more."""
    sham_tally = sham_trials(plan, ground, trials=150, seed=77)
    for factor in plan.factors:
        assert sham_tally.false_calls[factor] / 150 <= limit_above(0.10, 150)
        assert sham_tally.false_equals[factor] / 150 <= limit_above(0.05, 150)
        held = sham_tally.held[factor] / sham_tally.intervals[factor]
        assert 0.90 - 0.09 < held < 0.90 + 0.08


@pytest.mark.slow
def test_an_alternating_order_needs_both_analyses() -> None:
    """On a field with a drift blocks alone call falsely far too often; with the drift taken out as well they do not."""
    plan = ShamPlan(design="systematic", levels=(2,), blocks=6)
    drift = FieldVariation(cv_pct=3, trend_pct=20, patch_share=0.2)
    alone = sham_trials(plan, drift, trials=120, seed=5, agree=False)
    both = sham_trials(plan, drift, trials=120, seed=5)
    assert alone.false_calls["treatment"] / 120 > limit_above(0.10, 120)
    assert both.false_calls["treatment"] / 120 <= limit_above(0.10, 120)


def test_the_same_seed_makes_the_same_trials() -> None:
    assert sham_trials(SMALL[0], GROUND, trials=10, seed=3) == sham_trials(SMALL[0], GROUND, trials=10, seed=3)
    assert sham_trials(SMALL[0], GROUND, trials=10, seed=3) != sham_trials(SMALL[0], GROUND, trials=10, seed=400)
    with pytest.raises(Refusal):
        sham_trials(SMALL[0], GROUND, trials=0, seed=3)


def test_the_limit_is_the_binomial_one() -> None:
    assert limit_above(0.10, 2000) == stats.binom.ppf(0.99, 2000, 0.10) / 2000
    assert 0.10 < limit_above(0.10, 2000) < 0.12


def sites(count: int, effect: float, spread: float, seed: int) -> tuple[list[float], list[str], list[str], list[str]]:
    draw = np.random.default_rng(seed)
    y, treatment, site, block = [], [], [], []
    for place in range(count):
        level, own = draw.normal(0, 1), draw.normal(effect, spread)
        for number in range(4):
            for name, extra in (("new", own), ("usual", 0.0)):
                y.append(float(10 + level + extra + draw.normal(0, 0.2)))
                treatment.append(name)
                site.append(f"site {place}")
                block.append(str(number))
    return y, treatment, site, block


def test_the_whole_is_wider_than_its_strips_where_sites_differ() -> None:
    """Six sites whose effects scatter: the combined standard error is that of six effects, not of 24 pairs."""
    y, treatment, site, block = sites(6, 0.5, 0.6, 3)
    series = combine(y, treatment, site, block, control="usual")
    effects = [site_year.differences[0].estimate for site_year in series.alone]
    whole = series.combined.differences[0]
    assert whole.estimate == pytest.approx(np.mean(effects))
    assert whole.se == pytest.approx(np.std(effects, ddof=1) / 6**0.5, rel=1e-4)
    assert whole.df == pytest.approx(5, rel=1e-4)
    assert series.interaction_p is not None
    assert series.interaction_p < 0.01


def test_each_site_is_left_out_once() -> None:
    y, treatment, site, block = sites(5, 0.5, 0.3, 4)
    series = combine(y, treatment, site, block, control="usual")
    assert [item.name for item in series.without] == [f"site {place}" for place in range(5)]
    effects = {site_year.name: site_year.differences[0].estimate for site_year in series.alone}
    for left in series.without:
        rest = [effect for name, effect in effects.items() if name != left.name]
        assert left.differences[0].estimate == pytest.approx(np.mean(rest))


def test_a_site_with_nothing_to_compare_says_so() -> None:
    y, treatment, site, block = sites(3, 0.5, 0.3, 5)
    kept = [place for place in range(len(y)) if site[place] != "site 2" or treatment[place] == "new"]
    series = combine(*([own[place] for place in kept] for own in (y, treatment, site, block)), control="usual")
    lonely = next(site_year for site_year in series.alone if site_year.name == "site 2")
    assert lonely.differences == ()
    assert lonely.problem


def ladder(seed: int, bend: float) -> tuple[list[float], list[float], list[str], list[str]]:
    draw = np.random.default_rng(seed)
    x, y, block, other = [], [], [], []
    for number in range(5):
        level = draw.normal(0, 0.3)
        for name, steep in (("a", 1.0), ("b", 1.0 + bend)):
            main = draw.normal(0, 0.2)
            for rate in (50.0, 60.0, 70.0, 80.0, 90.0):
                x.append(rate)
                y.append(8 + level + main + steep * (rate - 50) / 40 + draw.normal(0, 0.1))
                block.append(str(number))
                other.append(name)
    return x, y, block, other


def test_curves_that_differ_are_told_from_those_that_do_not() -> None:
    errors = [("block",), ("block", "other")]
    same = fit_curves_by(*ladder(1, 0.0), random=errors)
    unlike = fit_curves_by(*ladder(1, 2.0), random=errors)
    assert same.differ is not None
    assert unlike.differ is not None
    assert same.differ.p > 0.05
    assert unlike.differ.p < 0.001
    assert set(unlike.at) == {"a", "b"}
    slope = {
        level: next(part.estimate for part in curve.shapes[0].parameters if part.name == "b")
        for level, curve in unlike.at.items()
    }
    assert slope["b"] > 2 * slope["a"]


def test_a_block_without_a_level_does_not_lean_on_the_average() -> None:
    x, y, block, other = ladder(2, 0.0)
    amounts, means, places = averaged(x[:-1], y[:-1], block[:-1], other[:-1])
    assert len(amounts) == len(means) == len(places) == 24, "one of 25 cells lacks a level"


def test_the_band_holds_the_line_it_was_drawn_around() -> None:
    """A straight line's band is the textbook one: t × s × √(1/n + (x − x̄)² ÷ Sxx), without blocks."""
    from cultrix_core.stats.curves import fit_curves

    draw = np.random.default_rng(4)
    x = np.repeat([10.0, 20.0, 30.0, 40.0], 3)
    y = 2 + 0.1 * x + draw.normal(0, 0.3, 12)
    line = fit_curves(list(x), list(y)).shapes[0]
    lower, upper = line.band(25.0, 0.10)
    slope, intercept = np.polyfit(x, y, 1)
    s = np.sqrt(((y - intercept - slope * x) ** 2).sum() / 10)
    half = stats.t.isf(0.05, 10) * s * np.sqrt(1 / 12 + (25 - x.mean()) ** 2 / ((x - x.mean()) ** 2).sum())
    assert float(upper[0] - lower[0]) / 2 == pytest.approx(half, rel=1e-9)
